"""Touching: what is under the cursor, what a stroke gathers, and the one gesture that makes a matte or treats it."""

from typing import Any, Literal

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field, field_validator

from umbrax.core import touch
from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError
from umbrax.core.mattes import MATTES
from umbrax.core.picture import Window
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.touch.offers import INDEX_KINDS, PACKED_KINDS
from umbrax.core.treatments import TREATMENTS
from umbrax.store import shots as store

from .shots import ShotPath, ShotState, answered, shot_state
from .state import state

api = APIBlueprint("touching", __name__, url_prefix="/api", abp_tags=[Tag(name="touching")])


class UnderQuery(BaseModel):
    """A point; with a source only that one answers, and `name` is the pass of it that is looked at."""

    revision: int
    frame: int
    x: int
    y: int
    radius: int = Field(0, ge=0, le=64)
    source: str | None = None
    name: str | None = None


class HitData(BaseModel):
    """An ID under the cursor; `id` as eight hexadecimal digits."""

    layer: str
    id: str
    name: str
    coverage: float


class OfferData(BaseModel):
    """A matte that could be made: settings of its mattes by their titles, crossed where there are several."""

    titles: list[str] = Field(min_length=1, max_length=4)
    parts: list[dict[str, Any]] = Field(min_length=1, max_length=4)
    place: str = ""
    coverage: float = 1.0

    @field_validator("parts")
    @classmethod
    def _known(cls, parts: list[dict[str, Any]]) -> list[dict[str, Any]]:
        for part in parts:
            if part.get("kind") not in MATTES.kinds():
                raise ValueError("expected the settings of a matte")
        return parts

    def offer(self) -> touch.Offer:
        if len(self.titles) != len(self.parts):
            raise UmbraxError("bad-offer", f"expected a title for each part, got {len(self.titles)} for {len(self.parts)}")
        return touch.Offer(tuple(self.titles), tuple(self.parts), self.place, self.coverage)


class UnderCursor(BaseModel):
    """What answers at a point; everything is empty where nothing does. The first offer is what a click would take."""

    card: str | None = None
    source: str | None = None
    object: HitData | None = None
    material: HitData | None = None
    depth: float | None = Field(None, description="of the touched card, or of its source at the point; null where nothing tells")
    offers: list[OfferData] = Field(default_factory=list)
    actions: list[str] = Field(default_factory=list, description="treatments by kind, in the order they are offered in")
    tuckable: list[str] = Field(default_factory=list, description="cards that can be sent behind it")


class PathOrder(BaseModel):
    """Points of a stroke over the picture, or a box."""

    revision: int
    frame: int
    points: list[tuple[int, int]] = Field(default_factory=list, max_length=4000)
    box: tuple[int, int, int, int] | None = Field(None, description="x0, y0, x1, y1: the objects at least half in it")
    radius: int = Field(0, ge=0, le=64)


class Gathered(BaseModel):
    """What a stroke went over, in the order it did: of the source that answered first, each object once."""

    source: str | None = None
    layer: str | None = None
    names: list[str] = Field(default_factory=list)


class TouchOrder(UnderQuery):
    """Make a matte of what is under the cursor, or of an offer, and unless `action` is matte a treatment through it."""

    on: Literal["object", "material", "asset", "both"] = "object"
    offer: OfferData | None = None
    action: str = Field(description="matte, tuck, or the treatment to make")
    tucked: str | None = Field(None, description="for tuck: the card that is sent behind what is touched")
    gesture: str = Field(min_length=1, max_length=100)
    tab: str = ""


class TouchResult(BaseModel):
    shot: ShotState
    card: str | None
    treatment: str | None
    matte: str | None = Field(None, description="the matte that was made, or used again; null where none was asked for")


def _hit(found: touch.Hit | None) -> HitData | None:
    return None if found is None else HitData(layer=found.layer, id=f"{found.id:08x}", name=found.shown_name, coverage=found.coverage)


def offer_data(found: touch.Offer) -> OfferData:
    return OfferData(titles=list(found.titles), parts=list(found.parts), place=found.place, coverage=found.coverage)


def planner_of(shot_id: int, shot: Shot, frame: int) -> ShotPlanner:
    return ShotPlanner(shot, frame, state().reader(shot_id, shot))


def found_at(shot_id: int, order: UnderQuery) -> touch.Touched | None:
    shot = state().shot(shot_id, order.revision)
    return touch.touch(shot, state().reader(shot_id, shot), order.frame, order.x, order.y, order.radius, order.source)


def _offers(planner: ShotPlanner, found: touch.Touched, looked_at: str | None) -> list[touch.Offer]:
    """The IDs at the point; the numbers and channels where no object has a name, or where their pass is looked at."""
    by_name = touch.of_ids(found)
    info = planner.source_at(found.source, found.time)
    looks = looked_at is not None and info.has(looked_at) and info.find(looked_at).kind in (*INDEX_KINDS, *PACKED_KINDS)
    if found.object is not None and not looks:
        return by_name
    by_pass = touch.of_passes(planner.reader, found.time, found, looked_at)
    return [*by_pass, *by_name] if looks else [*by_name, *by_pass]


@api.get("/shots/<int:shot_id>/under", responses={200: UnderCursor})
def under(path: ShotPath, query: UnderQuery) -> Response:
    """What is under the cursor: object, material, and everything there that a matte could be made of."""
    found = found_at(path.shot_id, query)
    if found is None:
        return answered(UnderCursor())
    planner = planner_of(path.shot_id, state().shot(path.shot_id, query.revision), query.frame)
    depth = touch.how_far(planner, found)
    card = None if found.card is None else planner.shot.card(found.card)
    return answered(
        UnderCursor(
            card=found.card,
            source=found.source,
            object=_hit(found.object),
            material=_hit(found.material),
            depth=depth,
            offers=[offer_data(one) for one in _offers(planner, found, query.name)],
            actions=[one.kind for one in touch.at_touch(card, depth is not None)],
            tuckable=touch.tuckable(planner.shot, found.card),
        )
    )


@api.post("/shots/<int:shot_id>/gather", responses={200: Gathered})
def gather(path: ShotPath, body: PathOrder) -> Response:
    """The objects that a stroke goes over, or that lie in a box, for one matte of all of them."""
    shot = state().shot(path.shot_id, body.revision)
    reader = state().reader(path.shot_id, shot)
    if body.box is not None:
        found = touch.boxed(shot, reader, body.frame, Window(*body.box))
    else:
        found = touch.gathered(shot, reader, body.frame, body.points, body.radius)
    if found is None:
        return answered(Gathered())
    source, layer, names = found
    return answered(Gathered(source=source, layer=layer, names=names))


def _made(planner: ShotPlanner, found: touch.Touched, body: TouchOrder) -> touch.Gesture:
    shot, card = planner.shot, found.card
    if body.action in TREATMENTS.kinds() and (offered := TREATMENTS.get(body.action).touch) is not None and offered.takes == "depth":
        return touch.focus_on(shot, card, touch.how_far(planner, found), body.frame)
    offer = body.offer.offer() if body.offer else touch.named(found, body.on)
    if body.action == "matte":
        return touch.make_matte(shot, offer)
    if body.action == "tuck":
        return touch.tuck_behind(shot, card, offer, body.tucked or "")
    return touch.treat_touched(shot, card, offer, body.action, at=(body.x, body.y))


@api.post("/shots/<int:shot_id>/touch", responses={200: TouchResult})
def do_touch(path: ShotPath, body: TouchOrder) -> Response:
    """One gesture: the matte, the treatment, one revision."""
    found = found_at(path.shot_id, body)
    if found is None:
        raise UmbraxError("nothing-here", "nothing answers here; touch something that a card shows")
    shot = state().shot(path.shot_id, body.revision)
    made = _made(planner_of(path.shot_id, shot, body.frame), found, body)
    what = "focus" if made.matte is None else f"{body.action} {shot.matte_name(made.matte)}"
    if made.edits:
        row = store.edit_shot(
            state().database, path.shot_id, body.revision, list(made.edits), command=what[:200], gesture=body.gesture, tab=body.tab,
        )  # fmt: skip
    else:
        row = store.get_shot(state().database, path.shot_id)
    return answered(TouchResult(shot=shot_state(row), card=made.card, treatment=made.treatment, matte=made.matte))
