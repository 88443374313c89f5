"""Light spread over octaves: the levels of a pyramid that hold it, weighed and put together when it is drawn."""

from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..picture import Window
from . import LINE, blank, ready
from .drawing import Drawing
from .lit import once_of
from .pyramid import MADE, MARGIN, down, put_together, up_add

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
        kept = self.coarse if self.coarse.base is None else self.coarse.base  # with what it was made of, which lies beside it
        return int(kept.nbytes) + self.fine.nbytes

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
        self._begins, room = _laid_out(self._covers[1:], len(tint))
        self._finest, self._coarser = ready(pixels), blank(room)
        fine, plain = self._finest, np.ones_like(self._tint)
        for number, (at, cover) in enumerate(pairwise(self._covers)):
            coarse = self._level(number + 1)
            # the first step down brings the tint along to all that follow
            down(fine, 2 * cover.y0 - at.y0, 2 * cover.x0 - at.x0, plain if number else self._tint, coarse)
            fine = coarse

    def _level(self, number: int) -> Pixels:
        return _part(self._coarser, self._begins[number - 1], self._covers[number], len(self._tint))

    def octaves(self, weights: list[float], out: Window, less: float = 0.0) -> Octaves:
        """Sum of `weights[k]` x level k x tint, to be drawn within the window `out`; level 0 is the plane itself, and `less` times that is
        taken away. There are no more weights than levels; their sum is the share of light that arrives."""
        count, channels, covers = len(weights), len(self._tint), self._covers[: len(weights)]
        finest = self._tint * np.float32(weights[0]) - np.float32(less)
        if count == 1:  # below a single level is darkness
            light, light_at, gain = np.zeros((1, 1, channels), np.float32), DARK, weights[0]
        elif count == 2:
            light, light_at, gain = self._level(1), covers[1], weights[1]
        else:
            steps, light_at, room = _steps(covers, out, channels)
            made, gain = blank(room), 1.0
            put_together(self._coarser, steps, channels, np.array(weights[-2:0:-1], np.float32), np.float32(weights[-1]), made)
            light = _part(made, int(steps[-1, MADE]), light_at, channels)
        return Octaves(light, light_at, gain, self._finest, covers[0], finest if finest.any() else np.empty(0, np.float32))


def _part(numbers: Pixels, begin: int, at: Window, channels: int) -> Pixels:
    return numbers[begin : begin + at.area * channels].reshape(at.height, at.width, channels)


def _laid_out(windows: tuple[Window, ...], channels: int) -> tuple[list[int], int]:
    """Where in memory each of some planes begins, one after the other, and how many numbers that takes."""
    begins, room = [], 0
    for at in windows:
        begins.append(room)
        room += -(-at.area * channels // LINE) * LINE
    return begins, room


@lru_cache(maxsize=512)
def _covers(window: Window, levels: int) -> tuple[Window, ...]:
    """Of each level what holds any light that is fed on a window, from the finest on."""
    covers = [window]
    for _ in range(levels - 1):
        covers.append(covers[-1].scaled(2).grown(MARGIN))
    return tuple(covers)


@lru_cache(maxsize=512)
def _steps(covers: tuple[Window, ...], out: Window, channels: int) -> tuple[NDArray[np.int64], Window, int]:
    """How three levels or more on such windows are put together, from the coarsest to the second, as far as the window `out` needs it: the
    table of `put_together`, the window of what the last step makes, and how many numbers all steps make."""
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
    levels, _ = _laid_out(covers[1:], channels)
    made, room = _laid_out(tuple(targets), channels)
    steps = np.zeros((len(targets), 13), np.int64)
    coarse_at, coarse = covers[-1], levels[-1]
    for n, (to, at) in enumerate(zip(targets, covers[-2:0:-1], strict=True)):
        steps[n] = (
            coarse, coarse_at.height, coarse_at.width, to.y0 - 2 * coarse_at.y0, to.x0 - 2 * coarse_at.x0,
            levels[-2 - n], at.height, at.width, to.y0 - at.y0, to.x0 - at.x0,
            made[n], to.height, to.width,
        )  # fmt: skip
        coarse_at, coarse = to, made[n]
    return steps, targets[-1], room


def pyramid_once(part: Pixels, window: Window, levels: int, tint: Pixels) -> Pyramid:
    """The pyramid of the part of a plane that holds any light: once, where that is kept."""
    return once_of(part, "pyramid", (window, levels, tint.tobytes()), lambda: Pyramid(part, window, levels, tint))
