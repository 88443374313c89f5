"""Gaussian blur whose cost does not grow with its size.

Above a sigma of 6.8 the picture is reduced by a whole step s with a quadratic B-spline, filtered there by a short
kernel, and enlarged by a cubic B-spline. Variances add under convolution, so the short kernel gets what is left of
the wanted variance, and its fourth cumulant makes up for that of the splines (Unser, Aldroubi, Eden 1993,
"B-spline signal processing", gives the splines; their cumulants are those of sums of boxes).
The coarse cells lie at multiples of s of the frame, so a window's result equals the whole's.
"""

from functools import lru_cache
from typing import Any, Literal

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import kernel, part, ready

Pixels = NDArray[np.float32]
Taps = NDArray[np.float32]
STEPS_PER_SIGMA = 3.4
DIRECT_BELOW = 2 * STEPS_PER_SIGMA
FIR_REACH = 5.0  # in sigmas: what is cut off is below 1e-6


@part
def _outside(index: Any, size: Any, weight: Any, extend: Any) -> Any:
    """The index to read instead and the weight it then has."""
    if index < 0:
        return np.int64(0), weight if extend else np.float32(0.0)
    if index >= size:
        return size - np.int64(1), weight if extend else np.float32(0.0)
    return index, weight


@kernel("void(f4[:,:,::1], f4[:,::1], i8[::1], b1, f4[:,:,::1])")
def _across_rows(pixels: Any, taps: Any, starts: Any, extend: Any, out: Any) -> None:
    """out row j = sum of taps[j] over the input rows from starts[j], four rows at a time."""
    height, length = pixels.shape[0], pixels.shape[1] * pixels.shape[2]
    for j in prange(np.int64(out.shape[0])):
        o = out[j].reshape(length)
        for t in range(0, taps.shape[1], 4):
            y0, w0 = _outside(starts[j] + t, height, taps[j, t], extend)
            y1, w1 = _outside(starts[j] + t + 1, height, taps[j, t + 1], extend)
            y2, w2 = _outside(starts[j] + t + 2, height, taps[j, t + 2], extend)
            y3, w3 = _outside(starts[j] + t + 3, height, taps[j, t + 3], extend)
            a, b = pixels[y0].reshape(length), pixels[y1].reshape(length)
            c, d = pixels[y2].reshape(length), pixels[y3].reshape(length)
            if t == 0:
                for i in range(length):
                    o[i] = w0 * a[i] + w1 * b[i] + w2 * c[i] + w3 * d[i]
            else:
                for i in range(length):
                    o[i] += w0 * a[i] + w1 * b[i] + w2 * c[i] + w3 * d[i]


@kernel("void(f4[:,:,::1], f4[::1], i8, b1, f4[:,:,::1])")
def _slide(pixels: Any, taps: Any, start: Any, extend: Any, out: Any) -> None:
    """out column j = sum of one set of taps over the input columns from start + j, four columns at a time."""
    width, channels, reach = pixels.shape[1], pixels.shape[2], taps.shape[0]
    count = out.shape[1]
    length = count * channels
    for y in prange(np.int64(out.shape[0])):
        padded = np.zeros((count + reach, channels), np.float32)
        first, last = max(np.int64(0), start), min(width, start + count + reach)
        if last > first:
            padded[first - start : last - start] = pixels[y, first:last]
        if extend:
            for x in range(min(count + reach, -start)):
                padded[x] = pixels[y, 0]
            for x in range(max(np.int64(0), width - start), count + reach):
                padded[x] = pixels[y, width - 1]
        p, o = padded.reshape((count + reach) * channels), out[y].reshape(length)
        for block in range(0, length, 1024):
            size = min(1024, length - block)
            to = o[block : block + size]
            for t in range(0, reach, 4):
                at = block + t * channels
                a, b = p[at : at + size], p[at + channels : at + channels + size]
                c = p[at + 2 * channels : at + 2 * channels + size]
                d = p[at + 3 * channels : at + 3 * channels + size]
                w0, w1, w2, w3 = taps[t], taps[t + 1], taps[t + 2], taps[t + 3]
                if t == 0:
                    for i in range(size):
                        to[i] = w0 * a[i] + w1 * b[i] + w2 * c[i] + w3 * d[i]
                else:
                    for i in range(size):
                        to[i] += w0 * a[i] + w1 * b[i] + w2 * c[i] + w3 * d[i]


@kernel("void(f4[:,:,::1], f4[:,::1], i8[::1], b1, f4[:,:,::1])")
def _along_row(pixels: Any, taps: Any, starts: Any, extend: Any, out: Any) -> None:
    """out column j = sum of taps[j] over the input columns from starts[j], anywhere."""
    width, channels = pixels.shape[1], pixels.shape[2]
    for y in prange(np.int64(out.shape[0])):
        p, o = pixels[y], out[y]
        for j in range(o.shape[0]):
            for c in range(channels):
                o[j, c] = np.float32(0.0)
            for t in range(taps.shape[1]):
                x, w = _outside(starts[j] + t, width, taps[j, t], extend)
                for c in range(channels):
                    o[j, c] += w * p[x, c]


def _quadratic(t: NDArray[np.float64]) -> NDArray[np.float64]:
    a = np.abs(t)
    return np.where(a < 0.5, 0.75 - a * a, np.where(a < 1.5, 0.5 * (1.5 - a) ** 2, 0.0))


def _cubic(t: NDArray[np.float64]) -> NDArray[np.float64]:
    a = np.abs(t)
    return np.where(a < 1, 2 / 3 - a * a + a**3 / 2, np.where(a < 2, (2 - a) ** 3 / 6, 0.0))


def _gaussian_taps(variance: float, excess: float = 0.0) -> Taps:
    """Normalised taps of a Gaussian with a fourth cumulant `excess` (Gram-Charlier: 1 + k4/24 s^4 He4(x/s)).

    Taps are samples at pixel centres, as scipy.ndimage takes them.
    """
    sigma = float(np.sqrt(variance))
    radius = max(1, int(np.ceil(FIR_REACH * sigma)))
    x = np.arange(-radius, radius + 1, dtype=np.float64)
    z = x / sigma
    weights = np.exp(-0.5 * z * z) * (1 + excess / (24 * variance**2) * (z**4 - 6 * z**2 + 3))
    return _padded(weights / weights.sum())


def _padded(weights: NDArray[np.float64]) -> Taps:
    """The loops take four taps at a time."""
    return np.pad(weights, (0, -len(weights) % 4)).astype(np.float32)


@lru_cache(maxsize=256)
def _decimation(sigma: float) -> tuple[int, Taps, Taps]:
    """Step, the taps of one coarse cell over the fine pixels, and the taps between coarse cells."""
    step = int(sigma / STEPS_PER_SIGMA)
    fine = np.arange(-step, 2 * step) + 0.5 - step / 2
    down = _quadratic(fine / step)
    down /= down.sum()
    left = sigma**2 - float((down * fine**2).sum()) - step**2 / 3
    return step, _padded(down), _gaussian_taps(left / step**2, excess=7 / 120)


Way = tuple[Taps, NDArray[np.int64]]


def _repeat(taps: Taps, starts: NDArray[np.int64]) -> Way:
    return np.broadcast_to(taps, (len(starts), len(taps))), np.ascontiguousarray(starts, np.int64)


def _centre(taps: Taps) -> int:
    """The index of the middle tap of a padded symmetric set."""
    return int(np.argmax(taps))


def _ways(sigma: float, low: int, out_low: int, out_high: int) -> list[Way]:
    """The chain of tap tables along one axis from input pixels from `low` to output pixels [out_low, out_high)."""
    if sigma < DIRECT_BELOW:
        taps = _gaussian_taps(sigma**2) if sigma > 0 else np.array([1, 0, 0, 0], np.float32)
        return [_repeat(taps, np.arange(out_low, out_high) - _centre(taps) - low)]
    step, down, between = _decimation(sigma)
    # coarse cell j has its centre at step (j + 1/2)
    first, last = out_low // step - 2, (out_high - 1) // step + 3
    cells = np.arange(first - _centre(between), last + len(between))
    narrow = np.arange(first, last)
    x = np.arange(out_low, out_high)
    nearest = np.floor((x + 0.5) / step - 0.5).astype(np.int64) - 1
    up = _cubic((x + 0.5)[:, None] / step - 0.5 - (nearest[:, None] + np.arange(4)))
    up /= up.sum(axis=1, keepdims=True)
    return [
        _repeat(down, cells * step - step - low),
        _repeat(between, narrow - _centre(between) - cells[0]),
        (np.ascontiguousarray(up.astype(np.float32)), np.ascontiguousarray(nearest - first)),
    ]


def reach(sigma: float) -> int:
    """How many pixels around a pixel can have a part in its blurred value."""
    if sigma < DIRECT_BELOW:
        return int(np.ceil(FIR_REACH * sigma)) + 1 if sigma > 0 else 0
    step, _, between = _decimation(sigma)
    return (len(between) // 2 + 5) * step


def _run(pixels: Pixels, way: Way, axis: Literal[0, 1], extend: bool) -> Pixels:
    taps, starts = way
    shape = list(pixels.shape)
    shape[axis] = len(starts)
    out = np.empty(shape, np.float32)
    if axis == 0:
        _across_rows(pixels, ready(taps), starts, extend, out)
    elif len(starts) > 1 and starts[1] - starts[0] == 1 and taps.strides[0] == 0:
        _slide(pixels, ready(taps[0]), int(starts[0]), extend, out)
    else:
        _along_row(pixels, ready(taps), starts, extend, out)
    return out


def gaussian(
    pixels: Pixels,
    sigma_x: float,
    sigma_y: float,
    origin: tuple[int, int],
    out: tuple[int, int, int, int],
    extend: bool,
) -> Pixels:
    """Blur `float32[h, w, c]` and return the window `out` (x0, y0, x1, y1) of the result.

    `origin`: frame coordinates of the first pixel. Outside the pixels stands 0, or the border goes on (`extend`).
    Sigmas are in pixels; 0 leaves an axis as it is. Error against the exact Gaussian: at most 5e-4 of the peak.
    """
    x0, y0, x1, y1 = out
    rows = _ways(sigma_y, origin[1], y0, y1)
    columns = _ways(sigma_x, origin[0], x0, x1)
    # reduce along both axes before anything grows again; only the first step along an axis meets the border
    result = _run(ready(pixels), rows[0], 0, extend)
    result = _run(result, columns[0], 1, extend)
    for way in rows[1:2]:
        result = _run(result, way, 0, False)
    for way in columns[1:]:
        result = _run(result, way, 1, False)
    for way in rows[2:]:
        result = _run(result, way, 0, False)
    return result
