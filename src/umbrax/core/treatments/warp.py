"""Lens warp: straight lines bent outward or inward, as a lens bends them, or bent back."""

import math
from typing import Literal

import numpy as np

from ..document.camera import middle_of, optical_centre
from ..document.parameters import number
from ..document.timing import Number, Point
from ..kernels import blank, ready
from ..kernels.warping import bend
from ..picture import Picture, Window
from .base import TREATMENTS, USUAL_TOLERANCE, OfCamera, ThroughParams, Treatment, of_frame

FARTHEST = 1.5  # half diagonals from the centre up to which nothing is missing
LARGEST = 2300  # half a diagonal of 4096 x 2160


class WarpParams(OfCamera, ThroughParams):
    """out(c + p) = in(c + p (1 + k1 r^2 + k2 r^4)), r = 1 at the frame's corner: above 0 like a barrel, below like a cushion."""

    kind: Literal["warp"]
    k1: Number = number(0.05, "Bend", low=-1, high=1, soft=(-0.3, 0.3), step=0.005, formula="k1, of r^2")
    k2: Number = number(0.0, "Bend far out", low=-1, high=1, soft=(-0.3, 0.3), step=0.005, formula="k2, of r^4")
    centre: Point | None = optical_centre()


def apply(params: WarpParams, own: Picture, window: Window, scale: int, *, display: Window) -> Picture:
    across, down = middle_of(params.centre, display)
    out = blank(window.height, window.width, 4)
    if own.window.empty:
        out[:] = 0
        return Picture(out, window, own.edge)
    unit = math.hypot(display.width, display.height) / 2 / scale
    rows, left, top = ready(own.pixels).reshape(own.window.height, -1), window.x0 - own.window.x0, window.y0 - own.window.y0
    middle = (across / scale - window.x0, down / scale - window.y0)
    bend(rows, float(left), float(top), *middle, unit, float(params.k1), float(params.k2), own.edge == "extend", out)
    return Picture(out, window, own.edge)


def _reach(params: WarpParams, scale: int) -> int:
    """How far a pixel comes from, at most; of a frame of the largest usual size, since how large it is is not known here."""
    r = np.linspace(0, FARTHEST, 17)
    most = float(np.abs(r * (params.k1 * r**2 + params.k2 * r**4)).max())
    return math.ceil(most * LARGEST / scale) + 3


TREATMENTS.register(
    Treatment(
        "warp",
        "Lens warp",
        "spatial",
        WarpParams,
        1,
        apply,
        lambda params: params.k1 == 0 and params.k2 == 0,
        _reach,
        USUAL_TOLERANCE,
        knows=of_frame,
        of_camera={"centre": "centre"},
        made_at=lambda params, scale: max(1, scale // 2),
        summary="straight lines bent as a lens bends them",
    )
)
