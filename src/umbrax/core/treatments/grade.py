"""Grade: exposure, slope offset power, saturation, hue, contrast, gamma, in this order.

Slope, offset, power and saturation are those of the ASC Color Decision List v1.2, without its limits to 0..1.
"""

import math
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..colour import LUMA_BT709, Weights
from ..document.parameters import by_channel, number
from ..document.timing import Colour, Number
from ..kernels.grading import grade_rows
from ..picture import Picture, Window
from .around import of_luma
from .base import AtTouch, ThroughParams
from .by_colour import colour_treatment

ONES, ZEROS = (1.0, 1.0, 1.0), (0.0, 0.0, 0.0)


class GradeParams(ThroughParams):
    """Colour correction in scene-linear light; negatives pass the powers unchanged."""

    kind: Literal["grade"]
    exposure: Number = number(0.0, "Exposure", unit="stops", low=-30, high=30, soft=(-4, 4), formula="x 2^exposure")
    slope: Colour = by_channel(ONES, "Slope", formula="y = x slope + offset; y >= 0 ? y^power : y")
    offset: Colour = by_channel(ZEROS, "Offset", soft=(-0.5, 0.5))
    power: Colour = by_channel(ONES, "Power", soft=(0.2, 4))
    saturation: Number = number(1.0, "Saturation", low=0, high=10, soft=(0, 2), formula="luma + (y - luma) saturation")
    hue: Number = number(0.0, "Hue", unit="°", low=-3600, high=3600, soft=(-180, 180), step=1, formula="turn about grey")
    contrast: Number = number(1.0, "Contrast", low=0.01, high=20, soft=(0.2, 3), formula="pivot (x / pivot)^contrast")
    pivot: Number = number(0.18, "Pivot", low=0.0001, high=100, soft=(0.01, 1))
    gamma: Number = number(1.0, "Gamma", low=0.05, high=20, soft=(0.3, 3), formula="x^(1 / gamma)")


def saturation_matrix(saturation: float, luma: Weights = LUMA_BT709) -> NDArray[np.float64]:
    """luma + saturation (x - luma) as a matrix, by default with BT.709 weights (ASC CDL v1.2, saturation)."""
    matrix: NDArray[np.float64] = saturation * np.eye(3) + (1 - saturation) * np.outer(np.ones(3), np.array(luma))
    return matrix


def hue_matrix(degrees: float, luma: Weights = LUMA_BT709) -> NDArray[np.float64]:
    """Rotation about the grey axis, sheared so that luma stays (rotation after Rodrigues' formula)."""
    axis = np.ones(3) / math.sqrt(3)
    cross = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    angle = math.radians(degrees)
    rotation = np.eye(3) + math.sin(angle) * cross + (1 - math.cos(angle)) * (cross @ cross)
    weights = np.array(luma)
    # put back along grey the luma that the rotation changed
    matrix: NDArray[np.float64] = rotation + np.outer(np.ones(3), weights - weights @ rotation)
    return matrix


@lru_cache(maxsize=256)
def _matrix(saturation: float, hue: float, luma: Weights) -> NDArray[np.float32] | None:
    """Saturation, then hue; None where both are neutral."""
    if saturation == 1 and hue == 0:
        return None
    turn = hue_matrix(hue, luma) if hue != 0 else np.eye(3)
    return (turn @ saturation_matrix(saturation, luma)).astype(np.float32)


def mixed(
    params: GradeParams, own: Picture, weight: Picture | None, window: Window, scale: int, *, luma: Weights = LUMA_BT709
) -> Picture:  # fmt: skip
    """RGBA in, RGBA out, limited by a matte and the amount in the same pass.

    Operations that are not plain gains work on colour divided by alpha.
    """
    only_gain = params.offset == ZEROS and params.power == ONES and params.contrast == 1 and params.gamma == 1
    pixels = grade_rows(
        own.crop(window).pixels,
        slope=tuple(s * 2.0**params.exposure for s in params.slope),
        offset=params.offset,
        power=params.power,
        matrix=_matrix(params.saturation, params.hue, luma),
        contrast=params.contrast,
        pivot=params.pivot,
        gamma=params.gamma,
        divides=not only_gain,
        weight=None if weight is None else weight.crop(window).pixels,
        amount=params.amount,
    )
    return Picture(pixels, window, own.edge)


def neutral(params: GradeParams) -> bool:
    settings = (params.exposure, params.slope, params.offset, params.power, params.saturation, params.hue, params.contrast, params.gamma)
    return settings == (0, ONES, ZEROS, ONES, 1, 0, 1, 1)


colour_treatment(
    "grade",
    "Grade",
    GradeParams,
    mixed,
    neutral,
    "exposure, slope, offset, power, saturation, hue, contrast and gamma",
    touch=AtTouch("colour", "g", 1, {"exposure": 0.5}),
    knows=lambda params, around: of_luma(params, around) if (params.saturation, params.hue) != (1, 0) else {},
)
