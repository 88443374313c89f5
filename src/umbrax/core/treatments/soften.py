"""Soften: a Gaussian blur in scene-linear light, with an aspect."""

from typing import Literal

import numpy as np

from ..document.parameters import number
from ..document.timing import Number
from ..kernels.blur import gaussian, reach
from ..picture import Picture, Window
from .base import TREATMENTS, USUAL_TOLERANCE, AtTouch, ThroughParams, Treatment, finer_for

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
