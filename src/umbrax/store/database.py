"""Connections to PostgreSQL, and rows as typed records."""

import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import psycopg
from psycopg_pool import ConnectionPool, PoolTimeout

from umbrax.core.errors import UmbraxError

TRY = 2.0  # seconds

Connection = psycopg.Connection[Any]


def no_database() -> UmbraxError:
    """For whoever asks while PostgreSQL is away."""
    message = "the database does not answer; it is started again by itself: try again in a moment, nothing that was saved is lost"
    error = UmbraxError("no-database", message)
    error.status = 503
    return error


class Database:
    """A pool of connections; each use is one transaction.

    A connection is tried before it is handed out, since PostgreSQL may have been started anew meanwhile. `patience`: for so
    many seconds a database that does not answer is waited for.
    """

    def __init__(self, address: str, *, most: int = 8, patience: float = 10):
        self.address = address
        self.patience = patience
        self.pool = ConnectionPool(
            address, min_size=1, max_size=most, open=False, timeout=TRY, check=ConnectionPool.check_connection, reconnect_timeout=TRY
        )
        self.pool.open()

    @contextmanager
    def transaction(self) -> Iterator[Connection]:
        try:
            connection = self._connection()
            try:
                with connection:
                    yield connection
            finally:
                self.pool.putconn(connection)
        except psycopg.OperationalError as error:
            raise no_database() from error

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
