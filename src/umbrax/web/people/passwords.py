"""Passwords: Argon2id as its package sets it up (RFC 9106, section 4), and what a password must be (NIST SP 800-63B, 5.1.1)."""

import threading

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

from umbrax.core.errors import UmbraxError

SHORTEST, LONGEST = 10, 200
_hasher = PasswordHasher()
_few = threading.Semaphore(2)  # each takes 64 MB while it computes
# what is computed for a name that nobody has, so that the time tells nothing
_nobody = _hasher.hash("nobody")


def hashed(password: str, name: str) -> str:
    """What is kept of a password; refused where it is too short, too long, or the person's name."""
    if not SHORTEST <= len(password) <= LONGEST:
        raise UmbraxError(
            "weak-password", f"expected a password of {SHORTEST} to {LONGEST} characters, got {len(password)}; a few words will do"
        )
    if password.strip().lower() in ("", name.lower()) or len(set(password)) < 4:
        raise UmbraxError("weak-password", "this password is too easy to guess; take a few words that only you would put together")
    return rehashed(password)


def rehashed(password: str) -> str:
    """What is kept of a password that was accepted before, in today's form."""
    with _few:
        return _hasher.hash(password)


def matches(kept: str | None, password: str) -> bool:
    """Whether a password is the one that was kept; takes as long for None."""
    with _few:
        try:
            return _hasher.verify(kept or _nobody, password) and kept is not None
        except (VerificationError, InvalidHashError):
            return False


def outdated(kept: str) -> bool:
    """Whether a hash was made with weaker settings than today's."""
    return _hasher.check_needs_rehash(kept)
