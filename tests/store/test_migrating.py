"""Migrations: applied once, by several at the same time, and holding their invariants."""

import os
import uuid
from concurrent.futures import ThreadPoolExecutor

import psycopg
import pytest
from psycopg import sql
from psycopg.conninfo import make_conninfo

from umbrax.store.database import Database
from umbrax.store.migrating import migrate


def test_four_at_once_apply_each_migration_once() -> None:
    name = f"umbrax_test_{uuid.uuid4().hex[:8]}"
    address = make_conninfo(os.environ["UMBRAX_DATABASE"], dbname=name)
    try:
        with ThreadPoolExecutor(4) as pool:
            applied = [migration for done in pool.map(lambda _: migrate(address), range(4)) for migration in done]
        expected = ["0001_shows_shots_revisions", "0002_queue", "0003_renders", "0004_checkups", "0005_called", "0006_renders_of_mattes"]
        assert sorted(applied) == expected
        assert migrate(address) == []
    finally:
        with psycopg.connect(make_conninfo(address, dbname="postgres"), autocommit=True) as connection:
            connection.execute(sql.SQL("drop database {} with (force)").format(sql.Identifier(name)))


def test_the_database_holds_its_invariants(database: Database) -> None:
    bad = [
        "insert into shows (name, folder) values ('', 'x')",
        "insert into revisions (shot_id, number, document, digest, command, gesture) values (-1, 1, '{}', '', '', '')",
        "insert into renders (shot_id, revision, frames, folder, file_name, pixel_type) values (1, 1, '{}', '', '', '')",
    ]
    for statement in bad:
        with pytest.raises(psycopg.errors.IntegrityError), database.transaction() as connection:
            connection.execute(statement)
