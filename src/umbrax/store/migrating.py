"""Numbered SQL migrations, each applied once and in order, in one transaction under a lock."""

import contextlib
from pathlib import Path

import psycopg
from procrastinate.schema import SchemaManager
from psycopg import sql
from psycopg.conninfo import conninfo_to_dict, make_conninfo

FOLDER = Path(__file__).parent / "migrations"
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
                connection.execute("insert into migrations (name) values (%s)", (name,))
                applied.append(name)
    return applied


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
    texts["0002_queue"] = SchemaManager.get_schema().encode()
    return texts
