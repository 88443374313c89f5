"""Who asks: somebody with a session's cookie, or with a token in `Authorization: Bearer`."""

import contextlib
import hashlib
import os
import secrets
import tempfile
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from flask import Flask, g, request, session

from umbrax.core.errors import UmbraxError
from umbrax.settings import Settings
from umbrax.store import credentials
from umbrax.store.credentials import Holder
from umbrax.store.people import Role, includes

from ..outsiders import SAFE
from ..state import state

KEY, DAY = "key", "day"  # what the cookie holds: what opens, and when it was last prolonged


@dataclass(frozen=True)
class Who:
    """Somebody, and what they may do."""

    holder: Holder
    by_token: bool = False

    @property
    def id(self) -> int:
        return self.holder.id

    @property
    def name(self) -> str:
        return self.holder.name

    @property
    def admin(self) -> bool:
        return self.holder.admin

    def role(self, show_id: int) -> Role | None:
        """What they may do in a show; an administrator owns all of them."""
        return "own" if self.admin else self.holder.roles.get(show_id)

    def may(self, wanted: Role, show_id: int) -> bool:
        return includes(self.role(show_id), wanted)

    def may_somewhere(self, wanted: Role) -> bool:
        return self.admin or any(includes(role, wanted) for role in self.holder.roles.values())


def sign_with(app: Flask, settings: Settings) -> None:
    """Let the application sign its cookies. Their name differs from one installation to the next: a browser sends a cookie to every port
    of a host."""
    secret = _secret(settings.state / "secret")
    mark = hashlib.sha256(b"name of the cookie" + secret).hexdigest()[:8]
    app.config |= {
        "SECRET_KEY": secret, "SESSION_COOKIE_NAME": f"umbrax_{mark}", "SESSION_COOKIE_HTTPONLY": True, "SESSION_COOKIE_SAMESITE": "Strict",
        "SESSION_COOKIE_SECURE": settings.https, "PERMANENT_SESSION_LIFETIME": credentials.SESSION, "SESSION_REFRESH_EACH_REQUEST": False,
    }  # fmt: skip


def _secret(path: Path) -> bytes:
    """The secret of this installation, made where there is none."""
    path.parent.mkdir(parents=True, exist_ok=True)
    handle, new = tempfile.mkstemp(dir=path.parent, prefix=".secret-")
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(secrets.token_bytes(32))
        with contextlib.suppress(FileExistsError):
            os.link(new, path)  # never half written, and of two who make it one wins
    finally:
        os.unlink(new)
    return path.read_bytes()


def begin_session(person_id: int) -> None:
    """Let the browser that asks be this person from now on; what it was before ends."""
    end_session()
    session.clear()
    session.permanent = True
    session[KEY] = credentials.issue(state().database, person_id, "session", lasts=credentials.SESSION)
    session[DAY] = date.today().toordinal()
    g.pop("who", None)


def prolong_session() -> None:
    """A session that is in use does not end: once a day the browser is told so as well."""
    today = date.today().toordinal()
    if not who().by_token and session.get(DAY) != today:
        session[DAY] = today
        credentials.prolong(state().database, who().holder.credential)


def end_session() -> None:
    """Sign the browser that asks out: its cookie opens nothing any more, whoever has a copy of it."""
    found = _of_cookie()
    if found is not None:
        credentials.end(state().database, found.credential)
    session.clear()


def _bearer() -> str | None:
    """The token that was sent; None where none was."""
    scheme, _, token = request.headers.get("Authorization", "").partition(" ")
    return token.strip() if scheme.lower() == "bearer" else None


def _of_cookie() -> Holder | None:
    key = session.get(KEY)
    return credentials.holder_of(state().database, key, "session") if isinstance(key, str) else None


def somebody() -> Who | None:
    """Who asks, asked once a request."""
    if "who" not in g:
        token = _bearer()
        found = _of_cookie() if token is None else credentials.holder_of(state().database, token, "token")
        g.who = Who(found, token is not None) if found else None
        if found and request.method not in SAFE:
            state().database.acts(found.id)
    known: Who | None = g.who
    return known


def know_again() -> Who:
    """Who asks, with what they may do now."""
    g.pop("who", None)
    return who()


def who() -> Who:
    """Who asks; refused with 401 where that is nobody that we know."""
    found = somebody()
    if found is None:
        raise UmbraxError("sign-in", "sign in first; whoever looks after this server can let you in", status=401)
    return found
