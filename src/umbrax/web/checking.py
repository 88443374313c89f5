"""The check-up of a shot: ordering it, watching it, and what it found."""

from datetime import datetime
from typing import Any, Literal

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.jobs.queue import defer_checkup
from umbrax.store import checkups
from umbrax.store import shots as store

from .shots import ShotPath, answered
from .state import state

api = APIBlueprint("checking", __name__, url_prefix="/api", abp_tags=[Tag(name="check-up")])


class FindingData(BaseModel):
    rule: str
    source: str
    pass_: str | None = Field(alias="pass")
    frames: list[int]
    severity: Literal["note", "warning", "error"]
    measure: dict[str, Any]
    message: str
    remedy: dict[str, Any] | None


class CheckupData(BaseModel):
    """How far the check-up is; `state` none where it was never ordered. `outdated`: the shot has changed since."""

    state: Literal["none", "queued", "running", "done", "failed", "cancelled"]
    done: int
    total: int
    outdated: bool
    changed_at: datetime | None
    findings: list[FindingData]
    message: str | None


def checkup_data(row: checkups.CheckupRow | None, head: int) -> CheckupData:
    if row is None:
        return CheckupData(state="none", done=0, total=0, outdated=False, changed_at=None, findings=[], message=None)
    return CheckupData(
        state=row.state, done=row.done, total=row.total, outdated=row.revision != head, changed_at=row.changed_at,
        findings=[FindingData(**finding) for finding in row.findings], message=row.error["message"] if row.error else None,
    )  # type: ignore[arg-type]  # fmt: skip


def order(shot_id: int, revision: int) -> None:
    """Note that a check-up is wanted, and put it into the queue."""
    checkups.order_checkup(state().database, shot_id, revision)
    defer_checkup(state().settings.database, shot_id)


def _answer(shot_id: int) -> Response:
    head = store.get_shot(state().database, shot_id).head
    return answered(checkup_data(checkups.get_checkup(state().database, shot_id), head))


@api.get("/shots/<int:shot_id>/checkup", responses={200: CheckupData})
def get_checkup(path: ShotPath) -> Response:
    """What the last check-up found, and how far the present one is."""
    return _answer(path.shot_id)


@api.post("/shots/<int:shot_id>/checkup", responses={200: CheckupData})
def order_checkup(path: ShotPath) -> Response:
    """Examine all sources of the shot as its newest revision reads them."""
    order(path.shot_id, store.get_shot(state().database, path.shot_id).head)
    return _answer(path.shot_id)


@api.post("/shots/<int:shot_id>/checkup/cancel", responses={200: CheckupData})
def cancel_checkup(path: ShotPath) -> Response:
    """Stop after the frame that is being looked at; what was found before stays."""
    checkups.ask_to_stop(state().database, path.shot_id)
    return _answer(path.shot_id)
