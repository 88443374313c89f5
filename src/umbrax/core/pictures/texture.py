"""Texture: a picture of a surface that goes on for ever."""

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..document.tiling import Tiling
from ..kernels import blank
from ..picture import Picture, Window
from ..plan.placed import RADIUS, resampled
from ..plan.placement import Placement
from ..plan.steps import Planner, Step, content_key
from .base import PICTURES, PictureKind, PictureParams, as_rgba

LEFT = 2  # pixels of a reduced tile to one of the frame, at the least: what is left to average is the frame's own


class TexturePicture(Tiling, PictureParams):
    """A picture of a surface that goes on for ever: tiled, scaled and turned about the frame's corner."""

    kind: Literal["texture"]
    source: str


def tiled(planner: Planner, source: str, how: Tiling, scale: int, seen: Window) -> Step:
    """A source's picture again and again, at 1/scale, on a window at full size. A tile is its display window: what a file holds of that
    may be less, where it is empty around, or more."""
    info = planner.source(source)
    name = how.pass_ or ("beauty" if info.has("beauty") else next(iter(info.passes)))
    tile = as_rgba(planner, source, info.find(name).name, 1)
    angle = math.radians(how.turn)
    cos, sin = math.cos(angle) * how.scale, math.sin(angle) * how.scale
    tile, whole, finer = _reduced(tile, info.display, how.scale / scale)
    way = Placement(cos, sin, how.move[0], -sin, cos, how.move[1], "cubic").rounded().between(1, scale) @ finer
    back, around = way.inverse(), RADIUS["cubic"] + 1

    def run(window: Window, given: tuple[Picture, ...]) -> Picture:
        if window.empty or whole.empty:
            return Picture(np.zeros((window.height, window.width, 4), np.float32), window, "extend")
        box, own = back.box(window, around), given[0].crop(whole)
        tiles = Picture(_repeated(own, box), box)  # all that is asked for
        return Picture(resampled(tiles, way, window, limits=True), window, "extend")

    numbers = [round(v, 12) for v in (way.a, way.b, way.c, way.d, way.e, way.f)]
    return Step(
        content_key("texture 2", [numbers, seen, whole], (tile,)), "texture", seen.scaled(scale), 4, (tile,),
        lambda _: (whole,), run, "extend", planner.where,
    )  # fmt: skip


def _reduced(tile: Step, d: Window, size: float) -> tuple[Step, Window, Placement]:
    """A tile on a window `d` of which so many are wanted that a pixel of it is but `size`, averaged by area to pixels of some half of one;
    the window of that; and the way from it to the tile as it was. A whole number of them, so that it goes on as before."""
    n = math.floor(1 / size / LEFT)
    if n < LEFT or d.empty:
        return tile, d, Placement(filter="cubic")
    width, height = max(1, round(d.width / n)), max(1, round(d.height / n))
    across, down = d.width / width if width > 1 else n, d.height / height if height > 1 else n  # of one pixel there is no end
    to = Placement(width / d.width, 0, -d.x0 * width / d.width, 0, height / d.height, -d.y0 * height / d.height)
    small = Window(0, 0, width, height)
    step = Step(
        content_key("tile 2", [n, d], (tile,)), "tile", small, 4, (tile,), lambda _: (d,),
        lambda window, given: Picture(resampled(given[0].crop(d), to, window), window), where=tile.where,
    )  # fmt: skip
    return step, small, Placement(across, 0, d.x0, 0, down, d.y0, "cubic")


def _repeated(tile: Picture, box: Window) -> NDArray[np.float32]:
    """A picture side by side and one below the other, on a window."""
    own, out = tile.window, blank(box.height, box.width, tile.channels)
    for y in range(box.y0 - (box.y0 - own.y0) % own.height, box.y1, own.height):
        for x in range(box.x0 - (box.x0 - own.x0) % own.width, box.x1, own.width):
            part = Window(x, y, x + own.width, y + own.height).intersect(box)
            taken = tile.pixels[part.y0 - y : part.y1 - y, part.x0 - x : part.x1 - x]
            out[part.slices_in(box)] = taken
    return out


def _texture(planner: Planner, params: TexturePicture, scale: int, join: str) -> Step:
    return tiled(planner, params.source, params, scale, planner.seen)


PICTURES.register(PictureKind("texture", "Texture", TexturePicture, _texture, lambda params: (params.source,)))
