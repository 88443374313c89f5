"""The queue: Procrastinate on the same PostgreSQL. Putting work in needs no worker in this process."""

from dataclasses import dataclass
from typing import Any

import procrastinate
import psycopg

from umbrax.store.database import no_database

RENDER, CHECKUP = "render", "checkup"
SOONER = 10  # somebody waits for frames; a check-up may be done later


def make_queue(address: str, *, for_worker: bool = False) -> procrastinate.App:
    """An app over a connection address; the worker's side is asynchronous, all others only defer."""
    if not for_worker:
        return procrastinate.App(connector=procrastinate.SyncPsycopgConnector(conninfo=address, timeout=5))
    pool: dict[str, Any] = {"timeout": 5, "reconnect_timeout": 5}
    return procrastinate.App(connector=procrastinate.PsycopgConnector(conninfo=address, **pool))


@dataclass(frozen=True)
class Work:
    """Something that is done once at a time: its task in the queue, and the number of its row."""

    task: str
    number: int

    @property
    def lock(self) -> str:
        return f"{self.task} {self.number}"

    @property
    def arguments(self) -> dict[str, int]:
        return {"render_id" if self.task == RENDER else "shot_id": self.number}

    def configured(self, app: procrastinate.App) -> Any:
        return app.configure_task(self.task, lock=self.lock, priority=SOONER if self.task == RENDER else 0)


def defer(address: str, work: Work) -> int:
    """Put work into the queue; returns the job's number. Without a database the row waits until it is taken up."""
    try:
        with make_queue(address).open() as app:
            return int(work.configured(app).defer(**work.arguments))
    except (procrastinate.exceptions.ConnectorException, psycopg.OperationalError) as error:
        raise no_database() from error


def defer_render(address: str, render_id: int) -> int:
    return defer(address, Work(RENDER, render_id))


def defer_checkup(address: str, shot_id: int) -> int:
    return defer(address, Work(CHECKUP, shot_id))
