"""Halo: a hot core that stays white and a coloured surround, round lamps.

With I the largest channel of the light that is fed: halo = colour x H(I) + core x G(I). H spreads as bloom does, half of a point's light
within `size`; G is a Gaussian of a sixth of that size, of which less than a tenth of a percent is left at half of it. Where H alone is,
the surround has the colour exactly.
"""

from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..document.parameters import number
from ..document.timing import Colour, Number
from ..kernels import pyramid
from ..kernels.blur import reach as blurred_reach
from ..kernels.tinting import add_white, tinted
from ..picture import Picture, Window
from ..plan.steps import Step
from ..repair.light import largest
from .base import TREATMENTS, USUAL_TOLERANCE, Around, AtTouch, SpreadParams, Treatment, finer_for
from .bloom import level_weights, light_extent, light_reach
from .soften import softened

CORE = 6.0  # sizes of the surround to one sigma of the core


class HaloParams(SpreadParams):
    """A hot core and a coloured surround; the colour is one for all, each lamp's own, or that of what the lamp lights."""

    kind: Literal["halo"]
    size: Number = number(40.0, "Size", unit="px", low=1, high=1500, soft=(2, 200), step=0.5, formula="radius of half of a point's surround")
    falloff: Number = number(0.7, "Fall-off", low=0.2, high=1.2, soft=(0.3, 1.1), formula="each octave weighs falloff times the next wider one")
    core: Number = number(0.2, "Core", low=0, high=100, soft=(0, 1), formula="white light of a point's core")
    colour: Colour | Literal["object", "lit"] = Field(
        (1.0, 0.45, 0.2), title="Colour", json_schema_extra={"widget": "halo_colour", "soft": [0, 2]},
        description="of the surround: a colour, object (each lamp's own), or lit (that of what lies around it)",
    )  # fmt: skip


def apply(params: HaloParams, own: Picture, window: Window, scale: int, *, lit: Picture | None = None) -> Picture:
    weights = list(level_weights(params.size, params.falloff, scale))
    peak = largest(own.pixels)[..., None]
    sigma = params.size / CORE / scale
    if params.colour == "object":
        light = pyramid.spread(own.pixels, own.window, weights, window, np.ones(3, np.float32))
    else:
        surround = pyramid.spread(peak, own.window, weights, window, np.ones(1, np.float32))
        light = tinted(surround, (1, 1, 1) if isinstance(params.colour, str) else params.colour)
        if lit is not None:
            light *= _colour_around(lit, window, params.size / scale)
    near = window.intersect(own.window.grown(blurred_reach(sigma)))
    if params.core > 0 and not near.empty:
        core = softened(Picture(peak, own.window), near, sigma, sigma).pixels
        add_white(core, params.core, (near.y0 - window.y0, near.x0 - window.x0), light)
    return Picture(light, window)


def _colour_around(lit: Picture, window: Window, sigma: float) -> Any:
    """The colour of what lies around a pixel, its largest channel 1; white where nothing is."""
    near = softened(Picture(np.maximum(lit.pixels[..., :3], 0), lit.window), window, sigma, sigma).pixels
    most = largest(near)[..., None]
    return np.where(most > 1e-6, near / np.maximum(most, np.float32(1e-6)), np.float32(1))


def _looks(params: Any, around: Around) -> dict[str, Step]:
    return {"lit": around.shown()} if params.colour == "lit" else {}


def _reach(params: HaloParams, scale: int) -> int:
    return max(light_reach(params.size, params.falloff, scale), blurred_reach(params.size / CORE / scale))


TREATMENTS.register(
    Treatment(
        "halo",
        "Halo",
        "light",
        HaloParams,
        1,
        apply,
        lambda params: params.colour == (0.0, 0.0, 0.0) and params.core == 0,
        _reach,
        USUAL_TOLERANCE,
        looks=_looks,
        needs=lambda params, window, scale: {"lit": window.grown(blurred_reach(params.size / scale))},
        extent=lambda params, scale: light_extent(params.size, params.falloff, scale),
        made_at=lambda params, scale: finer_for(params.size / CORE, scale),
        matte_key="feed",
        touch=AtTouch("light", "o", 2, {"threshold": 0.0, "size": 30.0, "colour": "object", "amount": 0.8}),
        summary="a hot core and a coloured surround",
    )
)
