"""Whether a matte can be trusted: the part under a point, what leaks outside of it, its holes, and what a set of mattes covers."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

Plane = NDArray[np.float32]
Mask = NDArray[np.bool_]
HALF = 0.5
NEAR = 3  # pixels around a point in which a part still answers
NEXT = np.ones((3, 3), np.uint8)
SLOPE = np.ones((7, 7), np.uint8)  # pixels over which a soft edge must fall,
FALL = 0.92  # to so much of what it was: neither what is even nor noise does
LONGEST = 96  # pixels of a soft edge, as fast motion has them
ONCE = 1 / 255  # a sum that is less off than this covers once


@dataclass(frozen=True)
class Trust:
    """Pixels covered by a matte, and of them: in the part under the point, and outside of it; holes are pixels inside the part.

    `leak` is the covered area outside the part to all of it, `hole` the holes to the part with its holes; 0..1.
    """

    area: float
    part_area: float
    leak: float
    hole: float


def part_of(m: Plane, x: int, y: int) -> Mask | None:
    """The connected pixels above one half around a point (or the nearest of them), without their soft rim; None where none is.

    `m` is `float32[h, w]`; neighbours count along edges and corners.
    """
    solid = m > HALF
    rows, columns = slice(max(0, y - NEAR), y + NEAR + 1), slice(max(0, x - NEAR), x + NEAR + 1)
    near_y, near_x = np.nonzero(solid[rows, columns])
    if not len(near_y):
        return None
    near_y, near_x = near_y + rows.start, near_x + columns.start
    nearest = int(np.argmin(np.hypot(near_y - y, near_x - x)))
    _, labels = cv2.connectedComponents(solid.astype(np.uint8), connectivity=8)
    return np.asarray(labels == labels[near_y[nearest], near_x[nearest]])


def largest_part(m: Plane) -> Mask | None:
    """The largest of the connected parts above one half."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats((m > HALF).astype(np.uint8), connectivity=8)
    if count < 2:
        return None
    return np.asarray(labels == 1 + int(np.argmax(stats[1:, cv2.CC_STAT_AREA])))


def _box(part: Mask, margin: int = 0) -> tuple[slice, slice] | None:
    """The rows and columns that a part lies in, and `margin` more around them; None where it has no pixel."""
    rows, columns = np.flatnonzero(part.any(axis=1)), np.flatnonzero(part.any(axis=0))
    if not len(rows):
        return None
    return (
        slice(max(0, rows[0] - margin), rows[-1] + 1 + margin),
        slice(max(0, columns[0] - margin), columns[-1] + 1 + margin),
    )


def with_rim(m: Plane, part: Mask) -> Mask:
    """A part with its soft edge: what falls off from it pixel by pixel, however wide, but no other part and nothing even."""
    own = part.copy()
    if (box := _box(part, LONGEST)) is None:
        return own
    # the highest value around says how high the slope is, whatever noise there is in it
    near, height = own[box], cv2.dilate(m[box], SLOPE)
    open_to = (m[box] > 0) & (m[box] <= HALF)
    close = cv2.dilate(part[box].view(np.uint8), SLOPE).view(np.bool_)
    for _ in range(LONGEST):
        ring = cv2.dilate(near.view(np.uint8), NEXT).view(np.bool_) & ~near & open_to
        ring &= close | (height < FALL * cv2.dilate(np.where(near, height, 0), SLOPE))
        if not ring.any():
            break
        near |= ring
    return own


def holes_of(part: Mask) -> Mask:
    """Pixels that a part surrounds, along edges, without being of it."""
    out = np.zeros(part.shape, np.bool_)
    if (box := _box(part)) is None:
        return out
    wide = np.pad(~part[box], 1, constant_values=True).astype(np.uint8)
    _, labels = cv2.connectedComponents(wide, connectivity=4)
    out[box] = (labels[1:-1, 1:-1] != labels[0, 0]) & ~part[box]
    return out


def trust(m: Plane, part: Mask | None) -> Trust:
    """The measures of a matte about one of its parts."""
    area = float(cv2.sumElems(m)[0])
    if part is None or area <= 0:
        return Trust(area, 0.0, 1.0 if area > 0 else 0.0, 0.0)
    beyond = (~with_rim(m, part)).view(np.uint8)
    outside = cv2.mean(m, beyond)[0] * cv2.countNonZero(beyond)
    holes, solid = int(np.count_nonzero(holes_of(part))), int(np.count_nonzero(part))
    return Trust(area, area - outside, outside / area, holes / (holes + solid))


@dataclass(frozen=True)
class Sum:
    """What a set of mattes covers, as parts of the pixels that are covered or ought to be: once, more, or less."""

    once: float
    over: float
    under: float


def sums_told(total: Plane, wanted: Plane) -> Sum:
    """How much of a sum of coverages is what it ought to be; both `float32[h, w]`, `wanted` is 1 or an alpha."""
    counted = (wanted > ONCE) | (total > ONCE)
    count = max(1, int(counted.sum()))
    over, under = int((counted & (total > wanted + ONCE)).sum()), int((counted & (total < wanted - ONCE)).sum())
    return Sum(1 - (over + under) / count, over / count, under / count)
