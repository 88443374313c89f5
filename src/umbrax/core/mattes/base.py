"""What all kinds of matte share: the document model's base, the refinements and the registry.

A matte's step carries three channels: coverage (how much of the pixel), share (how much of what covers the pixel), and
the sum of all coverages of its layer. A rendered picture already carries its alpha, so cutting by coverage would square
an edge; cutting by share does not. Kinds without a layer have share = coverage and sum = 1.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal, Self

from pydantic import Field

from ..document.parameters import MatteRef, Parameters, number
from ..document.timing import Number
from ..plan.steps import Planner, Step
from ..registry import Registry


class Refine(Parameters):
    """Levels, grow or choke, feather, invert: always in this order. Lengths are full-size pixels."""

    black: Number = number(0.0, "Black", formula="(m - black) / (white - black), limited to 0..1")
    white: Number = number(1.0, "White")
    gamma: Number = number(1.0, "Gamma", low=0.01, high=100, soft=(0.2, 5), formula="m^(1 / gamma)")
    grow: Number = number(0.0, "Grow", unit="px", low=-500, high=500, soft=(-20, 20), step=0.1)
    feather: Number = number(0.0, "Feather", unit="px", low=0, high=1000, soft=(0, 40), step=0.1)
    feather_side: Literal["in", "out", "both"] = Field("both", title="Feather side")
    invert: bool = False


class Bake(Parameters):
    """Where a matte was written to for speed. It is read from there on each frame that still is what the matte is now."""

    source: str
    pass_: str = Field(alias="pass", min_length=1)


class MatteParams(Parameters):
    """The keys every matte has; its key in `mattes` is its stable id, `name` what is shown."""

    kind: str
    name: str | None = None
    order: int | None = None
    bake: Bake | None = None
    refine: Refine = Field(default_factory=Refine)

    def apart(self) -> Self:
        """What it means by itself: without its place in the list of its shot, and where it was written to there."""
        return self.model_copy(update={"order": None, "bake": None})


@dataclass(frozen=True)
class MatteKind:
    """`planes(planner, params, scale 1)` gives the unrefined three-channel step at full size.

    `references`, `sources` and `cards` name what it is made of: other mattes, sources, and cards whose picture it looks at.
    """

    kind: str
    title: str
    params: type[MatteParams]
    planes: Callable[[Planner, Any, str], Step]
    references: Callable[[Any], tuple[MatteRef, ...]]
    sources: Callable[[Any], tuple[str, ...]]
    aliases: tuple[str, ...] = ()
    cards: Callable[[Any], tuple[str, ...]] = lambda _: ()

    def uses(self, params: Any) -> tuple[str, ...]:
        """The ids of the mattes it is made of."""
        return tuple(reference.matte for reference in self.references(params))


MATTES: Registry[MatteKind] = Registry("matte kind")
