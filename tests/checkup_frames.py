"""Frames for the check-up, built from arrays: a good little render, and ways to change it."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from umbrax.core.checkup import Finding, Raw, examine
from umbrax.core.mattes.hashing import id_of_name
from umbrax.core.picture import Window
from umbrax.core.plan.reader import FrameInfo, IdLayer, PassInfo

WIDTH, HEIGHT = 96, 72
DISPLAY = Window(0, 0, WIDTH, HEIGHT)
CHANNELS = {1: ("Y",), 2: ("Y", "A"), 3: ("R", "G", "B"), 4: ("R", "G", "B", "A")}


@dataclass
class ArrayFrame:
    """A RawReader over arrays `[h, w, c]`; pass kinds by name, ID layers as (ids, coverages, names)."""

    passes: dict[str, tuple[str, np.ndarray]]
    ids: dict[str, tuple[np.ndarray, np.ndarray, dict[str, int] | None]] = field(default_factory=dict)
    types: Mapping[str, str] = field(default_factory=dict)
    tags: Mapping[str, str] = field(default_factory=dict)
    of: Mapping[str, str] = field(default_factory=dict)
    unassociated: frozenset[str] = frozenset()
    associated: frozenset[str] = frozenset()

    @property
    def info(self) -> FrameInfo:
        found = {}
        for name, (kind, pixels) in self.passes.items():
            window = Window(0, 0, pixels.shape[1], pixels.shape[0])
            channels = CHANNELS[pixels.shape[2]]
            found[name] = PassInfo(name, kind, tuple(f"{name}.{c}" for c in channels), window, channels[-1] == "A", self.of.get(name))
        layers = {}
        for name, (ids, _, names) in self.ids.items():
            kind = "material" if "material" in name else "object"
            layers[name] = IdLayer(name, kind, len(ids), Window(0, 0, ids.shape[2], ids.shape[1]), names)
        first = next(iter(found.values())).window
        return FrameInfo("frame", first, found, layers)

    def raw(self, name: str) -> Raw:
        pixels = np.asarray(self.passes[name][1], np.float32)
        bits = np.ascontiguousarray(pixels).view(np.uint32)
        ys, xs = np.nonzero((bits != bits[0, 0]).any(axis=2))
        if not len(ys):
            return Raw(pixels[:0, :0], Window(0, 0, 0, 0), pixels[0, 0])
        box = Window(int(xs.min()), int(ys.min()), int(xs.max()) + 1, int(ys.max()) + 1)
        return Raw(pixels[box.y0 : box.y1, box.x0 : box.x1], box, pixels[0, 0])

    def ranks(self, layer: str) -> tuple[np.ndarray, np.ndarray]:
        return self.ids[layer][0], self.ids[layer][1]


def disc(cx: float, cy: float, radius: float) -> np.ndarray:
    """Anti-aliased coverage `[h, w]`."""
    y, x = np.mgrid[:HEIGHT, :WIDTH] + 0.5
    return np.clip(radius - np.hypot(x - cx, y - cy) + 0.5, 0, 1).astype(np.float32)


def coloured(coverage: np.ndarray, *colour: float) -> np.ndarray:
    return (coverage[..., None] * np.array(colour, np.float32)).astype(np.float32)


def with_alpha(light: np.ndarray, alpha: np.ndarray) -> np.ndarray:
    return np.concatenate([light, alpha[..., None]], axis=2).astype(np.float32)


def good(shift: float = 0.0) -> ArrayFrame:
    """Two discs on nothing, a shadow beside them, everything in order."""
    ball, lamp = disc(38 + shift, 36, 20), disc(74 + shift, 30, 9)
    lamp = lamp * (1 - ball)
    alpha = ball + lamp
    y, x = np.mgrid[:HEIGHT, :WIDTH]
    shade = (0.6 + 0.4 * np.cos(x / 17.0 + y / 11.0)).astype(np.float32)
    diffuse = coloured(ball * shade, 0.5, 0.4, 0.3) + coloured(lamp, 0.1, 0.02, 0.02)
    emission = coloured(lamp, 3.0, 0.4, 0.2)
    beauty = (diffuse + emission).astype(np.float16).astype(np.float32)
    depth = np.full((HEIGHT, WIDTH, 1), np.inf, np.float32)
    depth[lamp > 0] = 9.0 + 0.02 * x[lamp > 0][:, None]
    depth[ball > 0] = 5.0 + 0.03 * y[ball > 0][:, None]
    shadow = 1 - 0.8 * disc(20 + shift, 60, 9) * (1 - alpha)
    names = {name: id_of_name(name) for name in ("ball", "lamp")}
    first = np.where(ball >= lamp, names["ball"], names["lamp"]).astype(np.uint32)
    second = np.where(ball >= lamp, names["lamp"], names["ball"]).astype(np.uint32)
    cover = np.stack([np.maximum(ball, lamp), np.minimum(ball, lamp)])
    index = np.where(ball > 0.5, 1, np.where(lamp > 0.5, 2, 0)).astype(np.float32)
    return ArrayFrame(
        passes={
            "rgba": ("beauty", with_alpha(beauty, alpha)),
            "diffuse": ("diffuse", with_alpha(diffuse, alpha)),
            "emission": ("emission", with_alpha(emission, alpha)),
            "shadow": ("shadow", shadow[..., None].astype(np.float32)),
            "depth": ("depth", depth),
            "object_index": ("object_index", index[..., None]),
            "mattes": ("rgb_matte", np.stack([ball, lamp, disc(8, 8, 4)], axis=2)),
        },
        ids={"object_ids": (np.where(cover > 0, np.stack([first, second]), 0).astype(np.uint32), cover.astype(np.float32), names)},
        types={"rgba": "half", "diffuse": "half", "emission": "half", "object_index": "float", "object_ids": "float"},
    )  # fmt: skip


def changed(frame: ArrayFrame, **passes: Any) -> ArrayFrame:
    """The same frame with some passes replaced by arrays; None takes one away."""
    kept = dict(frame.passes)
    for name, pixels in passes.items():
        if pixels is None:
            del kept[name]
        else:
            kept[name] = (kept[name][0], np.asarray(pixels, np.float32)) if not isinstance(pixels, tuple) else pixels
    return ArrayFrame(kept, frame.ids, frame.types, frame.tags, frame.of)


def found(*frames: ArrayFrame) -> list[Finding]:
    """What the check-up says of a sequence of frames from 1 on."""
    return examine("station", range(1, len(frames) + 1), lambda number: frames[number - 1])


def rules(*frames: ArrayFrame) -> set[str]:
    return {finding.rule for finding in found(*frames)}


def one(rule: str, *frames: ArrayFrame) -> Finding:
    """The one finding of a rule."""
    hits = [finding for finding in found(*frames) if finding.rule == rule]
    assert len(hits) == 1, [f.message for f in found(*frames)]
    return hits[0]
