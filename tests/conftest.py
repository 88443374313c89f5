"""Shared pieces: a reader over arrays, small shots, and a database of the tests' own."""

import fcntl
import os
import uuid
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest
from hypothesis import settings
from psycopg import sql
from psycopg.conninfo import make_conninfo

from umbrax.store.database import Database
from umbrax.store.migrating import migrate

# how long an example takes says nothing about whether it is right, least of all while kernels are loaded
settings.register_profile("umbrax", deadline=None)
settings.load_profile("umbrax")

PAGE = Path(__file__).parent / "ui"


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """The tests of the page take longest, and begin first."""
    items.sort(key=lambda item: item.path.parent != PAGE)


@pytest.fixture(scope="session")
def database_address() -> Iterator[str]:
    """A new database on the cluster that bin/test started; removed at the end."""
    address = os.environ["UMBRAX_DATABASE"]
    name = f"umbrax_test_{uuid.uuid4().hex[:8]}"
    mine = make_conninfo(address, dbname=name)
    migrate(mine)
    yield mine
    with psycopg.connect(make_conninfo(address, dbname="postgres"), autocommit=True) as connection:
        connection.execute(sql.SQL("drop database {} with (force)").format(sql.Identifier(name)))


@pytest.fixture(scope="session")
def database(database_address: str) -> Iterator[Database]:
    database = Database(database_address, most=6)
    yield database
    database.close()


@pytest.fixture(scope="session")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo with its first three frames, rendered once for all tests, whichever process comes first."""
    from umbrax.standin.demo import write_demo

    base = tmp_path_factory.getbasetemp()
    folder = (base.parent if "PYTEST_XDIST_WORKER" in os.environ else base) / "demo"
    with open(folder.with_suffix(".lock"), "w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not folder.exists():
            write_demo(folder.with_suffix(".part"), frames=range(1001, 1004))
            folder.with_suffix(".part").rename(folder)
    return folder
