"""Defocus: what is not at the depth that is sharp is spread as a lens spreads it, behind and in front of what is sharp."""

import math
from dataclasses import replace
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..document.camera import focal_length, focus, scene_unit, sensor_width, stop
from ..document.parameters import choice, number
from ..document.timing import Number
from ..kernels.edge_light import TOLD_WITHIN, told_by_light
from ..kernels.radii import radii
from ..lens.apertures import aperture
from ..lens.behind import FARTHER, LEAST
from ..lens.focusing import JUST_BEYOND, beyond_everything, spread_by
from ..lens.spreading import spread_through
from ..picture import Picture, Window
from ..pictures.data_values import NOTHING
from ..plan.steps import Step
from .base import TREATMENTS, USUAL_TOLERANCE, Around, AtTouch, OfCamera, ThroughParams, Treatment, finer_for, of_frame

NEAR_COLOUR, FAR_COLOUR = (1.0, 0.42, 0.10), (0.10, 0.36, 1.0)  # as what is not in focus is looked at
SHARPEST, FULL, MOST = 0.5, 3.0, 0.75  # pixels of radius from which it is coloured, over how many more it becomes so, and how much
USUAL_WIDTH = 1920  # of a frame, where how finely it is previewed depends on it


class DefocusParams(OfCamera, ThroughParams):
    """Radius r = radius (d - s) / d, nearer things at most `radius`; of a thin lens r = A f (d - s) / (2 d (s - f)), A = f / N.

    What is behind a blurred thing shows through its rim, and a sharp one keeps its edge.
    """

    kind: Literal["defocus"]
    mode: Literal["lens", "radius", "uniform"] = choice("radius", "Mode", "a real lens, a radius of what is far, or the same everywhere")
    focus: Number = focus()
    radius: Number = number(
        12.0,
        "Radius",
        unit="px",
        low=0,
        high=500,
        soft=(0, 40),
        step=0.25,
        formula="of the disc that a point becomes",
    )
    f_stop: Number = stop()
    focal_mm: Number = focal_length()
    sensor_mm: Number = sensor_width()
    unit_m: Number = scene_unit()
    most: Number = number(100.0, "At most", unit="px", low=0, high=500, soft=(0, 200), step=1, formula="radius, whatever a lens gives")
    blades: int = Field(
        0, ge=0, le=16, title="Blades", json_schema_extra={"soft": [0, 9], "step": 1}, description="corners of a disc; less than 3: round"
    )
    turn: Number = number(0.0, "Turn", unit="°", low=-360, high=360, soft=(-90, 90), step=1, formula="of the blades, counter-clockwise")
    squeeze: Number = number(1.0, "Squeeze", low=0.25, high=4, soft=(0.5, 2), formula="width of a disc / its height")
    rim: Number = number(0.0, "Bright rim", low=0, high=10, soft=(0, 2), formula="1 + rim times the light beyond 0.8 of the radius")
    depth: str = Field("depth", min_length=1, title="Depth", description="the pass, by name or kind")


def apply(params: DefocusParams, own: Picture, window: Window, scale: int, *, display: Window, depth: Picture | None = None) -> Picture:
    if own.window.empty:
        return own.crop(window)
    radius = _radius(params, own, display, scale, depth)
    shape = aperture(float(np.abs(radius).max()), params.blades, params.turn, params.squeeze)
    spread = spread_through(own, radius, shape, params.squeeze, params.rim, own.goes_on(display.scaled(scale)))
    return Picture(spread.crop(window).pixels, window, own.edge)


def shown_focus(params: DefocusParams, own: Picture, window: Window, scale: int, *, display: Window, depth: Picture | None = None) -> Picture:
    """For looking: what is spread by more than half a pixel, nearer and farther than what is sharp, in a colour each."""
    if own.window.empty:
        return own.crop(window)
    radius = _radius(params, own, display, scale, depth)[..., None] * scale
    light = own.pixels.copy()
    for colour, blur in ((NEAR_COLOUR, -radius), (FAR_COLOUR, radius)):
        part = np.clip((blur - SHARPEST) / FULL, 0, 1) * MOST
        light[..., :3] += (
            np.array(colour, np.float32) * light[..., 3:] * (0.15 + light[..., :3].mean(axis=2, keepdims=True)) - light[..., :3]
        ) * part
    return Picture(Picture(light, own.window, own.edge).crop(window).pixels, window, own.edge)


def _radius(params: DefocusParams, own: Picture, display: Window, scale: int, depth: Picture | None) -> NDArray[np.float32]:
    """How far each pixel of a picture is spread, in pixels of the scale, negative in front of what is sharp."""
    window = own.window
    if depth is None:
        return np.full((window.height, window.width), params.radius / scale, np.float32)
    place = (window.y0 - depth.window.y0, window.x0 - depth.window.x0)
    endless, most = _endless(params, display.width) / scale, _most(params, scale)
    radius = radii(own.pixels, depth.pixels, place, params.focus, endless, most, NOTHING)
    return radius.reshape(-1)[told_by_light(own.pixels, radius, LEAST, FARTHER)]


def blur_of(params: DefocusParams, depth: Picture, display: Window, scale: int) -> NDArray[np.float32]:
    """About how far each pixel of a depth is spread, in pixels of the scale: its edges are not looked at."""
    return spread_by(depth.pixels[..., 0], params.focus, _endless(params, display.width) / scale, _most(params, scale))


def _endless(params: DefocusParams, width: int) -> float:
    """The radius of what is infinitely far, in pixels of a frame of that width."""
    if params.mode == "radius":
        return params.radius
    in_focus = max(params.focus * params.unit_m * 1000, params.focal_mm * JUST_BEYOND)
    return beyond_everything(in_focus, params.focal_mm, params.f_stop) / 2 / params.sensor_mm * width


def _most(params: DefocusParams, scale: int) -> float:
    return float(params.most if params.mode == "lens" else params.radius) / scale


def _reach(params: DefocusParams, scale: int) -> int:
    return math.ceil(_most(params, scale) * max(1.0, params.squeeze)) + 2


def _made_at(params: Any, scale: int) -> int:
    """The scale at which what is far is still spread by some pixels."""
    return finer_for((params.radius if params.mode == "uniform" else _endless(params, USUAL_WIDTH)) / 2, scale)


def _looks(params: DefocusParams, around: Around) -> dict[str, Step]:
    return {} if params.mode == "uniform" else {"depth": around.depth_told_apart(params.depth)}


DEFOCUS = TREATMENTS.register(
    Treatment(
        "defocus",
        "Defocus",
        "spatial",
        DefocusParams,
        2,
        apply,
        lambda params: (params.most if params.mode == "lens" else params.radius) == 0,
        _reach,
        USUAL_TOLERANCE,
        looks=_looks,
        knows=of_frame,
        of_camera={name: name for name in ("focus", "f_stop", "focal_mm", "sensor_mm", "unit_m")},
        made_at=_made_at,
        whole=True,
        touch=AtTouch("lens", "f", 0, {"camera": "shot", "radius": 12.0}, "depth", words="Focus here"),
        summary="as a lens that is focused on one depth",
    )
)
FOCUS = replace(DEFOCUS, kind="focus look", apply=shown_focus, whole=False, reach=lambda params, scale: TOLD_WITHIN, grows=False)
