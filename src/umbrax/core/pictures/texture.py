"""Texture: a picture of a surface that goes on for ever."""

import math
from typing import Literal

import numpy as np

from ..document.tiling import Tiling
from ..picture import Picture, Window
from ..plan.placed import RADIUS, resampled
from ..plan.placement import Placement
from ..plan.steps import Planner, Step, content_key
from .base import PICTURES, PictureKind, PictureParams, as_rgba


class TexturePicture(Tiling, PictureParams):
    """A picture of a surface that goes on for ever: tiled, scaled and turned about the frame's corner."""

    kind: Literal["texture"]
    source: str


def tiled(planner: Planner, source: str, how: Tiling, scale: int, seen: Window) -> Step:
    """A source's picture again and again, at 1/scale, on a window at full size."""
    info = planner.source(source)
    name = how.pass_ or ("beauty" if info.has("beauty") else next(iter(info.passes)))
    tile = as_rgba(planner, source, info.find(name).name, 1)
    angle = math.radians(how.turn)
    cos, sin = math.cos(angle) * how.scale, math.sin(angle) * how.scale
    way = Placement(cos, sin, how.move[0], -sin, cos, how.move[1], "cubic").rounded().between(1, scale)
    back, around = way.inverse(), RADIUS["cubic"] + 1

    def run(window: Window, given: tuple[Picture, ...]) -> Picture:
        if window.empty or tile.domain.empty:
            return Picture(np.zeros((window.height, window.width, 4), np.float32), window, "extend")
        box, own = back.box(window, around), given[0].crop(tile.domain)
        rows = (np.arange(box.y0, box.y1) - own.window.y0) % own.window.height
        columns = (np.arange(box.x0, box.x1) - own.window.x0) % own.window.width
        tiles = Picture(np.ascontiguousarray(own.pixels[rows[:, None], columns[None, :]]), box)  # all that is asked for
        return Picture(resampled(tiles, way, window, limits=True), window, "extend")

    numbers = [round(v, 12) for v in (way.a, way.b, way.c, way.d, way.e, way.f)]
    return Step(
        content_key("texture 1", [numbers, seen], (tile,)), "texture", seen.scaled(scale), 4, (tile,),
        lambda _: (tile.domain,), run, "extend", planner.where,
    )  # fmt: skip


def _texture(planner: Planner, params: TexturePicture, scale: int, join: str) -> Step:
    return tiled(planner, params.source, params, scale, planner.seen)


PICTURES.register(PictureKind("texture", "Texture", TexturePicture, _texture, lambda params: (params.source,)))
