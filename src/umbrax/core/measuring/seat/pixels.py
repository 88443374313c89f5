"""Pixels as a display shows them, their means, and in blocks."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...colour import srgb_from_linear
from ...kernels.blur import gaussian

Plane = NDArray[np.float32]
Mask = NDArray[np.bool_]
CODES = 255.0  # of a display
LEAST_NEAR = 1e-3  # part of the pixels near by that a mean is taken of


def codes(light: NDArray[Any]) -> NDArray[np.float64]:
    """Light as a display shows it, 0..255 (IEC 61966-2-1); brighter goes on."""
    return np.asarray(srgb_from_linear(np.asarray(light, np.float64)) * CODES, np.float64)


def spread(values: Plane, where: Mask, size: float) -> Plane:
    """A Gaussian mean, `float32[h, w]` or `[h, w, c]`, of the values where a mask is set alone; 0 where there are none near."""
    weight = where.astype(np.float32)[..., None]
    planes = values.reshape(*where.shape, -1)
    height, width = where.shape
    both = np.concatenate([planes * weight, weight], axis=2)
    summed = gaussian(both, size, size, (0, 0), (0, 0, width, height), False)
    around = summed[..., -1:]
    mean = np.divide(summed[..., :-1], around, out=np.zeros_like(planes), where=around > LEAST_NEAR)
    return mean.reshape(values.shape)


def in_blocks(values: NDArray[Any], size: int) -> NDArray[Any]:
    """`[rows, columns, size * size, ...]` of a picture cut into whole blocks from its upper left."""
    rows, columns = values.shape[0] // size, values.shape[1] // size
    cut = values[: rows * size, : columns * size].reshape(rows, size, columns, size, *values.shape[2:])
    return cut.swapaxes(1, 2).reshape(rows, columns, size * size, *values.shape[2:])
