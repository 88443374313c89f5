"""How much of each pixel of a row an outline covers: the part that filling a shape and averaging a turned picture share."""

from typing import Any

import numpy as np

from . import part


@part
def edge_over_row(x0: Any, y0: Any, x1: Any, y1: Any, row: Any, width: Any, line: Any) -> None:
    """An edge adds to the pixels it runs through in a row the area right of it, and to the next pixel the rest of its height.

    Running sums along the row then give the signed area covered (Green's theorem, pixel by pixel). `line`: width + 2 numbers.
    """
    sign = 1.0
    if y0 > y1:
        x0, y0, x1, y1, sign = x1, y1, x0, y0, -1.0
    top, bottom = max(y0, float(row)), min(y1, float(row + 1))
    if bottom > top:
        slope = (x1 - x0) / (y1 - y0)
        xa, xb = x0 + (top - y0) * slope, x0 + (bottom - y0) * slope
        left, right, tall = min(xa, xb), max(xa, xb), sign * (bottom - top)
        if right <= 0.0:
            line[0] += tall
        elif left < width:
            spread = right - left
            if left < 0.0:
                line[0] += tall * (-left / spread)
            begin, end = int(np.floor(max(left, 0.0))), int(np.ceil(min(right, float(width))))
            for x in range(begin, max(end, begin + 1)):
                a, b = max(left, float(x)), min(right, float(x + 1))
                share = tall if spread == 0.0 else tall * (b - a) / spread
                middle = (a + b) / 2 - x
                line[x] += share * (1.0 - middle)
                line[x + 1] += share * middle
