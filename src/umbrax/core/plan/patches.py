"""Parts of a preview that are made at full size: where they are, and their pixels put in their place."""

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from ..kernels.resample import reduce_area
from ..picture import Picture, Window
from .steps import Patches

NEAR = 1  # pixels around a marked one that go with it
EACH = 8000  # full-size pixels that could be computed in the time it takes to begin with a window


def with_patches(picture: Picture, patches: Patches, given: tuple[Picture, ...], full: Callable[[Window], Picture]) -> Picture:
    """A picture with its marked pixels made from those of full size, which `full` gives on a window."""
    mask = patches.marked(picture, given)
    if not mask.any():
        return picture
    pixels = picture.pixels.copy()
    for box in boxes_of(mask, EACH // patches.n**2):
        place = np.s_[box.y0 : box.y1, box.x0 : box.x1]
        there = Window(box.x0 + picture.window.x0, box.y0 + picture.window.y0, box.x1 + picture.window.x0, box.y1 + picture.window.y0)
        fine = reduce_area(np.ascontiguousarray(full(there.magnified(patches.n)).pixels), patches.n)
        # only what is marked: which pixels are does not depend on the window
        np.copyto(pixels[place], fine, where=mask[place][..., None])
    return Picture(pixels, picture.window, picture.edge)


def boxes_of(mask: NDArray[np.bool_], each: int) -> list[Window]:
    """A few windows that hold all marked pixels: two become one where that is no more than `each` pixels of work."""
    padded = np.pad(mask.astype(np.uint8), NEAR)
    _, _, found, _ = cv2.connectedComponentsWithStats(cv2.dilate(padded, np.ones((2 * NEAR + 1, 2 * NEAR + 1), np.uint8)))
    # grown by so much on each side, in an array that begins as much earlier
    return _merged([Window(x, y, x + w - 2 * NEAR, y + h - 2 * NEAR) for x, y, w, h, _ in found[1:].tolist()], each)


def _merged(boxes: list[Window], each: int) -> list[Window]:
    done: list[Window] = []
    for box in sorted(boxes):
        taken = box
        for other in list(done):
            both = other.union(taken)
            if both.area <= other.area + taken.area + each:
                done.remove(other)
                taken = both
        done.append(taken)
    return done if len(done) == len(boxes) else _merged(done, each)
