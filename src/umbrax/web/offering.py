"""Offering: mattes of every kind that could be made at a point, as small pictures, and the light over one of them."""

import base64
import json
from collections.abc import Callable

import cv2
import numpy as np
from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from numpy.typing import NDArray
from pydantic import BaseModel, Field, ValidationError

from umbrax.core import touch
from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError
from umbrax.core.mattes import MATTES
from umbrax.core.picture import Window
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.plan.steps import Step
from umbrax.render.matte_looks import leaking

from . import encoding
from .gate import Ticket
from .shots import ShotPath, answered
from .state import state
from .touching import OfferData, UnderQuery, found_at, offer_data, planner_of

api = APIBlueprint("offering", __name__, url_prefix="/api", abp_tags=[Tag(name="touching")])
LILAC = (181, 156, 240)
RIM = np.ones((5, 5), np.uint8)
SMALL = 168  # pixels across of a small picture


class MatteProposal(OfferData):
    """An offer with a small picture: the part under the point and, in another colour, what leaks outside of it."""

    kind: str
    area: float = Field(description="of the frame, 0..1")
    leak: float = Field(description="area outside the part under the point, to all of it")
    hole: float
    picture: str = Field(description="JPEG as a data address")


class MatteProposals(BaseModel):
    proposals: list[MatteProposal]


class LitQuery(BaseModel):
    """The light over a matte that could be made, as lilac with alpha; `parts` as JSON."""

    revision: int
    frame: int
    parts: str = Field(max_length=20000)


@api.get("/shots/<int:shot_id>/proposals", responses={200: MatteProposals})
def proposals(path: ShotPath, query: UnderQuery) -> Response:
    """Mattes of every kind that the passes allow at a point, and their crossings, the least doubtful first."""
    found = found_at(path.shot_id, query)
    if found is None:
        return answered(MatteProposals(proposals=[]))
    shot = state().shot(path.shot_id, query.revision)
    with state().gate.enter("", 0, "look") as ticket:
        made = touch.propose(planner_of(path.shot_id, shot, query.frame), found, _pull(shot, ticket), query.name)
    return answered(MatteProposals(proposals=[_proposal(shot, one) for one in made]))


def _pull(shot: Shot, ticket: Ticket) -> Callable[[Step], NDArray[np.float32]]:
    def pull(step: Step) -> NDArray[np.float32]:
        return np.ascontiguousarray(evaluate(step, shot.format.display, state().engine.cache, watch=ticket.watch).pixels[..., 0])

    return pull


def _proposal(shot: Shot, found: touch.Proposal) -> MatteProposal:
    display = shot.format.display
    size = (SMALL, max(1, round(SMALL * display.height / display.width)))
    m, part = (cv2.resize(plane, size, interpolation=cv2.INTER_AREA) for plane in (found.matte, found.part.astype(np.float32)))
    small = encoding.as_eight_bits(leaking(m, part > 0.5, Window(0, 0, *size)), "colour", 0.0)
    data = base64.b64encode(encoding.jpeg(small, 85)).decode()
    return MatteProposal(
        **offer_data(found.offer).model_dump(), kind=found.offer.kind, area=found.trust.area / display.area, leak=found.trust.leak,
        hole=found.trust.hole, picture=f"data:image/jpeg;base64,{data}",
    )  # fmt: skip


@api.get("/shots/<int:shot_id>/lit")
def lit(path: ShotPath, query: LitQuery) -> Response:
    """A matte that could be made as a lilac picture with alpha, its edge brighter than its inside; only where there is any of it."""
    shared = state()
    shot = shared.shot(path.shot_id, query.revision)
    planner = planner_of(path.shot_id, shot, query.frame)
    with shared.gate.enter("", 0, "look") as ticket:
        pull = _pull(shot, ticket)
        planes = [pull(step) for step in _steps(planner, query.parts)]
    matte = np.minimum.reduce(planes)
    rows, columns = np.flatnonzero(matte.any(axis=1)), np.flatnonzero(matte.any(axis=0))
    if not len(rows):
        return Response(status=204)
    box = Window(int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1)
    part = np.ascontiguousarray(matte[box.y0 : box.y1, box.x0 : box.x1])
    rim = part - cv2.erode(part, RIM)
    out = np.empty((*part.shape, 4), np.uint8)
    out[..., :3] = LILAC
    out[..., 3] = np.rint(np.clip(part * 0.22 + rim * 0.75, 0, 1) * 255)
    headers = {"X-Window": f"{box.x0},{box.y0},{box.x1},{box.y1}"}
    response = Response(encoding.png(out), mimetype="image/png", headers=headers)
    response.cache_control.max_age = 3600
    response.cache_control.private = True
    return response


def _steps(planner: ShotPlanner, text: str) -> list[Step]:
    """The steps of mattes that are only told, not in the document."""
    try:
        told = OfferData.model_validate({"titles": ["x"], "parts": json.loads(text)}).parts
        params = [MATTES.get(part["kind"]).params.model_validate(part) for part in told]
    except (json.JSONDecodeError, ValidationError) as error:
        raise UmbraxError("bad-offer", f"cannot read the settings of the matte: {str(error).splitlines()[0]}") from None
    return [planner.offered_planes(one, "offered") for one in params]
