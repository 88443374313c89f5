"""A database that is asked: gone, stopped, or slow to answer."""

import threading
import time
from collections.abc import Iterator

import pytest

from clusters import Cluster, running_cluster
from umbrax.core.errors import UmbraxError
from umbrax.store.database import Connection, Database


@pytest.fixture(scope="module")
def cluster() -> Iterator[Cluster]:
    with running_cluster() as found:
        yield found


@pytest.fixture
def database(cluster: Cluster) -> Iterator[Database]:
    database = Database(cluster.address.removesuffix("umbrax") + "postgres", most=3, patience=0.2, within=1.0)
    yield database
    database.close()


def one(database: Database) -> int:
    with database.transaction() as connection:
        return int(connection.execute("select 1").fetchone()[0])  # type: ignore[index]


def test_who_asks_a_stopped_database_is_told_so_and_not_held(cluster: Cluster, database: Database) -> None:
    held: list[UmbraxError] = []
    connected, stopped = threading.Event(), threading.Event()

    def ask() -> None:
        try:
            with database.transaction() as connection:
                connected.set()
                stopped.wait(20)
                connection.execute("select 1")
        except UmbraxError as error:
            held.append(error)

    assert one(database) == 1
    before = threading.Thread(target=ask, daemon=True)
    before.start()
    assert connected.wait(10)
    with cluster.stopped():
        stopped.set()
        before.join(20)
        assert [(error.code, error.again) for error in held] == [("no-database", False)], "it may have done what it was asked for"
        database.begin()
        with pytest.raises(UmbraxError) as raised:
            one(database)
        assert (raised.value.code, raised.value.status, raised.value.again) == ("no-database", 503, True), "nothing was done"
    for _ in range(50):
        try:
            assert one(database) == 1, "it is found again by itself"
            break
        except UmbraxError:
            time.sleep(0.2)
    else:
        pytest.fail("the database was not found again")


def test_an_answer_that_comes_too_late_is_not_taken_for_another(database: Database) -> None:
    with pytest.raises(UmbraxError), database.transaction() as connection:
        connection.execute("select pg_sleep(2), 7")
    assert [one(database) for _ in range(5)] == [1] * 5


def test_a_check_is_shorter_than_an_answer_may_take(database: Database) -> None:
    with database.transaction() as connection:
        assert isinstance(connection, Connection)
        connection.check()
        assert connection.execute("select pg_sleep(0.7), 7").fetchone()[1] == 7  # type: ignore[index]
