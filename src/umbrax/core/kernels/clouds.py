"""Smooth noise in three dimensions: gradients at the corners of a lattice, blended (K. Perlin, Improving Noise, 2002)."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, part


@part
def _corner(i: Any, j: Any, k: Any, seed: Any, x: Any, y: Any, z: Any) -> Any:
    """The gradient of a lattice corner, one of the twelve towards the edges of a cube, times the way from it."""
    h = np.uint32(np.uint32(i) * np.uint32(374761393) + np.uint32(j) * np.uint32(668265263) + np.uint32(k) * np.uint32(2147483647) + seed)
    h = np.uint32((h ^ (h >> np.uint32(13))) * np.uint32(1274126177))
    h = np.uint32(h ^ (h >> np.uint32(16))) % np.uint32(12)
    u = x if h < 8 else y
    v = y if h < 4 else z
    return (u if (h & np.uint32(1)) == 0 else -u) + (v if (h & np.uint32(2)) == 0 else -v)


@part
def _faded(t: Any) -> Any:
    return t * t * t * (t * (t * np.float32(6.0) - np.float32(15.0)) + np.float32(10.0))


@kernel("void(f8[::1], f8[::1], f8, u4, f4[:,::1])")
def _added(xs: Any, ys: Any, z: Any, seed: Any, out: Any) -> None:
    k = np.int64(np.floor(z))
    w = np.float32(z - k)
    fw = _faded(w)
    one = np.float32(1.0)
    for row in prange(np.int64(out.shape[0])):
        j = np.int64(np.floor(ys[row]))
        v = np.float32(ys[row] - j)
        fv = _faded(v)
        for column in range(out.shape[1]):
            i = np.int64(np.floor(xs[column]))
            u = np.float32(xs[column] - i)
            fu = _faded(u)
            total = np.float32(0.0)
            for dk in range(2):
                for dj in range(2):
                    a = _corner(i, j + dj, k + dk, seed, u, v - np.float32(dj), w - np.float32(dk))
                    b = _corner(i + 1, j + dj, k + dk, seed, u - one, v - np.float32(dj), w - np.float32(dk))
                    mixed = a + (b - a) * fu
                    total += mixed * (fv if dj else one - fv) * (fw if dk else one - fw)
            out[row, column] = total


def clouds(xs: NDArray[Any], ys: NDArray[Any], z: float, seed: int, octaves: int, roughness: float) -> NDArray[np.float32]:
    """Noise `float32[h, w]` around 0, about -1 to 1, at the places xs, ys (1 is a lattice cell) and z; each octave is twice as fine and
    weighs `roughness` times the one before."""
    total = np.zeros((len(ys), len(xs)), np.float32)
    weight, sum_of = 1.0, 0.0
    for octave in range(octaves):
        out = blank(len(ys), len(xs))
        factor = 2.0**octave
        _added(xs * factor, ys * factor, float(z) * factor + 17.5 * octave, np.uint32((seed * 7919 + octave * 104729) & 0xFFFFFFFF), out)
        total += np.float32(weight) * out
        sum_of += weight
        weight *= roughness
    return total / np.float32(sum_of)
