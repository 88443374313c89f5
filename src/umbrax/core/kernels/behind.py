"""Which pixel of what is farther lies next to each pixel of a slice of depth, where each farther pixel has a label."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import kernel, ready, row_kernel

Values = NDArray[np.float32]


@row_kernel("void(f4[:,::1], f4, i4[:,::1], i8[::1])")
def _labelled(order: Any, border: Any, label: Any, places: Any) -> None:
    width = order.shape[1]
    for y in range(order.shape[0]):
        for x in range(width):
            if order[y, x] >= border:
                places[label[y, x]] = y * width + x


@kernel("void(f4[:,::1], f4, f4, f4[::1], f4[:,::1], i4[:,::1], i8[::1], f4, i8[:,::1])")
def _nearest(own: Any, before: Any, border: Any, size: Any, distance: Any, label: Any, places: Any, margin: Any, found: Any) -> None:
    width = own.shape[1]
    for y in prange(np.int64(own.shape[0])):
        for x in range(width):
            if own[y, x] <= border and own[y, x] > before:
                place = places[label[y, x]]
                if distance[y, x] <= max(size[y * width + x], size[place]) + margin:
                    found[y, x] = place


def find_nearest(
    own: Values, slice_of: tuple[float, float], order: Values, size: Values, distance: Values, label: NDArray[np.int32], margin: float,
    found: NDArray[np.int64],
) -> None:  # fmt: skip
    """Into `found` the pixels, counted row by row, of `order` not below the end of a slice, for those whose `own` lies in the slice: the
    one whose `label` they have, where that is at most the `size` of either away, and `margin` more."""
    before, border = np.float32(slice_of[0]), np.float32(slice_of[1])
    places = np.zeros(int(label.max()) + 1, np.int64)
    _labelled(ready(order), border, ready(label, np.int32), places)
    _nearest(ready(own), before, border, ready(size).reshape(-1), ready(distance), ready(label, np.int32), places, np.float32(margin), found)


@kernel("void(f4[:,:,::1], u1[:,::1])")
def _no_light(light: Any, out: Any) -> None:
    for y in prange(np.int64(light.shape[0])):
        p = light[y].reshape(4 * light.shape[1])
        for x in range(light.shape[1]):
            i = 4 * x
            out[y, x] = (p[i] == 0) & (p[i + 1] == 0) & (p[i + 2] == 0) & (p[i + 3] == 0)


def holds_nothing(light: Values) -> NDArray[np.bool_]:
    """The pixels of RGBA `float32[h, w, 4]` that are 0 in every channel."""
    out = np.empty(light.shape[:2], np.uint8)
    _no_light(ready(light), out)
    return out.view(np.bool_)
