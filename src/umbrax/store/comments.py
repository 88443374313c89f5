"""Comments on a shot, a frame of it or a point of a frame, and answers to them: open until somebody resolves them."""

from dataclasses import dataclass
from datetime import datetime

from psycopg.rows import class_row

from .database import Connection, Database
from .refusals import gone


@dataclass(frozen=True)
class CommentRow:
    """A comment, or an answer to one; `revision` is what its writer saw, `resolved_in` what was there when it was resolved."""

    id: int
    shot_id: int
    answers: int | None
    person_id: int | None
    person: str | None
    text: str
    frame: int | None
    x: float | None
    y: float | None
    revision: int
    resolved_at: datetime | None
    resolved_by: str | None
    resolved_in: int | None
    created_at: datetime
    changed_at: datetime | None


SELECT = """
select c.id, c.shot_id, c.answers, c.person_id, p.name as person, c.text, c.frame, c.x, c.y, c.revision,
       c.resolved_at, q.name as resolved_by, c.resolved_in, c.created_at, c.changed_at
from comments c left join people p on p.id = c.person_id left join people q on q.id = c.resolved_by
"""


def list_comments(database: Database, shot_id: int) -> list[CommentRow]:
    """Oldest first, answers among them."""
    with database.transaction() as connection, connection.cursor(row_factory=class_row(CommentRow)) as cursor:
        return cursor.execute(f"{SELECT} where c.shot_id = %s order by c.id", (shot_id,)).fetchall()


def get_comment(database: Database, shot_id: int, comment_id: int) -> CommentRow:
    with database.transaction() as connection:
        return _one(connection, shot_id, comment_id)


def _one(connection: Connection, shot_id: int, comment_id: int) -> CommentRow:
    with connection.cursor(row_factory=class_row(CommentRow)) as cursor:
        found = cursor.execute(f"{SELECT} where c.id = %s and c.shot_id = %s", (comment_id, shot_id)).fetchone()
    if found is None:
        raise gone("no-comment", "this comment is not there any more; look at the list again")
    return found


def add_comment(
    database: Database, shot_id: int, text: str, revision: int, *, frame: int | None = None, point: tuple[float, float] | None = None
) -> None:
    """Say something of a shot, of a frame, or of a point of it."""
    x, y = point or (None, None)
    query = "insert into comments (shot_id, text, revision, frame, x, y) values (%s, %s, %s, %s, %s, %s)"
    with database.transaction() as connection:
        connection.execute(query, (shot_id, text, revision, frame, x, y))


def add_answer(database: Database, shot_id: int, comment_id: int, text: str, revision: int) -> None:
    """Answer a comment; who answers an answer answers what that was about."""
    with database.transaction() as connection:
        about = _one(connection, shot_id, comment_id)
        query = "insert into comments (shot_id, answers, text, revision) values (%s, %s, %s, %s)"
        connection.execute(query, (shot_id, about.answers or about.id, text, revision))


def set_resolved(database: Database, shot_id: int, comment_id: int, resolved: bool) -> None:
    """Resolve a comment, as of the shot's head, or open it again; one that is so already stays as it is."""
    with database.transaction() as connection:
        about = _one(connection, shot_id, comment_id)
        number = about.answers or about.id
        if resolved:
            query = """
            update comments c set resolved_at = now(), resolved_by = acting_person(), resolved_in = s.head
            from shots s where s.id = c.shot_id and c.id = %s and c.resolved_at is null
            """
        else:
            query = "update comments set resolved_at = null, resolved_by = null, resolved_in = null where id = %s"
        connection.execute(query, (number,))


def set_text(database: Database, shot_id: int, comment_id: int, text: str) -> None:
    with database.transaction() as connection:
        _one(connection, shot_id, comment_id)
        connection.execute("update comments set text = %s, changed_at = now() where id = %s and text <> %s", (text, comment_id, text))


def delete_comment(database: Database, shot_id: int, comment_id: int) -> None:
    """Take a comment away with its answers."""
    with database.transaction() as connection:
        _one(connection, shot_id, comment_id)
        connection.execute("delete from comments where id = %s", (comment_id,))


def count_open(database: Database) -> dict[int, int]:
    """How many comments are open, by the number of the shot."""
    query = "select shot_id, count(*) from comments where answers is null and resolved_at is null group by shot_id"
    with database.transaction() as connection:
        return {int(shot): int(count) for shot, count in connection.execute(query)}
