"""Half floats to float32 by a table of all 65536 values: numba has no float16 arrays."""

from functools import cache
from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import kernel


@kernel("void(u2[:,:,:], f4[::1], f4[:,:,::1])")
def _interleave(planes: Any, table: Any, out: Any) -> None:
    count = planes.shape[0]
    for y in prange(np.int64(out.shape[0])):
        o = out[y]
        for c in range(count):
            row = planes[c, y]
            for x in range(o.shape[0]):
                o[x, c] = table[row[x]]


@cache
def _table() -> NDArray[np.float32]:
    return np.arange(65536, dtype=np.uint16).view(np.float16).astype(np.float32)


def interleaved_from_half(planes: NDArray[np.uint16]) -> NDArray[np.float32]:
    """Planes `uint16[c, h, w]` holding half floats, as `float32[h, w, c]`; exact, NaN patterns kept as NaN."""
    out = np.empty((*planes.shape[1:], planes.shape[0]), np.float32)
    _interleave(planes, _table(), out)
    return out
