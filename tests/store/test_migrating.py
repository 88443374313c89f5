"""Migrations: applied once, by several at the same time, and holding their invariants."""

import os
import uuid
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor

import psycopg
import pytest
from psycopg import sql
from psycopg.conninfo import make_conninfo

from umbrax.store import migrating
from umbrax.store.database import Database
from umbrax.store.migrating import migrate


@pytest.fixture
def address() -> Iterator[str]:
    """Of a database that is not there yet, and is gone afterwards."""
    name = f"umbrax_test_{uuid.uuid4().hex[:8]}"
    address = make_conninfo(os.environ["UMBRAX_DATABASE"], dbname=name)
    yield address
    with psycopg.connect(make_conninfo(address, dbname="postgres"), autocommit=True) as connection:
        connection.execute(sql.SQL("drop database if exists {} with (force)").format(sql.Identifier(name)))


def test_four_at_once_apply_each_migration_once(address: str) -> None:
    with ThreadPoolExecutor(4) as pool:
        applied = [migration for done in pool.map(lambda _: migrate(address), range(4)) for migration in done]
    ours = [path.stem for path in migrating.FOLDER.glob("*.sql")]
    assert sorted(applied) == sorted([*ours, "0002_queue"])
    assert migrate(address) == []


@pytest.mark.parametrize("noted", [True, False])
def test_what_a_newer_queue_package_changes_is_applied_once(address: str, noted: bool, monkeypatch: pytest.MonkeyPatch) -> None:
    """Also to databases from before its steps were noted."""
    migrate(address)
    with psycopg.connect(address) as connection:
        told = {row[0] for row in connection.execute("select name from migrations where name like '0002_queue/%'")}
        assert told == {f"0002_queue/{step}" for step in migrating.queue_steps()}, "a new database has them all"
        if not noted:
            connection.execute("delete from migrations where name like '0002_queue/%'")
    newer = migrating.queue_steps() | {"99.00.00_01_pre_probe": b"create table queue_probe (n integer); insert into queue_probe values (1)"}
    monkeypatch.setattr(migrating, "queue_steps", lambda: newer)
    assert migrate(address) == ["0002_queue/99.00.00_01_pre_probe"]
    assert migrate(address) == []
    with psycopg.connect(address) as connection:
        assert connection.execute("select count(*) from queue_probe").fetchone() == (1,)


def test_the_database_holds_its_invariants(database: Database) -> None:
    bad = [
        "insert into shows (name, folder) values ('', 'x')",
        "insert into revisions (shot_id, number, document, digest, command, gesture) values (-1, 1, '{}', '', '', '')",
        "insert into renders (shot_id, revision, frames, folder, file_name, pixel_type) values (1, 1, '{}', '', '', '')",
    ]
    for statement in bad:
        with pytest.raises(psycopg.errors.IntegrityError), database.transaction() as connection:
            connection.execute(statement)
