"""The own grade of light that is laid on an element from around it."""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from ..colour import LUMA_BT709, Weights
from ..document.parameters import colour, number
from .around import Around, of_frame, of_luma
from .grade import saturation_matrix

Pixels = NDArray[np.float32]


def own_saturation() -> Any:
    return number(1.0, "Saturation", low=0, high=10, soft=(0, 2), formula="of what is laid on: luma + (c - luma) saturation")


def own_tint() -> Any:
    return colour((1.0, 1.0, 1.0), "Tint", formula="x what is laid on")


def known(params: Any, around: Around) -> dict[str, Any]:
    """The frame, and what luma is where its saturation is changed."""
    return of_frame(params, around) | (of_luma(params, around) if params.saturation != 1 else {})


def in_own_grade(light: Pixels, saturation: float, tint: tuple[float, float, float], luma: Weights = LUMA_BT709) -> Pixels:
    """Light `[h, w, 4]` with its saturation changed, and tinted; none of it becomes less than nothing."""
    if saturation == 1 and tint == (1, 1, 1):
        return light
    matrix = np.eye(4)
    matrix[:3, :3] = np.diag(tint) @ saturation_matrix(saturation, luma)
    graded = np.asarray(cv2.transform(light, matrix))
    return np.maximum(graded, np.float32(0)) if saturation > 1 else graded
