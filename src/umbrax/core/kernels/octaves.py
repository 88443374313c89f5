"""Light spread over octaves: the levels of a pyramid that hold it, weighed and put together when it is drawn."""

from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..picture import Window
from . import blank, ready
from .drawing import Drawing
from .lit import once_of
from .pyramid import MARGIN, down, up_add

Pixels = NDArray[np.float32]
DARK = Window(0, 0, 1, 1)


@dataclass(frozen=True, eq=False)
class Octaves(Drawing):
    """gains x fine + gain x coarse, that on pixels twice as large, outside of which is 0: light spread over the levels of a pyramid, all but
    the finest put together."""

    coarse: Pixels
    coarse_at: Window
    gain: float
    fine: Pixels
    fine_at: Window
    gains: Pixels  # of the finest level, for each channel; none where it has no part

    @property
    def nbytes(self) -> int:
        return self.coarse.nbytes + self.fine.nbytes

    @property
    def channels(self) -> int:
        return int(self.coarse.shape[2])

    def _draw(self, part: Window, amount: np.float32, below: Pixels, top: int, left: int, out: Pixels) -> None:
        coarse, fine = self.coarse_at, self.fine_at
        up_add(
            self.coarse, part.y0 - 2 * coarse.y0, part.x0 - 2 * coarse.x0, np.float32(self.gain), self.fine, part.y0 - fine.y0,
            part.x0 - fine.x0, self.gains, below, top, left, part.height, part.width, amount, out,
        )  # fmt: skip


class Pyramid:
    """A plane of light `[h, w, c]` on a window, outside of which is darkness, and below it `levels` - 1 coarser ones; `tint` has a factor
    for each channel."""

    def __init__(self, pixels: Pixels, window: Window, levels: int, tint: Pixels):
        self._covers, self._tint = _covers(window, levels), ready(tint)
        self._plain = np.ones_like(self._tint)
        self._levels = [ready(pixels)]
        for number, (at, cover) in enumerate(pairwise(self._covers)):
            coarse = blank(cover.height, cover.width, len(self._tint))
            # the first step down brings the tint along to all that follow
            down(self._levels[-1], 2 * cover.y0 - at.y0, 2 * cover.x0 - at.x0, self._plain if number else self._tint, coarse)
            self._levels.append(coarse)

    def octaves(self, weights: list[float], out: Window, less: float = 0.0) -> Octaves:
        """Sum of `weights[k]` x level k x tint, to be drawn within the window `out`; level 0 is the plane itself, and `less` times that is
        taken away. There are no more weights than levels; their sum is the share of light that arrives."""
        count, none = len(weights), np.empty(0, np.float32)
        levels, covers = self._levels[:count], self._covers[:count]
        # below a single level is darkness
        light, light_at = (levels[-1], covers[-1]) if count > 1 else (np.zeros((1, 1, len(self._tint)), np.float32), DARK)
        gain = weights[-1]
        targets = _targets(covers, out)
        for fine, at, weight, target in zip(levels[-2:0:-1], covers[-2:0:-1], weights[-2:0:-1], targets, strict=True):
            finer = Octaves(light, light_at, gain, fine, at, self._plain * np.float32(weight) if weight else none)
            light, light_at, gain = finer.drawn(target), target, 1.0
        finest = self._tint * np.float32(weights[0]) - np.float32(less)
        return Octaves(light, light_at, gain, levels[0], covers[0], finest if finest.any() else none)


@lru_cache(maxsize=512)
def _covers(window: Window, levels: int) -> tuple[Window, ...]:
    """Of each level what holds any light that is fed on a window, from the finest on."""
    covers = [window]
    for _ in range(levels - 1):
        covers.append(covers[-1].scaled(2).grown(MARGIN))
    return tuple(covers)


@lru_cache(maxsize=512)
def _targets(covers: tuple[Window, ...], out: Window) -> tuple[Window, ...]:
    """Of what is put together of levels on such windows, from the coarsest to the second, what is needed on the window `out`."""
    wanted = [out]
    for _ in covers[1:]:
        wanted.append(wanted[-1].scaled(2).grown(1))
    targets: list[Window] = []
    light_at = covers[-1]
    for at, needed in zip(covers[-2:0:-1], wanted[-2:0:-1], strict=True):
        light_at = needed.intersect(light_at.grown(1).magnified(2).union(at))
        if light_at.empty:  # a dark pixel stands for darkness
            light_at = Window(needed.x0, needed.y0, needed.x0 + 1, needed.y0 + 1)
        targets.append(light_at)
    return tuple(targets)


def pyramid_once(part: Pixels, window: Window, levels: int, tint: Pixels) -> Pyramid:
    """The pyramid of the part of a plane that holds any light: once, where that is kept."""
    return once_of(part, "pyramid", (window, levels, tint.tobytes()), lambda: Pyramid(part, window, levels, tint))
