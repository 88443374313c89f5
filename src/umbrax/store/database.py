"""Connections to PostgreSQL, and rows as typed records."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import psycopg
from psycopg_pool import ConnectionPool

from umbrax.core.errors import UmbraxError

Connection = psycopg.Connection[Any]


class Database:
    """A pool of connections; each use is one transaction."""

    def __init__(self, address: str, *, most: int = 8):
        self.address = address
        self.pool = ConnectionPool(address, min_size=1, max_size=most, open=False, timeout=10)
        self.pool.open()

    @contextmanager
    def transaction(self) -> Iterator[Connection]:
        try:
            with self.pool.connection() as connection:
                yield connection
        except psycopg.OperationalError as error:
            message = "the database does not answer; run bin/start again and retry, nothing that was saved is lost"
            raise UmbraxError("no-database", message) from error

    def close(self) -> None:
        self.pool.close()
