"""Every pixel spread over the picture of an aperture, what is nearer before what is farther.

Each pixel of each slice of depth lays its light, evenly, on the rows of an aperture of its own size: two ends a row, and sums along the
row fill what is between them. Then the slices of a row are joined from the nearest to the farthest. Potmesil and Chakravarty, A Lens
and Aperture Camera Model for Synthetic Image Generation, 1981, spread pixels so; that slices lie over one another, with what is behind
them, keeps sharp things free of what is spread behind them.
"""

from typing import Any

import numpy as np
from numba import prange

from . import kernel, part

SIGNATURE = (
    "void(f4[:,:,:,::1], i4[:,:,::1], i4[:,:,::1], i4[:,:,::1], f4[:,::1], f4[:,::1], f4[:,::1], f4[::1], i8, i8, i8, b1, f4, f4, f4[:,:,::1])"
)
BLOCK = 32  # pixels of a row that are looked at together
NOTHING = 1e-5  # of a pixel that is covered


@part
def _lay(row: Any, cover: Any, start: Any, end: Any, r: Any, g: Any, b: Any, a: Any, w: Any) -> None:
    """From `start` to `end`, in pixels of a row: what begins there and what ends there."""
    i, j = np.int64(start), np.int64(end)
    f, h = np.float32(start - i), np.float32(end - j)
    u, v = np.float32(1.0) - f, np.float32(1.0) - h
    row[i, 0] += u * r
    row[i, 1] += u * g
    row[i, 2] += u * b
    row[i, 3] += u * a
    row[i + 1, 0] += f * r
    row[i + 1, 1] += f * g
    row[i + 1, 2] += f * b
    row[i + 1, 3] += f * a
    row[j, 0] -= v * r
    row[j, 1] -= v * g
    row[j, 2] -= v * b
    row[j, 3] -= v * a
    row[j + 1, 0] -= h * r
    row[j + 1, 1] -= h * g
    row[j + 1, 2] -= h * b
    row[j + 1, 3] -= h * a
    cover[i] += u * w
    cover[i + 1] += f * w
    cover[j] -= v * w
    cover[j + 1] -= h * w


@kernel(SIGNATURE, contract=True, four=True)
def spread_discs(
    light: Any, size: Any, slices: Any, most: Any, left: Any, right: Any, of_row: Any, share: Any, count: Any, sharp: Any, first: Any,
    upside: Any, rim: Any, ring: Any, out: Any,
) -> None:  # fmt: skip
    """Rows of a picture, of which `first` is the first, into `out` `[h, w, 4]`.

    `light[layer, y, x]` is RGBA, `size` the row of the tables or -1 where nothing is, negative ones beyond that mean an aperture upside
    down; `slices` counts from the nearest of `count`. Sizes up to `sharp` stay in their pixel. `most[layer, y, block]` is the farthest
    row that a pixel of a block reaches. `rim` more light comes from beyond `ring` of the radius.
    """
    layers, height, width = size.shape
    middle = (left.shape[1] - 1) // 2
    zero, one, edge = np.float32(0.0), np.float32(1.0), np.float32(width)
    for n in prange(np.int64(out.shape[0])):
        y = first + n
        rows, covers = np.zeros((count, width + 2, 4)), np.zeros((count, width + 2))
        for q in range(max(0, y - middle), min(height, y + middle + 1)):
            away = y - q
            for layer in range(layers):
                for block in range(most.shape[2]):
                    if most[layer, q, block] < abs(away):
                        continue
                    for x in range(block * BLOCK, min(width, block * BLOCK + BLOCK)):
                        k = size[layer, q, x]
                        turned = k < 0
                        if k == -1:
                            continue
                        k = -2 - k if turned else k
                        if k <= sharp:
                            continue
                        d = middle - away if turned and upside else middle + away
                        a, b = left[k, d], right[k, d]
                        if b <= a:
                            continue
                        if turned and upside:
                            a, b = -b, -a
                        s, w, centre = slices[layer, q, x], share[k] * of_row[k, d], np.float32(x) + np.float32(0.5)
                        p0, p1 = light[layer, q, x, 0], light[layer, q, x, 1]
                        p2, p3 = light[layer, q, x, 2], light[layer, q, x, 3]
                        inner = np.int32(np.float32(k) * ring)
                        if rim > zero and inner > sharp:
                            # rim more beyond the ring: what is laid on all of it, less inside
                            even = one / ((one + rim) / share[k] - rim / share[inner])
                            a1, b1 = left[inner, d], right[inner, d]
                            if turned and upside:
                                a1, b1 = -b1, -a1
                            v = -rim * even * of_row[inner, d]
                            if b1 > a1:
                                start, end = min(max(centre + a1, zero), edge), min(max(centre + b1, zero), edge)
                                _lay(rows[s], covers[s], start, end, v * p0, v * p1, v * p2, v * p3, v)
                            w = (one + rim) * even * of_row[k, d]
                        start, end = min(max(centre + a, zero), edge), min(max(centre + b, zero), edge)
                        _lay(rows[s], covers[s], start, end, w * p0, w * p1, w * p2, w * p3, w)
        through = np.ones(width, np.float32)
        for x in range(width):
            out[n, x, 0], out[n, x, 1], out[n, x, 2], out[n, x, 3] = zero, zero, zero, zero
        for s in range(count):
            r, g, b, a, c = 0.0, 0.0, 0.0, 0.0, 0.0
            row, cover = rows[s], covers[s]
            for x in range(width):
                r, g, b, a = r + row[x, 0], g + row[x, 1], b + row[x, 2], a + row[x, 3]
                c += cover[x]
                t = through[x]
                if t == zero:
                    continue
                r1, g1, b1, a1, c1 = np.float32(r), np.float32(g), np.float32(b), np.float32(a), np.float32(c)
                for layer in range(layers):
                    k = size[layer, y, x]
                    if k != -1 and slices[layer, y, x] == s and (k if k >= 0 else -2 - k) <= sharp:
                        r1, g1 = r1 + light[layer, y, x, 0], g1 + light[layer, y, x, 1]
                        b1, a1, c1 = b1 + light[layer, y, x, 2], a1 + light[layer, y, x, 3], c1 + one
                if c1 > np.float32(NOTHING):
                    f = t / max(c1, one)
                    out[n, x, 0] += f * r1
                    out[n, x, 1] += f * g1
                    out[n, x, 2] += f * b1
                    out[n, x, 3] += f * a1
                    through[x] = t * max(zero, one - c1)
        for x in range(width):
            f = one / max(one - through[x], np.float32(1e-4))
            out[n, x, 0], out[n, x, 1], out[n, x, 2], out[n, x, 3] = f * out[n, x, 0], f * out[n, x, 1], f * out[n, x, 2], f * out[n, x, 3]
