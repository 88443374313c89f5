"""Planes of a file's own type to interleaved float32, where they lie in a window and a constant around them."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, part
from .vectors import as_float, choose


@part
def _lay(planes: Any, top: Any, left: Any, fills: Any, finite: Any, out: Any, y: Any) -> None:
    """One row of the result; `top` and `left` are where the planes begin in it."""
    count, height, width = planes.shape
    o = out[y].reshape(out.shape[1] * count)
    row = y - top
    first, last = min(max(left, np.int64(0)), out.shape[1]), max(min(left + width, out.shape[1]), np.int64(0))
    if row < 0 or row >= height or last <= first:
        first, last = out.shape[1], out.shape[1]
    for c in range(count):
        for x in range(first):
            o[x * count + c] = _known(fills[c], finite)
        for x in range(last, out.shape[1]):
            o[x * count + c] = _known(fills[c], finite)
    if last <= first:
        return
    start = first - left
    if count == 4:
        r, g, b, a = planes[0, row, start:], planes[1, row, start:], planes[2, row, start:], planes[3, row, start:]
        to = o[4 * first :]
        for x in range(last - first):
            i = 4 * x
            to[i], to[i + 1] = _known(as_float(r[x]), finite), _known(as_float(g[x]), finite)
            to[i + 2], to[i + 3] = _known(as_float(b[x]), finite), _known(as_float(a[x]), finite)
    else:
        for c in range(count):
            plane = planes[c, row, start:]
            for x in range(last - first):
                o[(first + x) * count + c] = _known(as_float(plane[x]), finite)


@part
def _known(value: Any, finite: Any) -> Any:
    return choose(finite and not abs(value) <= np.float32(3.4028235e38), np.float32(0.0), value)


@kernel("void(u2[:,:,::1], i8, i8, f4[::1], b1, f4[:,:,::1])")
def _halves(planes: Any, top: Any, left: Any, fills: Any, finite: Any, out: Any) -> None:
    for y in prange(np.int64(out.shape[0])):
        _lay(planes, top, left, fills, finite, out, np.int64(y))


@kernel("void(f4[:,:,::1], i8, i8, f4[::1], b1, f4[:,:,::1])")
def _floats(planes: Any, top: Any, left: Any, fills: Any, finite: Any, out: Any) -> None:
    for y in prange(np.int64(out.shape[0])):
        _lay(planes, top, left, fills, finite, out, np.int64(y))


def unpacked(
    planes: NDArray[np.float16] | NDArray[np.float32], place: tuple[int, int], fills: NDArray[np.float32],
    shape: tuple[int, int], finite: bool,
) -> NDArray[np.float32]:  # fmt: skip
    """`float32[h, w, c]` of half or float planes `[c, h, w]`, exact; `place` is their first row and column in the result.

    Outside them each channel has its value of `fills`. `finite`: NaN and infinities become 0.
    """
    out = blank(*shape, planes.shape[0])
    top, left = place
    if planes.dtype == np.float16:
        _halves(planes.view(np.uint16), top, left, fills, finite, out)
    else:
        _floats(planes, top, left, fills, finite, out)
    return out
