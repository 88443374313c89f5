"""From the things each pixel's samples met to coverages: of one set, in ranks by object, material or asset."""

from typing import Any

import numba
import numpy as np
from numba import prange
from numpy.typing import NDArray

Seen = NDArray[np.int16]
Counts = NDArray[np.uint8]


@numba.njit(cache=True, nogil=True, parallel=True)
def _covered(seen: Any, counts: Any, wanted: Any, share: Any, out: Any) -> None:
    for y in prange(out.shape[0]):
        for x in range(out.shape[1]):
            total = 0
            for slot in range(seen.shape[2]):
                if counts[y, x, slot] == 0:
                    break
                if wanted[seen[y, x, slot]]:
                    total += counts[y, x, slot]
            out[y, x] = total * share


@numba.njit(cache=True, nogil=True, parallel=True)
def _ranked(seen: Any, counts: Any, kind_of: Any, hashes: Any, share: Any, ids: Any, coverage: Any) -> None:
    ranks, height, width = ids.shape
    for y in prange(height):
        kinds, left = np.empty(seen.shape[2], np.int64), np.empty(seen.shape[2], np.int64)
        for x in range(width):
            used = 0
            for slot in range(seen.shape[2]):
                if counts[y, x, slot] == 0:
                    break
                kind, same = kind_of[seen[y, x, slot]], 0
                while same < used and kinds[same] != kind:
                    same += 1
                if same == used:
                    kinds[used], left[used] = kind, 0
                    used += 1
                left[same] += counts[y, x, slot]
            for rank in range(min(ranks, used)):
                best = 0
                for slot in range(1, used):
                    if left[slot] > left[best]:
                        best = slot
                ids[rank, y, x] = hashes[kinds[best]]
                coverage[rank, y, x] = left[best] * share
                left[best] = 0


def covered(seen: Seen, counts: Counts, wanted: NDArray[np.bool_], samples: int) -> NDArray[np.float32]:
    """The share of a pixel's samples that met any wanted thing, `float32[h, w]`."""
    out = np.zeros(seen.shape[:2], np.float32)
    _covered(seen, counts, wanted, np.float32(1 / samples), out)
    return out


def ranked(
    seen: Seen, counts: Counts, kind_of: NDArray[np.int64], hashes: NDArray[np.uint32], ranks: int, samples: int
) -> tuple[NDArray[np.uint32], NDArray[np.float32]]:
    """IDs and coverages `[rank, h, w]` in falling order of coverage; 0 where a pixel holds fewer kinds.

    `kind_of` says of each thing which of the kinds that `hashes` lists it is.
    """
    shape = (ranks, *seen.shape[:2])
    ids, coverage = np.zeros(shape, np.uint32), np.zeros(shape, np.float32)
    _ranked(seen, counts, kind_of, hashes, np.float32(1 / samples), ids, coverage)
    return ids, coverage
