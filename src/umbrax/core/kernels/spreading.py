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

SIGNATURE = "void(f4[:,:,:,::1], i4[:,:,::1], i4[:,:,::1], i4[:,:,::1], f4[:,::1], f4[:,::1], f4[:,::1], f4[::1], i8, i8, f4, f4, f4[:,:,::1])"
BLOCK = 32  # pixels of a row that are looked at together
BAND = 32  # rows that are made together
NOTHING = 1e-5  # of a pixel that is covered


@row_kernel("void(f8[::1], f8[::1], f4[::1], i8, i8, f8, f8)")
def _begin(row: Any, cover: Any, light: Any, x: Any, count: Any, start: Any, w: Any) -> None:
    """So many pixels from `x` on begin at `start` and one after the other, each w times its light."""
    i = np.int64(start)
    f = start - i
    u, v = (1.0 - f) * w, f * w
    to, of, on = row[4 * i : 4 * i + 4 * count + 4], light[4 * x : 4 * x + 4 * count], cover[i : i + count + 1]
    for n in range(4 * count):
        to[n] += u * of[n]
    for n in range(4 * count):
        to[n + 4] += v * of[n]
    for n in range(count):
        on[n] += u
    for n in range(count):
        on[n + 1] += v


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


@kernel("void(f4[:,:,::1], f4[:,::1], i8[:,::1], f4[::1], i8, f4, f4[:,:,:,::1], i4[:,:,::1], i4[:,:,::1], i4[:,:,::1])")
def layers_of(
    light: Any, radius: Any, found: Any, between: Any, per_pixel: Any, sharp: Any, lights: Any, size: Any, slices: Any, most: Any
) -> None:  # fmt: skip
    """What is seen, and what was found behind it by the numbers of its pixels, as the two layers that are spread.

    Sizes come in steps of 1 / `per_pixel` of a pixel, an eighth from 4 pixels of radius on and a quarter from 8: neighbours then mostly
    have the same. What is infinitely far stays in its pixel. `most` has to hold -1.
    """
    height, width = radius.shape
    four, eight, half = np.float32(4.0), np.float32(8.0), np.float32(0.5)
    for y in prange(np.int64(height)):
        for layer in range(2):
            for x in range(width):
                at = y * width + x if layer == 0 else found[y, x]
                if at < 0:
                    size[layer, y, x], slices[layer, y, x] = -1, 0
                    continue
                v, u = at // width, at % width
                r = radius[v, u]
                for c in range(4):
                    lights[layer, y, x, c] = light[v, u, c]
                s = 0
                while s < between.shape[0] and between[s] < r:
                    s += 1
                slices[layer, y, x] = s
                far = np.float32(0.0) if np.isinf(r) else abs(r)
                step = np.int64(1) if far < four else np.int64(2) if far < eight else np.int64(4)
                k = np.int64(np.rint(far * np.float32(per_pixel) / np.float32(step))) * step
                size[layer, y, x] = -2 - k if r < 0 else k
                if far > sharp:
                    reaches = np.int64(np.ceil(np.float32(k) / np.float32(per_pixel) + half))
                    most[layer, y, x // BLOCK] = max(np.int64(most[layer, y, x // BLOCK]), reaches)


@part
def _sum_along(rows: Any, covers: Any, width: Any) -> None:
    """What begins and ends along rows becomes what is there."""
    for s in range(covers.shape[0]):
        r, g, b, a, c = 0.0, 0.0, 0.0, 0.0, 0.0
        row, cover = rows[s], covers[s]
        for x in range(width):
            n = 4 * x
            r, g, b, a, c = r + row[n], g + row[n + 1], b + row[n + 2], a + row[n + 3], c + cover[x]
            row[n], row[n + 1], row[n + 2], row[n + 3], cover[x] = r, g, b, a, c


@part
def _put_sharp(rows: Any, covers: Any, light: Any, size: Any, slices: Any, sharp: Any) -> None:
    """What is not spread stays in its pixel."""
    for x in range(size.shape[0]):
        k = size[x]
        if k != -1 and (k if k >= 0 else -2 - k) <= sharp:
            for c in range(4):
                rows[slices[x], 4 * x + c] += light[x, c]
            covers[slices[x], x] += 1.0


@part
def _join(rows: Any, covers: Any, out: Any) -> None:
    """Slices of a row from the nearest on: each lets through what it does not cover, and counts once where it lies on itself."""
    count, width = covers.shape[0], out.shape[0]
    one, zero = np.float32(1.0), np.float32(0.0)
    through = np.ones(width, np.float32)
    for x in range(width):
        out[x, 0], out[x, 1], out[x, 2], out[x, 3] = zero, zero, zero, zero
    for s in range(count):
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


@kernel(SIGNATURE, contract=True, four=True)
def spread_discs(
    light: Any, size: Any, slices: Any, most: Any, left: Any, right: Any, of_row: Any, share: Any, count: Any, sharp: Any, rim: Any,
    ring: Any, out: Any,
) -> None:  # fmt: skip
    """Two layers of a picture into `out` `[h, w, 4]`.

    `light[layer, y, x]` is RGBA, `size` the row of the tables or -1 where nothing is, negative ones beyond that mean an aperture upside
    down; `slices` counts from the nearest of `count`. Sizes up to `sharp` stay in their pixel. `most[layer, y, block]` is the farthest
    row that a pixel of a block reaches. `rim` more light comes from beyond `ring` of the radius.
    """
    layers, height, width = size.shape
    middle = (left.shape[1] - 1) // 2
    zero, one, edge = np.float32(0.0), np.float32(1.0), np.float32(width)
    for y in prange(np.int64(height)):
        rows, covers = np.zeros((count, 4 * width + 8)), np.zeros((count, width + 2))
        for q in range(max(0, y - middle), min(height, y + middle + 1)):
            away = y - q
            for layer in range(layers):
                x: Any = np.int64(0)
                while x < width:
                    if most[layer, q, x // BLOCK] < abs(away):
                        x = np.int64((x // BLOCK + 1) * BLOCK)
                        continue
                    # neighbours of one size in one slice are laid together
                    code, s, begin = size[layer, q, x], slices[layer, q, x], x
                    while x < width and size[layer, q, x] == code and slices[layer, q, x] == s:
                        x = np.int64(x + 1)
                    turned = code < 0
                    k = -2 - code if code < 0 else code
                    if code == -1 or k <= sharp:
                        continue
                    d, lights = middle - away if turned else middle + away, light[layer, q].reshape(4 * width)
                    w, inner = share[k] * of_row[k, d], np.int32(np.float32(k) * ring)
                    if rim > zero and inner > sharp:
                        # rim more beyond the ring: what is laid on all of it, less inside
                        even = one / ((one + rim) / share[k] - rim / share[inner])
                        v, w = -rim * even * of_row[inner, d], (one + rim) * even * of_row[k, d]
                        a, b = left[inner, d], right[inner, d]
                        _lay(rows[s], covers[s], lights, begin, x, -b if turned else a, -a if turned else b, v, edge)
                    a, b = left[k, d], right[k, d]
                    _lay(rows[s], covers[s], lights, begin, x, -b if turned else a, -a if turned else b, w, edge)
        _sum_along(rows, covers, width)
        for layer in range(layers):
            _put_sharp(rows, covers, light[layer, y], size[layer, y], slices[layer, y], sharp)
        _join(rows, covers, out[y])


@kernel("void(f4[:,:,:,::1], f4[:,:,:,::1], i4[:,:,::1], u1[:,:,::1], i4[:,:,::1], i8, i8, f4[:,:,::1])", contract=True, four=True)
def spread_lines(light: Any, way: Any, slices: Any, there: Any, most: Any, count: Any, reach: Any, out: Any) -> None:
    """Every pixel spread evenly along its way (x, y) in pixels, which its place is the middle of; the rest as above.

    `most[layer, y, block]` is the farthest row that a pixel of a block reaches, none farther than `reach`.
    """
    layers, height, width = slices.shape
    bands = (height + BAND - 1) // BAND
    for band in prange(np.int64(bands)):
        top, bottom = band * BAND, min(height, band * BAND + BAND)
        rows, covers = np.zeros((bottom - top, count, 4 * width)), np.zeros((bottom - top, count, width))
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
            _join(rows[line], covers[line], out[top + line])
