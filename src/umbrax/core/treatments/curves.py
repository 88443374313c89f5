"""Curves: monotone cubics through points, of all channels and of each.

F. N. Fritsch and J. Butland, A Method for Constructing Local Monotone Piecewise Cubic Interpolants, 1984, as SciPy's
PchipInterpolator has it; straight on beyond the first and the last point.
"""

from functools import lru_cache
from itertools import pairwise
from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import AfterValidator, Field

from ..document.timing import Level
from ..kernels.colouring import curve_rows
from .base import ThroughParams
from .by_colour import by_rows, colour_treatment

Points = tuple[tuple[Level, Level], ...]
STRAIGHT: Points = ((0.0, 0.0), (1.0, 1.0))


def _rising(points: Points) -> Points:
    if any(later[0] - earlier[0] < 1e-4 for earlier, later in pairwise(points)):
        raise ValueError("expected points with rising x, at least 0.0001 apart")
    return points


Curve = Annotated[Points, AfterValidator(_rising)]


def curve(title: str) -> Any:
    return Field(STRAIGHT, title=title, min_length=2, max_length=32, json_schema_extra={"widget": "curve"})


class CurvesParams(ThroughParams):
    """y = channel(master(x)) in scene-linear light, monotone between points, straight beyond the first and the last."""

    kind: Literal["curves"]
    master: Curve = curve("All")
    red: Curve = curve("Red")
    green: Curve = curve("Green")
    blue: Curve = curve("Blue")


@lru_cache(maxsize=64)
def pieces(points: Points) -> tuple[float, ...]:
    """A curve as `kernels.colouring` has it: what it does at its ends, and by what cubic of t = 0..1 each of its pieces rises."""
    x, y = np.array(points).T
    from scipy.interpolate import PchipInterpolator  # loading it takes a quarter of a second: only what draws curves waits

    exact = PchipInterpolator(x, y, extrapolate=True)
    slopes = exact.derivative()(x)
    steps: list[float] = []
    for n, (width, rise) in enumerate(zip(np.diff(x), np.diff(y), strict=True)):
        one, other = slopes[n] * width, slopes[n + 1] * width
        steps += [x[n], 1 / width, one, 3 * rise - 2 * one - other, one + other - 2 * rise]
    return (float(len(points) - 1), x[0], y[0], slopes[0], x[-1], slopes[-1], *steps)


@lru_cache(maxsize=16)
def _settings(params: tuple[Points, ...]) -> NDArray[np.float32]:
    begins: list[float] = []
    told: list[float] = []
    for points in params:
        begins.append(0.0 if points == STRAIGHT else float(len(params) + len(told)))
        told += [] if points == STRAIGHT else pieces(points)
    return np.array([*begins, *told], np.float32)


def settings(params: CurvesParams) -> NDArray[np.float32]:
    return _settings((params.master, params.red, params.green, params.blue))


def neutral(params: CurvesParams) -> bool:
    return all(points == STRAIGHT for points in (params.master, params.red, params.green, params.blue))


colour_treatment(
    "curves",
    "Curves",
    CurvesParams,
    by_rows(lambda params: curve_rows, settings),
    neutral,
    "curves through points, of all channels and of each",
)
