"""Colours between stops along a line, from a point outward, or round it."""

import math
from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, ready

Numbers = NDArray[np.floating]
SHAPES = ("linear", "radial", "angular")


@kernel("void(i8, f8[::1], i8, f8[::1], f8[:,::1], f8[::1], f8[::1], f4[:,:,::1])")
def _between(shape: Any, line: Any, bands: Any, at: Any, stops: Any, xs: Any, ys: Any, out: Any) -> None:
    x0, y0, dx, dy, length = line[0], line[1], line[2] - line[0], line[3] - line[1], line[4]
    last, start = at.shape[0] - 1, math.atan2(-dy, dx)
    for row in prange(np.int64(out.shape[0])):
        o, y = out[row], ys[row] - y0
        for column in range(o.shape[0]):
            x = xs[column] - x0
            if shape == 0:
                way = (x * dx + y * dy) / length**2
            elif shape == 1:
                way = math.hypot(x, y) / length
            else:
                # counter-clockwise on the screen, where y points down
                turn = (math.atan2(-y, x) - start) / (2 * math.pi)
                way = turn - math.floor(turn)
            if bands > 0:
                way = math.floor(min(max(way, 0.0), 1 - 1e-9) * bands) / max(1, bands - 1)
            way = min(max(way, 0.0), 1.0)
            if way >= at[last]:
                for c in range(4):
                    o[column, c] = np.float32(stops[last, c])
            elif way < at[0]:
                for c in range(4):
                    o[column, c] = np.float32(stops[0, c])
            else:
                k = 0
                while k + 1 < last and at[k + 1] <= way:
                    k += 1
                for c in range(4):
                    slope = (stops[k + 1, c] - stops[k, c]) / (at[k + 1] - at[k])
                    o[column, c] = np.float32(slope * (way - at[k]) + stops[k, c])


def between_stops(
    shape: str, line: tuple[float, float, float, float], bands: int, at: Numbers, stops: Numbers, xs: Numbers, ys: Numbers
) -> NDArray[np.float32]:  # fmt: skip
    """`float32[h, w, 4]` at the points of rows `ys` and columns `xs`; `line` leads from 0 to 1, `at` `[n]` rises, `stops` `[n, 4]`."""
    out = blank(len(ys), len(xs), 4)
    length = float(np.hypot(line[2] - line[0], line[3] - line[1])) or 1.0
    numbers = np.array([*line, length])
    _between(
        SHAPES.index(shape), numbers, bands, ready(at, np.float64), ready(stops, np.float64), ready(xs, np.float64), ready(ys, np.float64), out
    )
    return out
