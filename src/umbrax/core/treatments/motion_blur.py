"""Motion blur: what moves is spread along the way it takes while the shutter is open, as the motion pass says."""

import math
from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..document.parameters import choice, number
from ..document.timing import Number
from ..errors import UmbraxError
from ..kernels.rims import told_beside
from ..kernels.ways import ways_of
from ..lens.moving import smeared
from ..picture import Picture, Window
from ..plan.steps import Step
from ..repair.depth import depth_on
from .base import TREATMENTS, USUAL_TOLERANCE, Around, ThroughParams, Treatment, of_frame

Turn = tuple[float, float, float, float]
APART = 0.15  # of the logarithm to 2 of a depth, from which two are of different things


class MotionBlurParams(ThroughParams):
    """Each pixel evenly along shutter x motion, its place in the middle of it; what is nearer before what is farther.

    Without depth what moves faster lies in front. What stands still stays where it is.
    """

    kind: Literal["motion_blur"]
    shutter: Number = number(0.5, "Shutter", low=0, high=4, soft=(0, 1), formula="of the way to the next frame")
    motion: str = Field("motion", min_length=1, title="Motion", description="the pass, by name or kind: pixels to the next frame")
    gain: Number = number(1.0, "Gain", low=-1e4, high=1e4, soft=(-2, 2), formula="pixels that 1 in the pass means")
    up: Literal["down", "up"] = choice("down", "Second channel", "which way it counts")
    most: Number = number(100.0, "At most", unit="px", low=0, high=1000, soft=(0, 200), step=1, formula="length of the way")
    depth: str = Field("depth", min_length=1, title="Depth", description="the pass, by name or kind")


def apply(
    params: MotionBlurParams, own: Picture, window: Window, scale: int, *, motion: Picture, display: Window, turn: Turn,
    depth: Picture | None = None,
) -> Picture:  # fmt: skip
    if own.window.empty:
        return own.crop(window)
    right = params.gain * params.shutter / scale
    matrix = np.array(turn) * np.array([right, -right if params.up == "up" else right] * 2)
    way, length = ways_of(motion.crop(own.window).pixels, matrix.astype(np.float32), params.most / scale)
    order = -length if depth is None else np.log2(np.maximum(depth_on(depth, own.window), np.float32(1e-6)))
    known = order if depth is not None else np.where(length == 0, np.float32(np.inf), order)
    told = told_beside(own.pixels, (length == 0) | np.isinf(known), known, APART)
    way, order = way.reshape(-1, 2)[told], order.reshape(-1)[told]
    spread = smeared(own, way, order, own.goes_on(display.scaled(scale)))
    return Picture(spread.crop(window).pixels, window, own.edge)


def _looks(params: MotionBlurParams, around: Around) -> dict[str, Step]:
    looked = {"motion": around.of_pass(params.motion)}
    try:
        return {**looked, "depth": around.depth(params.depth)}
    except UmbraxError as error:
        if error.code != "no-depth":
            raise
        return looked


def _knows(params: MotionBlurParams, around: Around) -> dict[str, Any]:
    return {**of_frame(params, around), "turn": around.turn()}


TREATMENTS.register(
    Treatment(
        "motion_blur",
        "Motion blur",
        "spatial",
        MotionBlurParams,
        2,
        apply,
        lambda params: params.shutter == 0 or params.gain == 0 or params.most == 0,
        lambda params, scale: math.ceil(params.most / scale / 2) + 2,
        USUAL_TOLERANCE,
        looks=_looks,
        knows=_knows,
        elements_only=True,
        whole=True,
        summary="spread along the way things take",
    )
)
