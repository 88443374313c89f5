"""Every pixel spread over the picture of an aperture, or along its way, what is nearer before what is farther.

Each pixel of each slice of depth lays its light, evenly, on the rows of an aperture of its own size: two ends a row, and sums along the
row fill what is between them. Then the slices of a row are joined from the nearest to the farthest. Potmesil and Chakravarty, A Lens
and Aperture Camera Model for Synthetic Image Generation, 1981, spread pixels so; that slices lie over one another, with what is behind
them, keeps sharp things free of what is spread behind them.
"""

from typing import Any

import numpy as np
from numba import prange

from . import kernel, part, row_kernel

LAYERS, RUNS, TABLES = "f4[:,:,::1], f4[:,:,::1]", "i4[:,:,:,::1], i4[:,::1], i4[:,::1]", "f4[:,::1], f4[:,::1], f4[:,::1], f4[::1]"
SIGNATURE = f"void({LAYERS}, {RUNS}, {TABLES}, i8, i8, i8, f4, f4, f4[:,:,::1])"
BLOCK = 32  # pixels of a row that are looked at together
BAND = 32  # rows that are made together
FEW, APART = 4, 8  # rows that are made with the same sums, and so many of such from those that come next
NOTHING = 1e-5  # of a pixel that is covered


@row_kernel("void(f8[::1], f8[::1], f4[::1], i8, i8, f8, f8)")
def _begin(row: Any, cover: Any, light: Any, x: Any, count: Any, start: Any, w: Any) -> None:
    """So many pixels from `x` on begin at `start` and one after the other, each w times its light."""
    i, last = np.int64(start), 4 * count
    f = start - i
    u, v = (1.0 - f) * w, f * w
    to, of, on = row[4 * i : 4 * i + last + 4], light[4 * x : 4 * x + last], cover[i : i + count + 1]
    for c in range(4):
        to[c] += u * of[c]
        to[last + c] += v * of[last - 4 + c]
    middle, before, here = to[4:last], of[: last - 4], of[4:]
    for n in range(last - 4):
        middle[n] += u * here[n] + v * before[n]
    on[0] += u
    on[count] += v
    for n in range(1, count):
        on[n] += w


@part
def _lay(row: Any, cover: Any, light: Any, begin: Any, end: Any, a: Any, b: Any, w: Any, edge: Any) -> None:
    """Pixels of a row, each from `a` to `b` from its middle: what begins there and what ends there, all of it within 0 and `edge`."""
    half = np.float32(0.5)
    if b <= a:
        return
    # those that reach past neither end
    low = min(max(begin, np.int64(np.ceil(-half - a))), end)
    high = max(min(end, np.int64(np.floor(edge - half - b)) + np.int64(1)), low)
    if high > low:
        _begin(row, cover, light, low, high - low, np.float64(low + half + a), np.float64(w))
        _begin(row, cover, light, low, high - low, np.float64(low + half + b), -np.float64(w))
    for n in range(begin, end - (high - low)):
        x = n if n < low else n + (high - low)
        middle = np.float32(x) + half
        _begin(row, cover, light, x, np.int64(1), np.float64(min(max(middle + a, np.float32(0.0)), edge)), np.float64(w))
        _begin(row, cover, light, x, np.int64(1), np.float64(min(max(middle + b, np.float32(0.0)), edge)), -np.float64(w))


@part
def _sum_along(row: Any, cover: Any, width: Any) -> None:
    """What begins and ends along a row becomes what is there."""
    r, g, b, a, c = 0.0, 0.0, 0.0, 0.0, 0.0
    for x in range(width):
        n = 4 * x
        r, g, b, a, c = r + row[n], g + row[n + 1], b + row[n + 2], a + row[n + 3], c + cover[x]
        row[n], row[n + 1], row[n + 2], row[n + 3], cover[x] = r, g, b, a, c


@part
def _join(rows: Any, covers: Any, holds: Any, through: Any, out: Any) -> None:
    """The slices of a row that hold anything, from the nearest on: each lets through what it does not cover, and counts once where it
    lies on itself."""
    count, width = covers.shape[0], out.shape[0]
    one, zero = np.float32(1.0), np.float32(0.0)
    through[:] = one
    for x in range(width):
        out[x, 0], out[x, 1], out[x, 2], out[x, 3] = zero, zero, zero, zero
    for s in range(count):
        if not holds[s]:
            continue
        for x in range(width):
            cover = np.float32(covers[s, x])
            if through[x] == zero or cover <= np.float32(NOTHING):
                continue
            f = through[x] / max(cover, one)
            for c in range(4):
                out[x, c] += f * np.float32(rows[s, 4 * x + c])
            through[x] *= max(zero, one - cover)
    for x in range(width):
        f = one / max(one - through[x], np.float32(1e-4))
        for c in range(4):
            out[x, c] *= f


@part
def _rows_of(k: Any, per_pixel: Any) -> Any:
    """How many rows from its own a pixel of the size k / `per_pixel` reaches."""
    return (k + per_pixel // 2 + per_pixel - 1) // per_pixel


@kernel(SIGNATURE, contract=True, four=True)
def spread_discs(
    light: Any, back: Any, runs: Any, counts: Any, most: Any, left: Any, right: Any, of_row: Any, share: Any, count: Any, per_pixel: Any,
    sharp: Any, rim: Any, ring: Any, out: Any,
) -> None:  # fmt: skip
    """Two layers of a picture, what is seen and what is behind it, into `out` `[h, w, 4]`.

    `light` and `back[y, x]` are RGBA, the rest of them as `runs_of` gives it; a size is a row of the tables, and slices count from the
    nearest of `count`. Sizes up to `sharp` stay in their pixel. `rim` more light comes from beyond `ring` of the radius.
    """
    height, width = light.shape[0], light.shape[1]
    middle = (left.shape[1] - 1) // 2
    zero, one, edge = np.float32(0.0), np.float32(1.0), np.float32(width)
    bands = (height + FEW - 1) // FEW
    down = (bands + APART - 1) // APART
    for turn in prange(np.int64(down * APART)):
        # each processor takes turns in sequence, and so rows from all over the picture
        band = (np.int64(turn) % down) * APART + np.int64(turn) // down
        rows, covers, holds = np.zeros((count, 4 * width + 8)), np.zeros((count, width + 2)), np.zeros(count, np.bool_)
        through = np.empty(width, np.float32)
        for y in range(band * FEW, min(height, band * FEW + FEW)):
            for q in range(max(0, y - middle), min(height, y + middle + 1)):
                away = y - q
                for layer in range(2):
                    if away != 0 and _rows_of(most[layer, q], per_pixel) < abs(away):
                        continue
                    lights = (light[q] if layer == 0 else back[q]).reshape(4 * width)
                    for n in range(counts[layer, q]):
                        # neighbours of one size in one slice are laid together
                        begin, end = np.int64(runs[layer, q, n, 0]), np.int64(runs[layer, q, n + 1, 0])
                        code, s = runs[layer, q, n, 1], runs[layer, q, n, 2]
                        turned = code < -1
                        k = np.int64(-2 - code if turned else code)
                        if k == -1 or (k <= sharp and away != 0) or _rows_of(k, per_pixel) < abs(away):
                            continue
                        holds[s] = True
                        if k <= sharp:  # what is not spread stays in its pixel: it begins there, and ends in the next
                            _begin(rows[s], covers[s], lights, begin, end - begin, np.float64(begin), 1.0)
                            _begin(rows[s], covers[s], lights, begin, end - begin, np.float64(begin + 1), -1.0)
                            continue
                        d = middle - away if turned else middle + away
                        w, inner = share[k] * of_row[k, d], np.int32(np.float32(k) * ring)
                        if rim > zero and inner > sharp:
                            # rim more beyond the ring: what is laid on all of it, less inside
                            even = one / ((one + rim) / share[k] - rim / share[inner])
                            v, w = -rim * even * of_row[inner, d], (one + rim) * even * of_row[k, d]
                            a, b = left[inner, d], right[inner, d]
                            _lay(rows[s], covers[s], lights, begin, end, -b if turned else a, -a if turned else b, v, edge)
                        a, b = left[k, d], right[k, d]
                        _lay(rows[s], covers[s], lights, begin, end, -b if turned else a, -a if turned else b, w, edge)
            for s in range(count):
                if holds[s]:
                    _sum_along(rows[s], covers[s], width)
            _join(rows, covers, holds, through, out[y])
            for s in range(count):
                if holds[s]:
                    rows[s, :], covers[s, :] = 0.0, 0.0
                    holds[s] = False


@kernel("void(f4[:,:,:,::1], f4[:,:,:,::1], i4[:,:,::1], u1[:,:,::1], i4[:,:,::1], i8, i8, f4[:,:,::1])", contract=True, four=True)
def spread_lines(light: Any, way: Any, slices: Any, there: Any, most: Any, count: Any, reach: Any, out: Any) -> None:
    """Every pixel spread evenly along its way (x, y) in pixels, which its place is the middle of; the rest as above.

    `most[layer, y, block]` is the farthest row that a pixel of a block reaches, none farther than `reach`.
    """
    layers, height, width = slices.shape
    bands, every = (height + BAND - 1) // BAND, np.ones(count, np.bool_)
    for band in prange(np.int64(bands)):
        top, bottom = band * BAND, min(height, band * BAND + BAND)
        rows, covers = np.zeros((bottom - top, count, 4 * width)), np.zeros((bottom - top, count, width))
        through = np.empty(width, np.float32)
        for q in range(max(0, top - reach - 1), min(height, bottom + reach + 1)):
            away = max(top - q, q - bottom + 1, 0)
            for layer in range(layers):
                for block in range(most.shape[2]):
                    if most[layer, q, block] < away:
                        continue
                    for x in range(block * BLOCK, min(width, block * BLOCK + BLOCK)):
                        if there[layer, q, x] == 0:
                            continue
                        wx, wy, s = way[layer, q, x, 0], way[layer, q, x, 1], slices[layer, q, x]
                        steps = max(np.int64(1), np.int64(np.ceil(max(abs(wx), abs(wy)))))
                        w = 1.0 / steps
                        for k in range(steps):
                            t = (k + 0.5) / steps - 0.5
                            px, py = x + t * wx, q + t * wy
                            ix, iy = np.int64(np.floor(px)), np.int64(np.floor(py))
                            fx, fy = px - ix, py - iy
                            for j in range(2):
                                v = np.int64(iy + j - top)
                                wj = w * (fy if j else 1.0 - fy)
                                if v < 0 or v >= bottom - top or wj == 0.0:
                                    continue
                                for i in range(2):
                                    u, wi = ix + i, wj * (fx if i else 1.0 - fx)
                                    if u < 0 or u >= width or wi == 0.0:
                                        continue
                                    rows[v, s, 4 * u] += wi * light[layer, q, x, 0]
                                    rows[v, s, 4 * u + 1] += wi * light[layer, q, x, 1]
                                    rows[v, s, 4 * u + 2] += wi * light[layer, q, x, 2]
                                    rows[v, s, 4 * u + 3] += wi * light[layer, q, x, 3]
                                    covers[v, s, u] += wi
        for line in range(bottom - top):
            _join(rows[line], covers[line], every, through, out[top + line])
