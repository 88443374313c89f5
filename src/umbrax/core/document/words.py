"""Places of a document in words: names in place of ids and keys, for people."""

import re
from dataclasses import replace

from ..errors import Where
from .shot import Shot

PARTS = {"#order": "order", "id": "place"}


def where_told(shot: Shot, path: tuple[str, ...]) -> str:
    """A place that edits address, such as `opacity of card Dome`, `exposure of grade of card Dome`, `names of matte Lamps`."""
    kind, *rest = path
    if kind == "build":
        return _in_build(shot, rest)
    if kind in ("mattes", "sources") and rest:
        name, *keys = rest
        return _of(keys, f"matte {shot.matte_name(name)}" if kind == "mattes" else f"source {name}")
    return _of(rest, kind)


def named(shot: Shot, where: Where) -> Where:
    """A place with the names of its card and treatment instead of their ids."""
    card = next((one for one in shot.cards() if one.id == where.card), None)
    if card is None:
        return where
    treatment = None if where.treatment is None else card.treatment_name(where.treatment)
    return replace(where, card=card.shown_name, treatment=treatment)


def listed_mattes(shot: Shot) -> list[str]:
    """The ids of all mattes in the order in which they are listed: by what they are called, 2 before 10."""

    def order(matte_id: str) -> list[tuple[int, str]]:
        parts = re.split(r"([0-9]+)", shot.matte_name(matte_id))
        return [(int(part), "") if number % 2 else (-1, part.casefold()) for number, part in enumerate(parts)]

    return sorted(shot.mattes, key=order)


def _in_build(shot: Shot, rest: list[str]) -> str:
    if not rest or rest[0] == "#order":
        return "the order of the cards"
    card_id, *keys = rest
    while keys[:2] == ["picture", "build"]:  # inside a bundle
        if len(keys) < 3 or keys[2] == "#order":
            return "the order of the cards in a bundle"
        card_id, keys = keys[2], keys[3:]
    card = next((one for one in shot.cards() if one.id == card_id), None)
    told = f"card {card.shown_name if card is not None else card_id}"
    if keys and keys[0] == "treatments":
        if len(keys) == 1 or keys[1] == "#order":
            return f"the treatments of {told}"
        name = "a treatment" if card is None else card.treatment_name(keys[1])
        return _of(keys[2:], f"{name} of {told}")
    return _of(keys, told)


def _of(keys: list[str], whole: str) -> str:
    named = [PARTS.get(key, key.replace("_", " ")) for key in keys if key not in ("picture", "lights")]
    return " of ".join([*reversed(named), whole])
