"""Mattes by a drawn shape: for fencing off, not for tracing."""

from functools import lru_cache
from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BeforeValidator, Field, model_validator

from ..document.parameters import number
from ..document.timing import Animated, Keys, Number
from ..kernels.outlines import filled
from ..picture import Picture, Window
from ..plan.steps import Planner, Step, content_key
from .base import MATTES, MatteKind, MatteParams

Points = NDArray[np.float64]
PIECES = 16  # straight pieces of a curve between two points
ROUND = 256  # straight pieces of an ellipse


def _in_pairs(value: Any) -> Any:
    if isinstance(value, list | tuple) and (len(value) < 4 or len(value) % 2):
        raise ValueError("expected x and y of at least two points")
    return value


Outline = Annotated[tuple[float, ...], BeforeValidator(_in_pairs), Animated()]


class ShapeMatte(MatteParams):
    """A polygon, a curve through points, or an ellipse (its centre, then its two radii), in pixels of the full-size frame."""

    kind: Literal["shape"]
    form: Literal["polygon", "curve", "ellipse"] = "polygon"
    points: Outline = Field(title="Points", description="x and y of each point in turn; keyed as a whole")
    turn: Number = number(0.0, "Turn", unit="°", low=-3600, high=3600, soft=(-180, 180), step=1, formula="about the middle, counter-clockwise")

    @model_validator(mode="after")
    def _enough(self) -> "ShapeMatte":
        values = [key[1] for key in self.points.keys] if isinstance(self.points, Keys) else [self.points]
        if len({len(value) for value in values}) != 1:
            raise ValueError("expected as many points at every key")
        if self.form == "ellipse" and len(values[0]) != 4:
            raise ValueError("expected the centre and the two radii of an ellipse")
        if self.form != "ellipse" and len(values[0]) < 6:
            raise ValueError("expected at least three points")
        return self


def outline(form: str, values: tuple[float, ...], turn_deg: float) -> Points:
    """Corners `[n, 2]` of a shape, turned counter-clockwise as seen on the screen."""
    points = np.array(values, np.float64).reshape(-1, 2)
    if form == "ellipse":
        # with as much area as the ellipse itself: a polygon inscribed in it would lose a little
        step = 2 * np.pi / ROUND
        grown = np.sqrt(step / np.sin(step))
        angle = np.arange(ROUND) * step
        points = points[0] + points[1] * grown * np.column_stack([np.cos(angle), np.sin(angle)])
        middle = np.array(values[:2])
    else:
        middle = points.mean(axis=0)
        if form == "curve":
            points = through(points)
    if turn_deg:
        cos, sin = np.cos(np.radians(turn_deg)), np.sin(np.radians(turn_deg))
        points = (points - middle) @ np.array([[cos, -sin], [sin, cos]]) + middle
    return points


def through(points: Points) -> Points:
    """A closed curve through points, in straight pieces (E. Catmull and R. Rom, A class of local interpolating splines, 1974)."""
    p0, p1, p2, p3 = np.roll(points, 1, axis=0), points, np.roll(points, -1, axis=0), np.roll(points, -2, axis=0)
    t = (np.arange(PIECES) / PIECES)[None, :, None]
    a, b, c, d = (p[:, None, :] for p in (p0, p1, p2, p3))
    curve = 0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t**2 + (3 * b - a - 3 * c + d) * t**3)
    return np.asarray(curve.reshape(-1, 2))


@lru_cache(maxsize=8)
def _coverage(form: str, values: tuple[float, ...], turn_deg: float, box: tuple[int, int, int, int]) -> NDArray[np.float32]:
    """The whole shape at once, so that every window of it is the same bit for bit."""
    return filled(outline(form, values, turn_deg) - box[:2], box[2] - box[0], box[3] - box[1])


def _planes(planner: Planner, params: ShapeMatte, matte_id: str) -> Step:
    values = tuple(float(value) for value in params.points)
    corners = outline(params.form, values, params.turn)
    low, high = np.floor(corners.min(axis=0)), np.ceil(corners.max(axis=0))
    box = Window(int(low[0]), int(low[1]), int(high[0]), int(high[1])).intersect(planner.display.grown(max(planner.display.width, 64)))

    def run(window: Window, _: tuple[Picture, ...]) -> Picture:
        whole = _coverage(params.form, values, params.turn, (box.x0, box.y0, box.x1, box.y1))
        m = Picture(whole[..., None], box).crop(window).pixels
        return Picture(np.concatenate([m, m, np.ones_like(m)], axis=2), window)

    key = content_key("shape 1", [params.form, values, params.turn, box], ())
    return Step(key, "shape", box, 3, (), lambda _: (), run, where=planner.where)


MATTES.register(MatteKind("shape", "Shape", ShapeMatte, _planes, lambda _: (), lambda _: ()))
