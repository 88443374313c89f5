"""Lens reflections: soft discs of light where the surfaces of a lens throw what is bright back through its centre.

Copy i of n of a lamp at p stands at c + k (c - p), c the optical centre and k = spread i / n: a reflection in the elements of a lens goes
through its centre (common practice). Its radius is size (1 + i / n) / 2. All copies of a point together hold its light.
"""

import math
from typing import Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..document.camera import middle_of, optical_centre
from ..document.parameters import number
from ..document.timing import Number, Point
from ..kernels.ghosts import mirrored
from ..kernels.points import points_of
from ..picture import Picture, Window
from ..plan.placed import resampled
from ..plan.placement import Placement
from .base import ANYWHERE, TREATMENTS, USUAL_TOLERANCE, Around, AtTouch, OfCamera, SpreadParams, Treatment, finer_for

FURTHEST = 8192  # full-size pixels past what is fed that a copy is kept
SHARPEST = 0.05  # of its radius over which a disc ends at least


class ReflectionParams(OfCamera, SpreadParams):
    """Copies of what is bright, mirrored at the optical centre."""

    kind: Literal["reflections"]
    count: int = Field(5, ge=1, le=24, title="Count", json_schema_extra={"soft": [1, 12], "step": 1})
    spread: Number = number(1.0, "Spread", low=-4, high=4, soft=(0, 2), formula="k of the last copy, at c + k (c - p)")
    size: Number = number(
        30.0, "Size", unit="px", low=1, high=1000, soft=(2, 150), step=0.5, formula="radius of the last copy; of the first half as much"
    )
    softness: Number = number(0.3, "Softness", low=0, high=1, formula="of the radius over which a disc ends")
    dispersion: Number = number(
        0.02, "Colour spread", low=0, high=0.5, soft=(0, 0.1), formula="red at k (1 - dispersion), blue at k (1 + dispersion)"
    )
    centre: Point | None = optical_centre()


def disc(radius: float, edge: float) -> NDArray[np.float32]:
    """A disc that falls from 1 to 0 over `edge` pixels about its radius, its sum 1."""
    reach = math.ceil(radius + edge / 2)
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    flat = np.clip((radius + edge / 2 - np.hypot(x, y)) / max(edge, 1e-6), 0, 1)
    return np.asarray(flat / flat.sum(), np.float32)


def apply(params: ReflectionParams, own: Picture, window: Window, scale: int, *, centre: tuple[float, float]) -> Picture:
    """All copies of a plane of light on a window; outside the plane is darkness."""
    out = np.zeros((window.height, window.width, 3), np.float32)
    points, middle = points_of(own.pixels, own.window), (centre[0] / scale, centre[1] / scale)
    if not points.light.size:
        return Picture(out, window)
    for copy in range(1, params.count + 1):
        radius = params.size / scale * (1 + copy / params.count) / 2
        edge = max(radius * max(params.softness, SHARPEST), 1.0)
        # a grid on which the disc's edge takes three pixels at least: between them it is straight
        step = 1 << max(0, math.floor(math.log2(edge / 3))) if edge >= 3 else 1
        k = params.spread * copy / params.count
        grid, at = mirrored(points, middle, (k * (1 - params.dispersion), k, k * (1 + params.dispersion)), step)
        shape = disc(radius / step, edge / step)
        reach = shape.shape[0] // 2
        wide = cv2.filter2D(np.pad(grid, ((reach, reach), (reach, reach), (0, 0))), -1, shape, borderType=cv2.BORDER_CONSTANT)
        copied = Picture(wide / np.float32(step * step * params.count), at.grown(reach))
        seen = copied.window.magnified(step).grown(step).intersect(window)
        if not seen.empty:
            part = out[seen.y0 - window.y0 : seen.y1 - window.y0, seen.x0 - window.x0 : seen.x1 - window.x0]
            part += resampled(copied, Placement(step, 0, 0, 0, step, 0, "bilinear"), seen)
    return Picture(np.maximum(out, 0), window)


def _centre(params: ReflectionParams, around: Around) -> dict[str, Any]:
    return {"centre": middle_of(params.centre, around.display)}


TREATMENTS.register(
    Treatment(
        "reflections",
        "Lens reflections",
        "light",
        ReflectionParams,
        1,
        apply,
        lambda params: False,
        lambda params, scale: ANYWHERE,
        USUAL_TOLERANCE,
        knows=_centre,
        of_camera={"centre": "centre"},
        extent=lambda params, scale: FURTHEST // scale,
        made_at=lambda params, scale: finer_for(params.size * max(params.softness, SHARPEST) / 2, scale),
        matte_key="feed",
        touch=AtTouch("light", "e", 4, {"threshold": 0.0, "size": 26.0, "amount": 1.5}),
        summary="copies of what is bright, mirrored at the optical centre",
    )
)
