"""Queue workers: who is there, and what each does."""

from dataclasses import dataclass
from datetime import datetime

from psycopg.rows import class_row

from .database import Database

GONE_AFTER = 10.0  # seconds; a worker says every two that it is there
FORGOTTEN_AFTER = 3600.0


@dataclass(frozen=True)
class WorkerRow:
    id: int
    name: str
    host: str
    threads: int
    started_at: datetime
    seen_at: datetime
    render_id: int | None
    frame: int | None
    checkup: bool
    frames: int
    seconds: float
    here: bool


def add_worker(database: Database, name: str, host: str, threads: int) -> int:
    with database.transaction() as connection:
        connection.execute("delete from workers where seen_at < now() - make_interval(secs => %s)", (FORGOTTEN_AFTER,))
        row = connection.execute("insert into workers (name, host, threads) values (%s, %s, %s) returning id", (name, host, threads)).fetchone()
    assert row is not None
    return int(row[0])


def is_here(database: Database, worker: int) -> int:
    """Note that a worker is there; returns how many are on its machine."""
    query = """
        with me as (update workers set seen_at = now() where id = %(id)s returning host)
        select count(*) from workers, me
        where workers.host = me.host and workers.id <> %(id)s and workers.seen_at > now() - make_interval(secs => %(gone)s)"""
    with database.transaction() as connection:
        row = connection.execute(query, {"id": worker, "gone": GONE_AFTER}).fetchone()
    return 1 + int(row[0] if row else 0)


def is_doing(database: Database, worker: int, render_id: int | None, frame: int | None, checkup: bool = False) -> None:
    """What a worker is at; nothing where all of it is None."""
    query = "update workers set render_id = %s, frame = %s, checkup = %s, seen_at = now() where id = %s"
    with database.transaction() as connection:
        connection.execute(query, (render_id, frame, checkup, worker))


def has_done(database: Database, worker: int, seconds: float) -> None:
    with database.transaction() as connection:
        connection.execute("update workers set frames = frames + 1, seconds = seconds + %s where id = %s", (seconds, worker))


def is_leaving(database: Database, worker: int) -> None:
    with database.transaction() as connection:
        connection.execute("delete from workers where id = %s", (worker,))


def list_workers(database: Database) -> list[WorkerRow]:
    """Those that were here within the hour, the oldest first."""
    query = "select *, seen_at > now() - make_interval(secs => %s) as here from workers order by id"
    with database.transaction() as connection, connection.cursor(row_factory=class_row(WorkerRow)) as cursor:
        return cursor.execute(query, (GONE_AFTER,)).fetchall()
