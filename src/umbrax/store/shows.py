"""Shows, and keeping shots in order: renamed, moved, deleted and brought back."""

from dataclasses import dataclass
from datetime import datetime

from psycopg.rows import class_row

from .database import Connection, Database
from .refusals import free_name, gone

NAMED = "select id, name, folder from shows where name = %s and deleted_at is null"
NO_SHOW = "no show of this number; look at the list of shows again"


@dataclass(frozen=True)
class ShowRow:
    id: int
    name: str
    folder: str


@dataclass(frozen=True)
class DeletedRow:
    """A show (`shot_id` null) or a shot that was deleted."""

    show_id: int
    show: str
    shot_id: int | None
    shot: str | None
    deleted_at: datetime


def list_shows(database: Database) -> list[ShowRow]:
    with database.transaction() as connection, connection.cursor(row_factory=class_row(ShowRow)) as cursor:
        return cursor.execute("select id, name, folder from shows where deleted_at is null order by name").fetchall()


def put_show(database: Database, name: str, folder: str) -> int:
    """Make a show, or point an existing one of this name at a folder."""
    query = (
        "insert into shows (name, folder) values (%s, %s) on conflict (name) where deleted_at is null "
        "do update set folder = excluded.folder returning id"
    )
    with database.transaction() as connection:
        row = connection.execute(query, (name, folder)).fetchone()
    assert row is not None
    return int(row[0])


def was_there(database: Database, name: str, folder: str) -> bool:
    """Whether there is, or was before it was deleted or renamed, a show of this name or folder."""
    with database.transaction() as connection:
        return connection.execute("select 1 from shows where name = %s or folder = %s limit 1", (name, folder)).fetchone() is not None


def point_at(database: Database, name: str, folder: str) -> None:
    """Let a show, where there is one of this name, lie in another folder: after all of it was moved."""
    with database.transaction() as connection:
        connection.execute("update shows set folder = %s where name = %s", (folder, name))


def add_show(database: Database, name: str, folder: str) -> int:
    """Make a show, owned by whoever acts; refused where there is one of this name."""
    with database.transaction() as connection, free_name("show", name):
        row = connection.execute("insert into shows (name, folder) values (%s, %s) returning id", (name, folder)).fetchone()
        assert row is not None
        _own(connection, row[0])
    return int(row[0])


def find_or_add_show(database: Database, name: str, folder: str) -> ShowRow:
    """The show of this name with the folder it has, made with this one where there is none: two who ask at once get the same."""
    with database.transaction() as connection, connection.cursor(row_factory=class_row(ShowRow)) as cursor:
        made = cursor.execute("insert into shows (name, folder) values (%s, %s) on conflict do nothing", (name, folder)).rowcount
        found = cursor.execute(NAMED, (name,)).fetchone()
        assert found is not None
        if made:
            _own(connection, found.id)
    return found


def find_show(database: Database, name: str) -> ShowRow | None:
    with database.transaction() as connection, connection.cursor(row_factory=class_row(ShowRow)) as cursor:
        return cursor.execute(NAMED, (name,)).fetchone()


def _own(connection: Connection, show_id: int) -> None:
    """Whoever makes a show is its owner."""
    query = "insert into roles (person_id, show_id, role) select acting_person(), %s, 'own' where acting_person() is not null"
    connection.execute(query, (show_id,))


def rename_show(database: Database, show_id: int, name: str) -> None:
    with database.transaction() as connection, free_name("show", name):
        _one(connection.execute("update shows set name = %s where id = %s and deleted_at is null", (name, show_id)).rowcount)


def delete_show(database: Database, show_id: int) -> None:
    """Take a show with its shots out of sight; nothing of it is lost."""
    with database.transaction() as connection:
        _one(connection.execute("update shows set deleted_at = now() where id = %s and deleted_at is null", (show_id,)).rowcount)


def restore_show(database: Database, show_id: int) -> None:
    with database.transaction() as connection:
        row = connection.execute("select name from shows where id = %s", (show_id,)).fetchone()
        with free_name("show", str(row[0]) if row else ""):
            _one(connection.execute("update shows set deleted_at = null where id = %s", (show_id,)).rowcount)


def delete_shot(database: Database, shot_id: int) -> None:
    """Take a shot out of sight; its revisions, renders and check-up stay."""
    with database.transaction() as connection:
        _one(connection.execute("update shots set deleted_at = now() where id = %s and deleted_at is null", (shot_id,)).rowcount, "shot")


def restore_shot(database: Database, shot_id: int) -> None:
    """Bring a shot back; its show comes back with it."""
    with database.transaction() as connection:
        query = "select s.name, w.name, w.id from shots s join shows w on w.id = s.show_id where s.id = %s"
        row = connection.execute(query, (shot_id,)).fetchone()
        shot, show, show_id = row or ("", "", 0)
        with free_name("shot", shot):
            _one(connection.execute("update shots set deleted_at = null where id = %s", (shot_id,)).rowcount, "shot")
        with free_name("show", show):
            connection.execute("update shows set deleted_at = null where id = %s", (show_id,))


def move_shot(database: Database, shot_id: int, show_id: int) -> None:
    """Put a shot into another show: its sources stay where they are, and what people call IDs comes along."""
    with database.transaction() as connection:
        if connection.execute("select 1 from shows where id = %s and deleted_at is null", (show_id,)).fetchone() is None:
            raise gone("no-show", NO_SHOW)
        names = (
            "insert into display_names (show_id, id, name) select %s, d.id, d.name from display_names d "
            "join shots s on s.show_id = d.show_id where s.id = %s on conflict do nothing"
        )
        connection.execute(names, (show_id, shot_id))
        with free_name("shot", _name_of(connection, shot_id)):
            moved = connection.execute(
                "update shots s set show_id = %s, folder = coalesce(s.folder, w.folder) from shows w "
                "where s.id = %s and w.id = s.show_id and s.deleted_at is null",
                (show_id, shot_id),
            )
        _one(moved.rowcount, "shot")


def _name_of(connection: Connection, shot_id: int) -> str:
    row = connection.execute("select name from shots where id = %s", (shot_id,)).fetchone()
    return str(row[0]) if row else ""


def list_deleted(database: Database) -> list[DeletedRow]:
    """What can be brought back, deleted last first; shots of a deleted show come back with it."""
    query = """
    select id as show_id, name as show, null::bigint as shot_id, null as shot, deleted_at from shows where deleted_at is not null
    union all
    select w.id, w.name, s.id, s.name, s.deleted_at from shots s join shows w on w.id = s.show_id
    where s.deleted_at is not null and w.deleted_at is null
    order by deleted_at desc
    """
    with database.transaction() as connection, connection.cursor(row_factory=class_row(DeletedRow)) as cursor:
        return cursor.execute(query).fetchall()


def _one(changed: int, noun: str = "show") -> None:
    """Refuse where there was nothing to change."""
    if changed == 0:
        raise gone(f"no-{noun}", f"no {noun} of this number; look at the list of shots again")
