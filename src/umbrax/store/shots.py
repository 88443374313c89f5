"""Shows, shots and revisions: edits on top of the newest revision, undo and redo by moving the head."""

from dataclasses import dataclass
from datetime import datetime

from psycopg.rows import class_row

from umbrax.core.document import edits
from umbrax.core.document.shot import Shot
from umbrax.core.document.text import canonical, digest, read_text
from umbrax.core.document.words import where_told
from umbrax.core.errors import UmbraxError

from .database import Connection, Database
from .refusals import conflicting, free_name, gone

NO_SHOT = "no shot of this number; go back to the shots, where deleted ones can be brought back"


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
    changed_by: str | None


@dataclass(frozen=True)
class RevisionRow:
    """One step of a shot's history; `kept`: it led to the head, and was not undone."""

    number: int
    command: str
    created_at: datetime
    made_by: str | None
    kept: bool


@dataclass(frozen=True)
class Revision:
    number: int
    shot: Shot
    digest: str


SHOT = """
select s.id, s.show_id, w.name as show, coalesce(s.folder, w.folder) as folder, s.name,
       s.head, r.parent, r.command, r.tab as undo_tab, s.changed_at, p.name as changed_by,
       (select max(c.number) from revisions c where c.shot_id = s.id and c.parent = s.head) as redo
from shots s join shows w on w.id = s.show_id join revisions r on r.shot_id = s.id and r.number = s.head
left join people p on p.id = r.person_id
"""
THERE = "s.deleted_at is null and w.deleted_at is null "


def list_shots(database: Database) -> list[ShotRow]:
    with database.transaction() as connection, connection.cursor(row_factory=class_row(ShotRow)) as cursor:
        return cursor.execute(f"{SHOT} where {THERE} order by w.name, s.name").fetchall()


def get_shot(database: Database, shot_id: int) -> ShotRow:
    with database.transaction() as connection:
        return _row(connection, shot_id)


def show_of_shot(database: Database, shot_id: int) -> int | None:
    """The show of a shot, deleted or not."""
    with database.transaction() as connection:
        row = connection.execute("select show_id from shots where id = %s", (shot_id,)).fetchone()
    return int(row[0]) if row else None


def list_revisions(database: Database, shot_id: int, before: int | None = None, limit: int = 50) -> list[RevisionRow]:
    """The newest revisions, or the newest before one, newest first."""
    query = """
    with recursive way (number, parent) as (
        select r.number, r.parent from revisions r join shots s on s.id = r.shot_id and s.head = r.number where r.shot_id = %(shot)s
        union all
        select r.number, r.parent from revisions r join way w on r.number = w.parent where r.shot_id = %(shot)s
    )
    select r.number, r.command, r.created_at, p.name as made_by, r.number in (select number from way) as kept
    from revisions r left join people p on p.id = r.person_id
    where r.shot_id = %(shot)s and (%(before)s::integer is null or r.number < %(before)s) order by r.number desc limit %(limit)s
    """
    with database.transaction() as connection, connection.cursor(row_factory=class_row(RevisionRow)) as cursor:
        return cursor.execute(query, {"shot": shot_id, "before": before, "limit": limit}).fetchall()


def go_back(database: Database, shot_id: int, base: int, number: int, *, gesture: str, tab: str) -> ShotRow:
    """Make the shot what it was at a revision, as a new one, which can be undone. Refused where others changed it since `base`."""
    with database.transaction() as connection:
        row = _locked(connection, shot_id)
        if _is_known(connection, shot_id, gesture):
            return row
        if base != row.head:
            others = _others(connection, shot_id, base + 1, row.head)
            raise conflicting("conflict", f"the shot was changed by {others} meanwhile; look at it and go back again", {"changed": []})
        then = _revision(connection, shot_id, number)
        if then.digest != _revision(connection, shot_id, row.head).digest:
            _append(connection, shot_id, row.head, then.shot, f"back to revision {number}", gesture=gesture, tab=tab)
        return _row(connection, shot_id)


def _row(connection: Connection, shot_id: int) -> ShotRow:
    with connection.cursor(row_factory=class_row(ShotRow)) as cursor:
        found = cursor.execute(f"{SHOT} where s.id = %s and {THERE}", (shot_id,)).fetchone()
    if found is None:
        raise gone("no-shot", NO_SHOT)
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


def add_shot(database: Database, show_id: int, shot: Shot, command: str = "take in") -> int | None:
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
    with free_name("shot", shot.name):
        connection.execute("update shots set head = %s, name = %s, changed_at = now() where id = %s", (number, shot.name, shot_id))
    return number


def _locked(connection: Connection, shot_id: int) -> ShotRow:
    connection.execute("select 1 from shots where id = %s for update", (shot_id,))
    return _row(connection, shot_id)


def edit_shot(database: Database, shot_id: int, base: int, changes: list[edits.Edit], *, command: str, gesture: str, tab: str) -> ShotRow:
    """Apply edits made against revision `base` on top of the head, as one revision.

    Where a path the edits touch was changed since, they are refused with what changed. A gesture sent twice is kept once.
    """
    with database.transaction() as connection:
        row = _locked(connection, shot_id)
        if _is_known(connection, shot_id, gesture):
            return row
        head = _revision(connection, shot_id, row.head)
        if base != row.head:
            seen = _revision(connection, shot_id, base).shot
            in_the_way = edits.conflicts(changes, edits.changed(edits.plain_data(seen), edits.plain_data(head.shot)))
            if in_the_way:
                raise conflict(head.shot, in_the_way, _others(connection, shot_id, base + 1, row.head))
        edited = edits.apply(head.shot, changes)
        if digest(canonical(edited)) != head.digest:
            _append(connection, shot_id, row.head, edited, command, gesture=gesture, tab=tab)
        return _row(connection, shot_id)


def _is_known(connection: Connection, shot_id: int, gesture: str) -> bool:
    """Whether a gesture was kept already: sent twice, it is kept once."""
    query = "select 1 from revisions where shot_id = %s and gesture = %s"
    return connection.execute(query, (shot_id, gesture)).fetchone() is not None


def _others(connection: Connection, shot_id: int, first: int, last: int) -> str:
    """Who, other than the person who acts, made any of these revisions; the same person's other tab where nobody did."""
    query = (
        "select distinct p.name from revisions r join people p on p.id = r.person_id where r.shot_id = %s and r.number between %s and %s "
        "and r.person_id is distinct from acting_person() order by p.name"
    )
    return " and ".join(row[0] for row in connection.execute(query, (shot_id, first, last))) or "another tab"


def conflict(shot: Shot, paths: set[edits.Path], others: str) -> UmbraxError:
    """What others changed of a shot, in words."""
    told = sorted({where_told(shot, path) for path in paths})
    message = f"this was changed by {others} meanwhile: {', '.join(told[:3])}; look at it and do it again"
    return conflicting("conflict", message, {"changed": sorted("/".join(path) for path in paths)})


def move_head(database: Database, shot_id: int, way: str, *, tab: str, force: bool = False) -> ShotRow:
    """Undo or redo. Undoing what another tab did is refused once, with what it was, unless forced."""
    with database.transaction() as connection:
        row = _locked(connection, shot_id)
        target = row.parent if way == "undo" else row.redo
        if target is None:
            raise UmbraxError("nothing", f"there is nothing to {way}")
        if way == "undo" and row.undo_tab not in ("", tab) and not force:
            others = _others(connection, shot_id, row.head, row.head)
            message = f"{others} did this: {row.command}; undo it all the same?"
            raise conflicting("other-tab", message, {"command": row.command})
        name = _revision(connection, shot_id, target).shot.name
        with free_name("shot", name):
            connection.execute("update shots set head = %s, changed_at = now(), name = %s where id = %s", (target, name, shot_id))
        return _row(connection, shot_id)
