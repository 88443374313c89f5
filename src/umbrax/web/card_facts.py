"""Facts about a card for its panel: where it stands, what its lights leave, what its shadow falls on, when its tucks are needed."""

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.core.document.shot import Shot
from umbrax.core.document.tucking import Tuck
from umbrax.core.errors import UmbraxError
from umbrax.render.card_facts import card_of, doubled_told, residue_told, shadow_told
from umbrax.render.standing import standing_of
from umbrax.render.tucks import around, by_depth, pops

from .shots import ShotPath, answered
from .state import state

api = APIBlueprint("card_facts", __name__, url_prefix="/api", abp_tags=[Tag(name="cards")])


class CardOfShot(BaseModel):
    revision: int
    card: str


class CardQuery(CardOfShot):
    frame: int


class ResidueData(BaseModel):
    """What the light passes of a rebuild, as they were rendered, leave of the beauty on the frame."""

    largest: float
    mean: float
    share: float = Field(description="the mean to the mean of the beauty")


class ShadowData(BaseModel):
    """Parts of the frame that a shadow darkens: in its pass, as the card draws it, and in the finished picture."""

    in_pass: float
    drawn: float
    falls: float
    behind: str | None = Field(description="the name of the card that hides all of it")


class CardFacts(BaseModel):
    residue: ResidueData | None
    shadow: ShadowData | None
    doubled: str | None = Field(description="the name of the card behind whose light this one adds once more, with what it spreads")


class StandingData(BaseModel):
    """A box x0, y0, x1, y1 of what a card shows, in its own pixels; a matrix a to f of what places it besides its own placing; and
    boxes in the frame to line it up with."""

    box: tuple[int, int, int, int] | None
    parent: tuple[float, float, float, float, float, float]
    others: list[tuple[int, int, int, int]]


@api.get("/shots/<int:shot_id>/cards/standing", responses={200: StandingData})
def card_standing(path: ShotPath, query: CardQuery) -> Response:
    """Where a card stands on a frame, for its handles."""
    shared = state()
    shot = shared.shot(path.shot_id, query.revision)
    with shared.gate.enter("", 0, "thumbnail") as ticket:
        found = standing_of(shared.engine, shot, shared.roots(path.shot_id), query.frame, query.card, ticket.watch)
    return answered(StandingData(box=found.box, parent=found.parent, others=list(found.others)))


class PopData(BaseModel):
    """An end of a tuck at which the picture jumps, and the nearest frame at which it would not."""

    tuck: int
    end: str
    frame: int
    clean: int | None


class PopList(BaseModel):
    pops: list[PopData]


@api.get("/shots/<int:shot_id>/cards/pops", responses={200: PopList})
def card_pops(path: ShotPath, query: CardOfShot) -> Response:
    """Ends of a card's tucks at which the picture jumps."""
    shared = state()
    shot = shared.shot(path.shot_id, query.revision)
    found: list[PopData] = []
    with shared.gate.enter("", 0, "thumbnail") as ticket:
        for index, tuck in enumerate(shot.card(query.card).tuck):
            seen = pops(shared.engine, shot, shared.roots(path.shot_id), query.card, tuck, ticket.watch)
            found += [PopData(tuck=index, end=one.end, frame=one.frame, clean=one.clean) for one in seen]
    return answered(PopList(pops=found))


class TuckQuery(CardQuery):
    tuck: int = Field(ge=0)


class TuckFrames(BaseModel):
    """The frames for which a tuck is needed around one."""

    first: int
    last: int


class TuckSpans(BaseModel):
    """The spans of frames on which a card belongs behind something."""

    spans: list[TuckFrames]


def _tuck(shot: Shot, query: TuckQuery) -> Tuck:
    card = shot.card(query.card)
    if query.tuck >= len(card.tuck):
        raise UmbraxError("no-tuck", f"card {card.shown_name!r} has {len(card.tuck)} tucks; look at the card again")
    return card.tuck[query.tuck]


@api.get("/shots/<int:shot_id>/cards/tuck-frames", responses={200: TuckFrames})
def tuck_frames(path: ShotPath, query: TuckQuery) -> Response:
    """From when to when a card lies over what it is tucked behind, with ends at which nothing jumps."""
    shared = state()
    shot, roots = shared.shot(path.shot_id, query.revision), shared.roots(path.shot_id)
    with shared.gate.enter("", 0, "thumbnail") as ticket:
        first, last = around(shared.engine, shot, roots, query.card, _tuck(shot, query), query.frame, ticket.watch)
    return answered(TuckFrames(first=first, last=last))


@api.get("/shots/<int:shot_id>/cards/tuck-depths", responses={200: TuckSpans})
def tuck_depths(path: ShotPath, query: TuckQuery) -> Response:
    """When what a card is tucked behind is nearer than the card, by the depth of both."""
    shared = state()
    shot, roots = shared.shot(path.shot_id, query.revision), shared.roots(path.shot_id)
    with shared.gate.enter("", 0, "thumbnail") as ticket:
        spans = by_depth(shared.engine, shot, roots, query.card, _tuck(shot, query), ticket.watch)
    return answered(TuckSpans(spans=[TuckFrames(first=first, last=last) for first, last in spans]))


@api.get("/shots/<int:shot_id>/card-facts", responses={200: CardFacts})
def card_facts(path: ShotPath, query: CardQuery) -> Response:
    """What can be measured of a card's picture on a frame."""
    shared = state()
    shot, roots = shared.shot(path.shot_id, query.revision), shared.roots(path.shot_id)
    card = card_of(shot, query.card)
    with shared.gate.enter("", 0, "thumbnail") as ticket:
        left = residue_told(shared.engine, shot, roots, query.frame, card, ticket.watch)
        shadow = shadow_told(shared.engine, shot, roots, query.frame, card, ticket.watch)
    behind = None if shadow is None or shadow.behind is None else shot.card(shadow.behind).shown_name
    return answered(
        CardFacts(
            residue=None if left is None else ResidueData(**vars(left)),
            shadow=None if shadow is None else ShadowData(**vars(shadow) | {"behind": behind}),
            doubled=doubled_told(shared.engine, shot, roots, query.frame, card),
        )
    )
