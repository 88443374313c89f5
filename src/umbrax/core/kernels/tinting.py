"""Light of one channel in a colour, and what whitens it."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from ..picture import Window
from . import blank, kernel, ready
from .drawing import Drawing
from .vectors import lay_light

Pixels = NDArray[np.float32]


@kernel("void(f4[:,:,::1], f4[::1], f4[:,:,::1])")
def _tint(light: Any, colour: Any, out: Any) -> None:
    width = light.shape[1]
    red, green, blue = colour[0], colour[1], colour[2]
    for y in prange(np.int64(light.shape[0])):
        p, o = light[y].reshape(width), out[y].reshape(colour.shape[0] * width)
        if colour.shape[0] == 3:
            for x in range(width):
                o[3 * x], o[3 * x + 1], o[3 * x + 2] = p[x] * red, p[x] * green, p[x] * blue
        else:
            for x in range(width):
                o[4 * x], o[4 * x + 1], o[4 * x + 2], o[4 * x + 3] = p[x] * red, p[x] * green, p[x] * blue, p[x] * colour[3]


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4[::1], f4[:,:,::1], f4, f4, f4[:,:,::1])")
def _whiten(white: Any, light: Any, colour: Any, core: Any, share: Any, gain: Any, out: Any) -> None:
    width, of = white.shape[1], light.shape[2]
    red, green, blue = colour[0], colour[1], colour[2]
    for y in prange(np.int64(white.shape[0])):
        w, k, p, o = white[y].reshape(width), core[y].reshape(width), light[y].reshape(of * width), out[y].reshape(3 * width)
        if of == 1:
            for x in range(width):
                more = share * w[x] + gain * k[x]
                o[3 * x], o[3 * x + 1] = more - share * (p[x] * red), more - share * (p[x] * green)
                o[3 * x + 2] = more - share * (p[x] * blue)
        else:
            for x in range(width):
                i, more = 3 * x, share * w[x] + gain * k[x]
                o[i], o[i + 1], o[i + 2] = more - share * p[i], more - share * p[i + 1], more - share * p[i + 2]


@kernel("void(f4[:,:,::1], i8, i8, f4[::1], f4[:,:,::1], i8, i8, f4[:,:,::1], i8, i8, i8, i8, f4, f4[:,:,::1])")
def _draw(
    light: Any, y0: Any, x0: Any, colour: Any, more: Any, more_y: Any, more_x: Any, below: Any, top: Any, left: Any, height: Any, width: Any,
    amount: Any, out: Any,
) -> None:  # fmt: skip
    """Light in a colour, or of three channels, and more of it where there is any: into `out`, or where that is RGBA `amount` of it added to
    `below` where it stands there. Offsets: the origin of what is made within each."""
    of, onto = light.shape[2], out.shape[2] == 4
    red, green, blue = colour[0], colour[1], colour[2]
    begin, end = max(np.int64(0), -more_x), min(width, more.shape[1] - more_x)
    for y in prange(np.int64(out.shape[0])):
        row, turn = np.empty(3 * width, np.float32), np.int64(y) - top
        b, o = below[y].reshape(below.shape[1] * below.shape[2]), out[y].reshape(out.shape[1] * out.shape[2])
        within = turn >= 0 and turn < height
        if within:
            p = light[turn + y0].reshape(of * light.shape[1])[of * x0 : of * (x0 + width)]
            if of == 1:
                for x in range(width):
                    row[3 * x], row[3 * x + 1], row[3 * x + 2] = p[x] * red, p[x] * green, p[x] * blue
            else:
                for i in range(3 * width):
                    row[i] = p[i]
            if turn + more_y >= 0 and turn + more_y < more.shape[0] and end > begin:
                to = row[3 * begin : 3 * end]
                add = more[turn + more_y].reshape(3 * more.shape[1])[3 * (begin + more_x) : 3 * (end + more_x)]
                for i in range(to.shape[0]):
                    to[i] += add[i]
        lay_light(row, within, onto, b, amount, left, o)


@dataclass(frozen=True, eq=False)
class Tinted(Drawing):
    """Light `[h, w, 1]` x a colour, or light `[h, w, 3]` as it is, on a window; and more light `[h, w, 3]` on another, added to it."""

    light: Pixels
    at: Window
    colour: Pixels
    more: Pixels
    more_at: Window

    @property
    def nbytes(self) -> int:
        return self.light.nbytes + self.more.nbytes

    def _draw(self, part: Window, amount: np.float32, below: Pixels, top: int, left: int, out: Pixels) -> None:
        _draw(
            self.light, part.y0 - self.at.y0, part.x0 - self.at.x0, self.colour, self.more, part.y0 - self.more_at.y0,
            part.x0 - self.more_at.x0, below, top, left, part.height, part.width, amount, out,
        )  # fmt: skip


def whitening(white: Pixels, light: Pixels, colour: Pixels, share: float, core: Pixels, gain: float) -> Pixels:
    """What is to be added to light for a share of it to become white, and a `core` x gain: share (white - light) + gain core, `[h, w, 3]`.
    `white` and `core` are `[h, w, 1]`; so may be the light, which is in a colour then."""
    out = blank(*white.shape[:2], 3)
    _whiten(ready(white), ready(light), colour, ready(core), np.float32(share), np.float32(gain), out)
    return out


def tinted(light: Pixels, colour: Sequence[float]) -> Pixels:
    """`float32[h, w, 3 or 4]`: light `[h, w, 1]` x a colour of so many channels."""
    out = blank(*light.shape[:2], len(colour))
    _tint(ready(light), np.array(colour, np.float32), out)
    return out
