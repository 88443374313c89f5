"""What every treatment declares, and the registry that finds them.

Adding one: a module beside this file with a parameter model, `apply` and `register`, a test, and a line of docs.
Stages are fixed: colour treatments come before spatial ones, light that spreads comes last.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Final, Literal

from pydantic import Field

from ..document.parameters import MatteReference, Parameters, number
from ..document.timing import Number
from ..picture import Picture, Window
from ..registry import Registry

Stage = Literal["colour", "spatial", "light"]
STAGES: Final[tuple[Stage, ...]] = ("colour", "spatial", "light")
WHOLE: Final = "whole"
Wanted = Window | Literal["whole"]


class TreatmentParams(Parameters):
    """The keys every treatment has; `id` is its stable name within the shot."""

    id: str = Field(min_length=1)
    kind: str
    name: str | None = None
    enabled: bool = True
    amount: Number = number(1.0, "Amount", low=0, high=1, formula="input + (treated - input) x amount")


class ThroughParams(TreatmentParams):
    """A treatment that can be limited by a matte."""

    through: MatteReference | None = None


class CardFeed(Parameters):
    """Light is taken from a matte's part of the card."""

    matte: MatteReference


Feed = Literal["card"] | CardFeed


class SpreadParams(TreatmentParams):
    """A treatment that spreads light: it has a feed instead of a matte it works through.

    Its light is added x amount where the card is joined, so a changed amount spreads nothing again.
    """

    amount: Number = number(1.0, "Amount", low=0, high=100, soft=(0, 2), formula="spread light x amount is added")
    feed: Feed = Field("card", title="Feed", description="card, or the matte whose light spreads")
    output: Literal["with_source", "spread_only"] = "with_source"


@dataclass(frozen=True)
class Treatment:
    """A registered treatment; parameters reach every function with plain values at one frame, lengths at full size.

    `apply(params, own, window, scale)` computes the window from a picture that covers `needs`. For stage `light`,
    `feed(params, pixels)` makes the light to spread at full size and `apply` spreads it, giving three channels.
    `reach(params, scale)` is how far around a pixel it looks; `extent(params, scale)` how far beyond the feed its light is kept,
    by default as far as it looks.
    `made_at(params, scale)` is the scale it is made at for a preview: a finer one where its lengths are too short for pixels.
    `mixed(params, own, weight, window, scale)`, where there is one, applies a pointwise treatment and limits it by a
    matte and its amount in the same pass.
    `neutral(params)` is true only where the result is the input bit for bit: such a step leaves the plan.
    """

    kind: str
    title: str
    stage: Stage
    params: type[TreatmentParams]
    version: int
    apply: Callable[[Any, Picture, Window, int], Picture]
    neutral: Callable[[Any], bool]
    reach: Callable[[Any, int], int]
    tolerance: tuple[float, float]
    feed: Callable[[Any, Any], Any] | None = None
    feed_part: Callable[[Any], Any] | None = None
    extent: Callable[[Any, int], int] | None = None
    made_at: Callable[[Any, int], int] = lambda params, scale: scale
    grows: bool = True
    mixed: Callable[[Any, Picture, Picture | None, Window, int], Picture] | None = None
    aliases: tuple[str, ...] = ()
    summary: str = ""

    def needs(self, params: Any, window: Window, scale: int) -> dict[str, Wanted]:
        """What it looks at to compute a window: of its own picture, grown by its reach."""
        return {"own": window.grown(self.reach(params, scale))}


def finer_for(length: float, scale: int) -> int:
    """The coarsest scale 1/n, from the given one on, at which a length of full-size pixels is at least one and a half pixels."""
    while scale > 1 and length < 1.5 * scale:
        scale //= 2
    return scale


TREATMENTS: Registry[Treatment] = Registry("treatment")
EIGHT_BIT_STEP = 1 / 255
USUAL_TOLERANCE = (EIGHT_BIT_STEP, 4 * EIGHT_BIT_STEP)
