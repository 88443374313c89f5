"""Which pixel of what is farther lies next to each pixel of a slice of depth, where each farther pixel has a label."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import kernel, ready
from .vectors import behind_from

Values = NDArray[np.float32]
NOWHERE = 1 << 30


@kernel("void(f4[:,::1], f4, f4, f4[::1], i8[:,:,::1])")
def _extents(order: Any, least: Any, farther: Any, between: Any, ends: Any) -> None:
    width = order.shape[1]
    for y in prange(np.int64(order.shape[0])):
        e = ends[y]
        s: Any = np.int64(0)
        for x in range(width):
            behind = behind_from(order[y, x], least, farther)
            while s > 0 and behind <= between[s - 1]:
                s -= 1
            while s < between.shape[0] and behind > between[s]:
                s += 1
            if s < between.shape[0]:
                e[s, 0], e[s, 1] = min(e[s, 0], x), max(e[s, 1], x + 1)


def extents(order: Values, apart: tuple[float, float], between: Values) -> list[tuple[int, int, int, int]]:
    """Of each slice, which ends at a border `between`, the first row and column and those after the last of the pixels of `order` that
    something in it is behind of; all 0 where there is none."""
    ends = np.empty((order.shape[0], len(between), 2), np.int64)
    ends[..., 0], ends[..., 1] = NOWHERE, -1
    _extents(ready(order), np.float32(apart[0]), np.float32(apart[1]), ready(between), ends)
    found = []
    for s in range(len(between)):
        rows = np.flatnonzero(ends[:, s, 1] >= 0)
        some = ends[rows, s]
        found.append((int(rows[0]), int(some[:, 0].min()), int(rows[-1]) + 1, int(some[:, 1].max())) if rows.size else (0, 0, 0, 0))
    return found


@kernel("void(f4[:,::1], f4, f4, f4, f4, f4[:,::1], i8, i8, f4[:,::1], i4[:,::1], i8[::1], f4, i8[:,::1])")
def _nearest(
    order: Any, least: Any, farther: Any, before: Any, border: Any, size: Any, top: Any, left: Any, distance: Any, label: Any, places: Any,
    margin: Any, found: Any,
) -> None:  # fmt: skip
    width, sizes = order.shape[1], size.reshape(order.size)
    for v in prange(np.int64(label.shape[0])):
        y = np.int64(v) + top
        for u in range(label.shape[1]):
            x = u + left
            behind = behind_from(order[y, x], least, farther)
            if behind <= border and behind > before:
                at = places[label[v, u] - 1]  # a pixel of the part that was looked at
                place = (top + at // label.shape[1]) * width + left + at % label.shape[1]
                if distance[v, u] <= max(size[y, x], sizes[place]) + margin:
                    found[y, x] = place


def find_nearest(
    slice_of: tuple[float, float], order: Values, size: Values, corner: tuple[int, int], distance: Values, label: NDArray[np.int32],
    places: NDArray[np.int64], apart: tuple[float, float], margin: float, found: NDArray[np.int64],
) -> None:  # fmt: skip
    """Into `found` the pixels, counted row by row, of `order` not below the end of a slice, for those that something in the slice is
    behind of: the one whose `label`, from 1, they have, where that is at most the `size` of either away, and `margin` more.

    `distance`, `label` and the `places` of labels, counted row by row, are those of a part of the picture that begins at `corner`, a row
    and a column. Behind is what is farther by `apart[0]`, or by `apart[1]` of the order.
    """
    _nearest(
        ready(order), np.float32(apart[0]), np.float32(apart[1]), np.float32(slice_of[0]), np.float32(slice_of[1]), ready(size), *corner,
        ready(distance), ready(label, np.int32), ready(places, np.int64), np.float32(margin), found,
    )  # fmt: skip


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
