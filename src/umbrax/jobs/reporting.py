"""What a worker says of itself, for those who look at the queue."""

import os
import socket

from umbrax.core.errors import UmbraxError
from umbrax.store import workers
from umbrax.store.database import Database


class Report:
    """Does nothing: for work that no worker does."""

    name = ""

    def doing(self, render_id: int, frame: int) -> None: ...

    def checking(self) -> None: ...

    def idle(self) -> None: ...

    def done(self, seconds: float) -> None: ...

    def here(self) -> int:
        """Say that it is there; returns how many workers are on this machine."""
        return 1


NOBODY = Report()


class WorkerReport(Report):
    """Writes it into the database."""

    def __init__(self, database: Database, threads: int):
        self.database = database
        self.host, self.threads = socket.gethostname(), threads
        self.name = f"{self.host} {os.getpid()}"
        self.id = workers.add_worker(database, self.name, self.host, threads)

    def doing(self, render_id: int, frame: int) -> None:
        workers.is_doing(self.database, self.id, render_id, frame)

    def checking(self) -> None:
        workers.is_doing(self.database, self.id, None, None, checkup=True)

    def idle(self) -> None:
        workers.is_doing(self.database, self.id, None, None)

    def done(self, seconds: float) -> None:
        workers.has_done(self.database, self.id, seconds)

    def here(self) -> int:
        return workers.is_here(self.database, self.id)

    def leave(self) -> None:
        try:
            workers.is_leaving(self.database, self.id)
        except UmbraxError:
            return  # without a database it is forgotten by itself
