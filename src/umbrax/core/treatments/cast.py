"""Cast shadow: an element's alpha, moved, softened and laid over what lies behind it."""

import math
from typing import Literal

import numpy as np

from ..document.parameters import colour, number
from ..document.timing import Colour, Number
from ..kernels.blur import reach
from ..kernels.tinting import tinted
from ..picture import Picture, Window
from ..plan.placed import resampled
from ..plan.placement import Placement
from .base import TREATMENTS, USUAL_TOLERANCE, AtTouch, LimitedParams, Treatment, finer_for
from .soften import softened


class CastParams(LimitedParams):
    """density x blur(alpha, sigma = softness x distance), moved by the distance at the angle; under the element, over all behind it.

    Nothing cuts it off. All of the alpha is in it: its sum is density times that of the element's.
    """

    kind: Literal["cast"]
    amount: Number = number(1.0, "Amount", low=0, high=1, formula="of the shadow where it is laid")
    angle: Number = number(
        -50.0, "Angle", unit="°", low=-36000, high=36000, soft=(-180, 180), step=1, formula="where it falls, counter-clockwise"
    )
    distance: Number = number(24.0, "Distance", unit="px", low=0, high=4000, soft=(0, 200), step=0.5, formula="from the element")
    softness: Number = number(0.3, "Softness", low=0, high=10, soft=(0, 1), formula="sigma / distance: the farther, the softer")
    density: Number = number(0.6, "Density", low=0, high=1, formula="alpha of the shadow where the element is opaque")
    colour: Colour = colour((0.0, 0.0, 0.0), "Colour")


def apply(params: CastParams, own: Picture, window: Window, scale: int) -> Picture:
    """The shadow alone, RGBA."""
    sigma, (across, down) = _sigma(params, scale), _moved(params, scale)
    way = Placement(c=across, f=down, filter="bilinear")
    near = window.grown(reach(sigma)).intersect(way.box(own.window, 1))  # far from the element there is nothing to blur
    if near.empty:
        return Picture(np.zeros((window.height, window.width, 4), np.float32), window)
    alpha = np.clip(own.pixels[..., 3:], 0, 1)
    moved = Picture(resampled(Picture(np.ascontiguousarray(alpha), own.window), way, near), near)
    shadow = softened(moved, window, sigma, sigma).pixels
    return Picture(tinted(shadow, [*(params.density * one for one in params.colour), params.density]), window)


def _sigma(params: CastParams, scale: int) -> float:
    return params.softness * params.distance / scale


def _moved(params: CastParams, scale: int) -> tuple[float, float]:
    """To the right and down, in pixels of the scale."""
    angle = math.radians(params.angle)
    return params.distance * math.cos(angle) / scale, -params.distance * math.sin(angle) / scale


TREATMENTS.register(
    Treatment(
        "cast",
        "Cast shadow",
        "surround",
        CastParams,
        1,
        apply,
        lambda params: params.density == 0,
        lambda params, scale: math.ceil(params.distance / scale) + reach(_sigma(params, scale)) + 2,
        USUAL_TOLERANCE,
        elements_only=True,
        behind=True,
        # near its element most of it is hidden by that: how much is told from pixels
        made_at=lambda params, scale: finer_for(params.distance * min(params.softness or 0.5, 0.5), scale),
        touch=AtTouch("place", "c", 0, {"distance": 24.0}, words="Cast a shadow"),
        summary="its alpha, moved and softened, falls on what lies behind",
    )
)
