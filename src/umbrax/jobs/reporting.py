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

    def rests(self) -> None:
        """No frame is being made any more."""

    def checking(self, there_is_one: bool) -> None:
        """Whether a check-up is being made, be it beside frames."""

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
        self._frame: tuple[int, int] | None = None
        self._checks = False

    def doing(self, render_id: int, frame: int) -> None:
        self._frame = (render_id, frame)
        self._tell()

    def rests(self) -> None:
        self._frame = None
        self._tell()

    def checking(self, there_is_one: bool) -> None:
        self._checks = there_is_one
        self._tell()

    def _tell(self) -> None:
        """Of two things the one that somebody waits for."""
        render, frame = self._frame or (None, None)
        workers.is_doing(self.database, self.id, render, frame, checkup=self._checks and render is None)

    def done(self, seconds: float) -> None:
        workers.has_done(self.database, self.id, seconds)

    def here(self) -> int:
        return workers.is_here(self.database, self.id)

    def leave(self) -> None:
        try:
            workers.is_leaving(self.database, self.id)
        except UmbraxError:
            return  # without a database it is forgotten by itself
