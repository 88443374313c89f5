"""Renders that were ordered, and how far they are."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.rows import class_row
from psycopg.types.json import Json

from umbrax.core.errors import UmbraxError

from .database import Database


@dataclass(frozen=True)
class RenderRow:
    id: int
    shot_id: int
    revision: int
    frames: list[int]
    folder: str
    file_name: str
    pixel_type: str
    upto: str | None
    mattes: list[str]
    pack: str | None
    state: str
    cancel: bool
    error: dict[str, Any] | None
    job: int | None
    created_at: datetime
    changed_at: datetime
    raise_alpha: bool
    note: str | None
    done: list[int]
    written: list[list[str]]
    seconds: float
    bytes: int


STRANDED_AFTER = 10.0  # seconds; who works at a render says so twice a second

SELECT = """
select r.*, coalesce(f.done, '{}') as done, coalesce(f.written, '[]') as written,
    coalesce(f.seconds, 0) as seconds, coalesce(f.bytes, 0)::bigint as bytes
from renders r left join lateral (
    select array_agg(frame order by frame) as done, json_agg(coalesce(files, '{}') order by frame) as written,
        sum(seconds) as seconds, sum(bytes) as bytes
    from render_frames where render_id = r.id
) f on true
"""


def add_render(
    database: Database, shot_id: int, revision: int, frames: list[int], folder: str, file_name: str, pixel_type: str,
    upto: str | None = None, mattes: list[str] | None = None, pack: str | None = None, raise_alpha: bool = True,
) -> int:  # fmt: skip
    query = (
        "insert into renders (shot_id, revision, frames, folder, file_name, pixel_type, upto, mattes, pack, raise_alpha) "
        "values (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s) returning id"
    )
    values = (shot_id, revision, frames, folder, file_name, pixel_type, upto, mattes or [], pack, raise_alpha)
    with database.transaction() as connection:
        row = connection.execute(query, values).fetchone()
    assert row is not None
    return int(row[0])


def get_render(database: Database, render_id: int) -> RenderRow:
    with database.transaction() as connection, connection.cursor(row_factory=class_row(RenderRow)) as cursor:
        found = cursor.execute(SELECT + "where r.id = %s", (render_id,)).fetchone()
    if found is None:
        error = UmbraxError("no-render", "no render of this number; it was removed")
        error.status = 404
        raise error
    return found


def list_renders(database: Database, shot_id: int) -> list[RenderRow]:
    with database.transaction() as connection, connection.cursor(row_factory=class_row(RenderRow)) as cursor:
        return cursor.execute(SELECT + "where r.shot_id = %s order by r.id desc limit 50", (shot_id,)).fetchall()


def set_state(database: Database, render_id: int, state: str, error: dict[str, Any] | None = None) -> None:
    query = "update renders set state = %s, error = %s, changed_at = now() where id = %s"
    with database.transaction() as connection:
        connection.execute(query, (state, Json(error) if error else None, render_id))


def set_note(database: Database, render_id: int, note: str) -> None:
    with database.transaction() as connection:
        connection.execute("update renders set note = %s where id = %s", (note, render_id))


def set_job(database: Database, render_id: int, job: int) -> None:
    with database.transaction() as connection:
        connection.execute("update renders set job = %s where id = %s", (job, render_id))


def ask_to_cancel(database: Database, render_id: int) -> None:
    """A render that is queued, or that nobody works at any more, is cancelled at once, a running one at its next look."""
    query = (
        "update renders set cancel = true, "
        "state = case when state = 'queued' or changed_at < now() - make_interval(secs => %s) then 'cancelled' else state end "
        "where id = %s and state in ('queued', 'running')"
    )
    with database.transaction() as connection:
        connection.execute(query, (STRANDED_AFTER, render_id))


def stranded(database: Database) -> list[int]:
    """Renders that should be worked at and of which nothing was heard for a while."""
    query = "select id from renders where state in ('queued', 'running') and changed_at < now() - make_interval(secs => %s) order by id"
    with database.transaction() as connection:
        return [row[0] for row in connection.execute(query, (STRANDED_AFTER,))]


def reopen(database: Database, render_id: int) -> None:
    query = "update renders set state = 'queued', cancel = false, error = null, changed_at = now() where id = %s"
    with database.transaction() as connection:
        connection.execute(query, (render_id,))


def frame_done(database: Database, render_id: int, frame: int, seconds: float, size: int, files: list[str]) -> bool:
    """Note a finished frame and the names of its files; True if the render was asked to stop."""
    with database.transaction() as connection:
        connection.execute(
            "insert into render_frames (render_id, frame, seconds, bytes, files) values (%s, %s, %s, %s, %s) on conflict (render_id, frame) "
            "do update set seconds = excluded.seconds, bytes = excluded.bytes, files = excluded.files",
            (render_id, frame, seconds, size, files),
        )
    return cancel_asked(database, render_id)


def cancel_asked(database: Database, render_id: int) -> bool:
    """Say that the render is being worked at, and learn whether it is to stop."""
    with database.transaction() as connection:
        row = connection.execute("update renders set changed_at = now() where id = %s returning cancel", (render_id,)).fetchone()
    return row is None or bool(row[0])


def set_folder(database: Database, render_id: int, folder: str) -> None:
    with database.transaction() as connection:
        connection.execute("update renders set folder = %s where id = %s", (folder, render_id))
