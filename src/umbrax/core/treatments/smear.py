"""Smear: light drawn out along a line, one way or both."""

import math
from typing import Literal

from ..document.parameters import choice, number
from ..document.timing import Number
from ..kernels.smearing import TAIL, smeared, taps
from ..picture import Picture, Window
from .base import TREATMENTS, USUAL_TOLERANCE, ThroughParams, Treatment, finer_for


class SmearParams(ThroughParams):
    """A blur along a straight line: even over `length`, or falling as exp(-3 s / length); both ways it is half of it each way."""

    kind: Literal["smear"]
    length: Number = number(40.0, "Length", unit="px", low=0, high=2000, soft=(0, 300), step=0.5, formula="of an even smear, all of it")
    angle: Number = number(0.0, "Angle", unit="°", low=-3600, high=3600, soft=(-180, 180), step=1, formula="counter-clockwise from the right")
    sides: Literal["one", "both"] = choice("both", "Sides", "whether light is drawn out along the angle only")
    fall: Literal["box", "exponential"] = choice("box", "Fall", "even, or less and less")


def apply(params: SmearParams, own: Picture, window: Window, scale: int) -> Picture:
    offsets, weights = taps(params.length / scale, params.angle, params.sides == "both", params.fall == "exponential")
    (left, up), (right, down) = (int(v) for v in offsets.min(0)), (int(v) for v in offsets.max(0))
    lit = own.crop(Window(window.x0 + left, window.y0 + up, window.x1 + right, window.y1 + down)).pixels  # what the line touches
    return Picture(smeared(lit, (-left, -up), (window.height, window.width), offsets, weights), window, own.edge)


def reach(params: SmearParams, scale: int) -> int:
    half = params.length / scale / (2 if params.sides == "both" else 1)
    return math.ceil(half * (TAIL if params.fall == "exponential" else 1)) + 2


TREATMENTS.register(
    Treatment(
        "smear",
        "Smear",
        "spatial",
        SmearParams,
        1,
        apply,
        lambda params: params.length == 0,
        reach,
        USUAL_TOLERANCE,
        made_at=lambda params, scale: finer_for(params.length / 4, scale),
        summary="drawn out along a line, one way or both",
    )
)
