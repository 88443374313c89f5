"""Edge: an element's alpha grown or choked, and feathered."""

import math
from typing import Literal

import numpy as np

from ..document.parameters import number
from ..document.timing import Number
from ..kernels.blur import reach as blur_reach
from ..kernels.finishing import with_edge
from ..mattes.base import Refine
from ..mattes.refining import reach as refined_reach
from ..mattes.refining import refine_planes
from ..picture import Picture, Window
from .base import TREATMENTS, USUAL_TOLERANCE, ThroughParams, Treatment, alpha_in, of_frame
from .soften import softened


class EdgeParams(ThroughParams):
    """The alpha moved by the distance to its contour; where it grows, the colours of the rim go on."""

    kind: Literal["edge"]
    grow: Number = number(0.0, "Grow", unit="px", low=-200, high=200, soft=(-10, 10), step=0.1, formula="+ spreads outward, - chokes")
    feather: Number = number(0.0, "Feather", unit="px", low=0, high=400, soft=(0, 40), step=0.1, formula="full width of the ramp")


def _refine(params: EdgeParams, scale: int) -> Refine:
    return Refine(grow=params.grow / scale, feather=params.feather / scale)


def _spread(params: EdgeParams, scale: int) -> float:
    """How far colours go on: sigma of the blur that carries them."""
    return max(0.7, (max(params.grow, 0) + params.feather / 2) / scale / 2)


def apply(params: EdgeParams, own: Picture, window: Window, scale: int, *, display: Window) -> Picture:
    around = refined_reach(_refine(params, scale))
    near = window.grown(around)
    plane = alpha_in(own, display, scale).crop(near).pixels
    planes = np.concatenate([plane, plane, np.ones_like(plane)], axis=2)
    moved = refine_planes(planes, _refine(params, scale), (near.x0, near.y0))[..., :1]
    alpha = Picture(moved, near).crop(window).pixels
    beyond = softened(own, window, _spread(params, scale), _spread(params, scale)).pixels
    return Picture(with_edge(own.crop(window).pixels, beyond, alpha), window, own.edge)


def reach(params: EdgeParams, scale: int) -> int:
    return max(refined_reach(_refine(params, scale)), blur_reach(_spread(params, scale)), math.ceil(4 * _spread(params, scale)))


TREATMENTS.register(
    Treatment(
        "edge",
        "Edge",
        "spatial",
        EdgeParams,
        2,
        apply,
        lambda params: params.grow == 0 and params.feather == 0,
        reach,
        USUAL_TOLERANCE,
        made_at=lambda params, scale: 1,
        elements_only=True,
        knows=of_frame,
        summary="the alpha grown or choked, and feathered",
    )
)
