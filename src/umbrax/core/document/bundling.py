"""Gathering cards into a bundle, and dissolving one without changing a pixel, as edits."""

from collections.abc import Iterator, Sequence

from ..errors import UmbraxError, Where
from ..mattes import MATTES
from ..registry import unknown
from ..treatments import TREATMENTS
from ..treatments.base import SpreadParams
from .cards import BundlePicture, Card
from .edits import Edit, InsertItem, RemoveItem, fresh_id, plain_data
from .placing import Placing
from .references import build_with, builds, treatment_card
from .shot import Shot


def gathering(shot: Shot, ids: Sequence[str]) -> tuple[str, tuple[Edit, ...]]:
    """The id of a new bundle of some cards, and the edits that make it. The cards stand next to each other in one build."""
    wanted = set(ids)
    for cards in builds(shot):
        places = [at for at, card in enumerate(cards) if card.id in wanted]
        if not places:
            continue
        if len(places) < len(wanted) or places[-1] - places[0] >= len(places):
            between = next((cards[at] for at in range(places[0], places[-1]) if cards[at].id not in wanted), None)
            told = "they are in different builds" if between is None else f"card {between.shown_name!r} lies between them"
            raise UmbraxError("apart", f"these cards cannot be one bundle as they lie: {told}; choose cards side by side")
        if places[0] == 0 or not cards[places[0]].treat:
            inside = [cards[at] for at in places]
            return _gathered(shot, inside, cards[places[-1] + 1].id if places[-1] + 1 < len(cards) else None)
        message = f"the backmost, {cards[places[0]].shown_name!r}, treats what lies behind it, and in a bundle that is nothing; leave it out"
        raise UmbraxError("nothing-below", message, where=Where(card=cards[places[0]].id))
    raise UmbraxError("unknown-card", unknown("card", next(iter(ids), ""), [card.id for card in shot.cards()]))


def _gathered(shot: Shot, inside: list[Card], before: str | None) -> tuple[str, tuple[Edit, ...]]:
    bundle_id = fresh_id([card.id for card in shot.cards()], "bundle")
    path = shot.path_of(inside[0].id)[:-1]
    item = {"id": bundle_id, "picture": {"kind": "bundle", "build": [plain_data(card) for card in inside]}}
    edits: list[Edit] = [RemoveItem(op="remove", path=(*path, card.id)) for card in inside]
    return bundle_id, (*edits, InsertItem(op="insert", path=path, item=item, before=before))


def dissolving(shot: Shot, bundle_id: str) -> tuple[Edit, ...]:
    """The edits that put the cards of a bundle where it stands; refused, with the reasons, where that would change the picture."""
    bundle = shot.card(bundle_id)
    if not isinstance(bundle.picture, BundlePicture):
        raise UmbraxError("no-bundle", f"card {bundle.shown_name!r} is no bundle; open one that is")
    siblings = build_with(shot, bundle_id)
    reasons = list(_reasons(bundle, backmost=siblings[0].id == bundle_id, siblings=siblings))
    reasons += [f"matte {shot.matte_name(name)!r} looks at its picture" for name in _looked_at(shot, bundle_id)]
    if reasons:
        raise UmbraxError("changes-pixels", f"dissolving {bundle.shown_name!r} would change the picture: {'; '.join(reasons)}")
    path = shot.path_of(bundle_id)[:-1]
    edits: list[Edit] = [
        InsertItem(op="insert", path=path, item=plain_data(_moved(card, bundle.placing)), before=bundle_id) for card in bundle.picture.build
    ]
    return (RemoveItem(op="remove", path=(*path, bundle_id, "picture", "build")), *edits, RemoveItem(op="remove", path=(*path, bundle_id)))


def _reasons(bundle: Card, backmost: bool, siblings: tuple[Card, ...]) -> Iterator[str]:
    """What the bundle does to its cards as one, and what they cannot do without it."""
    if bundle.cut:
        yield "it is cut as one"
    if bundle.treatments:
        yield "it is treated as one"
    if bundle.join != "over":
        yield f"it is joined by {bundle.join.replace('_', ' ')}"
    if bundle.opacity != 1:
        yield "its opacity is of all of it"
    if bundle.tuck:
        yield "it is tucked"
    if bundle.follow is not None or not _whole_move(bundle.placing):
        yield "it is placed as one, and not by whole pixels"
    if not bundle.enabled:
        yield "it is switched off"
    for other in siblings:
        if other.follow == bundle.id or any(tuck.card == bundle.id for tuck in other.tuck):
            yield f"card {other.shown_name!r} follows it or is tucked behind it"
        if any(treatment_card(one) == bundle.id for one in other.treatments):
            yield f"card {other.shown_name!r} takes its light"
    for card in bundle.inside():
        if not _whole_move(bundle.placing) or (bundle.placing != Placing() and not _whole_move(card.placing)):
            yield f"card {card.shown_name!r} in it is placed by itself as well"
        if siblings[-1].id != bundle.id and any(isinstance(one, SpreadParams) and one.hidden for one in card.treatments):
            yield f"the light of card {card.shown_name!r} is hidden only by what is in it"
        if backmost:
            continue
        if card.treat:
            yield f"card {card.shown_name!r} treats only what is in it"
        elif card.join != "over":
            yield f"card {card.shown_name!r} is joined by {card.join.replace('_', ' ')} to only what is in it"
        elif any(TREATMENTS.get(one.kind).stage == "surround" for one in card.treatments):
            yield f"card {card.shown_name!r} takes light of only what is in it"


def _whole_move(placing: Placing) -> bool:
    """Whether it moves by whole pixels and nothing else, and always by as many."""
    plain = placing.model_copy(update={"move": (0.0, 0.0)}) == Placing()
    return plain and isinstance(placing.move, tuple) and all(one == round(one) for one in placing.move)


def _moved(card: Card, by: Placing) -> Card:
    if by == Placing() or card.treat or card.follow is not None:
        return card
    move = (card.placing.move[0] + by.move[0], card.placing.move[1] + by.move[1])
    return card.model_copy(update={"placing": card.placing.model_copy(update={"move": move})})


def _looked_at(shot: Shot, card_id: str) -> list[str]:
    return [name for name, params in shot.mattes.items() if card_id in MATTES.get(params.kind).cards(params)]
