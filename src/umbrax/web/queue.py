"""The queue: renders of all shots in their order, who works at them, and letting them rest or go first."""

from datetime import datetime

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.jobs.queue import forget_waiting, order_waiting
from umbrax.store import renders as store
from umbrax.store.shots import list_shots
from umbrax.store.workers import list_workers

from .handoff import RenderData, RenderPath, render_data, told_of_render
from .people.identity import who
from .shots import answered
from .state import state

api = APIBlueprint("queue", __name__, url_prefix="/api", abp_tags=[Tag(name="handoff")])


class WorkerData(BaseModel):
    """A worker and what it does; one of which nothing was heard for ten seconds is not `here`."""

    id: int
    name: str
    threads: int
    here: bool
    render_id: int | None
    elsewhere: bool = Field(description="it works at something that whoever asks may not look at")
    frame: int | None
    checkup: bool
    frames: int = Field(description="frames it has made since it started")
    seconds_a_frame: float | None
    started_at: datetime
    seen_at: datetime


class QueuedRender(RenderData):
    """A render with the names of its shot and show; `seconds_left` at the speed of the workers that are here, and after what is before
    it."""

    shot: str
    show: str
    workers: int
    seconds_left: float | None


class Queue(BaseModel):
    renders: list[QueuedRender]
    workers: list[WorkerData]


class PriorityOrder(BaseModel):
    priority: int = Field(ge=-9, le=9, description="renders of a higher one are done first")


@api.get("/queue", responses={200: Queue})
def get_queue() -> Response:
    """What waits, what is being done and by whom, and what ended within the day."""
    database, asking = state().database, who()
    rows, workers = store.list_queue(database), list_workers(database)
    shots = {row.id: row for row in list_shots(database)}
    here = [one for one in workers if one.here]
    busy = {row.id: sum(one.render_id == row.id for one in here) for row in rows}
    found, before = [], 0.0
    for row in rows:
        shot = shots.get(row.shot_id)
        if shot is None:
            continue  # its shot was deleted
        usual = row.seconds / len(row.done) if row.done else store.seconds_a_frame(database, row.shot_id)
        left = len(row.frames) - len(row.done) - len(row.failed)
        seconds = None
        if row.state in ("queued", "running") and usual is not None and here:
            # all workers do one after the other, but for one that some of them are at already
            seconds = usual * left / busy[row.id] if busy[row.id] else before + usual * left / len(here)
            before += usual * left / len(here)
        if asking.role(shot.show_id) is None:
            continue
        data = render_data(row)
        found.append(QueuedRender(**data.model_dump(), shot=shot.name, show=shot.show, workers=busy[row.id], seconds_left=seconds))
    seen = {one.id for one in found}
    told = [
        WorkerData(
            id=one.id, name=one.name, threads=one.threads, here=one.here, render_id=one.render_id if one.render_id in seen else None,
            elsewhere=one.render_id is not None and one.render_id not in seen, frame=one.frame if one.render_id in seen else None,
            checkup=one.checkup, frames=one.frames, seconds_a_frame=one.seconds / one.frames if one.frames else None, started_at=one.started_at,
            seen_at=one.seen_at,
        )
        for one in workers
    ]  # fmt: skip
    return answered(Queue(renders=found, workers=told))


@api.post("/renders/<int:render_id>/pause", responses={200: RenderData})
def pause_render(path: RenderPath) -> Response:
    """Let a render rest: whole frames stay, and it goes on when it is asked to."""
    store.pause(state().database, path.render_id)
    forget_waiting(state().database, path.render_id)
    return told_of_render(path.render_id)


@api.post("/renders/<int:render_id>/priority", responses={200: RenderData})
def set_priority(path: RenderPath, body: PriorityOrder) -> Response:
    """Put a render before or behind others; what a worker has in hand is ended first."""
    store.get_render(state().database, path.render_id)
    store.set_priority(state().database, path.render_id, body.priority)
    order_waiting(state().database, path.render_id, body.priority)
    return told_of_render(path.render_id)
