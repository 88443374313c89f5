"""Halo: a hot core that stays white and a coloured surround, round lamps.

With I the largest channel of the light that is fed: halo = colour x (H(I) - w F(I)) + w F(I) + core x G(I), w = min(1, 5 core). H spreads as
bloom does, half of a point's light within `size`; F are its finest octaves, which end within three quarters of that; G is a Gaussian of a
sixth of it, of which less than a tenth of a percent is left at half of it. So the core is white, and from `size` on the colour exact.
"""

import math
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..document.parameters import number
from ..document.timing import Colour, Number
from ..kernels import pyramid, ready
from ..kernels.blur import reach as blurred_reach
from ..kernels.lit import once_of
from ..kernels.octaves import DARK, Pyramid, pyramid_once
from ..kernels.tinting import Tinted, whitening
from ..picture import Picture, Window, nothing
from ..plan.steps import Step
from ..repair.light import largest
from .base import TREATMENTS, USUAL_TOLERANCE, Around, AtTouch, SpreadParams, Treatment, finer_for
from .bloom import level_weights, light_extent, light_reach
from .drawn_light import light_from
from .soften import softened

Pixels = NDArray[np.float32]
CORE = 6.0  # sizes of the surround to one sigma of the core
WHITE = 0.2  # light of the core from which on its octaves are all white


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
    peak, bright = once_of(own.pixels, "brightness", (own.window, len(weights)), lambda: _brightness(own, len(weights)))
    # of one colour for all the surround is the light's brightness, spread
    coloured = pyramid_once(own.pixels, own.window, len(weights), np.ones(3, np.float32)) if params.colour == "object" else bright
    colour = np.array((1, 1, 1) if isinstance(params.colour, str) else params.colour, np.float32)

    def in_colour(light: Pixels, part: Window) -> Pixels:
        return light if lit is None else ready(light * _colour_around(lit, part, params.size / scale))

    near, more = window.intersect(own.window.grown(_core_reach(params, scale))), nothing(DARK, 3).pixels
    if params.core > 0 and not near.empty:
        finest, sigma = weights[: _finest(params, scale) + 1], params.size / CORE / scale
        white, core = bright.octaves(finest, near).drawn(near), softened(peak, near, sigma, sigma).pixels
        tinted = in_colour(white if coloured is bright else coloured.octaves(finest, near).drawn(near), near)
        more = whitening(white, tinted, colour, min(1.0, params.core / WHITE), core, params.core)
    surround = in_colour(coloured.octaves(weights, window).drawn(window), window)
    return light_from(Tinted(surround, window, colour, more, near), window)


def _brightness(light: Picture, levels: int) -> tuple[Picture, Pyramid]:
    """The largest channel of light, and its pyramid."""
    peak = Picture(largest(light.pixels)[..., None], light.window)
    return peak, Pyramid(peak.pixels, peak.window, levels, np.ones(1, np.float32))


def _finest(params: HaloParams, scale: int) -> int:
    """The widest octave of the core: all of it lies within three quarters of `size`."""
    return max(0, math.floor(math.log2(max(0.75 * params.size / scale / pyramid.reach(0), 1.0))))


def _core_reach(params: HaloParams, scale: int) -> int:
    return max(pyramid.reach(_finest(params, scale)), blurred_reach(params.size / CORE / scale))


def _colour_around(lit: Picture, window: Window, sigma: float) -> Any:
    """The colour of what lies around a pixel, its largest channel 1; white where nothing is."""
    near = softened(Picture(np.maximum(lit.pixels[..., :3], 0), lit.window), window, sigma, sigma).pixels
    most = largest(near)[..., None]
    return np.where(most > 1e-6, near / np.maximum(most, np.float32(1e-6)), np.float32(1))


def _looks(params: Any, around: Around) -> dict[str, Step]:
    return {"lit": around.shown()} if params.colour == "lit" else {}


def _reach(params: HaloParams, scale: int) -> int:
    return max(light_reach(params.size, params.falloff, scale), _core_reach(params, scale))


TREATMENTS.register(
    Treatment(
        "halo",
        "Halo",
        "light",
        HaloParams,
        2,
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
