"""Gestures with cards as edits: deleted with what looks at them, bundled, dissolved, brought from another shot."""

from typing import Any

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.core.document.bringing import brought
from umbrax.core.document.bundling import dissolving, gathering
from umbrax.core.document.removals import card_removal
from umbrax.core.errors import UmbraxError
from umbrax.store.shots import get_shot

from .card_facts import CardOfShot
from .shots import ShotPath, answered
from .sources import RemovalData, removal_data
from .state import state

api = APIBlueprint("card_edits", __name__, url_prefix="/api", abp_tags=[Tag(name="cards")])


class CardsOfShot(BaseModel):
    revision: int
    cards: list[str] = Field(min_length=1, max_length=200)


@api.get("/shots/<int:shot_id>/cards/removal", responses={200: RemovalData})
def removal(path: ShotPath, query: CardsOfShot) -> Response:
    """The edits that delete cards with what looks at their pictures, and what that is."""
    return answered(removal_data(card_removal(state().shot(path.shot_id, query.revision), *query.cards)))


class BundleOrder(BaseModel):
    """Edits that make or dissolve a bundle, and the card to open afterwards."""

    edits: list[dict[str, Any]]
    card: str | None = None


@api.get("/shots/<int:shot_id>/cards/gathering", responses={200: BundleOrder})
def gathering_edits(path: ShotPath, query: CardsOfShot) -> Response:
    """The edits that make one bundle of some cards."""
    card, edits = gathering(state().shot(path.shot_id, query.revision), query.cards)
    return answered(BundleOrder(edits=[edit.model_dump(mode="json") for edit in edits], card=card))


@api.get("/shots/<int:shot_id>/cards/dissolving", responses={200: BundleOrder})
def dissolving_edits(path: ShotPath, query: CardOfShot) -> Response:
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
