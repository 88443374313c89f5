"""The queue: Procrastinate on the same PostgreSQL. Putting work in needs no worker in this process."""

import procrastinate

RENDER, CHECKUP = "render", "checkup"
SOONER = 10  # somebody waits for frames; a check-up may be done later


def make_queue(address: str, *, for_worker: bool = False) -> procrastinate.App:
    """An app over a connection address; the worker's side is asynchronous, all others only defer."""
    connector = procrastinate.PsycopgConnector(conninfo=address) if for_worker else procrastinate.SyncPsycopgConnector(conninfo=address)
    return procrastinate.App(connector=connector)


def defer_render(address: str, render_id: int) -> int:
    """Put a render into the queue; returns the job's number."""
    with make_queue(address).open() as app:
        return int(app.configure_task(RENDER, lock=f"render {render_id}", priority=SOONER).defer(render_id=render_id))


def defer_checkup(address: str, shot_id: int) -> int:
    """Put the check-up of a shot into the queue; returns the job's number."""
    with make_queue(address).open() as app:
        return int(app.configure_task(CHECKUP, lock=f"checkup {shot_id}").defer(shot_id=shot_id))
