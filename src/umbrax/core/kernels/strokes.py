"""A line drawn with a pen of some width: how far each pixel is from it and how far along, and what the pen covers of it."""

from typing import Any

import numpy as np

from . import part, row_kernel


@part
def _clamped(value: Any) -> Any:
    return min(max(value, np.float32(0.0)), np.float32(1.0))


@row_kernel("i8(f8[:,::1], f8[::1], b1, f8, f4[:,::1], f4[:,::1], i8[::1])")
def nearest_on_line(points: Any, along: Any, closed: Any, far: Any, away: Any, place: Any, touched: Any) -> Any:
    """Of each pixel within `far` of a line the distance, positive on its right, and how far along its next point is.

    `points[n]` in the pixels of `away`, `along[n]` their lengths from the first, of a closed line one more. `away` holds 1e9 where
    nothing was near yet. An open line goes straight on past its ends, so that its pen is held square. `touched` gets the pixels that
    are near, counted row by row; how many there are is returned.
    """
    found = 0
    height, width = away.shape
    count = points.shape[0]
    last = count if closed else count - 1
    for n in range(last):
        ax, ay = points[n, 0], points[n, 1]
        bx, by = points[(n + 1) % count, 0], points[(n + 1) % count, 1]
        dx, dy = bx - ax, by - ay
        square = dx * dx + dy * dy
        if square == 0.0:
            continue
        first_open, last_open = not closed and n == 0, not closed and n == last - 1
        length = np.sqrt(square)
        x0, x1 = max(0, int(np.floor(min(ax, bx) - far))), min(width, int(np.ceil(max(ax, bx) + far)) + 1)
        y0, y1 = max(0, int(np.floor(min(ay, by) - far))), min(height, int(np.ceil(max(ay, by) + far)) + 1)
        for y in range(y0, y1):
            for x in range(x0, x1):
                px, py = x + 0.5 - ax, y + 0.5 - ay
                free = (px * dx + py * dy) / square
                t = min(max(free, 0.0), 1.0)
                if (first_open and free < 0.0) or (last_open and free > 1.0):
                    t = free
                ex, ey = px - t * dx, py - t * dy
                distance = np.sqrt(ex * ex + ey * ey)
                if distance < abs(away[y, x]) and distance <= far:
                    if away[y, x] > np.float32(1e8):
                        touched[found] = y * width + x
                        found += 1
                    side = 1.0 if dx * py - dy * px >= 0.0 else -1.0
                    away[y, x] = np.float32(side * max(distance, 1e-6))
                    place[y, x] = np.float32(along[n] + t * length)
    return found


@row_kernel("void(f4[:,::1], f4[:,::1], i8[::1], f4[::1], f4[:,::1])")
def cover_by_pen(away: Any, place: Any, touched: Any, pen: Any, out: Any) -> None:
    """The larger of `out` and what the pen covers of each of the touched pixels.

    `pen`: half its width, to which side (-1 right, 0, 1 left), softness, first and last place drawn, length of a dash and from dash to
    dash (0: none), width and opacity at the last place as parts of those at the first, and whether there are ends at all.
    """
    half, side, soft, start, end, dash, period = pen[0], pen[1], pen[2], pen[3], pen[4], pen[5], pen[6]
    thin, faint, ends = pen[7], pen[8], pen[9] > np.float32(0.0)
    one, middle = np.float32(1.0), np.float32(0.5)
    width = away.shape[1]
    for n in range(touched.shape[0]):
        y, x = touched[n] // width, touched[n] % width
        d, s = away[y, x], place[y, x]
        u = _clamped((s - start) / max(end - start, np.float32(1e-6)))
        w = half * (one + (thin - one) * u)
        c = min(_clamped((w - abs(d + side * w)) / max(one, np.float32(2.0) * soft * w) + middle), np.float32(2.0) * w)
        if ends:
            c *= _clamped(s - start + middle) * _clamped(end - s + middle)
        if period > np.float32(0.0):
            phase = np.float32((s - start) % period)
            on = min(phase + middle, dash) - max(phase - middle, np.float32(0.0))
            c *= _clamped(_clamped(on) + max(np.float32(0.0), phase + middle - period))
        out[y, x] = max(out[y, x], c * (one + (faint - one) * u))
