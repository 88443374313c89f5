"""Vignette: the picture gets darker, or brighter, away from a point."""

from typing import Literal

import numpy as np
from pydantic import Field

from ..document.camera import middle_of
from ..document.parameters import number
from ..document.timing import Number, Point
from ..kernels.finishing import vignetted
from ..picture import Picture, Window
from .base import TREATMENTS, USUAL_TOLERANCE, ThroughParams, Treatment, of_frame


class VignetteParams(ThroughParams):
    """c (1 - strength s), s rising smoothly from 0 at `size` to 1 at `size + softness` half diagonals of the frame from the centre."""

    kind: Literal["vignette"]
    strength: Number = number(0.35, "Strength", low=-10, high=1, soft=(-1, 1), formula="c (1 - strength s); below 0 brighter")
    size: Number = number(0.45, "Size", low=0, high=10, soft=(0, 1.5), formula="in half diagonals, where it begins")
    softness: Number = number(0.8, "Softness", low=0.001, high=10, soft=(0.05, 2), formula="t = (r - size) / softness; s = t^2 (3 - 2 t)")
    aspect: Number = number(1.0, "Aspect", low=0.05, high=20, soft=(0.3, 3), formula="r = hypot(x / aspect, y)")
    centre: Point | None = Field(None, title="Centre", description="the middle of the frame without one", json_schema_extra={"widget": "place"})


def apply(params: VignetteParams, own: Picture, window: Window, scale: int, *, display: Window) -> Picture:
    across, down = middle_of(params.centre, display)
    unit = np.hypot(display.width, display.height) / 2
    x = ((np.arange(window.x0, window.x1) + 0.5) * scale - across) / (unit * params.aspect)
    y = ((np.arange(window.y0, window.y1) + 0.5) * scale - down) / unit
    given = own.crop(window).pixels
    return Picture(vignetted(given, x, y, params.strength, params.size, params.softness), window, own.edge)


TREATMENTS.register(
    Treatment(
        "vignette",
        "Vignette",
        "spatial",
        VignetteParams,
        1,
        apply,
        lambda params: params.strength == 0,
        lambda params, scale: 0,
        USUAL_TOLERANCE,
        grows=False,
        knows=of_frame,
        summary="darker, or brighter, away from a point",
    )
)
