"""From what each pixel's samples met to coverages: one set of kinds, ranks in falling order, and the foremost kind."""

from typing import Any

import numba
import numpy as np
from numba import prange
from numpy.typing import NDArray

Kinds = NDArray[np.int16]
Counts = NDArray[np.uint8]


@numba.njit(cache=True, nogil=True, parallel=True)
def _covered(kinds: Any, counts: Any, wanted: Any, share: Any, out: Any) -> None:
    for y in prange(out.shape[0]):
        for x in range(out.shape[1]):
            total = 0
            for slot in range(kinds.shape[2]):
                if counts[y, x, slot] == 0:
                    break
                if wanted[kinds[y, x, slot]]:
                    total += counts[y, x, slot]
            out[y, x] = total * share


@numba.njit(cache=True, nogil=True, parallel=True)
def _ranked(kinds: Any, counts: Any, hashes: Any, share: Any, ids: Any, coverage: Any) -> None:
    ranks, height, width = ids.shape
    for y in prange(height):
        left = np.empty(kinds.shape[2], np.int64)
        for x in range(width):
            for slot in range(left.shape[0]):
                left[slot] = counts[y, x, slot]
            for rank in range(ranks):
                best = 0
                for slot in range(left.shape[0]):
                    if counts[y, x, slot] == 0:
                        break
                    if left[slot] > left[best]:
                        best = slot
                if left[best] == 0:
                    break
                ids[rank, y, x] = hashes[kinds[y, x, best]]
                coverage[rank, y, x] = left[best] * share
                left[best] = 0


def covered(kinds: Kinds, counts: Counts, wanted: NDArray[np.bool_], samples: int) -> NDArray[np.float32]:
    """The share of a pixel's samples that met any wanted kind, `float32[h, w]`."""
    out = np.zeros(kinds.shape[:2], np.float32)
    _covered(kinds, counts, wanted, np.float32(1 / samples), out)
    return out


def ranked(
    kinds: Kinds, counts: Counts, hashes: NDArray[np.uint32], ranks: int, samples: int
) -> tuple[NDArray[np.uint32], NDArray[np.float32]]:
    """IDs and coverages `[rank, h, w]` in falling order of coverage; 0 where a pixel holds fewer kinds."""
    shape = (ranks, *kinds.shape[:2])
    ids, coverage = np.zeros(shape, np.uint32), np.zeros(shape, np.float32)
    _ranked(kinds, counts, hashes, np.float32(1 / samples), ids, coverage)
    return ids, coverage
