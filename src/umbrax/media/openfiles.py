"""How many files a process may hold open. A mapped file counts as one, for as long as it is mapped."""

import errno
import resource

from umbrax.core.errors import UmbraxError

WANTED = 65536


def raise_limit() -> int:
    """Let this process open as many files as the system allows it, and return how many these are."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    most = WANTED if hard == resource.RLIM_INFINITY else min(WANTED, hard)
    if soft != resource.RLIM_INFINITY and soft < most:
        resource.setrlimit(resource.RLIMIT_NOFILE, (most, hard))
    return limit()


def limit() -> int:
    soft, _ = resource.getrlimit(resource.RLIMIT_NOFILE)
    return WANTED if soft == resource.RLIM_INFINITY else soft


def too_many(error: OSError) -> UmbraxError | None:
    """What to say of an error that means that no more files can be opened; None for any other."""
    if error.errno not in (errno.EMFILE, errno.ENFILE):
        return None
    return UmbraxError(
        "too-many-files", f"no more files can be opened (the limit is {limit()}); raise it with `ulimit -n 8192` and start again"
    )
