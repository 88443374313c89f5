"""The queue: Procrastinate on the same PostgreSQL. Putting work in needs no worker in this process."""

from dataclasses import dataclass
from typing import Any

import procrastinate
import psycopg

from umbrax.store.database import ANSWER, Database, no_database, pool_settings

RENDER, CHECKUP = "render", "checkup"  # tasks
FRAMES, CHECKUPS = "default", "checkups"  # queues: a worker looks after both at once, so that no render waits for a check-up to end
SOONER = 20  # somebody waits for frames; a check-up may be done later


def make_queue(address: str, *, for_worker: bool = False) -> procrastinate.App:
    """An app over a connection address; the worker's side is asynchronous, all others only defer."""
    if not for_worker:
        return procrastinate.App(connector=procrastinate.SyncPsycopgConnector(conninfo=address, timeout=ANSWER, **pool_settings()))
    pool: dict[str, Any] = {"timeout": 5, "reconnect_timeout": 5}
    return procrastinate.App(connector=procrastinate.PsycopgConnector(conninfo=address, **pool))


@dataclass(frozen=True)
class Work:
    """Something that is done once at a time: its task in the queue, the number of its row, and of a render which frames."""

    task: str
    number: int
    frames: tuple[int, ...] = ()
    priority: int = 0

    @property
    def lock(self) -> str:
        return f"{self.task} {self.number}" + (f" {self.frames[0]}" if self.frames else "")

    @property
    def arguments(self) -> dict[str, Any]:
        if self.task == CHECKUP:
            return {"shot_id": self.number}
        return {"render_id": self.number} | ({"frames": list(self.frames)} if self.frames else {})

    def configured(self, app: procrastinate.App) -> Any:
        if self.task == CHECKUP:
            return app.configure_task(self.task, lock=self.lock, queue=CHECKUPS)
        return app.configure_task(self.task, lock=self.lock, queue=FRAMES, priority=SOONER + self.priority)


def defer(address: str, works: list[Work]) -> int:
    """Put work into the queue; returns the first job's number. Without a database the row waits until it is taken up."""
    try:
        with make_queue(address).open() as app:
            numbers = [int(work.configured(app).defer(**work.arguments)) for work in works]
            return numbers[0]
    except (procrastinate.exceptions.ConnectorException, psycopg.OperationalError) as error:
        raise no_database() from error


def defer_checkup(address: str, shot_id: int) -> int:
    return defer(address, [Work(CHECKUP, shot_id)])


def forget_waiting(database: Database, render_id: int) -> None:
    """Take a render out of the queue; who works at it sees that in its row."""
    query = "update procrastinate_jobs set status = 'cancelled' where status = 'todo' and task_name = %s and args->>'render_id' = %s"
    with database.transaction() as connection:
        connection.execute(query, (RENDER, str(render_id)))


def order_waiting(database: Database, render_id: int, priority: int) -> None:
    """Put what waits of a render before or behind other renders."""
    query = "update procrastinate_jobs set priority = %s where status = 'todo' and task_name = %s and args->>'render_id' = %s"
    with database.transaction() as connection:
        connection.execute(query, (SOONER + priority, RENDER, str(render_id)))
