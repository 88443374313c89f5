"""Numbered SQL migrations, each applied once and in order, in one transaction under a lock.

The queue's schema is its package's: a new database gets it as it stands, an older one the steps that the package ships for
it, each under its own name. So a newer package brings the database along.
"""

import contextlib
from pathlib import Path
from typing import Any

import procrastinate.schema
import psycopg
from procrastinate.schema import SchemaManager
from psycopg import sql
from psycopg.conninfo import conninfo_to_dict, make_conninfo

FOLDER = Path(__file__).parent / "migrations"
QUEUE = "0002_queue"
# the steps up to this one were in the schema that databases were made with before its steps were noted
FIRST_QUEUE = "03.04.00_50_post_add_retry_failed_job_procedure"
LOCK = 726866741


def migrate(address: str) -> list[str]:
    """Apply what is missing and return the names; safe when several processes start at once."""
    applied = []
    _make_database(address)
    with psycopg.connect(address) as connection:
        connection.execute("select pg_advisory_xact_lock(%s)", (LOCK,))
        connection.execute("create table if not exists migrations (name text primary key, applied_at timestamptz not null default now())")
        known = {row[0] for row in connection.execute("select name from migrations")}
        for name, text in sorted(_texts().items()):
            if name not in known:
                connection.execute(text)
                _note(connection, name)
                applied.append(name)
        applied += _upgrade_queue(connection, known)
    return applied


def _upgrade_queue(connection: psycopg.Connection[Any], known: set[str]) -> list[str]:
    """Apply the steps of the queue's schema that a database made with an older package lacks."""
    noted = any(name.startswith(f"{QUEUE}/") for name in known)
    applied = []
    for step, text in sorted(queue_steps().items()):
        name = f"{QUEUE}/{step}"
        if name in known:
            continue
        if QUEUE in known and (noted or step > FIRST_QUEUE):
            connection.execute(text)
            applied.append(name)
        _note(connection, name)
    return applied


def _note(connection: psycopg.Connection[Any], name: str) -> None:
    connection.execute("insert into migrations (name) values (%s)", (name,))


def queue_steps() -> dict[str, bytes]:
    """The steps of the queue's schema that its package ships, by their names, which are in order."""
    folder = Path(procrastinate.schema.__file__).parent / "sql" / "migrations"
    return {path.stem: path.read_bytes() for path in folder.glob("*.sql")}


def _make_database(address: str) -> None:
    """Make the database of an address where the server does not have it yet."""
    settings = conninfo_to_dict(address)
    name = str(settings["dbname"])
    with psycopg.connect(make_conninfo(address, dbname="postgres"), autocommit=True) as connection:
        if not connection.execute("select 1 from pg_database where datname = %s", (name,)).fetchone():
            with contextlib.suppress(psycopg.errors.DuplicateDatabase, psycopg.errors.UniqueViolation):
                connection.execute(sql.SQL("create database {}").format(sql.Identifier(name)))


def _texts() -> dict[str, bytes]:
    """Our own files, and the queue's schema as its package ships it, under its number."""
    texts = {path.stem: path.read_bytes() for path in FOLDER.glob("*.sql")}
    texts[QUEUE] = SchemaManager.get_schema().encode()
    return texts
