"""Depth at edges: taken from the things that IDs say are there, or from the side that is nearer in value."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import kernel, ready
from .vectors import choose

Plane = NDArray[np.float32]
REACH = 2  # pixels on each side in which a thing has to be alone in one


@kernel("void(f4[:,::1], u4[:,:,:], f4[:,:,:], f4, f4, f4[:,::1])")
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


@kernel("void(f4[:,::1], f4[:,::1], f4[:,::1], f4[:,::1], f4[:,::1], f4, f4, f4, f4[:,::1])")
def _snap(depth: Any, low: Any, high: Any, lower: Any, higher: Any, edge: Any, steep: Any, between: Any, out: Any) -> None:
    far, endless, infinite = np.float32(1e30), np.float32(1e29), np.float32(np.inf)
    least, one, near = np.float32(1e-3), np.float32(1.0), np.float32(1.5)
    for y in prange(np.int64(depth.shape[0])):
        d, a, b, lo, hi, o = depth[y], low[y], high[y], lower[y], higher[y], out[y]
        for x in range(d.shape[0]):
            z = choose(abs(d[x]) < infinite, d[x], far)
            gap, size = b[x] - a[x], abs(a[x])
            apart = (gap > edge * choose(size > least, size, least)) & (gap > steep * (hi[x] - lo[x]))
            within = apart & (z > a[x] + between * gap) & (z < b[x] - between * gap)
            # the mean of a depth and infinity is far nearer to the depth, and belongs to neither
            beyond = (b[x] > endless) & (z < endless) & (z > near * size + one)
            side = choose((z - a[x] <= b[x] - z) & (not beyond), a[x], b[x])
            side = choose(side > endless, infinite, side)
            o[x] = choose(within | beyond, side, d[x])


def snap(depth: Plane, near: tuple[Plane, Plane], around: tuple[Plane, Plane], edge: float, steep: float, between: float) -> Plane:
    """Depth `[h, w]`, each pixel of which lies between the least and the most of what is `near`, and takes the nearer of the two where these
    are an edge: they differ by `edge` of the least, and by `steep` of what the least and most `around` do; `between` of that at either side
    is still that side. What has no depth counts as 1e30 in them, and becomes infinite."""
    out = np.empty_like(depth)
    (low, high), (lower, higher) = near, around
    _snap(
        ready(depth), ready(low), ready(high), ready(lower), ready(higher), np.float32(edge), np.float32(steep), np.float32(between), out
    )  # fmt: skip
    return out


@kernel("void(f4[:,::1], f4[:,::1], f4[:,:,::1], f4[:,:,::1], f4, f4, f4, f4[:,:,::1])")
def _nearness(depth: Any, beside: Any, alpha: Any, behind: Any, opacity: Any, least: Any, nothing: Any, out: Any) -> None:
    zero, one, nearest = np.float32(0.0), np.float32(1.0), np.float32(1e-6)
    for y in prange(np.int64(depth.shape[0])):
        d, e, p = depth[y], beside[y], alpha[y].reshape(depth.shape[1])
        o, b = out[y].reshape(depth.shape[1]), behind[y].reshape(depth.shape[1])
        for x in range(d.shape[0]):
            own = abs(d[x])
            z = choose((p[x] < one) & (not own < nothing), abs(e[x]), own)
            near = choose(z < nothing, one / choose(z > nearest, z, nearest), zero)
            o[x] = choose(p[x] * opacity >= least, near, b[x])


def nearness(depth: Plane, beside: Plane, alpha: Any, behind: Any, opacity: float, least: float, nothing: float) -> Any:
    """One over the depth `[h, w]` where what has `alpha` `[h, w, 1]` covers `least` of a pixel, 0 where nothing stands; elsewhere what is
    `behind` `[h, w, 1]`. Depth from `nothing` on is none: where it covers a pixel in part it has that of what is `beside`."""
    out = np.empty_like(behind)
    _nearness(
        ready(depth), ready(beside), ready(alpha), ready(behind), np.float32(opacity), np.float32(least), np.float32(nothing), out
    )  # fmt: skip
    return out
