"""Deleting a matte, a card or a source with what uses it: the edits, and in words what goes with it."""

from collections.abc import Iterator
from dataclasses import dataclass

from ..mattes import MATTES
from ..pictures.rebuild import RebuildPicture
from ..pictures.text import TextPicture
from ..treatments import TREATMENTS
from .cards import Card
from .edits import Edit, RemoveItem, SetValue
from .references import card_sources, treatment_card, treatment_mattes
from .shot import Shot


@dataclass(frozen=True)
class Removal:
    """Edits that leave no reference to what is deleted behind; `with_it` names what is deleted or changed besides."""

    edits: tuple[Edit, ...]
    with_it: tuple[str, ...]


def matte_removal(shot: Shot, matte_id: str) -> Removal:
    """Delete a matte, the mattes combined of it, the treatments through any of them, and their cuts."""
    gone = _with_combined(shot, [shot.matte(matte_id)])
    edits, with_it = _without(shot, gone, set(), None)
    return Removal(tuple(edits), (*_named(shot, gone[1:]), *with_it))


def card_removal(shot: Shot, *card_ids: str) -> Removal:
    """Delete cards, the mattes that look at their pictures, and all that uses these."""
    cards = [shot.card(card_id) for card_id in dict.fromkeys(card_ids)]
    found = _with_cards(shot, cards, [name for name in shot.mattes if _looks_at(shot, name, cards)])
    return Removal(found.edits, found.with_it[len(cards) :])


def source_removal(shot: Shot, source: str) -> Removal:
    """Delete a source, the cards that show it, the mattes pulled from it or from those cards, and all that uses these."""
    cards = [card for card in shot.cards() if _shows(card, source)]
    pulled = [name for name, params in shot.mattes.items() if source in MATTES.get(params.kind).sources(params)]
    found = _with_cards(shot, cards, [*pulled, *(name for name in shot.mattes if name not in pulled and _looks_at(shot, name, cards))], source)
    gone = {edit.path for edit in found.edits}
    # what is read from a bake in this source is pulled again
    baked: list[Edit] = [
        SetValue(op="set", path=("mattes", name, "bake"), value=None)
        for name, params in shot.mattes.items()
        if params.bake is not None and params.bake.source == source and ("mattes", name) not in gone
    ]
    return Removal((*baked, *found.edits, RemoveItem(op="remove", path=("sources", source))), found.with_it)


def _with_cards(shot: Shot, cards: list[Card], mattes: list[str], source: str | None = None) -> Removal:
    """Delete cards and mattes, those combined of them, and what uses any of these or a source; all of it is named, the cards first."""
    going = {inner.id for card in cards for inner in card.with_inside()}
    gone = _with_combined(shot, mattes)
    changes, with_it = _without(shot, gone, going, source)
    # a card in a bundle that goes is gone with it
    outer = [card for card in cards if not any(card.id in {one.id for one in other.inside()} for other in cards)]
    edits = [change for change in changes if change.path[0] != "mattes"]
    edits += [RemoveItem(op="remove", path=shot.path_of(card.id)) for card in outer]
    edits += [change for change in changes if change.path[0] == "mattes"]
    return Removal(tuple(edits), (*(f"card {card.shown_name}" for card in cards), *_named(shot, gone), *with_it))


def _shows(card: Card, source: str) -> bool:
    return (source, None) in card_sources(card)


def _looks_at(shot: Shot, matte: str, cards: list[Card]) -> bool:
    """Whether a matte is made of the picture of one of these cards, or of one inside them."""
    params = shot.mattes[matte]
    return bool({inner.id for card in cards for inner in card.with_inside()} & set(MATTES.get(params.kind).cards(params)))


def _with_combined(shot: Shot, gone: list[str]) -> list[str]:
    """Mattes and, after each, those combined of it."""
    gone = list(gone)
    for name in gone:
        gone += [other for other, params in shot.mattes.items() if name in MATTES.get(params.kind).uses(params) and other not in gone]
    return gone


def _named(shot: Shot, mattes: list[str]) -> Iterator[str]:
    return (f"matte {shot.matte_name(name)}" for name in mattes)


def _without(shot: Shot, gone: list[str], cards: set[str], source: str | None) -> tuple[list[Edit], list[str]]:
    """Edits that take mattes and a source out of the cards that stay, those mattes gone, and what of those cards goes with them; `cards`
    go by themselves."""
    edits: list[Edit] = []
    with_it: list[str] = []
    for card in (one for one in shot.cards() if one.id not in cards):
        path = shot.path_of(card.id)
        for treatment in card.treatments:
            of_source = source in TREATMENTS.get(treatment.kind).sources(treatment)
            if set(treatment_mattes(treatment)) & set(gone) or of_source or treatment_card(treatment) in cards:
                edits.append(RemoveItem(op="remove", path=(*path, "treatments", treatment.id)))
                with_it.append(f"{card.treatment_name(treatment.id)} of card {card.shown_name}")
        kept = [
            reference.model_dump(mode="json", by_alias=True, exclude_defaults=True) for reference in card.cut if reference.matte not in gone
        ]
        if len(kept) < len(card.cut):
            edits.append(SetValue(op="set", path=(*path, "cut"), value=kept or None))
            with_it.append(f"the cut of card {card.shown_name}")
        if isinstance(card.picture, RebuildPicture):
            for name, light in [*card.picture.lights.items(), ("rest", card.picture.rest)]:
                if light is not None and light.matte is not None and light.matte.matte in gone:
                    place = ("rest",) if name == "rest" else ("lights", name)
                    edits.append(SetValue(op="set", path=(*path, "picture", *place, "matte"), value=None))
                    with_it.append(f"the matte of {name} of card {card.shown_name}")
        if isinstance(card.picture, TextPicture) and card.picture.leader is not None and card.picture.leader.to.matte in gone:
            edits.append(SetValue(op="set", path=(*path, "picture", "leader"), value=None))
            with_it.append(f"the leader line of card {card.shown_name}")
        tucks = [tuck.model_dump(mode="json") for tuck in card.tuck if tuck.behind.matte not in gone and tuck.card not in cards]
        if len(tucks) < len(card.tuck):
            edits.append(SetValue(op="set", path=(*path, "tuck"), value=tucks or None))
            with_it.append(f"a tuck of card {card.shown_name}")
        if card.follow in cards:
            edits.append(SetValue(op="set", path=(*path, "follow"), value=None))
            with_it.append(f"what card {card.shown_name} follows")
    # combined mattes go before what they are made of, so that each step could stand alone
    return edits + [RemoveItem(op="remove", path=("mattes", name)) for name in reversed(gone)], with_it
