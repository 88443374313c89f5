"""Depth at edges, taken from the things that IDs say are there."""

from typing import Any

import numpy as np
from numba import prange

from . import kernel

REACH = 2  # pixels on each side in which a thing has to be alone in one


@kernel("void(f4[:,::1], u4[:,:,::1], f4[:,:,::1], f4, f4, f4[:,::1])")
def depth_by_ids(depth: Any, ids: Any, coverage: Any, least: Any, alone: Any, out: Any) -> None:
    """Of a pixel in which several things are seen the depth of the nearest of them, each as in the next pixel that it has to itself.

    A thing counts from a coverage of `least`, and has a pixel to itself from `alone`. Where one of them has none, what the pixel itself
    says counts too.
    """
    ranks, height, width = ids.shape
    for y in prange(height):
        for x in range(width):
            if ranks < 2 or coverage[1, y, x] < least:
                out[y, x] = depth[y, x]
                continue
            best, missing = np.float32(np.inf), np.int64(0)
            for r in range(ranks):
                if coverage[r, y, x] < least:
                    break
                own, near = np.float32(np.inf), np.int64(99)
                for v in range(max(0, y - REACH), min(height, y + REACH + 1)):
                    for u in range(max(0, x - REACH), min(width, x + REACH + 1)):
                        far = np.int64((v - y) * (v - y) + (u - x) * (u - x))
                        if far < near and ids[0, v, u] == ids[r, y, x] and coverage[0, v, u] >= alone:
                            own, near = depth[v, u], far
                missing += np.int64(near == 99)
                best = min(best, own)
            out[y, x] = best if missing == 0 else min(best, depth[y, x])
