"""A picture beside its place, moved back by any part of a pixel."""

import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.float32]


def shifted(values: Values, right: float, down: float) -> Values:
    """A picture `float32[h, w, c]` moved by any part of a pixel, bilinear; at the border its last pixels go on."""
    for axis, by in ((1, right), (0, down)):
        whole = int(np.floor(by))
        part = np.float32(by - whole)
        near = _moved(values, axis, whole)
        values = near if part == 0 else (1 - part) * near + part * _moved(values, axis, whole + 1)
    return np.ascontiguousarray(values, np.float32)


def _moved(values: Values, axis: int, by: int) -> Values:
    indices = np.clip(np.arange(values.shape[axis]) - by, 0, values.shape[axis] - 1)
    return np.take(values, indices, axis=axis)
