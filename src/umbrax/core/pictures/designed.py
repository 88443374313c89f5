"""Designed pictures: a solid colour, and a gradient."""

from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..document.parameters import Parameters, colour, number
from ..document.timing import Colour, Number, Point
from ..picture import Picture, Window
from ..plan.steps import Planner, Step, content_key
from .base import PICTURES, PictureKind, PictureParams


class SolidPicture(PictureParams):
    """One colour all over, without an end."""

    kind: Literal["solid"]
    colour: Colour = colour((0.18, 0.18, 0.18), "Colour")
    alpha: Number = number(1.0, "Alpha", low=0, high=1)


class Stop(Parameters):
    """A colour at a place along a gradient, 0 at its start and 1 at its end."""

    at: Number = number(0.0, "At", low=0, high=1)
    colour: Colour = colour((0.0, 0.0, 0.0), "Colour")
    alpha: Number = number(1.0, "Alpha", low=0, high=1)


class GradientPicture(PictureParams):
    """Colours between stops, mixed in linear light; points in pixels of the frame. `bands` posterises on purpose."""

    kind: Literal["gradient"]
    shape: Literal["linear", "radial", "angular"] = "linear"
    start: Point = Field((0.0, 0.0), title="Start")
    end: Point = Field((0.0, 720.0), title="End")
    stops: tuple[Stop, ...] = Field((Stop(at=0.0), Stop(at=1.0, colour=(1.0, 1.0, 1.0))), min_length=1, json_schema_extra={"always": True})
    bands: int = Field(0, ge=0, le=256, title="Bands", description="0 for none")


def _solid(planner: Planner, params: SolidPicture, scale: int, join: str) -> Step:
    value = np.array([*(np.array(params.colour) * params.alpha), params.alpha], np.float32)

    def run(window: Window, _: tuple[Picture, ...]) -> Picture:
        return Picture(np.tile(value, (window.height, window.width, 1)), window, "extend")

    key = content_key("solid 1", [value.tolist(), planner.seen], ())
    return Step(key, "solid", planner.seen.scaled(scale), 4, (), lambda _: (), run, "extend", planner.where)


def _way(params: GradientPicture, x: NDArray[Any], y: NDArray[Any]) -> NDArray[np.float64]:
    """How far along the gradient a point lies, 0 to 1."""
    (x0, y0), (x1, y1) = params.start, params.end
    dx, dy = x1 - x0, y1 - y0
    length = float(np.hypot(dx, dy)) or 1.0
    if params.shape == "linear":
        way = ((x - x0) * dx + (y - y0) * dy) / length**2
    elif params.shape == "radial":
        way = np.hypot(x - x0, y - y0) / length
    else:
        # counter-clockwise on the screen, where y points down
        turn = np.arctan2(-(y - y0), x - x0) - np.arctan2(-dy, dx)
        way = (turn / (2 * np.pi)) % 1.0
    if params.bands:
        way = np.floor(np.clip(way, 0, 1 - 1e-9) * params.bands) / max(1, params.bands - 1)
    return np.clip(way, 0, 1)


def _gradient(planner: Planner, params: GradientPicture, scale: int, join: str) -> Step:
    stops = sorted(params.stops, key=lambda stop: stop.at)
    at = [stop.at for stop in stops]
    columns = [[stop.colour[c] * stop.alpha for stop in stops] for c in range(3)] + [[stop.alpha for stop in stops]]

    def run(window: Window, _: tuple[Picture, ...]) -> Picture:
        y, x = np.mgrid[window.y0 : window.y1, window.x0 : window.x1]
        way = _way(params, (x + 0.5) * scale, (y + 0.5) * scale)
        pixels = np.stack([np.interp(way, at, column) for column in columns], axis=2)
        return Picture(pixels.astype(np.float32), window, "extend")

    key = content_key("gradient 1", [params.model_dump(mode="json"), planner.seen, scale], ())
    return Step(key, "gradient", planner.seen.scaled(scale), 4, (), lambda _: (), run, "extend", planner.where)


PICTURES.register(PictureKind("solid", "Solid", SolidPicture, _solid, lambda _: ()))
PICTURES.register(PictureKind("gradient", "Gradient", GradientPicture, _gradient, lambda _: ()))
