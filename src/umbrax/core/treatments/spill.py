"""Spill: what the light of a coloured screen or ground has thrown onto an element (common practice)."""

from typing import Literal

from ..document.parameters import choice, colour, number
from ..document.timing import Colour, Number
from ..kernels.colouring import spill_rows
from .base import AtTouch, ThroughParams
from .by_colour import by_rows, colour_treatment

KEYS, LIMITS = ("red", "green", "blue"), ("average", "larger", "smaller")


class SpillParams(ThroughParams):
    """What the key channel has over its limit is taken out and comes back in another colour; neutral greys stay as they are."""

    kind: Literal["spill"]
    key: Literal["red", "green", "blue"] = choice("green", "Key", "the channel that is too strong")
    limit: Literal["average", "larger", "smaller"] = choice("average", "Limit", "of the two other channels")
    allow: Number = number(1.0, "Allow", low=0, high=4, soft=(0.5, 1.5), formula="excess = max(key - allow x limit, 0)")
    replace: Colour = colour((0.0, 0.0, 0.0), "Replace", formula="key - excess, then + replace x excess", soft=(0, 1))


def settings(params: SpillParams) -> list[float]:
    return [KEYS.index(params.key), LIMITS.index(params.limit), params.allow, *params.replace]


colour_treatment(
    "spill",
    "Spill",
    SpillParams,
    by_rows(lambda params: spill_rows, settings),
    lambda params: False,
    "the cast of a coloured screen or ground taken out",
    touch=AtTouch("colour", "i", 5, {}),
)
