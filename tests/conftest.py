"""Shared pieces: a reader over arrays, small shots, and a database of the tests' own."""

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

ROOM = "tests/ui/"  # one server and one browser serve them all


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Files stay together on one processor, as do all tests of the page: those take longest and begin first."""
    items.sort(key=lambda item: not item.nodeid.startswith(ROOM))
    for item in items:
        file = item.nodeid.split("::")[0]
        item.add_marker(pytest.mark.xdist_group(ROOM if file.startswith(ROOM) else file))


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
    """The demo with its first three frames, rendered once for all tests."""
    from umbrax.standin.demo import write_demo

    folder = tmp_path_factory.mktemp("demo")
    write_demo(folder, frames=range(1001, 1004))
    return folder
