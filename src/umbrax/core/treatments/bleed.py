"""Surround bleed: the colour of what is around an element gets into its rim."""

from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..colour import LUMA_BT709, Weights
from ..document.joining import LayingJoin
from ..document.parameters import number
from ..document.timing import Colour, Number
from ..kernels.blur import reach
from ..kernels.limiting import limited, on_rim
from ..picture import Picture, Window
from ..plan.steps import Step
from ..repair.light import largest
from .base import TREATMENTS, USUAL_TOLERANCE, Around, LimitedParams, Treatment, alpha_in, finer_for
from .laid_light import in_own_grade, known, own_saturation, own_tint
from .soften import softened


class BleedParams(LimitedParams):
    """colour = blur(B, size) of the picture so far, what is behind the element included; laid on x rim inside the element's alpha.

    rim = a x blur(1 - a, width) x gain, or the largest channel of a pass, as specular, from black to white, x gain; between 0 and 1.
    """

    kind: Literal["bleed"]
    amount: Number = number(1.0, "Amount", low=0, high=1, formula="colour x rim x amount is laid on")
    width: Number = number(8.0, "Width", unit="px", low=0, high=1000, soft=(0, 60), step=0.5, formula="rim = a x blur(1 - a, width) x gain")
    size: Number = number(30.0, "Size", unit="px", low=0, high=1000, soft=(0, 120), step=0.5, formula="sigma of the blur of what is around")
    gain: Number = number(1.5, "Gain", low=0, high=100, soft=(0, 4))
    rim: str = Field("edge", min_length=1, title="Rim", description="edge, or the pass whose light is the rim, by name or kind")
    black: Number = number(0.0, "Rim black", low=-1e4, high=1e4, soft=(0, 1), formula="of a pass: (v - black) / (white - black), from 0 to 1")
    white: Number = number(1.0, "Rim white", low=-1e4, high=1e4, soft=(0, 2), formula="of a pass: the light that is all of the rim")
    join: LayingJoin = Field("soft_light", title="Join")
    limit: Number = number(4.0, "Limit", low=0, high=1e6, soft=(0.5, 20), formula="max RGB of what is around is at most limit")
    saturation: Number = own_saturation()
    tint: Colour = own_tint()


def apply(
    params: BleedParams, own: Picture, window: Window, scale: int, *,
    display: Window, below: Picture, rim: Picture | None = None, luma: Weights = LUMA_BT709,
) -> Picture:  # fmt: skip
    """The colour to lay on, RGBA; its alpha is the rim."""
    sigma, width = params.size / scale, params.width / scale
    alpha = alpha_in(own, display, scale)
    inside = alpha.crop(window).pixels
    if rim is None:
        outside = Picture(1 - alpha.pixels, alpha.window, "extend")
        part = inside * softened(outside, window, width, width).pixels
    else:
        shines = (largest(rim.crop(window).pixels[..., :3])[..., None] - params.black) / (params.white - params.black or 1e-6)
        part = np.minimum(inside, np.clip(shines, 0, 1).astype(np.float32))
    part = np.clip(part * np.float32(params.gain), 0, 1)
    around = Picture(limited(below.pixels, params.limit, channels=4), below.window, below.edge).cut_off_by(display.scaled(scale))
    colour = softened(around, window, sigma, sigma).pixels
    return Picture(on_rim(in_own_grade(colour, params.saturation, params.tint, luma), part[..., 0], by_brightness=False), window)


def _reach(params: BleedParams, scale: int) -> int:
    return max(reach(params.size / scale), reach(params.width / scale))


def _looks(params: Any, around: Around) -> dict[str, Step]:
    return {"below": around.below(), **({} if params.rim == "edge" else {"rim": around.of_pass(params.rim)})}


TREATMENTS.register(
    Treatment(
        "bleed",
        "Surround bleed",
        "surround",
        BleedParams,
        2,
        apply,
        lambda params: params.gain == 0 or (params.rim == "edge" and params.width == 0),
        _reach,
        USUAL_TOLERANCE,
        looks=_looks,
        knows=known,
        elements_only=True,
        lays=lambda params: params.join,
        made_at=lambda params, scale: finer_for(min(params.size, params.width), scale),
        summary="colours from around get into the rim",
    )
)
