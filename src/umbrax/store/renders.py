"""Renders that were ordered, and how far they are."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.rows import class_row
from psycopg.types.json import Json

from .database import Database
from .refusals import gone


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
    priority: int
    person_id: int | None
    movie: str | None
    joined: int
    movie_bytes: int | None
    space: str
    scale: int
    caption: bool
    show_id: int
    ordered_by: str | None
    done: list[int]
    written: list[list[str]]
    seconds: float
    bytes: int
    failed: list[int]


STRANDED_AFTER = 10.0  # seconds; who works at a render says so twice a second

SELECT = """
select r.*, s.show_id, p.name as ordered_by, coalesce(f.done, '{}') as done, coalesce(f.written, '[]') as written,
    coalesce(f.seconds, 0) as seconds, coalesce(f.bytes, 0)::bigint as bytes,
    array(select frame from render_failures where render_id = r.id order by frame) as failed
from renders r left join lateral (
    select array_agg(frame order by frame) as done, json_agg(coalesce(files, '{}') order by frame) as written,
        sum(seconds) as seconds, sum(bytes) as bytes
    from render_frames where render_id = r.id
) f on true join shots s on s.id = r.shot_id left join people p on p.id = r.person_id
"""


def add_render(
    database: Database, shot_id: int, revision: int, frames: list[int], folder: str, file_name: str, pixel_type: str,
    upto: str | None = None, mattes: list[str] | None = None, pack: str | None = None, raise_alpha: bool = True,
    *, movie: str | None = None, caption: bool = False, space: str = "lin_rec709", scale: int = 1,
) -> int:  # fmt: skip
    values = {
        "shot_id": shot_id, "revision": revision, "frames": frames, "folder": folder, "file_name": file_name, "pixel_type": pixel_type,
        "upto": upto, "mattes": mattes or [], "pack": pack, "raise_alpha": raise_alpha, "movie": movie, "caption": caption, "space": space,
        "scale": scale,
    }  # fmt: skip
    columns, places = ", ".join(values), ", ".join(f"%({name})s" for name in values)
    with database.transaction() as connection:
        row = connection.execute(f"insert into renders ({columns}) values ({places}) returning id", values).fetchone()
    assert row is not None
    return int(row[0])


def get_render(database: Database, render_id: int) -> RenderRow:
    with database.transaction() as connection, connection.cursor(row_factory=class_row(RenderRow)) as cursor:
        found = cursor.execute(SELECT + "where r.id = %s", (render_id,)).fetchone()
    if found is None:
        raise gone("no-render", "no render of this number; it was removed")
    return found


def show_of_render(database: Database, render_id: int) -> tuple[int, bool] | None:
    """The show of a render, and whether it writes mattes for speed."""
    query = "select s.show_id, r.pack is not distinct from 'baked' from renders r join shots s on s.id = r.shot_id where r.id = %s"
    with database.transaction() as connection:
        row = connection.execute(query, (render_id,)).fetchone()
    return (int(row[0]), bool(row[1])) if row else None


def list_renders(database: Database, shot_id: int) -> list[RenderRow]:
    with database.transaction() as connection, connection.cursor(row_factory=class_row(RenderRow)) as cursor:
        return cursor.execute(SELECT + "where r.shot_id = %s order by r.id desc limit 50", (shot_id,)).fetchall()


def start(database: Database, render_id: int) -> bool:
    """Say that work at a render begins; False where it ended, rests or is not to be done."""
    query = "update renders set state = 'running', changed_at = now() where id = %s and state in ('queued', 'running') and not cancel"
    with database.transaction() as connection:
        return connection.execute(query, (render_id,)).rowcount == 1


def stopped(database: Database, render_id: int) -> None:
    """One who works at a render has stopped: it is cancelled where that was asked for."""
    query = "update renders set state = 'cancelled', changed_at = now() where id = %s and cancel and state in ('queued', 'running')"
    with database.transaction() as connection:
        connection.execute(query, (render_id,))


def end(database: Database, render_id: int, error: dict[str, Any] | None = None) -> str | None:
    """End a render of which no frame is left to do; `done` or `failed` for the one who ended it, None for all others.

    `error`: why what comes after its frames could not be done.
    """
    with database.transaction() as connection:
        row = connection.execute("select frames from renders where id = %s and state = 'running' for update", (render_id,)).fetchone()
        if row is None:
            return None
        tried = "select frame from render_frames where render_id = %(id)s union select frame from render_failures where render_id = %(id)s"
        if set(row[0]) - {found[0] for found in connection.execute(tried, {"id": render_id})}:
            return None
        failures = connection.execute("select error from render_failures where render_id = %s order by frame", (render_id,)).fetchall()
        error = failures[0][0] if failures else error
        if error and len(failures) > 1:
            more = len(failures) - 1
            error = error | {"message": f"{error['message']}; {more} more frame{'s' * (more > 1)} failed as well"}
        state = "failed" if error else "done"
        connection.execute(
            "update renders set state = %s, error = %s, changed_at = now() where id = %s", (state, Json(error) if error else None, render_id)
        )
    return state


def frame_failed(database: Database, render_id: int, frame: int, error: dict[str, Any]) -> None:
    """Note that a frame could not be made; the others go on."""
    with database.transaction() as connection:
        connection.execute(
            "insert into render_failures (render_id, frame, error) values (%s, %s, %s) on conflict (render_id, frame) "
            "do update set error = excluded.error",
            (render_id, frame, Json(error)),
        )


def pause(database: Database, render_id: int) -> None:
    """Let a render rest; frames that are being made are given up."""
    with database.transaction() as connection:
        query = "update renders set state = 'paused', changed_at = now() where id = %s and state in ('queued', 'running') and not cancel"
        connection.execute(query, (render_id,))


def set_priority(database: Database, render_id: int, priority: int) -> None:
    with database.transaction() as connection:
        connection.execute("update renders set priority = %s where id = %s", (priority, render_id))


def seconds_a_frame(database: Database, shot_id: int) -> float | None:
    """What frames of a shot took lately, else what any frames took; None where nothing was rendered yet."""
    query = """
    select percentile_cont(0.5) within group (order by f.seconds) from (
        select f.seconds from render_frames f join renders r on r.id = f.render_id
        where r.shot_id = %s or not exists (select 1 from render_frames g join renders s on s.id = g.render_id where s.shot_id = %s)
        order by f.render_id desc, f.frame desc limit 200
    ) f
    """
    with database.transaction() as connection:
        row = connection.execute(query, (shot_id, shot_id)).fetchone()
    return None if row is None or row[0] is None else float(row[0])


def list_queue(database: Database) -> list[RenderRow]:
    """Renders that are to be done, in the order of the queue, and those that ended within the day."""
    order = "order by r.state not in ('queued', 'running', 'paused'), r.priority desc, r.id * (case when r.state = 'done' then -1 else 1 end)"
    recent = "r.state in ('queued', 'running', 'paused') or r.changed_at > now() - interval '1 day'"
    with database.transaction() as connection, connection.cursor(row_factory=class_row(RenderRow)) as cursor:
        return cursor.execute(f"{SELECT} where {recent} {order} limit 100").fetchall()


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
        "state = case when state in ('queued', 'paused') or changed_at < now() - make_interval(secs => %s) then 'cancelled' else state end "
        "where id = %s and state in ('queued', 'running', 'paused')"
    )
    with database.transaction() as connection:
        connection.execute(query, (STRANDED_AFTER, render_id))


def stranded(database: Database) -> list[int]:
    """Renders that should be worked at, of which nothing was heard for a while, and at which no worker is."""
    query = (
        "select id from renders r where state in ('queued', 'running') and changed_at < now() - make_interval(secs => %(s)s) and not exists "
        "(select 1 from workers w where w.render_id = r.id and w.seen_at > now() - make_interval(secs => %(s)s)) order by id"
    )
    with database.transaction() as connection:
        return [row[0] for row in connection.execute(query, {"s": STRANDED_AFTER})]


def reopen(database: Database, render_id: int) -> None:
    query = "update renders set state = 'queued', cancel = false, error = null, changed_at = now() where id = %s"
    with database.transaction() as connection:
        connection.execute("delete from render_failures where render_id = %s", (render_id,))
        connection.execute(query, (render_id,))


def frame_done(database: Database, render_id: int, frame: int, seconds: float, size: int, files: list[str], worker: str = "") -> bool:
    """Note a finished frame and the names of its files; True if the render was asked to stop."""
    with database.transaction() as connection:
        connection.execute(
            "insert into render_frames (render_id, frame, seconds, bytes, files, worker) values (%s, %s, %s, %s, %s, %s) "
            "on conflict (render_id, frame) do update set seconds = excluded.seconds, bytes = excluded.bytes, files = excluded.files, "
            "worker = excluded.worker",
            (render_id, frame, seconds, size, files, worker),
        )
    return stop_asked(database, render_id)


def written_of(database: Database, render_id: int, frame: int) -> list[str] | None:
    """The names of a frame's files as they were noted, none where its pattern gives it; None for a frame that is not done."""
    query = "select coalesce(files, '{}') from render_frames where render_id = %s and frame = %s"
    with database.transaction() as connection:
        row = connection.execute(query, (render_id, frame)).fetchone()
    return None if row is None else list(row[0])


def stop_asked(database: Database, render_id: int) -> bool:
    """Say that the render is being worked at, and learn whether it is to stop."""
    query = "update renders set changed_at = now() where id = %s returning cancel or state not in ('queued', 'running')"
    with database.transaction() as connection:
        row = connection.execute(query, (render_id,)).fetchone()
    return row is None or bool(row[0])


def ask_for_movie(database: Database, render_id: int, movie: str, caption: bool = False) -> None:
    """Let a movie be made of the frames of a render, in place of one that it may have."""
    with database.transaction() as connection:
        connection.execute(
            "update renders set movie = %s, caption = %s, joined = 0, movie_bytes = null where id = %s", (movie, caption, render_id)
        )


def set_joined(database: Database, render_id: int, joined: int) -> None:
    """Note how many frames are in a render's movie."""
    with database.transaction() as connection:
        connection.execute("update renders set joined = %s where id = %s", (joined, render_id))


def movie_done(database: Database, render_id: int, joined: int, size: int) -> None:
    """Note that the movie of a render is whole."""
    with database.transaction() as connection:
        connection.execute("update renders set joined = %s, movie_bytes = %s where id = %s", (joined, size, render_id))


def set_folder(database: Database, render_id: int, folder: str) -> None:
    with database.transaction() as connection:
        connection.execute("update renders set folder = %s where id = %s", (folder, render_id))
