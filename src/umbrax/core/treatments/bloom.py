"""Bloom: light scattered around what is brighter than a threshold.

The light is fed at full size, so that a lamp of two pixels blooms the same in every preview, and spread over octaves.
Level k has the variance 4^k - 1 and weighs f times the next wider one. `size` is the radius that holds half of a point's
light: the widest level is as wide as that needs, three sizes at most; where even that is too little, since the fall-off leaves
most light near, the finest levels go.
"""

import math
from functools import lru_cache
from operator import mul
from typing import Literal

import numpy as np
from pydantic import Field, model_validator

from ..document.parameters import colour, number
from ..document.timing import Colour, Number
from ..kernels.octaves import pyramid_once
from ..kernels.pyramid import reach
from ..picture import Picture, Window
from .base import TREATMENTS, USUAL_TOLERANCE, AtTouch, SpreadParams, Treatment, finer_for, most_of
from .drawn_light import light_from

WIDEST = 3.0  # sigma of the widest level, in sizes
FURTHEST = 8.0  # in sizes: beyond it less than 1 % of the light arrives, and no picture is made that large for it


class BloomParams(SpreadParams):
    """Scattered light, free to spread past the matte, the element and the frame."""

    kind: Literal["bloom"]
    size: Number = number(
        40.0,
        "Size",
        unit="px",
        low=1,
        high=1500,
        soft=(2, 200),
        step=0.5,
        formula="radius of half of a point's spread light",
    )
    falloff: Number = number(
        0.7,
        "Fall-off",
        low=0.2,
        high=1.2,
        soft=(0.3, 1.1),
        formula="each octave weighs falloff times the next wider one",
    )
    tint: Colour = colour((1.0, 1.0, 1.0), "Tint", formula="spread light x tint x amount")
    conserve: bool = Field(False, title="Conserve", description="what spreads is taken from where it comes from: no light is added")

    @model_validator(mode="after")
    def _takes_no_more_than_there_is(self) -> "BloomParams":
        if self.conserve and most_of(self.amount) > 1:
            raise ValueError("expected an amount of at most 1 where light is conserved")
        if self.conserve and self.output == "spread_only":
            raise ValueError("expected the source in the output where light is conserved; take spread_only away")
        return self


def _variance(level: int) -> float:
    return 4.0**level - 1


def _pulls(radius: float, falloff: float, levels: int) -> list[float]:
    """What each level weighs, falloff^-k, times how much more than half of its light lies within a radius: a share of
    1 - exp(-r^2 / (2 variance)) does, as of a Gaussian."""
    return [0.5] + [falloff**-k * (0.5 - math.exp(-(radius**2) / (2 * _variance(k)))) for k in range(1, levels)]


def _shares(widest: float, pulls: list[float]) -> list[float]:
    """How much of each level is taken, so that half of the light lies within: from the widest down where too little of it does, from the
    finest up where too much, levels are left out, the last of them in part."""
    last = len(pulls) - 1
    shares = [0.0, *(min(1.0, 1 - (k - widest)) for k in range(1, last + 1))]
    held = math.fsum(map(mul, shares, pulls))
    too_wide = held <= 0
    for k in range(last, 1, -1) if too_wide else range(1, last):
        without = held - shares[k] * pulls[k]
        if (without > 0) == too_wide:
            shares[k] = -without / pulls[k]
            return shares
        held, shares[k] = without, 0.0
    # between the first level and the point itself
    shares[1] = pulls[0] / (pulls[0] - pulls[1])
    shares[0] = 1 - shares[1]
    return shares


@lru_cache(maxsize=512)
def level_weights(size: float, falloff: float, scale: int = 1) -> tuple[float, ...]:
    """Normalised weights of the pyramid's levels at a scale of 1/n; levels finer than its pixels join its level 0."""
    widest = math.log2((WIDEST * size) ** 2 + 1) / 2
    shares = _shares(widest, _pulls(size, falloff, math.ceil(widest) + 1))
    weights = [share * falloff**-k for k, share in enumerate(shares)]
    while not weights[-1]:
        weights.pop()
    total = sum(weights)
    shift = scale.bit_length() - 1
    fine, coarse = weights[: shift + 1], weights[shift + 1 :]
    return tuple(w / total for w in (sum(fine), *coarse))


def apply(params: BloomParams, own: Picture, window: Window, scale: int) -> Picture:
    """Spread a plane of light over a window; outside the plane is darkness."""
    weights, tint = list(level_weights(params.size, params.falloff, scale)), np.array(params.tint, np.float32)
    levels = pyramid_once(own.pixels, own.window, len(weights), tint)
    return light_from(levels.octaves(weights, window, 1.0 if params.conserve else 0.0), window)


def light_reach(size: float, falloff: float, scale: int) -> int:
    """How far around a pixel light of a size can come from."""
    return reach(len(level_weights(size, falloff, scale)) - 1)


def light_extent(size: float, falloff: float, scale: int) -> int:
    """How far beyond what is fed such light is kept."""
    return min(light_reach(size, falloff, scale), math.ceil(FURTHEST * size / scale))


TREATMENTS.register(
    Treatment(
        "bloom",
        "Bloom",
        "light",
        BloomParams,
        2,
        apply,
        lambda params: params.tint == (0.0, 0.0, 0.0),
        lambda params, scale: light_reach(params.size, params.falloff, scale),
        USUAL_TOLERANCE,
        extent=lambda params, scale: light_extent(params.size, params.falloff, scale),
        made_at=lambda params, scale: finer_for(params.size, scale),
        matte_key="feed",
        touch=AtTouch("light", "b", 1, {"threshold": 0.0, "size": 24.0, "amount": 1.0}),
        summary="scattered light around what is bright",
    )
)
