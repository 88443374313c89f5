"""A PassReader over arrays, and the small scene that many tests look at."""

from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

import numpy as np

from umbrax.core.document.shot import Shot
from umbrax.core.document.text import read_data
from umbrax.core.errors import UmbraxError
from umbrax.core.kernels.octaves import Pyramid
from umbrax.core.mattes.hashing import id_of_name
from umbrax.core.picture import Picture, Window
from umbrax.core.plan.cache import PictureCache
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.plan.reader import FrameInfo, IdLayer, PassInfo
from umbrax.core.plan.remembered import CardPlans
from umbrax.media.typefaces import typeface

LETTERS = {1: ("Y",), 3: ("R", "G", "B"), 4: ("R", "G", "B", "A")}


@dataclass
class ArraySource:
    """Passes `float32[h, w, c]` by name with their kind, and ID layers as (ids, coverages, names)."""

    passes: dict[str, tuple[str, np.ndarray]]
    ids: dict[str, tuple[np.ndarray, np.ndarray, dict[str, int] | None]] = field(default_factory=dict)
    version: str = "1"
    display: Window | None = None  # by default what the passes cover
    held: dict[str, Window] = field(default_factory=dict)  # by ID layer; by default all of it
    of: dict[str, str] = field(default_factory=dict)  # what of a light a pass is
    windows: dict[str, Window] = field(default_factory=dict)  # the part of a pass that is in the file; by default all of it

    def info(self, name: str) -> FrameInfo:
        height, width = next(iter(self.passes.values()))[1].shape[:2]
        window = Window(0, 0, width, height)
        passes = {
            key: PassInfo(key, kind, LETTERS[pixels.shape[2]], self.windows.get(key, window), pixels.shape[2] == 4, self.of.get(key))
            for key, (kind, pixels) in self.passes.items()
        }
        ids = {
            key: IdLayer(key, "material" if "material" in key else "object", planes.shape[0], window, names)
            for key, (planes, _, names) in self.ids.items()
        }
        return FrameInfo(f"{name} {self.version}", self.display or window, passes, ids)


class ArrayReader:
    """Counts what is read, so that tests can say what was not."""

    def __init__(self, **sources: ArraySource):
        self.sources = sources
        self.read: list[tuple[str, str]] = []
        self.asked: list[tuple[str, bool]] = []  # and whether as a picture

    def describe(self, source: str, frame: int) -> FrameInfo:
        if source not in self.sources:
            raise UmbraxError("missing-frame", f"source {source!r} has no frame {frame}")
        return self.sources[source].info(source)

    def pixels(self, source: str, frame: int, name: str, window: Window, shown: bool = False) -> np.ndarray:
        self.read.append((source, name))
        self.asked.append((name, shown))
        return self.sources[source].passes[name][1][window.y0 : window.y1, window.x0 : window.x1].copy()

    def keeps(self, source: str, frame: int, name: str, n: int) -> bool:
        return False

    def typeface(self, name: str) -> bytes:
        return typeface(name)

    def held(self, source: str, frame: int, layer: str) -> Window:
        return self.sources[source].held.get(layer, self.describe(source, frame).layer(layer).window)

    def ranks(self, source: str, frame: int, layer: str, window: Window) -> tuple[np.ndarray, np.ndarray]:
        self.read.append((source, layer))
        ids, coverage, _ = self.sources[source].ids[layer]
        rows, columns = slice(window.y0, window.y1), slice(window.x0, window.x1)
        return ids[:, rows, columns].copy(), coverage[:, rows, columns].copy()


def assert_near(actual: object, expected: object, within: float = 0.0, message: str = "", *, relative: float = 0.0) -> None:
    """Arrays of one shape whose numbers differ by no more than the larger of both, NaN from nothing: what `pytest.approx` says, which
    takes a second for what this does in a millisecond."""
    one, other = np.asarray(actual, np.float64), np.asarray(expected, np.float64)
    assert one.shape == other.shape
    with np.errstate(invalid="ignore"):  # two infinities are equal
        wrong = ~((one == other) | (np.abs(one - other) <= np.maximum(within, relative * np.abs(other))))
    told = [f"at {tuple(map(int, at))}: {one[tuple(at)]} and not {other[tuple(at)]}" for at in np.argwhere(wrong)[:3]]
    assert not told, f"{message or 'not near enough'}: {wrong.sum()} of {wrong.size}, {'; '.join(told)}"


@lru_cache(maxsize=64)
def disc(height: int, width: int, y: float, x: float, radius: float, samples: int = 8) -> np.ndarray:
    """Exact coverage of a disc up to 1/samples^2."""
    at = (np.mgrid[: height * samples, : width * samples] + 0.5) / samples
    inside = np.hypot(at[0] - y, at[1] - x) < radius
    cover = inside.reshape(height, samples, width, samples).mean(axis=(1, 3)).astype(np.float32)
    cover.flags.writeable = False  # the same for all who ask
    return cover


def ranked(coverages: dict[str, np.ndarray], ranks: int = 6) -> tuple[np.ndarray, np.ndarray, dict[str, int]]:
    """ID planes of named coverages in falling order."""
    names = {name: id_of_name(name) for name in coverages}
    stack = np.stack(list(coverages.values()))
    hashes = np.array(list(names.values()), np.uint32)
    order = np.argsort(-stack, axis=0, kind="stable")[:ranks]
    coverage = np.take_along_axis(stack, order, axis=0)
    ids = np.where(coverage > 0, hashes[order], 0).astype(np.uint32)
    return ids, coverage.astype(np.float32), names


def scene(height: int = 90, width: int = 120) -> ArrayReader:
    """A ball before a sky with a bright small lamp on it, and an opaque plate with a smooth ramp."""
    ball = disc(height, width, height * 0.52, width * 0.45, height * 0.3)
    lamp = np.zeros((height, width), np.float32)
    lamp[height // 3 : height // 3 + 2, width // 2 : width // 2 + 2] = 1
    lamp *= ball
    body = ball - lamp
    y, x = np.mgrid[:height, :width].astype(np.float32)
    diffuse = np.stack([0.5 + 0.3 * x / width, 0.4 + 0.2 * y / height, 0.3 + 0 * x], axis=2) * body[..., None]
    emission = np.stack([30 * lamp, 20 * lamp, 8 * lamp], axis=2)
    beauty = np.concatenate([diffuse + emission, ball[..., None]], axis=2).astype(np.float32)
    shadow = (1 - 0.6 * np.clip((y - height * 0.6) / height, 0, 1))[..., None].astype(np.float32)
    plate = np.stack([0.2 + 0.5 * x / width, 0.3 + 0 * x, 0.6 - 0.3 * y / height], axis=2).astype(np.float32)
    station = ArraySource(
        {
            "rgba": ("beauty", beauty), "diffuse": ("diffuse", diffuse.astype(np.float32)),
            "emission": ("emission", emission.astype(np.float32)), "shadow": ("shadow", shadow),
            "depth": ("depth", np.where(ball > 0, 3 + 8 * x / width, np.inf).astype(np.float32)[..., None]),
            "motion": ("motion", np.stack([12 * ball, -7 * ball, 0 * ball], axis=2).astype(np.float32)),
            "object_index": ("object_index", np.where(lamp > 0.5, 1, np.where(ball > 0.5, 2, 0)).astype(np.float32)[..., None]),
        },
        {
            "object_ids": ranked({"ball": body, "lamp": lamp}),
            "material_ids": ranked({"enamel": body, "glass": lamp}),
        },
    )  # fmt: skip
    return ArrayReader(station=station, valley=ArraySource({"rgba": ("beauty", plate)}))


def lowered(reader: ArrayReader, rows: int) -> ArrayReader:
    """The same with the station so many pixels lower, where the frame cuts it off."""
    station = reader.sources["station"]
    for name, (kind, pixels) in station.passes.items():
        station.passes[name] = (kind, np.concatenate([np.repeat(pixels[:1], rows, axis=0), pixels[:-rows]]))
    for name, (ids, coverage, names) in station.ids.items():
        moved = (np.concatenate([np.zeros_like(planes[:, :rows]), planes[:, :-rows]], axis=1) for planes in (ids, coverage))
        station.ids[name] = (*moved, names)
    return reader


def cropped(reader: ArrayReader, *names: str) -> ArrayReader:
    """The same from files that hold no more of these passes of the station than the part in which anything stands."""
    station = reader.sources["station"]
    for name in names:
        pixels = station.passes[name][1]
        y, x = np.nonzero((np.isfinite(pixels) & (pixels != 0)).any(axis=2))
        station.windows[name] = Window(int(x.min()), int(y.min()), int(x.max()) + 1, int(y.max()) + 1)
    return reader


def patterned(height: int, width: int) -> ArrayReader:
    """The scene with hard-edged patches all over: a length that is off by the scale shows at their edges."""
    reader, rng = scene(height, width), np.random.default_rng(6)
    patches = np.ones((height, width, 1), np.float32)
    for _ in range(height * width // 9000):
        y, x, h, w = rng.integers(0, height), rng.integers(0, width), rng.integers(24, 160), rng.integers(24, 160)
        patches[y : y + h, x : x + w] = rng.uniform(0.15, 1.6)
    for source, name in (("station", "diffuse"), ("valley", "rgba")):
        kind, pixels = reader.sources[source].passes[name]
        reader.sources[source].passes[name] = (kind, pixels * patches)
    return reader


def shot_of(build: list[dict[str, Any]], *, width: int = 120, height: int = 90, **rest: Any) -> Shot:
    """A shot over the scene with the usual mattes."""
    mattes = {
        "ball": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["ball"]},
        "lamp": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["lamp"]},
        "glass": {"kind": "id", "source": "station", "layer": "material_ids", "names": ["glass"]},
    }
    data = {
        "umbrax": 1, "name": "test", "format": {"width": width, "height": height, "first": 1, "last": 10},
        "sources": {"station": {"path": "s.exr"}, "valley": {"path": "v.exr"}}, "mattes": mattes | rest.pop("mattes", {}),
        "build": build, **rest,
    }  # fmt: skip
    return read_data(data)


PLATE = {"id": "sky", "picture": {"kind": "plate", "source": "valley"}}
STATION = {"id": "station", "picture": {"kind": "rebuild", "source": "station"}}


def card(base: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {**base, **more}


def make(
    shot: Shot,
    reader: ArrayReader,
    *,
    scale: int = 1,
    window: Window | None = None,
    frame: int = 1,
    cache: PictureCache | None = None,
    kept: bool = True,
) -> Picture:
    """The finished picture on a window at a scale; with plans of cards that are kept, as the engine makes it."""
    step = ShotPlanner(shot, frame, reader, plans=CardPlans() if kept else None).picture(None, scale)
    return evaluate(
        step,
        shot.format.display.scaled(scale) if window is None else window,
        PictureCache(1 << 30) if cache is None else cache,
    )


def element(source: str, **more: Any) -> dict[str, Any]:
    """A card that shows the beauty of a source, and is called after it."""
    return {"id": source, "picture": {"kind": "pass", "source": source, "pass": "beauty"}, **more}


def made_of(cards: list[dict[str, Any]], sources: dict[str, ArraySource], frame: int = 1, **rest: Any) -> np.ndarray:
    """The finished picture of a shot of these sources, as large as they are."""
    height, width = next(iter(sources.values())).passes["rgba"][1].shape[:2]
    form = {"width": width, "height": height, "first": 1, "last": 10}
    shot = read_data(
        {"umbrax": 1, "name": "test", "format": form, "sources": {name: {"path": "x.exr"} for name in sources}, "build": cards, **rest}
    )
    return make(shot, ArrayReader(**sources), frame=frame).pixels


def spread_octaves(
    light: np.ndarray, window: Window, weights: list[float], out: Window | None = None, tint: np.ndarray | None = None
) -> np.ndarray:  # fmt: skip
    """Light on a window spread over the levels of its pyramid, as pixels on another, or on the same."""
    factors = np.ones(light.shape[2], np.float32) if tint is None else tint
    return Pyramid(light, window, len(weights), factors).octaves(weights, out or window).drawn(out or window)
