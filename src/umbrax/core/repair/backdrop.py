"""Taking a backdrop that was rendered in out of a picture again."""

import cv2
import numpy as np
from numpy.typing import NDArray

Plane = NDArray[np.float32]
REACH = 16  # pixels from a rim in which the backdrop behind it is looked for
SPREAD = 4.0  # how fast what lies farther from a rim counts less, pixels


def without_backdrop(colour: Plane, coverage: Plane, clean: Plane | None = None) -> Plane:
    """The objects' own light, associated: `C - (1 - m) B`, with C `float32[h, w, 3]` and their coverage m `float32[h, w]`.

    B is `clean` where the backdrop was rendered alone, else what is seen of it around each rim. It solves Porter and Duff's
    over, `C = F + (1 - m) B`, for F (Compositing Digital Images, 1984). Where m is 0 nothing is left, where it is 1 nothing
    changes; light is never made negative.
    """
    behind = _around(colour, coverage) if clean is None else clean
    left = (1 - np.clip(coverage, 0, 1))[..., None]
    own = np.maximum(colour - left * behind, np.minimum(colour, 0))
    return np.asarray(np.where(left >= 1, 0, np.where(left <= 0, colour, own)), np.float32)


def _around(colour: Plane, coverage: Plane) -> Plane:
    """The backdrop spread inward from where nothing covers it; where none is near, the picture itself."""
    bare = np.where(coverage <= 0, np.float32(1), np.float32(0))
    size = (2 * REACH + 1, 2 * REACH + 1)
    near = cv2.GaussianBlur(bare, size, SPREAD)
    seen = cv2.GaussianBlur(np.ascontiguousarray(np.nan_to_num(colour) * bare[..., None]), size, SPREAD)
    spread = seen / np.maximum(near, 1e-12)[..., None]
    return np.asarray(np.where((near > 1e-6)[..., None], spread, colour), np.float32)
