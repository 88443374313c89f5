"""Touching: what is under the cursor, its light, and the one gesture that treats it."""

from typing import Literal

import cv2
import numpy as np
from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.core import touch
from umbrax.core.errors import UmbraxError
from umbrax.core.evaluate import evaluate
from umbrax.core.mattes.ids import set_planes
from umbrax.core.picture import Window
from umbrax.core.plan import ShotPlanner
from umbrax.store import shots as store

from . import encoding
from .shots import ShotPath, ShotState, answered, shot_state
from .state import state

api = APIBlueprint("touching", __name__, url_prefix="/api", abp_tags=[Tag(name="touching")])
LILAC = (181, 156, 240)
RIM = np.ones((5, 5), np.uint8)


class UnderQuery(BaseModel):
    revision: int
    frame: int
    x: int
    y: int
    radius: int = Field(0, ge=0, le=64)


class HitData(BaseModel):
    """An ID under the cursor; `id` as eight hexadecimal digits."""

    layer: str
    id: str
    name: str
    coverage: float


class UnderCursor(BaseModel):
    """What answers at a point; everything is null where nothing does."""

    card: str | None = None
    source: str | None = None
    object: HitData | None = None
    material: HitData | None = None
    depth: float | None = Field(None, description="of the touched source at the point, null where it has none there")
    actions: list[str] = Field(default_factory=list)


class LitQuery(BaseModel):
    """The light over one ID of a source, as lilac with alpha."""

    revision: int
    frame: int
    source: str
    layer: str
    id: str = Field(pattern="^[0-9a-f]{8}$")


class PathOrder(BaseModel):
    """Points of a stroke over the picture."""

    revision: int
    frame: int
    points: list[tuple[int, int]] = Field(min_length=1, max_length=400)
    radius: int = Field(0, ge=0, le=64)


class Gathered(BaseModel):
    """What a stroke went over, in the order it did: of the source that answered first, each object once."""

    source: str | None = None
    layer: str | None = None
    names: list[str] = Field(default_factory=list)


class TouchOrder(UnderQuery):
    """Make a matte of what is under the cursor and a treatment through it, as one gesture."""

    on: Literal["object", "material", "both"] = "object"
    action: Literal["grade", "bloom"]
    gesture: str = Field(min_length=1, max_length=100)
    tab: str = ""


class TouchResult(BaseModel):
    shot: ShotState
    card: str
    treatment: str
    matte: str


def _hit(found: touch.Hit | None) -> HitData | None:
    return None if found is None else HitData(layer=found.layer, id=f"{found.id:08x}", name=found.shown_name, coverage=found.coverage)


def _under(shot_id: int, order: UnderQuery) -> touch.Touched | None:
    shot = state().shot(shot_id, order.revision)
    reader = state().engine.reader(shot, state().roots(shot_id))
    return touch.touch(shot, reader, order.frame, order.x, order.y, order.radius)


def _depth(shot_id: int, order: UnderQuery, source: str) -> float | None:
    reader = state().engine.reader(state().shot(shot_id, order.revision), state().roots(shot_id))
    info = reader.describe(source, order.frame)
    here = Window(order.x, order.y, order.x + 1, order.y + 1)
    if not info.has("depth") or not info.find("depth").window.contains(here):
        return None
    value = float(reader.pixels(source, order.frame, info.find("depth").name, here)[0, 0, 0])
    return value if np.isfinite(value) else None


@api.get("/shots/<int:shot_id>/under", responses={200: UnderCursor})
def under(path: ShotPath, query: UnderQuery) -> Response:
    """Which object and material is under the cursor."""
    found = _under(path.shot_id, query)
    if found is None:
        return answered(UnderCursor())
    return answered(
        UnderCursor(
            card=found.card,
            source=found.source,
            object=_hit(found.object),
            material=_hit(found.material),
            depth=_depth(path.shot_id, query, found.source),
            actions=["grade", "bloom"],
        )
    )


@api.post("/shots/<int:shot_id>/gather", responses={200: Gathered})
def gather(path: ShotPath, body: PathOrder) -> Response:
    """The objects that a stroke goes over, for one matte of all of them."""
    shot = state().shot(path.shot_id, body.revision)
    reader = state().engine.reader(shot, state().roots(path.shot_id))
    found = touch.gathered(shot, reader, body.frame, body.points, body.radius)
    if found is None:
        return answered(Gathered())
    source, layer, names = found
    return answered(Gathered(source=source, layer=layer, names=names))


@api.get("/shots/<int:shot_id>/lit")
def lit(path: ShotPath, query: LitQuery) -> Response:
    """The object's own matte as a lilac picture with alpha, its edge brighter than its inside; only where there is any of it."""
    shared = state()
    shot = shared.shot(path.shot_id, query.revision)
    planner = ShotPlanner(shot, query.frame, shared.engine.reader(shot, shared.roots(path.shot_id)))
    layer = planner.source(query.source).layer(query.layer)
    step = set_planes(planner, query.source, layer, frozenset({int(query.id, 16)}))
    matte = evaluate(step, shot.format.display, shared.engine.cache).pixels[..., 0]
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


@api.post("/shots/<int:shot_id>/touch", responses={200: TouchResult})
def do_touch(path: ShotPath, body: TouchOrder) -> Response:
    """One gesture: the matte, the treatment, one revision."""
    found = _under(path.shot_id, body)
    if found is None:
        raise UmbraxError("nothing-here", "no object answers here; touch something that a card with IDs shows")
    shot = state().shot(path.shot_id, body.revision)
    gesture = touch.treat_touched(shot, found, body.on, body.action)
    row = store.edit_shot(
        state().database, path.shot_id, body.revision, list(gesture.edits), command=f"{body.action} {gesture.matte}",
        gesture=body.gesture, tab=body.tab,
    )  # fmt: skip
    return answered(TouchResult(shot=shot_state(row), card=gesture.card, treatment=gesture.treatment, matte=gesture.matte))
