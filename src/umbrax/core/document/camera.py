"""The camera of a shot, which its cards share: a treatment with `"camera": "shot"` takes from it what the two have in common."""

from typing import Any

from pydantic import Field

from ..picture import Window
from .parameters import Parameters, number
from .timing import Number, Point


def focus() -> Any:
    return number(10.0, "Focus", low=1e-6, high=1e9, soft=(0.1, 50), step=0.05, formula="s, the depth that is sharp, in the scene's units")


def stop() -> Any:
    return number(2.8, "F-stop", low=0.1, high=1000, soft=(0.7, 22), step=0.1, formula="N, of the diameter A = f / N")


def focal_length() -> Any:
    return number(50.0, "Focal length", unit="mm", low=0.1, high=10000, soft=(10, 300), step=1, formula="f")


def sensor_width() -> Any:
    return number(36.0, "Sensor", unit="mm", low=0.1, high=1000, soft=(8, 60), step=0.1, formula="the width that the frame's width is")


def scene_unit() -> Any:
    return number(1.0, "Unit", unit="m", low=1e-6, high=1e6, soft=(0.01, 1), step=0.01, formula="metres that one of depth is")


def optical_centre() -> Any:
    return Field(None, title="Optical centre", json_schema_extra={"widget": "place"}, description="that of the frame where there is none")


def middle_of(centre: tuple[float, float] | None, display: Window) -> tuple[float, float]:
    """An optical centre in full-size pixels: that of the frame where there is none."""
    return centre or ((display.x0 + display.x1) / 2, (display.y0 + display.y1) / 2)


class Camera(Parameters):
    """Focus, lens and grain of a shot; everything may be keyed."""

    focus: Number = focus()
    f_stop: Number = stop()
    focal_mm: Number = focal_length()
    sensor_mm: Number = sensor_width()
    unit_m: Number = scene_unit()
    centre: Point | None = optical_centre()
    fringe: Number = number(0.0, "Colour fringe", unit="px", low=-100, high=100, soft=(0, 10), step=0.1, formula="at the corner of the frame")
    grain: Number = number(0.02, "Grain", low=0, high=10, soft=(0, 0.2), step=0.001, formula="deviation at a luma of 0.18")
