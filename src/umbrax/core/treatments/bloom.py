"""Bloom: light scattered around what is brighter than a threshold.

The light is fed at full size, so that a lamp of two pixels blooms the same in every preview, and spread over octaves.
Level k has the variance (4^k - 1) / 2 and weighs f times the next wider one; `size` is the radius that holds half of a point's light.
"""

import math
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..kernels import pyramid
from ..kernels.feeding import feed_light
from ..parameters import colour, number
from ..picture import Picture, Window
from ..timing import Colour, Number
from .base import TREATMENTS, USUAL_TOLERANCE, SpreadParams, Treatment

TOP = 11


class BloomParams(SpreadParams):
    """Scattered light, free to spread past the matte, the element and the frame."""

    kind: Literal["bloom"]
    threshold: Number = number(1.0, "Threshold", low=0, high=1e6, soft=(0, 4), formula="x softknee(max RGB) / max RGB")
    knee: Number = number(0.5, "Knee", low=0, high=1, formula="soft between threshold (1 - knee) and threshold (1 + knee)")
    limit: Number = number(1000.0, "Limit", low=0, high=1e6, soft=(1, 1000), formula="max RGB of the feed is at most limit")
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


def _held(radius: float, weights: list[float]) -> float:
    """The share of a point's light within a radius: 1 - exp(-r^2 / (2 variance)) for each Gaussian-like level."""
    inside = [1.0] + [1 - math.exp(-(radius**2) / (4.0**k - 1)) for k in range(1, len(weights))]
    return sum(w * i for w, i in zip(weights, inside, strict=True)) / sum(weights)


def _weights_to(reach: float, falloff: float) -> list[float]:
    """Weights falloff^(reach - k) up to a fractional widest level; level 0, the unspread light, has none."""
    whole = int(reach)
    weights = [0.0] + [falloff ** (reach - k) for k in range(1, whole + 1)]
    if reach > whole:
        weights.append((reach - whole) * falloff ** (reach - whole - 1))
    return weights


@lru_cache(maxsize=512)
def level_weights(size: float, falloff: float, scale: int = 1) -> tuple[float, ...]:
    """Normalised weights of the pyramid's levels at a scale of 1/n; levels finer than its pixels join its level 0."""
    low, high = 1.0, float(TOP)
    for _ in range(50):
        middle = (low + high) / 2
        low, high = (middle, high) if _held(size, _weights_to(middle, falloff)) > 0.5 else (low, middle)
    weights = _weights_to(high, falloff)
    total = sum(weights)
    shift = scale.bit_length() - 1
    fine, coarse = weights[: shift + 1], weights[shift + 1 :]
    return tuple(w / total for w in (sum(fine), *coarse))


def feed(params: BloomParams, pixels: NDArray[np.float32]) -> NDArray[np.float32]:
    """The light that spreads, `float32[h, w, 3]`: what is above the soft threshold, in its own colour."""
    return feed_light(pixels, params.threshold, params.knee, params.limit)


def apply(params: BloomParams, own: Picture, window: Window, scale: int) -> Picture:
    """Spread a plane of light over a window; outside the plane is darkness."""
    weights = list(level_weights(params.size, params.falloff, scale))
    return Picture(pyramid.spread(own.pixels, own.window, weights, window, np.array(params.tint, np.float32)), window)


def reach(params: BloomParams, scale: int) -> int:
    return pyramid.reach(len(level_weights(params.size, params.falloff, scale)) - 1)


TREATMENTS.register(
    Treatment(
        "bloom",
        "Bloom",
        "light",
        BloomParams,
        1,
        apply,
        lambda params: params.tint == (0.0, 0.0, 0.0),
        reach,
        USUAL_TOLERANCE,
        feed,
        lambda params: [params.threshold, params.knee, params.limit],
        summary="scattered light around what is bright",
    )
)
