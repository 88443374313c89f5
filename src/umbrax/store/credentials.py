"""What opens the door: sessions, tokens, entries and invitations. Each is 256 random bits, of which only the SHA-256 is kept, so that
neither the database nor the time of a comparison tells one."""

import contextlib
import hashlib
import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

from psycopg.rows import class_row

from umbrax.core.errors import UmbraxError

from .database import Database
from .people import ROLES_OF, Role, by_show
from .refusals import gone

Kind = Literal["session", "token", "entry", "invitation"]
SESSION = timedelta(days=30)
ENTRY = timedelta(days=1)
INVITATION = timedelta(days=7)
USED_EVERY = timedelta(minutes=1)  # when somebody was last here is noted no more often


@dataclass(frozen=True)
class Holder:
    """Whom a credential belongs to; `roles` by the numbers of shows."""

    id: int
    name: str
    admin: bool
    has_password: bool
    credential: int
    roles: dict[int, Role]


@dataclass(frozen=True)
class TokenRow:
    id: int
    name: str
    created_at: datetime
    used_at: datetime | None


def issue(database: Database, person_id: int, kind: Kind, *, lasts: timedelta | None, name: str = "") -> str:
    """A new credential, told only now. Somebody's earlier invitation ends with it."""
    secret = secrets.token_urlsafe(32)
    query = "insert into credentials (person_id, kind, name, digest, expires_at, used_at) values (%s, %s, %s, %s, now() + %s, %s)"
    with database.transaction() as connection:
        connection.execute("delete from credentials where expires_at < now()")
        if kind == "invitation":
            connection.execute("delete from credentials where person_id = %s and kind = 'invitation'", (person_id,))
        used = datetime.now().astimezone() if kind == "session" else None
        connection.execute(query, (person_id, kind, name, _digest(secret), lasts, used))
    return secret


def _digest(secret: str) -> bytes:
    return hashlib.sha256(secret.encode("utf-8", "surrogatepass")).digest()


HELD = f"""
select p.id, p.name, p.admin, p.password is not null, c.id, c.used_at is null or c.used_at < now() - %s,
       {ROLES_OF}
from credentials c join people p on p.id = c.person_id
where c.digest = %s and c.kind = %s and (c.expires_at is null or c.expires_at > now()) and p.removed_at is null
"""


def holder_of(database: Database, secret: str, kind: Kind) -> Holder | None:
    """Whom a credential lets in, if anyone."""
    with database.transaction() as connection:
        row = connection.execute(HELD, (USED_EVERY, _digest(secret), kind)).fetchone()
    if row is None:
        return None
    if row[5]:
        # on a full disk people still look; only when they were last here is not noted
        with contextlib.suppress(UmbraxError), database.transaction() as connection:
            connection.execute("update credentials set used_at = now() where id = %s", (row[4],))
    return Holder(row[0], row[1], row[2], row[3], row[4], by_show(row[6]))


def spend(database: Database, secret: str, kind: Kind) -> int | None:
    """Use up what opens once; the person it lets in, or None. Of two who come at once one gets in."""
    query = "delete from credentials where digest = %s and kind = %s and expires_at > now() returning person_id"
    with database.transaction() as connection:
        row = connection.execute(query, (_digest(secret), kind)).fetchone()
    return int(row[0]) if row else None


def prolong(database: Database, credential: int) -> None:
    """Let a session that is in use last its whole time from now."""
    with database.transaction() as connection:
        connection.execute("update credentials set expires_at = now() + %s where id = %s and kind = 'session'", (SESSION, credential))


def end(database: Database, credential: int) -> None:
    with database.transaction() as connection:
        connection.execute("delete from credentials where id = %s", (credential,))


def end_sessions(database: Database, person_id: int) -> None:
    """Sign somebody out everywhere."""
    with database.transaction() as connection:
        connection.execute("delete from credentials where person_id = %s and kind = 'session'", (person_id,))


def list_tokens(database: Database, person_id: int) -> list[TokenRow]:
    query = "select id, name, created_at, used_at from credentials where person_id = %s and kind = 'token' order by created_at"
    with database.transaction() as connection, connection.cursor(row_factory=class_row(TokenRow)) as cursor:
        return cursor.execute(query, (person_id,)).fetchall()


def end_token(database: Database, person_id: int, credential: int) -> None:
    with database.transaction() as connection:
        query = "delete from credentials where id = %s and person_id = %s and kind = 'token'"
        if connection.execute(query, (credential, person_id)).rowcount == 0:
            raise gone("no-token", "this token is not there any more; look at the list again")
