"""Cards for the page: what can be told of one, and the edits of gestures with them: deleted, bundled, brought from another shot."""

from typing import Any

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.core.document.bringing import brought
from umbrax.core.document.bundling import dissolving, gathering
from umbrax.core.document.removals import card_removal
from umbrax.core.errors import UmbraxError
from umbrax.render.card_facts import card_of, residue_told, shadow_told
from umbrax.render.standing import standing_of
from umbrax.render.tucks import around, pops
from umbrax.store.shots import get_shot

from .shots import ShotPath, answered
from .sources import RemovalData, removal_data
from .state import state

api = APIBlueprint("card_facts", __name__, url_prefix="/api", abp_tags=[Tag(name="cards")])


class RemovalQuery(BaseModel):
    revision: int
    card: str


class CardQuery(RemovalQuery):
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


@api.get("/shots/<int:shot_id>/cards/removal", responses={200: RemovalData})
def removal(path: ShotPath, query: RemovalQuery) -> Response:
    """The edits that delete a card with what looks at its picture, and what that is."""
    return answered(removal_data(card_removal(state().shot(path.shot_id, query.revision), query.card)))


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
def card_pops(path: ShotPath, query: RemovalQuery) -> Response:
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


@api.get("/shots/<int:shot_id>/cards/tuck-frames", responses={200: TuckFrames})
def tuck_frames(path: ShotPath, query: TuckQuery) -> Response:
    """From when to when a card lies over what it is tucked behind, with ends at which nothing jumps."""
    shared = state()
    shot = shared.shot(path.shot_id, query.revision)
    tucks = shot.card(query.card).tuck
    if query.tuck >= len(tucks):
        raise UmbraxError("no-tuck", f"card {shot.card(query.card).shown_name!r} has {len(tucks)} tucks; look at the card again")
    with shared.gate.enter("", 0, "thumbnail") as ticket:
        roots = shared.roots(path.shot_id)
        first, last = around(shared.engine, shot, roots, query.card, tucks[query.tuck], query.frame, ticket.watch)
    return answered(TuckFrames(first=first, last=last))


class GatherQuery(BaseModel):
    revision: int
    cards: list[str] = Field(min_length=1, max_length=200)


class BundleOrder(BaseModel):
    """Edits that make or dissolve a bundle, and the card to open afterwards."""

    edits: list[dict[str, Any]]
    card: str | None = None


@api.get("/shots/<int:shot_id>/cards/gathering", responses={200: BundleOrder})
def gathering_edits(path: ShotPath, query: GatherQuery) -> Response:
    """The edits that make one bundle of some cards."""
    card, edits = gathering(state().shot(path.shot_id, query.revision), query.cards)
    return answered(BundleOrder(edits=[edit.model_dump(mode="json") for edit in edits], card=card))


@api.get("/shots/<int:shot_id>/cards/dissolving", responses={200: BundleOrder})
def dissolving_edits(path: ShotPath, query: RemovalQuery) -> Response:
    """The edits that put the cards of a bundle in its place; refused where that would change the picture."""
    edits = dissolving(state().shot(path.shot_id, query.revision), query.card)
    return answered(BundleOrder(edits=[edit.model_dump(mode="json") for edit in edits]))


class BringOrder(BaseModel):
    """Bring cards of a shot of the same show into this one, behind the card `before` of a bundle, or of the shot, or to the front."""

    revision: int
    origin: int = Field(description="the shot they come from")
    origin_revision: int
    cards: list[str] = Field(min_length=1, max_length=200)
    bundle: str | None = None
    before: str | None = None


class BroughtData(BaseModel):
    """The edits that bring cards, the ids they have then, and what could not come along."""

    edits: list[dict[str, Any]]
    cards: list[str]
    left_out: list[str]


@api.post("/shots/<int:shot_id>/cards/bringing", responses={200: BroughtData})
def bringing_edits(path: ShotPath, body: BringOrder) -> Response:
    """The edits that bring copied cards with what they need."""
    shared = state()
    here, there = get_shot(shared.database, path.shot_id), get_shot(shared.database, body.origin)
    if here.show_id != there.show_id:
        raise UmbraxError("other-show", f"the cards are of the show {there.show!r}; cards are brought within a show, where their files are")
    shot = shared.shot(path.shot_id, body.revision)
    place = ("build",) if body.bundle is None else (*shot.path_of(body.bundle), "picture", "build")
    made = brought(shared.shot(body.origin, body.origin_revision), body.cards, shot, place, body.before)
    return answered(BroughtData(edits=[edit.model_dump(mode="json") for edit in made.edits], cards=made.cards, left_out=made.left_out))


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
        )
    )
