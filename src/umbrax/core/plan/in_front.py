"""How much of a card is seen: what lies in front of it in its build covers it, and what it is tucked behind.

Only the coverage of cards is asked for, as they are before anything is laid on them, so nothing depends on what they are joined with.
"""

from collections.abc import Sequence
from typing import Any

import numpy as np

from ..picture import Picture
from ..pictures.base import last_channel
from .cards import CardPlanner
from .steps import Step, pointwise
from .treatments import weighed


def seen(planners: Sequence[CardPlanner], shown: Sequence[bool], index: int, scale: int) -> Step | None:
    """How much of each pixel of a card is seen, 0 to 1, where it stands in its build: what the cards leave that are `shown` before it and
    joined by over, and its tucks. None where nothing can hide it."""
    found = [(step, 1.0) for step in _tucks(planners, shown, index, scale)]
    for at in range(index + 1, len(planners)):
        card = planners[at].card
        if shown[at] and not card.treat and card.join == "over":
            covers = last_channel(planners[at].before_layers(scale))
            if tucks := _tucks(planners, shown, at, scale):
                covers = weighed(covers, _left([(tuck, 1.0) for tuck in tucks]), planners[at].planner.where)
            found.append((covers, card.opacity))
    return None if not found else _left(found)


def _tucks(planners: Sequence[CardPlanner], shown: Sequence[bool], index: int, scale: int) -> list[Step]:
    """What a card is held behind, by its tucks that hold: the coverage of each in the card that shows it."""
    own, covers = planners[index], []
    places = {one.card.id: at for at, one in enumerate(planners)}
    for tuck in own.card.tuck:
        at = places[tuck.card]
        if tuck.holds(own.planner.frame) and at < index and shown[at] and not planners[at].card.treat:
            picture = planners[at].before_layers(scale)
            held = weighed(picture, planners[at].weight(tuck.behind, picture, planners[at].in_build, scale), own.planner.where)
            covers.append(last_channel(held))
    return covers


def _left(covers: list[tuple[Step, float]]) -> Step:
    """What coverages with their opacities leave, one after the other."""

    def compute(given: tuple[Picture, ...]) -> Any:
        left: Any = np.float32(1)
        for picture, (_, opacity) in zip(given, covers, strict=True):
            left = left * (1 - np.float32(opacity) * np.clip(picture.pixels, 0, 1))
        return left

    return pointwise("seen 1", [opacity for _, opacity in covers], [step for step, _ in covers], compute, channels=1, edge="one")
