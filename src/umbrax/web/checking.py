"""The check-up of a shot: ordering it, watching it, and what it found."""

from datetime import datetime
from typing import Any, Literal

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.core.document.open_findings import open_findings
from umbrax.media.examining import where_of
from umbrax.store import checkups
from umbrax.store import shots as store

from . import encoding
from .looks import LookedAt, codes_of, compute
from .ordering import order_checkup, reads_differently
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
    placed: bool = Field(False, description="it lies somewhere in the frame: a picture shows where")


class WhereQuery(BaseModel):
    """Where a finding of a rule lies on one frame of a pass."""

    revision: int
    frame: int
    rule: str
    source: str
    name: str


class CheckupData(BaseModel):
    """How far the check-up is; `state` none where it was never ordered. `outdated`: the sources are others since."""

    state: Literal["none", "queued", "running", "done", "failed", "cancelled"]
    done: int
    total: int
    outdated: bool
    changed_at: datetime | None
    findings: list[FindingData]
    message: str | None


def checkup_data(row: checkups.CheckupRow | None, shot_id: int, head: int) -> CheckupData:
    if row is None:
        return CheckupData(state="none", done=0, total=0, outdated=False, changed_at=None, findings=[], message=None)
    left = open_findings(state().shot(shot_id, head), row.findings)
    return CheckupData(
        state=row.state, done=row.done, total=row.total, outdated=reads_differently(shot_id, row.revision, head), changed_at=row.changed_at,
        findings=[FindingData(**finding) for finding in left], message=row.error["message"] if row.error else None,
    )  # fmt: skip


def _answer(shot_id: int) -> Response:
    head = store.get_shot(state().database, shot_id).head
    return answered(checkup_data(checkups.get_checkup(state().database, shot_id), shot_id, head))


@api.get("/shots/<int:shot_id>/checkup", responses={200: CheckupData})
def get_checkup(path: ShotPath) -> Response:
    """What the last check-up found, and how far the present one is."""
    return _answer(path.shot_id)


@api.post("/shots/<int:shot_id>/checkup", responses={200: CheckupData})
def order(path: ShotPath) -> Response:
    """Examine all sources of the shot as its newest revision reads them."""
    order_checkup(path.shot_id, store.get_shot(state().database, path.shot_id).head)
    return _answer(path.shot_id)


@api.post("/shots/<int:shot_id>/checkup/cancel", responses={200: CheckupData})
def cancel_checkup(path: ShotPath) -> Response:
    """Stop after the frame that is being looked at; what was found before stays."""
    checkups.ask_to_stop(state().database, path.shot_id)
    return _answer(path.shot_id)


@api.get("/shots/<int:shot_id>/where")
def where_it_lies(path: ShotPath, query: WhereQuery) -> Response:
    """The pass darkened, with the places of the finding marked; `X-Share` says how much of the frame they are."""
    shared = state()
    shot = shared.shot(path.shot_id, query.revision)
    reader = shared.reader(path.shot_id, shot)
    with shared.gate.enter("", 0, "look") as ticket:
        mask = where_of(reader, query.source, query.frame, query.rule, query.name)
        look = LookedAt(kind="ids" if query.rule.startswith("ids") else "pass", source=query.source, name=query.name)
        looked = compute(path.shot_id, shot, look, query.frame, shot.format.display, 1, ticket)
        codes = codes_of(path.shot_id, shot, look, query.frame, looked.picture)
    share = float(mask.mean()) if mask.size else 0.0
    shown = encoding.in_shape(encoding.marked(codes, mask), shot.format.pixel_aspect)
    return Response(encoding.jpeg(shown), mimetype="image/jpeg", headers={"X-Share": f"{share:.6f}"})
