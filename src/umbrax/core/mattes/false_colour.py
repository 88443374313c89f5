"""IDs in false colour: a stable hue for each ID, weighted by coverage."""

from typing import Any

import numpy as np

from ..picture import Picture, Window
from ..plan.steps import Planner, Step, content_key

GOLDEN = 0.6180339887498949


def colours_of(ids: Any) -> Any:
    """A colour `float32[..., 3]` for each ID: hue and lightness from its bits; ID 0 is black.

    >>> bool((colours_of(np.uint32([0])) == 0).all())
    True
    """
    bits = ids.astype(np.uint64)
    hue = (bits * np.uint64(2654435761) % np.uint64(1 << 32)).astype(np.float64) / 2**32 + GOLDEN
    lightness = 0.35 + 0.45 * ((bits >> np.uint64(7)) % np.uint64(64)).astype(np.float64) / 63
    turn = (hue[..., None] + np.array([0.0, 1 / 3, 2 / 3])) * 2 * np.pi
    colour = lightness[..., None] * (0.55 + 0.45 * np.cos(turn))
    return np.where((ids != 0)[..., None], colour, 0).astype(np.float32)


def false_colour(planner: Planner, source: str, layer_name: str) -> Step:
    """RGBA at full size; alpha is 1, so that empty places show black."""
    info = planner.source(source)
    layer = info.layer(layer_name)
    reader, frame = planner.reader, planner.frame

    def run(window: Window, _: tuple[Picture, ...]) -> Picture:
        ids, coverage = reader.ranks(source, frame, layer.name, window)
        out = np.zeros((window.height, window.width, 4), np.float32)
        out[..., 3] = 1
        distinct, where = np.unique(ids, return_inverse=True)
        palette = colours_of(distinct)
        for rank, share in zip(where.reshape(ids.shape), coverage, strict=True):
            out[..., :3] += palette[rank] * share[..., None]
        return Picture(out, window)

    key = content_key("false colour 1", [info.identity, layer.name], ())
    return Step(key, "false colour", layer.window, 4, (), lambda _: (), run, where=planner.where, pointwise=True)
