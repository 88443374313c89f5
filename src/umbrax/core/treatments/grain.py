"""Grain: the noise of a sensor or of film, the same for the same seed and frame."""

import math
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..colour import LUMA_BT709, Weights
from ..document.parameters import number
from ..document.timing import Number
from ..kernels.blur import gaussian, reach
from ..kernels.noise import alike, mixed_seed, with_grain
from ..kernels.resample import reduce_area
from ..picture import Picture, Window
from .around import of_luma
from .base import TREATMENTS, USUAL_TOLERANCE, OfCamera, ThroughParams, Treatment, of_frame


class GrainParams(OfCamera, ThroughParams):
    """c + strength n (luma / 0.18)^response, n of mean 0 and deviation 1; times alpha, so that nothing appears where nothing is."""

    kind: Literal["grain"]
    seed: int = Field(1, ge=0, le=2**31 - 1, title="Seed", json_schema_extra={"soft": [1, 100], "step": 1})
    size: Number = number(0.8, "Size", unit="px", low=0, high=20, soft=(0, 4), step=0.05, formula="sigma of a grain")
    strength: Number = number(0.02, "Strength", low=0, high=10, soft=(0, 0.2), step=0.001, formula="deviation at a luma of 0.18")
    response: Number = number(0.0, "Response", low=0, high=1, soft=(0, 1), formula="0: everywhere alike, 0.5: as light that is counted")
    colour: Number = number(0.5, "Colour", low=0, high=1, formula="0: all channels alike, 1: each for itself")
    still: bool = Field(False, title="Still", description="the same on every frame")


@lru_cache(maxsize=64)
def _gain(size: float) -> float:
    """By what blurred noise is weaker: one over the root of the sum of the blur's squared weights."""
    around = reach(size)
    impulse = np.zeros((2 * around + 1, 2 * around + 1, 1), np.float32)
    impulse[around, around] = 1
    weights = gaussian(impulse, size, size, (0, 0), (0, 0, 2 * around + 1, 2 * around + 1), False)
    return 1 / math.sqrt(float((weights.astype(np.float64) ** 2).sum()))


def grains(window: Window, size: float, colour: float, seed: int, strength: float = 1.0) -> NDArray[np.float32]:
    """Noise of mean 0 and a deviation of `strength`, `float32[h, w, 3]`, its channels as much alike as `colour` says."""
    around = reach(size) if size > 0 else 0
    w = window.grown(around)
    strength *= _gain(size) if size > 0 else 1
    own = alike(w.x0, w.y0, w.width, w.height, strength * math.sqrt(1 - colour), strength * math.sqrt(colour), seed)
    return own if size <= 0 else gaussian(own, size, size, (w.x0, w.y0), (window.x0, window.y0, window.x1, window.y1), False)


def apply(
    params: GrainParams, own: Picture, window: Window, scale: int, *, display: Window, frame: int = 0, luma: Weights = LUMA_BT709
) -> Picture:
    given = own.crop(window).pixels
    noise = _noise(params, window, scale, display if own.edge == "extend" else None, frame)
    return Picture(with_grain(given, noise, params.response, luma), window, own.edge)


def _noise(params: GrainParams, window: Window, scale: int, goes_on: Window | None, frame: int) -> NDArray[np.float32]:
    """A preview's pixel has the mean of the grains of the full-size ones that it stands for: nothing below is made finer for it. What is
    full-size goes on past the frame as its border does, grains and all."""
    full = window.magnified(scale)
    near = full if goes_on is None or scale == 1 else full.intersect(goes_on)
    made = grains(near, params.size, params.colour, mixed_seed(params.seed, frame), params.strength)
    if scale == 1:
        return made
    return reduce_area(np.ascontiguousarray(Picture(made, near, "extend").crop(full).pixels), scale)


TREATMENTS.register(
    Treatment(
        "grain",
        "Grain",
        "spatial",
        GrainParams,
        1,
        apply,
        lambda params: params.strength == 0,
        lambda params, scale: 0,
        USUAL_TOLERANCE,
        of_camera={"strength": "grain"},
        grows=False,
        knows=lambda params, around: of_frame(params, around) | (of_luma(params, around) if params.response > 0 else {}),
        uses_frame=lambda params: not params.still,
        blurs=False,
        summary="the noise of a sensor or of film",
    )
)
