"""Shows, shots and revisions: edits on top of the newest revision, undo and redo by moving the head."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime

import psycopg
from psycopg.rows import class_row

from umbrax.core.document import edits
from umbrax.core.document.shot import Shot
from umbrax.core.document.text import canonical, digest, read_text
from umbrax.core.errors import UmbraxError

from .database import Connection, Database

NO_SHOT = "no shot of this number; go back to the shots"


@dataclass(frozen=True)
class ShowRow:
    id: int
    name: str
    folder: str


@dataclass(frozen=True)
class ShotRow:
    """A shot and where its head is; `redo` is the newest revision made from the head."""

    id: int
    show_id: int
    show: str
    folder: str
    name: str
    head: int
    parent: int | None
    redo: int | None
    command: str
    undo_tab: str
    changed_at: datetime


@dataclass(frozen=True)
class Revision:
    number: int
    shot: Shot
    digest: str


SHOT = """
select s.id, s.show_id, w.name as show, w.folder, s.name, s.head, r.parent, r.command, r.tab as undo_tab, s.changed_at,
       (select max(c.number) from revisions c where c.shot_id = s.id and c.parent = s.head) as redo
from shots s join shows w on w.id = s.show_id join revisions r on r.shot_id = s.id and r.number = s.head
"""


def list_shows(database: Database) -> list[ShowRow]:
    with database.transaction() as connection, connection.cursor(row_factory=class_row(ShowRow)) as cursor:
        return cursor.execute("select id, name, folder from shows order by name").fetchall()


def list_shots(database: Database) -> list[ShotRow]:
    with database.transaction() as connection, connection.cursor(row_factory=class_row(ShotRow)) as cursor:
        return cursor.execute(SHOT + "order by w.name, s.name").fetchall()


def get_shot(database: Database, shot_id: int) -> ShotRow:
    with database.transaction() as connection:
        return _row(connection, shot_id)


def _row(connection: Connection, shot_id: int) -> ShotRow:
    with connection.cursor(row_factory=class_row(ShotRow)) as cursor:
        found = cursor.execute(SHOT + "where s.id = %s", (shot_id,)).fetchone()
    if found is None:
        error = UmbraxError("no-shot", NO_SHOT)
        error.status = 404
        raise error
    return found


def get_revision(database: Database, shot_id: int, number: int) -> Revision:
    with database.transaction() as connection:
        return _revision(connection, shot_id, number)


def _revision(connection: Connection, shot_id: int, number: int) -> Revision:
    query = "select document::text, digest from revisions where shot_id = %s and number = %s"
    row = connection.execute(query, (shot_id, number)).fetchone()
    if row is None:
        raise UmbraxError("no-revision", f"shot {shot_id} has no revision {number}; reload the page")
    return Revision(number, read_text(row[0]), row[1])


def put_show(database: Database, name: str, folder: str) -> int:
    """Make a show, or point an existing one of this name at a folder."""
    query = "insert into shows (name, folder) values (%s, %s) on conflict (name) do update set folder = excluded.folder returning id"
    with database.transaction() as connection:
        row = connection.execute(query, (name, folder)).fetchone()
    assert row is not None
    return int(row[0])


def find_or_add_show(database: Database, name: str, folder: str) -> ShowRow:
    """The show of this name with the folder it has, made with this one where there is none: two who ask at once get the same."""
    with database.transaction() as connection, connection.cursor(row_factory=class_row(ShowRow)) as cursor:
        cursor.execute("insert into shows (name, folder) values (%s, %s) on conflict do nothing", (name, folder))
        found = cursor.execute("select id, name, folder from shows where name = %s", (name,)).fetchone()
    assert found is not None
    return found


def put_sources(database: Database, show_id: int, shot: Shot) -> None:
    """Remember the sources a document uses as sources of its show."""
    query = (
        "insert into sources (show_id, name, path, colour) values (%s, %s, %s, %s) "
        "on conflict (show_id, name) do update set path = excluded.path, colour = excluded.colour"
    )
    with database.transaction() as connection:
        for name, source in shot.sources.items():
            connection.execute(query, (show_id, name, source.path, source.colour))


def count_sources(database: Database) -> dict[int, int]:
    """How many sources each show has."""
    with database.transaction() as connection:
        return dict(connection.execute("select show_id, count(*) from sources group by show_id").fetchall())


def add_shot(database: Database, show_id: int, shot: Shot, command: str = "bring in") -> int | None:
    """Make a shot with its first revision; None where the show has one of this name already."""
    with database.transaction() as connection:
        query = "insert into shots (show_id, name) values (%s, %s) on conflict do nothing returning id"
        row = connection.execute(query, (show_id, shot.name)).fetchone()
        if row is None:
            return None
        _append(connection, int(row[0]), None, shot, command, gesture=f"first {row[0]}", tab="")
        return int(row[0])


def _append(connection: Connection, shot_id: int, parent: int | None, shot: Shot, command: str, *, gesture: str, tab: str) -> int:
    text = canonical(shot)
    # what is kept for ever is read again first: a document that cannot be read would take every list with it
    if canonical(read_text(text)) != text:
        raise UmbraxError("invalid", "the document does not read back as it was written; undo the last change and do it another way")
    row = connection.execute("update shots set last = last + 1 where id = %s returning last", (shot_id,)).fetchone()
    assert row is not None
    number = int(row[0])
    connection.execute(
        "insert into revisions (shot_id, number, parent, document, digest, command, gesture, tab) values (%s, %s, %s, %s, %s, %s, %s, %s)",
        (shot_id, number, parent, text, digest(text), command, gesture, tab),
    )
    with _free_name(shot.name):
        connection.execute("update shots set head = %s, name = %s, changed_at = now() where id = %s", (number, shot.name, shot_id))
    return number


@contextmanager
def _free_name(name: str) -> Iterator[None]:
    """Refuse in words what the table refuses: two shots of one name in a show."""
    try:
        yield
    except psycopg.errors.UniqueViolation:
        error = UmbraxError("shot-exists", f"the show has another shot {name!r} already; give one of them another name first")
        error.status = 409
        raise error from None


def _locked(connection: Connection, shot_id: int) -> ShotRow:
    connection.execute("select 1 from shots where id = %s for update", (shot_id,))
    return _row(connection, shot_id)


def edit_shot(database: Database, shot_id: int, base: int, changes: list[edits.Edit], *, command: str, gesture: str, tab: str) -> ShotRow:
    """Apply edits made against revision `base` on top of the head, as one revision.

    Where a path the edits touch was changed since, they are refused with what changed. A gesture sent twice is kept once.
    """
    with database.transaction() as connection:
        row = _locked(connection, shot_id)
        query = "select 1 from revisions where shot_id = %s and gesture = %s"
        if connection.execute(query, (shot_id, gesture)).fetchone():
            return row
        head = _revision(connection, shot_id, row.head).shot
        if base != row.head:
            seen = _revision(connection, shot_id, base).shot
            in_the_way = edits.conflicts(changes, edits.changed(edits.plain_data(seen), edits.plain_data(head)))
            if in_the_way:
                raise conflict(in_the_way)
        edited = edits.apply(head, changes)
        if canonical(edited) != canonical(head):
            _append(connection, shot_id, row.head, edited, command, gesture=gesture, tab=tab)
        return _row(connection, shot_id)


def conflict(paths: set[edits.Path]) -> UmbraxError:
    listed = sorted("/".join(path) for path in paths)
    error = UmbraxError(
        "conflict", f"this was changed in another tab meanwhile: {', '.join(listed[:3])}; look at it and do it again",
        detail={"changed": listed},
    )  # fmt: skip
    error.status = 409
    return error


def move_head(database: Database, shot_id: int, way: str, *, tab: str, force: bool = False) -> ShotRow:
    """Undo or redo. Undoing what another tab did is refused once, with what it was, unless forced."""
    with database.transaction() as connection:
        row = _locked(connection, shot_id)
        target = row.parent if way == "undo" else row.redo
        if target is None:
            raise UmbraxError("nothing", f"there is nothing to {way}")
        if way == "undo" and row.undo_tab not in ("", tab) and not force:
            message = f"another tab did this: {row.command}; undo it all the same?"
            error = UmbraxError("other-tab", message, detail={"command": row.command})
            error.status = 409
            raise error
        name = _revision(connection, shot_id, target).shot.name
        with _free_name(name):
            connection.execute("update shots set head = %s, changed_at = now(), name = %s where id = %s", (target, name, shot_id))
        return _row(connection, shot_id)
