"""Colours whose channels are mixed with one another."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import kernel


@kernel("void(f4[:,:,::1], f4[:,::1])")
def _mix(pixels: Any, matrix: Any) -> None:
    width, channels = pixels.shape[1], pixels.shape[2]
    for y in prange(np.int64(pixels.shape[0])):
        p = pixels[y].reshape(width * channels)
        for x in range(width):
            i = x * channels
            red, green, blue = p[i], p[i + 1], p[i + 2]
            p[i] = matrix[0, 0] * red + matrix[0, 1] * green + matrix[0, 2] * blue
            p[i + 1] = matrix[1, 0] * red + matrix[1, 1] * green + matrix[1, 2] * blue
            p[i + 2] = matrix[2, 0] * red + matrix[2, 1] * green + matrix[2, 2] * blue


def mix(pixels: NDArray[np.float32], matrix: NDArray[np.float32]) -> None:
    """Let the first three channels of `float32[h, w, 3 or 4]`, rows in order, become them times a matrix `[3, 3]`; alpha stays."""
    _mix(pixels, matrix)


def mixed(pixels: NDArray[np.float32], matrix: NDArray[np.float32]) -> NDArray[np.float32]:
    """The first three channels of `float32[h, w, 3 or 4]` times a matrix `[3, 3]`, alpha as it is; what is given is not changed."""
    out = np.array(pixels, np.float32, order="C")
    mix(out, matrix)
    return out
