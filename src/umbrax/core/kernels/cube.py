"""Colours through a table over a cube: what lies between its points by the tetrahedron that it is in."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, part, ready
from .powers import exp2, log2
from .vectors import choose

Pixels = NDArray[np.float32]
DARK, BRIGHT = 0.002, 128.0  # light below the first is spaced evenly, above it by its logarithm, up to the second
OCTAVES = float(np.log2(BRIGHT / DARK + 1))


@part
def _spaced(light: Any) -> Any:
    """0..1 for light of 0 to BRIGHT; what is no number is 0."""
    seen = choose(light > np.float32(0.0), light, np.float32(0.0))  # what is no number is not above 0
    t = log2(choose(seen < np.float32(BRIGHT), seen, np.float32(BRIGHT)) * np.float32(1 / DARK) + np.float32(1.0)) * np.float32(1 / OCTAVES)
    return choose(t < np.float32(1.0), t, np.float32(1.0))


@part
def _lit(t: Any) -> Any:
    """The way back."""
    return (exp2(t * np.float32(OCTAVES)) - np.float32(1.0)) * np.float32(DARK)


@part
def _within(code: Any) -> Any:
    """Limited to 0..1; what is no number is 0."""
    above = choose(code > np.float32(0.0), code, np.float32(0.0))
    return choose(above < np.float32(1.0), above, np.float32(1.0))


@part
def _place(r: Any, g: Any, b: Any, size: Any) -> Any:
    """Of a place 0..1 in a cube of `size` points a side: where its four corners lie in the table, and how much each counts."""
    top = np.float32(size - 1)
    r, g, b = r * top, g * top, b * top
    i, j, k = min(np.int64(r), size - 2), min(np.int64(g), size - 2), min(np.int64(b), size - 2)
    r, g, b = r - np.float32(i), g - np.float32(j), b - np.float32(k)
    over_r, over_g, over_b = size * size * 3, size * 3, 3
    if r >= g and r >= b:
        most, way = r, over_r
    elif g >= b:
        most, way = g, over_g
    else:
        most, way = b, over_b
    if b <= g and b <= r:
        least, last = b, over_b
    elif g <= r:
        least, last = g, over_g
    else:
        least, last = r, over_r
    between = max(least, min(most, r + g + b - most - least))
    first = i * over_r + j * over_g + k * over_b
    end = first + over_r + over_g + over_b
    return first, first + way, end - last, end, np.float32(1.0) - most, most - between, between - least, least


@kernel("void(f4[:,:,::1], f4, f4[:,::1], f4[::1], i8, u1[:,:,::1])")
def _to_codes(pixels: Any, gain: Any, matrix: Any, table: Any, size: Any, out: Any) -> None:
    width, channels = pixels.shape[1], pixels.shape[2]
    for y in prange(np.int64(out.shape[0])):
        p, o = pixels[y], out[y]
        for x in range(width):
            red = p[x, 0] * gain
            green, blue = p[x, 1 if channels > 2 else 0] * gain, p[x, 2 if channels > 2 else 0] * gain
            r = _spaced(matrix[0, 0] * red + matrix[0, 1] * green + matrix[0, 2] * blue)
            g = _spaced(matrix[1, 0] * red + matrix[1, 1] * green + matrix[1, 2] * blue)
            b = _spaced(matrix[2, 0] * red + matrix[2, 1] * green + matrix[2, 2] * blue)
            p0, p1, p2, p3, w0, w1, w2, w3 = _place(r, g, b, size)
            for c in range(3):
                value = w0 * table[p0 + c] + w1 * table[p1 + c] + w2 * table[p2 + c] + w3 * table[p3 + c]
                o[x, c] = np.uint8(value * np.float32(255.0) + np.float32(0.5))


@kernel("void(f4[:,:,::1], f4[:,::1], f4[::1], i8, f4[:,:,::1])")
def _to_light(codes: Any, matrix: Any, table: Any, size: Any, out: Any) -> None:
    width = codes.shape[1]
    for y in prange(np.int64(out.shape[0])):
        p, o = codes[y], out[y]
        for x in range(width):
            r, g, b = _within(p[x, 0]), _within(p[x, 1]), _within(p[x, 2])
            p0, p1, p2, p3, w0, w1, w2, w3 = _place(r, g, b, size)
            red = _lit(w0 * table[p0] + w1 * table[p1] + w2 * table[p2] + w3 * table[p3])
            green = _lit(w0 * table[p0 + 1] + w1 * table[p1 + 1] + w2 * table[p2 + 1] + w3 * table[p3 + 1])
            blue = _lit(w0 * table[p0 + 2] + w1 * table[p1 + 2] + w2 * table[p2 + 2] + w3 * table[p3 + 2])
            o[x, 0] = matrix[0, 0] * red + matrix[0, 1] * green + matrix[0, 2] * blue
            o[x, 1] = matrix[1, 0] * red + matrix[1, 1] * green + matrix[1, 2] * blue
            o[x, 2] = matrix[2, 0] * red + matrix[2, 1] * green + matrix[2, 2] * blue


def spaced(light: NDArray[np.float64]) -> NDArray[np.float64]:
    """Where light lies along a side of the cube, 0..1."""
    return np.log2(np.clip(light, 0, BRIGHT) / DARK + 1) / OCTAVES


def lit(places: NDArray[np.float64]) -> NDArray[np.float64]:
    """The light at places along a side."""
    return (np.exp2(places * OCTAVES) - 1) * DARK


def to_codes(pixels: Pixels, gain: float, matrix: Pixels, table: Pixels) -> NDArray[np.uint8]:
    """`uint8[h, w, 3]` of light `[h, w, 1, 3 or 4]` x gain, turned by a matrix, through a table `[n, n, n, 3]` over spaced light."""
    out = np.empty((*pixels.shape[:2], 3), np.uint8)
    _to_codes(ready(pixels), np.float32(gain), ready(matrix), ready(table.reshape(-1)), table.shape[0], out)
    return out


def to_light(codes: Pixels, table: Pixels, matrix: Pixels) -> Pixels:
    """`float32[h, w, 3]` of codes `[h, w, 3]` through a table `[n, n, n, 3]` of spaced light, turned by a matrix."""
    out = blank(*codes.shape[:2], 3)
    _to_light(ready(codes), ready(matrix), ready(table.reshape(-1)), table.shape[0], out)
    return out
