"""Floats to half floats, rounded to the nearest and ties to even, as IEEE 754 has it."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import kernel, ready
from .vectors import as_half

BLOCK = 1 << 15


@kernel("void(f4[::1], u2[::1])")
def _halves(values: Any, out: Any) -> None:
    for block in prange(np.int64((values.shape[0] + BLOCK - 1) // BLOCK)):
        start = np.int64(block) * BLOCK
        v, o = values[start : start + BLOCK], out[start : start + BLOCK]
        for i in range(v.shape[0]):
            o[i] = as_half(v[i])


def halves(values: NDArray[np.float32]) -> NDArray[np.float16]:
    """The same shape in half floats; beyond 65504 infinity, NaN stays NaN."""
    out = np.empty(values.shape, np.uint16)
    _halves(ready(values).reshape(-1), out.reshape(-1))
    return out.view(np.float16)
