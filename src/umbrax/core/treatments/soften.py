"""Soften: a Gaussian blur in scene-linear light, with an aspect."""

import math
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ..document.parameters import number
from ..document.timing import Number
from ..kernels.blur import gaussian, reach
from ..picture import Picture, Window
from .base import TREATMENTS, USUAL_TOLERANCE, AtTouch, ThroughParams, Treatment, finer_for

LEAST_SIGMA = 0.25  # pixels, where rows have each their own
STEP = math.sqrt(2)  # from one sigma of rows to the next
AT_A_HALF = 1.0  # pixels of sigma from which a half is blurred as it is: of what it shows that is too fine a tenth is left


class SoftenParams(ThroughParams):
    """Blur; a full-frame plate keeps its brightness at the border."""

    kind: Literal["soften"]
    size: Number = number(4.0, "Size", unit="px", low=0, high=1000, soft=(0, 60), step=0.1, formula="sigma of exp(-x^2 / (2 size^2))")
    aspect: Number = number(1.0, "Aspect", low=0.01, high=100, soft=(0.2, 5), formula="size x aspect across, size down")


def sigmas(params: SoftenParams, scale: int) -> tuple[float, float]:
    return params.size * params.aspect / scale, params.size / scale


def softened(own: Picture, window: Window, sigma_x: float, sigma_y: float) -> Picture:
    """A picture of any number of channels, blurred; what stands outside it is its edge. Sigmas in its own pixels."""
    near = own.window.intersect(window.grown(max(reach(sigma_x), reach(sigma_y))))
    if near.empty:
        return Picture(own.crop(window).pixels, window, own.edge)
    out = (window.x0, window.y0, window.x1, window.y1)
    pixels = own.crop(near).pixels
    # "one" outside: blur the darkness instead, outside of which stands 0
    source = np.float32(1) - pixels if own.edge == "one" else pixels
    blurred = gaussian(source, sigma_x, sigma_y, (near.x0, near.y0), out, own.edge == "extend")
    return Picture(np.float32(1) - blurred if own.edge == "one" else blurred, window, own.edge)


def softened_by_rows(plane: Picture, window: Window, sigmas: NDArray[np.float64]) -> NDArray[np.float32]:
    """A plane softened by another sigma in each row: mixed of those of the two nearest of some that lie `STEP` apart, so that its variance is
    the row's."""
    out = np.zeros((window.height, window.width, 1), np.float32)
    below = np.where(sigmas < LEAST_SIGMA, 0, 1 + np.floor(np.log(np.maximum(sigmas, LEAST_SIGMA) / LEAST_SIGMA) / math.log(STEP))).astype(int)
    lower, upper = _step(below), _step(below + 1)
    share = (sigmas**2 - lower**2) / (upper**2 - lower**2)
    for one in range(below.min(), below.max() + 2):
        weights = np.where(below == one, 1 - share, np.where(below == one - 1, share, 0)).astype(np.float32)
        if not weights.any():
            continue
        first, last = np.flatnonzero(weights)[[0, -1]].tolist()
        band = Window(window.x0, window.y0 + first, window.x1, window.y0 + last + 1)
        sigma = float(_step(np.array(one)))
        out[first : last + 1] += weights[first : last + 1, None, None] * softened(plane, band, sigma, sigma).pixels
    return out


def reach_by_rows(most: float) -> int:
    """As far as that looks around a pixel, for sigmas of `most` and less."""
    return reach(max(LEAST_SIGMA, most * STEP))


def _step(number: NDArray[Any]) -> NDArray[np.float64]:
    """0, and then the sigmas that are softened by."""
    return np.where(number == 0, 0.0, LEAST_SIGMA * STEP ** (number - 1.0))


def apply(params: SoftenParams, own: Picture, window: Window, scale: int) -> Picture:
    return softened(own, window, *sigmas(params, scale))


TREATMENTS.register(
    Treatment(
        "soften",
        "Soften",
        "spatial",
        SoftenParams,
        1,
        apply,
        lambda params: params.size == 0,
        lambda params, scale: max(reach(sigma) for sigma in sigmas(params, scale)),
        USUAL_TOLERANCE,
        made_at=lambda params, scale: finer_for(min(params.size, params.size * params.aspect), scale, AT_A_HALF),
        aliases=("blur",),
        touch=AtTouch("lens", "s", 1, {"size": 6.0}),
        summary="Gaussian blur",
    )
)
