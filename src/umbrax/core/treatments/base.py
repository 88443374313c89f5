"""What every treatment declares, and the registry that finds them.

Adding one: a module beside this file with a parameter model, `apply` and `register`, a test, and a line of docs.
Stages are fixed: colour treatments come first, in the picture's own pixels; then, where it stands, spatial ones, what gets in
from around it, and light that spreads.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Final, Literal

import numpy as np
from pydantic import Field, model_validator

from ..document.camera import Camera
from ..document.joining import LayingJoin
from ..document.parameters import MatteReference, Parameters, colour, number
from ..document.timing import Colour, Flicker, Keys, Number
from ..picture import Picture, Window
from ..plan.steps import Step
from ..registry import Registry
from .around import Around as Around
from .around import of_frame as of_frame

Wish = Literal["colour", "light", "lens", "line", "place"]
WISHES: Final[tuple[Wish, ...]] = ("colour", "light", "lens", "line", "place")  # as people ask for them; the most usual first


@dataclass(frozen=True)
class AtTouch:
    """How a treatment is offered where the picture is touched: among what, by which key, where among the others, and with what settings
    it starts, so that it shows at once. `takes` what it takes from there: the matte of what is touched, or how far away that is.
    `place` is the key that gets the touched place, where it has one. `words` say what it does, where its title does not."""

    wish: Wish
    key: str
    rank: int
    start: Mapping[str, Any]
    takes: Literal["matte", "depth"] = "matte"
    place: str | None = None
    words: str = ""


Stage = Literal["colour", "spatial", "surround", "light"]
STAGES: Final[tuple[Stage, ...]] = ("colour", "spatial", "surround", "light")
WHOLE: Final = "whole"
Wanted = Window | Literal["whole"]
MatteKey = Literal["through", "feed", "of"]
MATTE_KEYS: Final[tuple[MatteKey, ...]] = ("through", "feed", "of")  # under which a treatment names a matte
ALPHA: Final = "alpha"  # in place of a matte: that of the card's picture
ANYWHERE: Final = 1 << 20  # pixels around: as far as light comes from that has no end


def most_of(value: Any) -> float:
    """The largest value that a number has, at its keys where it is keyed; what flickers is never more than without."""
    if isinstance(value, Flicker):
        return most_of(value.of)
    return float(max(key[1] for key in value.keys) if isinstance(value, Keys) else value)


class TreatmentParams(Parameters):
    """The keys every treatment has; `id` is its stable name within the shot."""

    id: str = Field(min_length=1)
    kind: str
    name: str | None = None
    enabled: bool = True
    amount: Number = number(1.0, "Amount", low=0, high=1, formula="input + (treated - input) x amount")


class Lay(Parameters):
    """What a treatment makes is laid on its input by a join, in place of replacing it."""

    join: LayingJoin = "over"


class LimitedParams(TreatmentParams):
    """A treatment that can be limited by a matte."""

    through: MatteReference | None = None


class ThroughParams(LimitedParams):
    """One that replaces its input, or is laid on it."""

    amount: Number = number(
        1.0, "Amount", low=0, high=100, soft=(0, 1), formula="input + (treated - input) x amount; above 1 a gain of what is laid on"
    )
    lay: Lay | None = None

    @model_validator(mode="after")
    def _gains_only_what_is_laid(self) -> "ThroughParams":
        most = most_of(self.amount)
        if most > 1 and self.lay is None:
            raise ValueError(f"expected an amount of at most 1, got {most:g}; lay the treatment on its input for more")
        return self


class MatteFeed(Parameters):
    """Light is taken from a matte's part of the card."""

    matte: MatteReference


class PassFeed(Parameters):
    """Light is taken from another pass of the card's source, as emission, where the card stands and cut as it is."""

    pass_: str = Field(alias="pass", min_length=1)


class CardFeed(Parameters):
    """Light is taken from another element card of the build, or from a pass of its source, as far as no card hides it."""

    card: str = Field(min_length=1)
    pass_: str | None = Field(None, alias="pass", min_length=1)


Feed = Literal["card", "above"] | MatteFeed | PassFeed | CardFeed


class OfCamera(Parameters):
    """A treatment that can take what the shot's camera has of it from there; its own values are then left alone."""

    camera: Literal["own", "shot"] = Field("own", title="Camera", description="own values, or those of the shot's camera that cards share")


class SpreadParams(TreatmentParams):
    """A treatment that spreads light: it has a feed instead of a matte it works through.

    Its light is added x amount where the card is joined, so a changed amount spreads nothing again. What the treatment above spread is
    fed as it came into the picture, without a threshold.
    """

    amount: Number = number(1.0, "Amount", low=0, high=100, soft=(0, 2), formula="spread light x amount is added")
    feed: Feed = Field(
        "card", title="Feed", description="card, the matte, the pass or the other card whose light spreads, or what the treatment above spread"
    )
    hidden: bool = Field(False, title="As seen", description="what cards in front cover feeds nothing: a lamp that is not seen does not glow")
    fill: Colour = colour((0.0, 0.0, 0.0), "Fill", formula="light that is fed wherever the card or the matte is: what emits nothing glows")
    threshold: Number = number(1.0, "Threshold", low=0, high=1e6, soft=(0, 4), formula="x softknee(max RGB) / max RGB")
    knee: Number = number(0.5, "Knee", low=0, high=1, formula="soft between threshold (1 - knee) and threshold (1 + knee)")
    limit: Number = number(1000.0, "Limit", low=0, high=1e6, soft=(1, 1000), formula="max RGB of the feed is at most limit")
    output: Literal["with_source", "spread_only"] = "with_source"


def looks_at_nothing(params: Any, around: Around) -> dict[str, Step]:
    """What most treatments look at besides the card's own picture."""
    return {}


@dataclass(frozen=True)
class Treatment:
    """A registered treatment; parameters reach every function with plain values at one frame, lengths at full size.

    `apply(params, own, window, scale, **looked_at)` computes a window. `own` holds what `reach` asks for of the card's picture,
    as far as there is any: what stands outside is its `edge`, and `own.crop` puts it there. An element's treatment owes its alpha:
    what is associated stays so, alpha stays in 0..1, and where it is 0 nothing appears.
    `reach(params, scale)` is how far around a pixel it looks. `looks(params, around)` names more that it looks at, by the names
    `apply` takes them; `needs(params, window, scale)` the windows of them, by default as far as it looks around itself.
    `made_at(params, scale)` is the scale it is made at for a preview: a finer one where its lengths are too short for pixels.
    `mixed(params, own, weight, window, scale, **known)`, where there is one, applies a pointwise treatment and limits it by a
    matte and its amount in the same pass.
    `uses_frame(params)`: the frame's number makes a difference, and `apply` gets it as `frame`. `knows(params, around)` names more that
    `apply` gets, and that goes into the key of what it makes.
    `sources(params)`: what it looks at beside those of its card. `of_camera` names what it can take from the shot's camera, by its own
    name and that of the camera.
    `whole`: it is only worth making, and keeping, on all of what there is. `fills_frame`: what it makes may stand anywhere in the frame,
    wherever its card's picture does. `blurs`: a spatial one may take away what was sharp; one that only draws on it does not.
    `matte_key` is the key under which it is pointed to the matte of what is touched.
    `elements_only`: it is of an element before what lies behind it, and no treat card has it.
    `neutral(params)` is true only where the result is the input bit for bit: such a step leaves the plan.

    Stage `surround`: `apply` gives RGBA that is laid inside the card's alpha by the join `lays(params)`, or `behind` the card, over the
    picture so far; the card's own picture stays as it is, so its alpha never depends on what lies behind it. `falls(params, domain, scale)`:
    where what is made of a picture on a domain and lies `behind` it may stand, by default as far around it as it looks.
    Stage `light`: `apply` spreads the light that is fed (`plan.spreading`), of three channels;
    `extent(params, scale)` is how far beyond the feed its light is kept, by default as far as it looks.
    """

    kind: str
    title: str
    stage: Stage
    params: type[TreatmentParams]
    version: int
    apply: Callable[..., Picture]
    neutral: Callable[[Any], bool]
    reach: Callable[[Any, int], int]
    tolerance: tuple[float, float]
    looks: Callable[[Any, Around], dict[str, Step]] = looks_at_nothing
    needs: Callable[[Any, Window, int], dict[str, Wanted]] | None = None
    lays: Callable[[Any], str] = lambda params: "over"
    behind: bool = False
    falls: Callable[[Any, Window, int], Window] | None = None
    extent: Callable[[Any, int], int] | None = None
    made_at: Callable[[Any, int], int] = lambda params, scale: scale
    grows: bool = True
    mixed: Callable[..., Picture] | None = None
    aliases: tuple[str, ...] = ()
    summary: str = ""
    elements_only: bool = False
    uses_frame: Callable[[Any], bool] = lambda params: False
    knows: Callable[[Any, Around], dict[str, Any]] = lambda params, around: {}
    touch: AtTouch | None = None
    matte_key: MatteKey = "through"
    sources: Callable[[Any], tuple[str, ...]] = lambda params: ()
    of_camera: Mapping[str, str] = field(default_factory=dict)
    whole: bool = False
    fills_frame: bool = False
    blurs: bool = True

    def wanted(self, params: Any, window: Window, scale: int, name: str) -> Wanted:
        """The window of what it looks at by a name, or all of it."""
        named = self.needs(params, window, scale) if self.needs and name != "own" else {}
        return named.get(name, window.grown(self.reach(params, scale)))

    def falls_on(self, params: Any, domain: Window, scale: int) -> Window:
        """Where what lies behind a picture on a domain may stand."""
        return self.falls(params, domain, scale) if self.falls else domain.grown(self.reach(params, scale))


def alpha_in(own: Picture, display: Window, scale: int) -> Picture:
    """The alpha of a picture at 1/scale, 0..1, for what looks at its edge: what the frame cuts off is none, its alpha goes on there."""
    return Picture(np.clip(own.pixels[..., 3:], 0, 1), own.window, own.edge).cut_off_by(display.scaled(scale))


def with_camera(params: TreatmentParams, treatment: Treatment, camera: Camera) -> TreatmentParams:
    """A treatment with what it takes from the shot's camera."""
    if not isinstance(params, OfCamera) or params.camera == "own":
        return params
    return params.model_copy(update={name: getattr(camera, of) for name, of in treatment.of_camera.items()})


def finer_for(length: float, scale: int, at_a_half: float = 1.5) -> int:
    """The coarsest scale 1/n, from the given one on, at which a length of full-size pixels is at least one and a half pixels; where a half is
    asked for, so many."""
    pixels = at_a_half if scale == 2 else 1.5
    while scale > 1 and length < pixels * scale:
        scale //= 2
    return scale


TREATMENTS: Registry[Treatment] = Registry("treatment")
EIGHT_BIT_STEP = 1 / 255
USUAL_TOLERANCE = (EIGHT_BIT_STEP, 4 * EIGHT_BIT_STEP)
