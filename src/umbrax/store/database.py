"""Connections to PostgreSQL, and rows as typed records."""

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import psycopg
from psycopg_pool import ConnectionPool, PoolTimeout

from umbrax.core.errors import UmbraxError

TRY = 0.4  # seconds for one attempt to get a connection
RECONNECT = 2.0
AWAY = (psycopg.OperationalError, psycopg.InterfaceError)

Connection = psycopg.Connection[Any]


def no_database(again: bool = False) -> UmbraxError:
    """For whoever asks while PostgreSQL is away; `again`: nothing was done yet."""
    message = "the database does not answer; it is started again by itself: try again in a moment, nothing that was saved is lost"
    error = UmbraxError("no-database", message)
    error.status, error.again = 503, again
    return error


def database_full() -> UmbraxError:
    message = "the disk of the database is full; make room on it and try again, nothing that was saved is lost"
    error = UmbraxError("disk-full", message)
    error.status = 503
    return error


class Database:
    """A pool of connections; each use is one transaction.

    A connection is tried before it is handed out, since PostgreSQL may have been started anew meanwhile. `patience`: for so
    many seconds a database that does not answer is waited for.
    """

    def __init__(self, address: str, *, most: int = 8, patience: float = 0.8):
        self.address = address
        self.patience = patience
        self.pool = ConnectionPool(
            address, min_size=1, max_size=most, open=False, timeout=TRY, check=ConnectionPool.check_connection, reconnect_timeout=RECONNECT
        )
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
