"""Index passes that were smoothed: numbers between whole ones."""

import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.float32]
REACH = 2  # pixels on each side that take part


def by_majority(index: Values) -> Values:
    """An index pass `float32[h, w]` with whole numbers only: what lies between takes the commonest whole number in 5 x 5."""
    whole = np.abs(index - np.rint(index)) <= 1e-3
    out = np.rint(index)
    for y, x in np.argwhere(~whole):
        ys, xs = slice(max(0, y - REACH), y + REACH + 1), slice(max(0, x - REACH), x + REACH + 1)
        numbers, counts = np.unique(out[ys, xs][whole[ys, xs]], return_counts=True)
        if len(numbers):
            out[y, x] = numbers[counts.argmax()]
    return np.asarray(out, np.float32)
