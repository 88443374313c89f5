"""Designed pictures without an end: a solid colour, a gradient, and clouds."""

from typing import Literal

import numpy as np
from pydantic import Field

from ..document.parameters import Parameters, colour, number
from ..document.timing import Colour, Number, Point
from ..kernels.clouds import clouds
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


class NoisePicture(PictureParams):
    """Clouds of one colour, as haze or smoke: alpha rises from 0 at `low` to `density` at `high` of a smooth noise around 0.5."""

    kind: Literal["noise"]
    colour: Colour = colour((0.5, 0.52, 0.56), "Colour")
    density: Number = number(0.6, "Density", low=0, high=1, formula="alpha of the thickest")
    size: Number = number(240.0, "Size", unit="px", low=1, high=10000, soft=(10, 1000), step=1, formula="of the largest clouds")
    stretch: Number = number(2.0, "Stretch", low=0.05, high=20, soft=(0.5, 6), formula="wider than high by this")
    octaves: int = Field(5, ge=1, le=10, title="Detail", json_schema_extra={"soft": [1, 8], "step": 1})
    roughness: Number = number(0.5, "Roughness", low=0, high=1, formula="each finer octave weighs this much of the one before")
    low: Number = number(0.35, "Low", low=-1, high=2, soft=(0, 1))
    high: Number = number(0.75, "High", low=-1, high=2, soft=(0, 1))
    evolve: Number = number(0.0, "Evolve", low=-1e6, high=1e6, soft=(0, 10), formula="key it, and the clouds change")
    drift: Point = Field((0.0, 0.0), title="Drift", json_schema_extra={"widget": "way", "unit": "px", "soft": [-500, 500], "step": 1})
    seed: int = Field(1, ge=0, le=2**31 - 1, title="Seed", json_schema_extra={"soft": [1, 100], "step": 1})


def _noise(planner: Planner, params: NoisePicture, scale: int, join: str) -> Step:
    def run(window: Window, _: tuple[Picture, ...]) -> Picture:
        size = params.size
        xs = ((np.arange(window.x0, window.x1) + 0.5) * scale - params.drift[0]) / (size * params.stretch)
        ys = ((np.arange(window.y0, window.y1) + 0.5) * scale - params.drift[1]) / size
        value = clouds(xs, ys, params.evolve, params.seed, params.octaves, params.roughness) * np.float32(0.5) + np.float32(0.5)
        t = np.clip((value - params.low) / max(params.high - params.low, 1e-4), 0, 1)
        alpha = (t * t * (3 - 2 * t) * params.density).astype(np.float32)[..., None]
        return Picture(np.concatenate([alpha * np.array(params.colour, np.float32), alpha], axis=2), window, "extend")

    key = content_key("noise 1", [params.model_dump(mode="json"), planner.seen, scale], ())
    return Step(key, "noise", planner.seen.scaled(scale), 4, (), lambda _: (), run, "extend", planner.where)


PICTURES.register(PictureKind("noise", "Noise", NoisePicture, _noise, lambda _: ()))
PICTURES.register(PictureKind("solid", "Solid", SolidPicture, _solid, lambda _: ()))
PICTURES.register(PictureKind("gradient", "Gradient", GradientPicture, _gradient, lambda _: ()))
