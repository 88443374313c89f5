"""Colour fringe: a lens that does not magnify all colours alike (lateral chromatic aberration)."""

import math
from typing import Literal

from ..document.camera import middle_of, optical_centre
from ..document.parameters import number
from ..document.timing import Number, Point
from ..kernels.finishing import colours_of_three
from ..picture import Picture, Pixels, Window
from ..plan.placed import resampled
from ..plan.placement import Placement
from .base import TREATMENTS, USUAL_TOLERANCE, OfCamera, ThroughParams, Treatment, of_frame

MOST = 0.5  # by which a colour is magnified: of a frame of a few pixels nothing would be left
FARTHEST = 4.0  # half diagonals from the centre up to which nothing is missing


class FringeParams(OfCamera, ThroughParams):
    """Red is magnified about the centre by 1 + s, blue by 1 - s; s x (half the diagonal) = size, at most half. Alpha is that of all three."""

    kind: Literal["fringe"]
    size: Number = number(2.0, "Size", unit="px", low=-100, high=100, soft=(0, 10), step=0.1, formula="outward for red, at the frame's corner")
    centre: Point | None = optical_centre()


def apply(params: FringeParams, own: Picture, window: Window, scale: int, *, display: Window) -> Picture:
    across, down = middle_of(params.centre, display)
    part = min(max(params.size / (math.hypot(display.width, display.height) / 2), -MOST), MOST)

    def magnified(k: float) -> Pixels:
        way = Placement(k, 0, across / scale * (1 - k), 0, k, down / scale * (1 - k), "cubic")
        return resampled(own, way, window)

    made = colours_of_three(magnified(1 + part), own.crop(window).pixels, magnified(1 - part))
    return Picture(made, window, own.edge)


TREATMENTS.register(
    Treatment(
        "fringe",
        "Colour fringe",
        "spatial",
        FringeParams,
        1,
        apply,
        lambda params: params.size == 0,
        lambda params, scale: math.ceil(FARTHEST * abs(params.size) / scale) + 3,
        USUAL_TOLERANCE,
        knows=of_frame,
        of_camera={"size": "fringe", "centre": "centre"},
        made_at=lambda params, scale: max(1, scale // 2),
        summary="a lens that does not magnify all colours alike",
    )
)
