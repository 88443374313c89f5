"""Designed pictures: a solid colour, and a gradient."""

from typing import Literal

import numpy as np
from pydantic import Field

from ..document.parameters import Parameters, colour, number
from ..document.timing import Colour, Number, Point
from ..kernels.gradients import between_stops
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


def _gradient(planner: Planner, params: GradientPicture, scale: int, join: str) -> Step:
    stops = sorted(params.stops, key=lambda stop: stop.at)
    at = np.array([stop.at for stop in stops])
    colours = np.array([[*(value * stop.alpha for value in stop.colour), stop.alpha] for stop in stops])

    def run(window: Window, _: tuple[Picture, ...]) -> Picture:
        xs, ys = (np.arange(window.x0, window.x1) + 0.5) * scale, (np.arange(window.y0, window.y1) + 0.5) * scale
        pixels = between_stops(params.shape, (*params.start, *params.end), params.bands, at, colours, xs, ys)
        return Picture(pixels, window, "extend")

    key = content_key("gradient 1", [params.model_dump(mode="json"), planner.seen, scale], ())
    return Step(key, "gradient", planner.seen.scaled(scale), 4, (), lambda _: (), run, "extend", planner.where)


PICTURES.register(PictureKind("solid", "Solid", SolidPicture, _solid, lambda _: ()))
PICTURES.register(PictureKind("gradient", "Gradient", GradientPicture, _gradient, lambda _: ()))
