"""Lens reflections: soft discs of light where the surfaces of a lens throw what is bright back through its centre.

Copy i of n of a lamp at p stands at c + k (c - p), c the optical centre and k = spread i / n: a reflection in the elements of a lens goes
through its centre (common practice). Its radius is size (1 + i / n) / 2. All copies of a point together hold its light, before they are
tinted and faded.
"""

import math
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..document.camera import middle_of, optical_centre
from ..document.parameters import colour, number
from ..document.timing import Colour, Number, Point
from ..kernels.ghosts import Copy, reflected
from ..kernels.points import points_once
from ..picture import Picture, Window, nothing
from .base import ANYWHERE, TREATMENTS, USUAL_TOLERANCE, Around, AtTouch, OfCamera, SpreadParams, Treatment, finer_for
from .drawn_light import light_from

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
    first_tint: Colour = colour((1.0, 1.0, 1.0), "Tint, first", formula="of the copy next to the centre; of those between, in even steps")
    last_tint: Colour = colour((1.0, 1.0, 1.0), "Tint, last", formula="of the last copy")
    fade: Number = number(
        0.0, "Fade to the edge", low=0, high=1, formula="1 - fade x^2 (3 - 2 x) of a copy is left, x its distance from c in half diagonals"
    )
    centre: Point | None = optical_centre()


def disc(radius: float, edge: float) -> NDArray[np.float32]:
    """A disc that falls from 1 to 0 over `edge` pixels about its radius, its sum 1."""
    reach = math.ceil(radius + edge / 2)
    squares = np.arange(-reach, reach + 1) ** 2
    flat = np.clip((radius + edge / 2 - np.sqrt(np.add.outer(squares, squares))) / max(edge, 1e-6), 0, 1)
    return np.asarray(flat / flat.sum(), np.float32)


def tint_of(params: ReflectionParams, copy: int) -> NDArray[np.float32]:
    """The tint of a copy, counted from 1."""
    along = 0.0 if params.count == 1 else (copy - 1) / (params.count - 1)
    return np.array([(1 - along) * a + along * b for a, b in zip(params.first_tint, params.last_tint, strict=True)], np.float32)


def apply(
    params: ReflectionParams, own: Picture, window: Window, scale: int, *, centre: tuple[float, float], half_diagonal: float
) -> Picture:  # fmt: skip
    """All copies of a plane of light on a window; outside the plane is darkness."""
    points, middle = points_once(own), (centre[0] / scale, centre[1] / scale)
    if not points.light.size:
        return nothing(window, 3)
    copies = [_copy(params, number, scale) for number in range(1, params.count + 1)]
    return light_from(reflected(points, middle, copies, params.fade, half_diagonal / scale, window), window)


def _copy(params: ReflectionParams, number: int, scale: int) -> Copy:
    """One of the copies, counted from 1."""
    radius = params.size / scale * (1 + number / params.count) / 2
    edge = max(radius * max(params.softness, SHARPEST), 1.0)
    # a grid on which the disc's edge takes three pixels at least: between them it is straight
    step = max(1, math.floor(edge / 3))
    k = params.spread * number / params.count
    factors = (k * (1 - params.dispersion), k, k * (1 + params.dispersion))
    return Copy(factors, step, disc(radius / step, edge / step), tint_of(params, number) / np.float32(params.count * step * step))


def _centre(params: ReflectionParams, around: Around) -> dict[str, Any]:
    return {"centre": middle_of(params.centre, around.display), "half_diagonal": math.hypot(around.display.width, around.display.height) / 2}


TREATMENTS.register(
    Treatment(
        "reflections",
        "Lens reflections",
        "light",
        ReflectionParams,
        2,
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
