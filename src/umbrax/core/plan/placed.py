"""A step placed where a card stands.

A picture that gets smaller is averaged by area, which keeps its light: along each of its axes or, where it is turned, as a whole.
One that does not is interpolated by the chosen filter: bilinear, cubic (R. G. Keys, Cubic Convolution Interpolation for Digital
Image Processing, 1981, a = -1/2) or Lanczos with three lobes (C. E. Duchon, Lanczos Filtering in One and Two Dimensions, 1979).
Data that no mean may be made of, as depth, is taken from the nearest pixel.
"""

import math
from dataclasses import replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..errors import Where
from ..kernels.placing import Taps, along_columns, along_rows, averaged, limit_alpha, sampled, sampled_rgba
from ..picture import OUTSIDE, Edge, Picture, Window
from .placement import Filter, Placement
from .steps import Step, content_key

Pixels = NDArray[np.float32]
RADIUS: dict[str, int] = {"nearest": 1, "bilinear": 1, "cubic": 2, "lanczos": 3}
PHASES = 2048  # of a table of taps; between them it is linear: an error below 1e-6


def source_scale(placement: Placement, scale: int) -> int:
    """The scale at which a picture is read that is placed in a frame at 1/scale: finer where it is enlarged."""
    finer = 1 << max(0, math.floor(math.log2(max(placement.zoom, 1e-6))))
    return max(1, scale // finer)


def placed(
    step: Step, placement: Placement, own_scale: int, scale: int, display: Window, where: Where, ends: Edge = "empty"
) -> Step:  # fmt: skip
    """A step at 1/own_scale as it stands in a frame at 1/scale; `display` at that scale.

    A picture whose border goes on ends where it ends once it does not fill the frame any more: outside stands `ends` then. Of four
    channels the last is alpha, which is kept in 0..1, but where they are only mixed (bilinear).
    """
    if placement.still and own_scale == scale:
        return step
    way = placement.between(own_scale, scale)
    edge: Edge = step.edge if step.edge != "extend" or way.fills(step.domain, display) else ends
    exact, back = _is_exact(way), way.inverse()
    around = 0 if exact else RADIUS[way.filter] + 1
    limits = not exact and way.filter in ("cubic", "lanczos") and step.channels == 4
    numbers = [round(v, 12) for v in (way.a, way.b, way.c, way.d, way.e, way.f)]

    def needs(window: Window) -> tuple[Window, ...]:
        # all of it for a whole frame: wherever it is moved next, it is there
        wanted = back.box(window, around)
        whole = 2 * window.area >= display.area and step.domain.area <= 4 * max(display.area, wanted.area)
        return (step.domain if whole else wanted,)

    def run(window: Window, given: tuple[Picture, ...]) -> Picture:
        own = Picture(given[0].pixels, given[0].window, edge)
        if window.empty or exact:
            return Picture(_taken(own.crop(back.box(window, around)), way, window), window, edge)
        return Picture(resampled(own, way, window, limits), window, edge)

    return Step(
        content_key("placed 1", [numbers, None if exact else way.filter, edge, limits], (step,)), "placed",
        way.box(step.domain, 0 if exact else max(1.0, way.zoom) * RADIUS[way.filter]), step.channels, (step,),
        needs, run, edge, where,
    )  # fmt: skip


def ended(step: Step, build: Placement, scale: int, display: Window) -> Step:
    """A picture at 1/scale in a build that stands in the frame so: one whose border goes on ends where it ends once the build does not fill
    the frame with it. `display` at full size."""
    if step.edge != "extend" or build.still or build.flat or build.fills(step.domain.magnified(scale), display):
        return step
    return replace(step, key=content_key("ended 1", None, (step,)), edge="empty")


def _is_exact(way: Placement) -> bool:
    """Whole pixels, mirrored or turned by quarters: nothing is computed, only taken from elsewhere."""
    straight = abs(way.a) == 1 == abs(way.e) and way.b == 0 == way.d
    crossed = abs(way.b) == 1 == abs(way.d) and way.a == 0 == way.e
    return (straight or crossed) and all(abs(v - round(v)) < 1e-9 for v in (way.c, way.f))


def _taken(own: Picture, way: Placement, window: Window) -> Pixels:
    pixels = own.pixels if way.a else own.pixels.transpose(1, 0, 2)
    pixels = pixels[:: -1 if way.d + way.e < 0 else 1, :: -1 if way.a + way.b < 0 else 1]
    return np.ascontiguousarray(pixels[: window.height, : window.width])


def resampled(own: Picture, way: Placement, window: Window, limits: bool = False) -> Pixels:
    """The pixels of a window of the placed picture; what stands outside `own` is its edge. With `limits` the fourth channel is an
    alpha that is kept in 0..1."""
    back = way.inverse()
    if way.filter == "nearest":
        return _nearest(own, back, window)
    turned = way.b != 0 != way.d and not (way.a == 0 == way.e)
    if turned and not way.shrinks and way.filter == "cubic" and own.channels == 4:
        matrix, outside = _between_pixels(back, own.window), OUTSIDE[own.edge]
        return sampled_rgba(own.pixels, matrix, (window.x0, window.y0), (window.height, window.width), outside, limits)
    pixels = _resampled(own.crop(back.box(window, RADIUS[way.filter] + 1)), way, window)
    if limits:
        limit_alpha(pixels)
    return pixels


def _nearest(own: Picture, back: Placement, window: Window) -> Pixels:
    """Of each pixel the one of `own` in which its centre lies."""
    x, y = np.arange(window.x0, window.x1) + 0.5, np.arange(window.y0, window.y1)[:, None] + 0.5
    taken = own.crop(back.box(window, 1))
    columns = np.floor(back.a * x + back.b * y + back.c).astype(np.int64) - taken.window.x0
    rows = np.floor(back.d * x + back.e * y + back.f).astype(np.int64) - taken.window.y0
    return np.ascontiguousarray(taken.pixels[rows, columns])


def _between_pixels(back: Placement, box: Window) -> NDArray[np.float64]:
    """From a pixel of the result to one of `box`: centres lie half a pixel in."""
    x, y = back.at(0.5, 0.5)
    return np.array([back.a, back.b, x - 0.5 - box.x0, back.d, back.e, y - 0.5 - box.y0])


def _resampled(own: Picture, way: Placement, window: Window) -> Pixels:
    if way.a == 0 == way.e:  # a quarter turn: rows become columns
        w = own.window
        own = Picture(np.ascontiguousarray(own.pixels.transpose(1, 0, 2)), Window(w.y0, w.x0, w.y1, w.x1), own.edge)
        way = Placement(way.b, way.a, way.c, way.e, way.d, way.f, way.filter)
    if way.b == 0 == way.d:
        rows = _axis(way.e, way.f, way.filter, window.y0, window.y1, own.window.y0)
        columns = _axis(way.a, way.c, way.filter, window.x0, window.x1, own.window.x0)
        return along_columns(along_rows(own.pixels, rows), columns)
    back, box = way.inverse(), own.window
    origin, shape = (window.x0, window.y0), (window.height, window.width)
    if way.shrinks:
        return averaged(own.pixels, np.array([back.a, back.b, back.c - box.x0, back.d, back.e, back.f - box.y0]), origin, shape)
    return sampled(own.pixels, _between_pixels(back, box), origin, shape, _table(way.filter))


def _axis(scale: float, shift: float, filter_: Filter, start: int, end: int, first: int) -> Taps:
    """The taps of the pixels from `start` to `end` of x' = scale x + shift, counted in a line from `first` on."""
    at = np.arange(start, end, dtype=np.float64)
    if abs(scale) < 1:
        one, other = (at - shift) / scale, (at + 1 - shift) / scale
        low, high = np.minimum(one, other)[:, None], np.maximum(one, other)[:, None]
        begin = np.floor(low[:, 0]).astype(np.int64)
        cells = begin[:, None] + np.arange(math.ceil(1 / abs(scale)) + 1)
        weights = np.clip(np.minimum(cells + 1, high) - np.maximum(cells, low), 0, None) * abs(scale)
    else:
        place = (at + 0.5 - shift) / scale - 0.5
        # to within rounding on a pixel: there
        place = np.where(np.abs(place - np.rint(place)) < 1e-9, np.rint(place), place)
        begin = np.floor(place).astype(np.int64) - RADIUS[filter_] + 1
        weights = _weights(filter_, place - np.floor(place))
    return begin - first, weights.astype(np.float32)


def _weights(filter_: Filter, phase: NDArray[np.float64]) -> NDArray[np.float64]:
    """The taps `[n, 2 radius]` at phases 0..1 after the pixel before; each line adds up to 1."""
    radius = RADIUS[filter_]
    t = np.abs(phase[:, None] - np.arange(1 - radius, radius + 1))
    if filter_ == "bilinear":
        weights = np.clip(1 - t, 0, None)
    elif filter_ == "cubic":
        near, far = (1.5 * t - 2.5) * t * t + 1, ((-0.5 * t + 2.5) * t - 4) * t + 2
        weights = np.where(t < 1, near, np.where(t < 2, far, 0))
    else:
        weights = np.where(t < 3, np.sinc(t) * np.sinc(t / 3), 0)
    return np.asarray(weights / weights.sum(axis=1, keepdims=True))


@lru_cache(maxsize=3)
def _table(filter_: Filter) -> Pixels:
    """Taps at all phases, and once more the last: what lies at the end of the last phase."""
    taps = _weights(filter_, np.arange(PHASES + 1) / PHASES)
    return np.concatenate([taps, taps[-1:]]).astype(np.float32)
