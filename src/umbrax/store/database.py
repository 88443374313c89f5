"""Connections to PostgreSQL, and rows as typed records."""

import threading
import time
from collections.abc import Generator, Iterator
from contextlib import contextmanager
from typing import Any

import psycopg
from psycopg_pool import ConnectionPool, PoolTimeout

from umbrax.core.errors import UmbraxError

TRY = 0.4  # seconds for one attempt to get a connection
RECONNECT = 2.0
CONNECT = 3  # whole seconds for a new one
ANSWER = 4.0  # seconds for an answer: what the page asks of the database takes milliseconds
AWAY = (psycopg.OperationalError, psycopg.InterfaceError)


class Connection(psycopg.Connection[Any]):
    """One that is given up where no answer comes: a PostgreSQL that is stopped, or beyond a network that broke, closes none."""

    within = ANSWER

    def wait(self, gen: Generator[Any, Any, Any], interval: float = 0.1, timeout: float | None = None) -> Any:
        try:
            return super().wait(gen, interval, self.within if timeout is None else timeout)
        except psycopg.errors._WaitTimeout:
            self.pgconn.finish()  # what it would still say belongs to nothing
            raise

    def check(self) -> None:
        """Raise where it does not answer at once."""
        usual, self.within = self.within, TRY
        try:
            ConnectionPool.check_connection(self)
        finally:
            self.within = usual


def pool_settings(within: float = ANSWER) -> dict[str, Any]:
    """What a pool is made with so that nobody waits for PostgreSQL without an end."""

    def configure(connection: Connection) -> None:
        connection.within = within

    return {"connection_class": Connection, "kwargs": {"connect_timeout": CONNECT}, "configure": configure}


def no_database(again: bool = False) -> UmbraxError:
    """For whoever asks while PostgreSQL is away; `again`: nothing was done yet."""
    message = "the database does not answer; it is started again by itself: try again in a moment, nothing that was saved is lost"
    return UmbraxError("no-database", message, status=503, again=again)


def database_full() -> UmbraxError:
    message = "the disk of the database is full; make room on it and try again, nothing that was saved is lost"
    return UmbraxError("disk-full", message, status=503)


class Database:
    """A pool of connections; each use is one transaction.

    A connection is tried before it is handed out, since PostgreSQL may have been started anew meanwhile. `patience`: for so
    many seconds a database that is away is waited for, and `within` as many for an answer once it was asked.
    """

    def __init__(self, address: str, *, most: int = 8, patience: float = 0.8, within: float = ANSWER):
        self.address = address
        self.patience = patience
        self.pool: ConnectionPool[Connection] = ConnectionPool(
            address, min_size=1, max_size=most, open=False, timeout=TRY, check=Connection.check, reconnect_timeout=RECONNECT,
            **pool_settings(within),
        )  # fmt: skip
        self.pool.open()
        self._here = threading.local()

    def begin(self) -> None:
        """Something new is asked for in this thread: as yet nothing of it is done, nor known who asks."""
        self._here.done, self._here.person = False, None

    def acts(self, person_id: int) -> None:
        """Whatever is changed in this thread from now on is changed by this person."""
        self._here.person = person_id

    @contextmanager
    def transaction(self) -> Iterator[Connection]:
        try:
            connection = self._connection()
        except AWAY as error:
            raise no_database(again=not getattr(self._here, "done", True)) from error
        try:
            with connection:
                person = getattr(self._here, "person", None)
                if person is not None:
                    connection.execute("select set_config('umbrax.person', %s, true)", (str(person),))
                yield connection
            self._here.done = True
        except psycopg.errors.DiskFull as error:
            raise database_full() from error
        except AWAY as error:
            raise no_database() from error
        finally:
            self.pool.putconn(connection)

    def _connection(self) -> Connection:
        # the pool itself waits longer and longer between its attempts: it is asked anew instead
        end = time.monotonic() + self.patience
        while True:
            try:
                return self.pool.getconn()
            except PoolTimeout:
                if time.monotonic() >= end:
                    raise

    def close(self) -> None:
        self.pool.close()
