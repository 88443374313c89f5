"""People and what each may do in a show."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal, get_args

from psycopg.rows import kwargs_row

from .database import Connection, Database
from .refusals import conflicting, free_name, gone

Role = Literal["look", "work", "hand off", "own"]
ROLES: tuple[Role, ...] = get_args(Role)  # each may do what those before it may
NO_PERSON = "no person of this number; look at the list of people again"


@dataclass(frozen=True)
class PersonRow:
    """Somebody; `roles` by the numbers of shows, `seen_at` when they last asked for anything."""

    id: int
    name: str
    admin: bool
    has_password: bool
    roles: dict[int, Role]
    seen_at: datetime | None


ROLES_OF = "coalesce((select json_agg(json_build_array(r.show_id, r.role)) from roles r where r.person_id = p.id), '[]')"
PERSON = f"""
select p.id, p.name, p.admin, p.password is not null as has_password,
       (select max(c.used_at) from credentials c where c.person_id = p.id) as seen_at,
       {ROLES_OF} as roles
from people p where p.removed_at is null
"""


def by_show(roles: list[tuple[int, Role]]) -> dict[int, Role]:
    """What ROLES_OF tells, by the numbers of shows."""
    return dict(roles)


def _person_of(roles: list[tuple[int, Role]], **rest: Any) -> PersonRow:
    return PersonRow(roles=by_show(roles), **rest)


def includes(role: Role | None, wanted: Role) -> bool:
    """Whether a role, or None, is at least another."""
    return role is not None and ROLES.index(role) >= ROLES.index(wanted)


def list_people(database: Database) -> list[PersonRow]:
    with database.transaction() as connection, connection.cursor(row_factory=kwargs_row(_person_of)) as cursor:
        return cursor.execute(f"{PERSON} order by lower(p.name)").fetchall()


def get_person(database: Database, person_id: int) -> PersonRow:
    with database.transaction() as connection:
        return _person(connection, person_id)


def _person(connection: Connection, person_id: int) -> PersonRow:
    with connection.cursor(row_factory=kwargs_row(_person_of)) as cursor:
        row = cursor.execute(f"{PERSON} and p.id = %s", (person_id,)).fetchone()
    if row is None:
        raise gone("no-person", NO_PERSON)
    return row


def find_person(database: Database, name: str) -> PersonRow | None:
    """The person of a name, whichever way it is capitalised."""
    with database.transaction() as connection, connection.cursor(row_factory=kwargs_row(_person_of)) as cursor:
        return cursor.execute(f"{PERSON} and lower(p.name) = lower(%s)", (name,)).fetchone()


def add_person(database: Database, name: str, *, admin: bool = False) -> int:
    """Somebody new, without a password and without a role."""
    with database.transaction() as connection, free_name("person", name):
        row = connection.execute("insert into people (name, admin) values (%s, %s) returning id", (name, admin)).fetchone()
    assert row is not None
    return int(row[0])


def first_admin(database: Database) -> PersonRow:
    """The administrator who was there first: an installation without one gets one."""
    with database.transaction() as connection:
        connection.execute("lock table people in share row exclusive mode")  # two who ask at once get the same
        row = connection.execute("select id from people where admin and removed_at is null order by id limit 1").fetchone()
        if row is None:
            query = (
                "insert into people (name, admin) values ('Owner', true) on conflict (lower(name)) where removed_at is null "
                "do update set admin = true returning id"
            )
            row = connection.execute(query).fetchone()
        assert row is not None
        return _person(connection, int(row[0]))


def rename_person(database: Database, person_id: int, name: str) -> None:
    with database.transaction() as connection, free_name("person", name):
        _person(connection, person_id)
        connection.execute("update people set name = %s where id = %s", (name, person_id))


def set_admin(database: Database, person_id: int, admin: bool) -> None:
    with database.transaction() as connection:
        _person(connection, person_id)
        connection.execute("lock table people in share row exclusive mode")
        connection.execute("update people set admin = %s where id = %s", (admin, person_id))
        _keep_an_admin(connection)


def remove_person(database: Database, person_id: int) -> None:
    """Let somebody in no more; what they did keeps their name, which is free for another."""
    with database.transaction() as connection:
        _person(connection, person_id)
        connection.execute("lock table people in share row exclusive mode")
        connection.execute("update people set removed_at = now(), admin = false, password = null where id = %s", (person_id,))
        connection.execute("delete from credentials where person_id = %s", (person_id,))
        connection.execute("delete from roles where person_id = %s", (person_id,))
        _keep_an_admin(connection)


def _keep_an_admin(connection: Connection) -> None:
    if connection.execute("select 1 from people where admin and removed_at is null").fetchone() is None:
        raise conflicting("last-admin", "nobody would be left to look after the server; make somebody else an administrator first")


def set_role(database: Database, person_id: int, show_id: int, role: Role | None) -> None:
    """Give somebody a role in a show, another one, or none any more."""
    with database.transaction() as connection:
        _person(connection, person_id)
        if connection.execute("select 1 from shows where id = %s", (show_id,)).fetchone() is None:
            raise gone("no-show", "no show of this number; look at the list of shows again")
        if role is None:
            connection.execute("delete from roles where person_id = %s and show_id = %s", (person_id, show_id))
            return
        query = (
            "insert into roles (person_id, show_id, role) values (%s, %s, %s) "
            "on conflict (person_id, show_id) do update set role = excluded.role"
        )
        connection.execute(query, (person_id, show_id, role))


def password_of(database: Database, name: str) -> tuple[int, str] | None:
    """The number and the hash of somebody who may sign in by name."""
    query = "select id, password from people where lower(name) = lower(%s) and removed_at is null and password is not null"
    with database.transaction() as connection:
        row = connection.execute(query, (name,)).fetchone()
    return None if row is None else (int(row[0]), str(row[1]))


def set_password(database: Database, person_id: int, hashed: str, *, keep: int | None = None) -> None:
    """Keep a password's hash; whoever is signed in as that person elsewhere no longer is, but for the session `keep`."""
    with database.transaction() as connection:
        _person(connection, person_id)
        connection.execute("update people set password = %s where id = %s", (hashed, person_id))
        query = "delete from credentials where person_id = %s and kind in ('session', 'invitation') and id is distinct from %s"
        connection.execute(query, (person_id, keep))


def rehash(database: Database, person_id: int, before: str, after: str) -> None:
    """Keep the same password in a stronger form."""
    with database.transaction() as connection:
        connection.execute("update people set password = %s where id = %s and password = %s", (after, person_id, before))


def an_admin_has_a_password(database: Database) -> bool:
    with database.transaction() as connection:
        query = "select 1 from people where admin and removed_at is null and password is not null"
        return connection.execute(query).fetchone() is not None
