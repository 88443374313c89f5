"""Keys's cubic between pixels, as several kernels weigh the four pixels around a place."""

from typing import Any

import numpy as np

from . import part


@part
def cubic_taps(t: Any) -> Any:
    """The four taps at a phase of 0..1 after the second (R. G. Keys, 1981, a = -1/2)."""
    half, one = np.float32(0.5), np.float32(1.0)
    more, two = np.float32(1.5), np.float32(2.0)
    tt = t * t
    first, second = ((one - half * t) * t - half) * t, (more * t - np.float32(2.5)) * tt + one
    return first, second, ((two - more * t) * t + half) * t, (half * t - half) * tt


@part
def _four(row: Any, k: Any, h: Any) -> Any:
    return h[0] * row[k] + h[1] * row[k + np.uint64(4)] + h[2] * row[k + np.uint64(8)] + h[3] * row[k + np.uint64(12)]


@part
def _row_pixel(row: Any, k: Any, h: Any) -> Any:
    """Four channels of a row laid flat, from place k on, by four taps."""
    return _four(row, k, h), _four(row, k + np.uint64(1), h), _four(row, k + np.uint64(2), h), _four(row, k + np.uint64(3), h)


@part
def _inner_pixel(pixels: Any, i: Any, j: Any, h: Any, w: Any) -> Any:
    """A pixel whose taps all lie inside the picture, rows laid flat; i and j of the first count without a sign."""
    k = i * np.uint64(4)
    p, q = _row_pixel(pixels[j], k, h), _row_pixel(pixels[j + np.uint64(1)], k, h)
    r, s = _row_pixel(pixels[j + np.uint64(2)], k, h), _row_pixel(pixels[j + np.uint64(3)], k, h)
    return (
        w[0] * p[0] + w[1] * q[0] + w[2] * r[0] + w[3] * s[0], w[0] * p[1] + w[1] * q[1] + w[2] * r[1] + w[3] * s[1],
        w[0] * p[2] + w[1] * q[2] + w[2] * r[2] + w[3] * s[2], w[0] * p[3] + w[1] * q[3] + w[2] * r[3] + w[3] * s[3],
    )  # fmt: skip


@part
def _border_pixel(pixels: Any, i: Any, j: Any, h: Any, w: Any, goes_on: Any, outside: Any) -> Any:
    """A pixel some of whose taps lie outside the picture, rows laid flat, where its border goes on or one value stands."""
    tall, wide = np.int64(pixels.shape[0]), np.int64(pixels.shape[1] // 4)
    red = green = blue = alpha = np.float32(0.0)
    for s in range(4):
        for t in range(4):
            x, y, by = i + t, j + s, w[s] * h[t]
            if goes_on or (0 <= x < wide and 0 <= y < tall):
                row, k = pixels[min(max(y, 0), tall - 1)], 4 * min(max(x, 0), wide - 1)
                red, green, blue, alpha = red + by * row[k], green + by * row[k + 1], blue + by * row[k + 2], alpha + by * row[k + 3]
            else:
                red, green, blue, alpha = red + by * outside, green + by * outside, blue + by * outside, alpha + by * outside
    return red, green, blue, alpha


@part
def cubic_pixel(pixels: Any, u: Any, v: Any, goes_on: Any, outside: Any) -> Any:
    """RGBA at a place of a picture, its rows laid flat, whose border goes on or around which one value stands.

    (`u`, `v`) is one pixel before the place, counted from the centre of the first: the first of the four taps lies there or before it.
    Places inside count without a sign, which spares a check of each.
    """
    across, down = np.floor(u), np.floor(v)
    h, w = cubic_taps(np.float32(u - across)), cubic_taps(np.float32(v - down))
    if u >= 0.0 and u < np.float64(pixels.shape[1] // 4 - 3) and v >= 0.0 and v < np.float64(pixels.shape[0] - 3):
        red, green, blue, alpha = _inner_pixel(pixels, np.uint64(u), np.uint64(v), h, w)
    else:
        red, green, blue, alpha = _border_pixel(pixels, np.int64(across), np.int64(down), h, w, goes_on, outside)
    return red, green, blue, alpha
