"""Check-ups: ordered, how far they are, and what they found."""

import json
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.rows import class_row

from .database import Database

STRANDED_AFTER = 60.0  # seconds: a frame of a large render takes long to examine, and is examined without a look between
COLUMNS = "shot_id, revision, state, done, total, findings, cancel, error, changed_at"


@dataclass(frozen=True)
class CheckupRow:
    shot_id: int
    revision: int
    state: str
    done: int
    total: int
    findings: list[dict[str, Any]]
    cancel: bool
    error: dict[str, Any] | None
    changed_at: datetime


def order_checkup(database: Database, shot_id: int, revision: int) -> None:
    """Ask for the check-up of a revision; what was found before stays until there is something newer."""
    with database.transaction() as connection:
        connection.execute(
            "insert into checkups (shot_id, revision, state) values (%s, %s, 'queued') on conflict (shot_id) do update "
            "set revision = excluded.revision, state = 'queued', done = 0, total = 0, cancel = false, error = null, changed_at = now()",
            (shot_id, revision),
        )


def get_checkup(database: Database, shot_id: int) -> CheckupRow | None:
    """None where none was ever asked for."""
    with database.transaction() as connection, connection.cursor(row_factory=class_row(CheckupRow)) as cursor:
        return cursor.execute(f"select {COLUMNS} from checkups where shot_id = %s", (shot_id,)).fetchone()


def list_checkups(database: Database) -> dict[int, CheckupRow]:
    with database.transaction() as connection, connection.cursor(row_factory=class_row(CheckupRow)) as cursor:
        return {row.shot_id: row for row in cursor.execute(f"select {COLUMNS} from checkups").fetchall()}


def set_progress(database: Database, shot_id: int, revision: int, done: int, total: int) -> bool:
    """Note how far the check-up of a revision is; True where it was asked to stop, or another revision is wanted by now."""
    with database.transaction() as connection:
        query = (
            "update checkups set state = 'running', done = %s, total = %s, changed_at = now() where shot_id = %s and revision = %s "
            "returning cancel"
        )
        row = connection.execute(query, (done, total, shot_id, revision)).fetchone()
    return row is None or bool(row[0])


def finish(
    database: Database, shot_id: int, revision: int, state: str, findings: list[dict[str, Any]] | None, error: dict[str, Any] | None = None
) -> None:
    """How the check-up of a revision ended, unless another one is wanted by now; `findings` None keeps those of before."""
    told = (state, None if findings is None else json.dumps(findings), None if error is None else json.dumps(error), shot_id, revision)
    with database.transaction() as connection:
        connection.execute(
            "update checkups set state = %s, findings = coalesce(%s, findings), error = %s, changed_at = now() "
            "where shot_id = %s and revision = %s",
            told,
        )


def stranded(database: Database) -> list[int]:
    """Shots whose check-up should be worked at and of which nothing was heard for a while."""
    query = "select shot_id from checkups where state in ('queued', 'running') and changed_at < now() - make_interval(secs => %s)"
    with database.transaction() as connection:
        return [row[0] for row in connection.execute(query, (STRANDED_AFTER,))]


def ask_to_stop(database: Database, shot_id: int) -> None:
    with database.transaction() as connection:
        connection.execute("update checkups set cancel = true where shot_id = %s and state in ('queued', 'running')", (shot_id,))
