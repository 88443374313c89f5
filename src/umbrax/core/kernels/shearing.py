"""A plane whose rows are moved aside the more the higher they are, and drawn together or apart: an alpha laid down."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from ..picture import Picture, Window
from . import blank, kernel, ready

Pixels = NDArray[np.float32]


@kernel("void(f4[:,:,::1], f8, f8, f8, f8, i8, i8, f4[:,:,::1])")
def _sheared(plane: Any, start: Any, step: Any, aside: Any, more: Any, y0: Any, x0: Any, out: Any) -> None:
    """The row y of the frame is the mean of what of the plane lies from `start` + y `step` on over a `step`; at the height s in it the column x
    is the one at x + `aside` + s `more`. A pixel of the plane is even all over; outside is 0. `out` begins at the row y0, the column x0."""
    height, width = plane.shape[0], plane.shape[1]
    one = np.float32(1.0)
    for y in prange(np.int64(out.shape[0])):
        o = out[y].reshape(out.shape[1])
        for x in range(o.shape[0]):
            o[x] = np.float32(0.0)
        begin = start + step * (y0 + np.int64(y))
        low, high = min(begin, begin + step), max(begin, begin + step)
        for j in range(max(np.int64(0), np.int64(np.floor(low))), min(height, np.int64(np.ceil(high)))):
            above, below = max(low, np.float64(j)), min(high, j + 1.0)
            # so thin that in one of them nothing moves aside by more than half a pixel
            slices = np.int64(2 * abs(more) * (below - above)) + 1
            p = plane[j].reshape(width)
            for k in range(slices):
                at = aside + more * (above + (below - above) * (k + 0.5) / slices)
                left = np.int64(np.floor(at))
                right, share = np.float32(at - left), np.float32((below - above) / (slices * abs(step)))
                for after in range(2):
                    shift, w = x0 + left + after, share * (right if after else one - right)
                    first = max(np.int64(0), -shift)
                    last = max(first, min(o.shape[0], width - shift))
                    to, of = o[first:last], p[first + shift : last + shift]
                    for x in range(to.shape[0]):
                        to[x] += w * of[x]


def sheared(plane: Picture, window: Window, rows: tuple[float, float], columns: tuple[float, float]) -> Picture:
    """One channel on a window: what is seen at (x, y) stands in the plane at the height s = rows[0] + rows[1] y and at x + columns[0] +
    columns[1] s. Each pixel is the mean of its area, in which pixels of the plane are even; outside the plane is 0."""
    out, at = blank(window.height, window.width, 1), plane.window
    (start, step), (aside, more) = rows, columns
    _sheared(ready(plane.pixels), start - at.y0, step, aside + more * at.y0 - at.x0, more, window.y0, window.x0, out)
    return Picture(out, window)
