"""Defocus against a real lens: the same scene ray-traced through a pinhole, and through a thin lens with rays from all over it."""

from collections.abc import Callable
from dataclasses import replace
from functools import cache

import cv2
import numpy as np
import pytest
import scipy.signal

from arrays import ArrayReader, ArraySource, make, shot_of
from umbrax.core.colour import srgb_from_linear
from umbrax.standin.casting.packets import SAMPLES
from umbrax.standin.coverage import ranked
from umbrax.standin.frames import Frame, render
from umbrax.standin.lens import through_lens
from umbrax.standin.scene import BOX, Scene, Thing, balloon, instance, move, observatory, scale

WIDTH, HEIGHT = 320, 180
ACROSS = np.tan(np.radians(45.0 / 2))
SENSOR = 36.0
UNIT = 0.05  # metres
FARTHEST = 8.0  # pixels of radius that the most blurred parts get


@cache
def staged() -> Scene:
    """A balloon near the camera before the station, a floor that leads far back, and a wall behind."""
    near = instance(balloon(1010).things, "near", "near", move(-4.9, -0.9, 6.5))
    room = [Thing("wall", "stone", BOX, move(0, 3, -9) @ scale(14, 7, 0.2)), Thing("floor", "wood", BOX, move(0, -0.6, 0) @ scale(12, 0.5, 9))]
    station = observatory(1010)
    return replace(station, things=[*station.things, *near, *room], terrace=(0.0, -1.0, 0.0, -1.0))


@cache
def pinhole() -> Frame:
    return render(staged(), WIDTH, HEIGHT)


def picture() -> np.ndarray:
    frame = pinhole()
    return np.concatenate([frame.beauty, frame.alpha[..., None]], axis=2)


def discs(depth: np.ndarray, lens: float, sharp_at: float) -> np.ndarray:
    """Radius in pixels, negative in front of what is sharp, by similar triangles."""
    return lens * WIDTH / 2 / ACROSS * (1 / sharp_at - 1 / depth)


@cache
def lens_for(sharp_at: float) -> float:
    depth = np.quantile(pinhole().depth, (0.02, 0.98))
    return float(FARTHEST / np.abs(discs(depth, 1.0, sharp_at)).max())


@cache
def truth(sharp_at: float) -> np.ndarray:
    return through_lens(staged(), WIDTH, HEIGHT, radius=lens_for(sharp_at), sharp_at=sharp_at, rays=128)


def object_ids() -> tuple[np.ndarray, np.ndarray, dict[str, int]]:
    """What a renderer writes as a layer of object IDs."""
    frame, names = pinhole(), pinhole().scene.objects
    hashes = np.arange(1, len(names) + 1).astype(np.uint32)
    kinds = np.array([names.index(thing.object) for thing in frame.scene.things])
    return *ranked(frame.seen, frame.counts, kinds, hashes, 6, SAMPLES), dict(zip(names, hashes.tolist(), strict=True))


def defocused(sharp_at: float, depth: np.ndarray, ids: bool = False) -> np.ndarray:
    """By the product, told the lens as a photographer would."""
    image = SENSOR / 2 / ACROSS  # behind the lens, in mm: 1 / f = 1 / image + 1 / s
    focal = 1 / (1 / image + 1 / (sharp_at * UNIT * 1000))
    treatment = {
        "id": "t1", "kind": "defocus", "mode": "lens", "focus": sharp_at, "focal_mm": focal, "sensor_mm": SENSOR,
        "f_stop": focal / (2000 * UNIT * lens_for(sharp_at)), "unit_m": UNIT,
    }  # fmt: skip
    source = ArraySource({"rgba": ("beauty", picture()), "depth": ("depth", depth[..., None])}, {"object_ids": object_ids()} if ids else {})
    card = {"id": "station", "picture": {"kind": "pass", "source": "station", "pass": "beauty"}, "treatments": [treatment]}
    return make(shot_of([card], mattes={}, width=WIDTH, height=HEIGHT), ArrayReader(station=source, valley=source)).pixels


def disc(radius: float) -> np.ndarray:
    reach = int(radius + 1)
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    weights = np.clip(radius + 0.5 - np.hypot(x, y), 1e-6, 1)
    return np.asarray(weights / weights.sum())


def each_by_its_own(rgba: np.ndarray, radius: np.ndarray) -> np.ndarray:
    """The plain way: every pixel is the mean of a disc of its own radius."""
    sizes = np.rint(np.abs(radius) * 2) / 2
    out = np.zeros_like(rgba)
    for size in np.unique(sizes):
        blurred = cv2.filter2D(rgba, -1, disc(float(size)), borderType=cv2.BORDER_REPLICATE)
        out[sizes == size] = blurred[sizes == size]
    return out


def layer_by_layer(rgba: np.ndarray, radius: np.ndarray) -> np.ndarray:
    """The usual way: layers of depth, a pixel of radius each, blurred by scipy.signal.fftconvolve and laid over one another."""
    level, out, cover = np.rint(radius), np.zeros_like(rgba), np.zeros((*radius.shape, 1))
    for one in sorted(np.unique(level), reverse=True):
        held = np.dstack([rgba, np.ones(radius.shape)]) * (level == one)[..., None]
        blurred = scipy.signal.fftconvolve(held, disc(abs(float(one)))[..., None], mode="same", axes=(0, 1))
        out, cover = blurred[..., :4] + out * (1 - blurred[..., 4:]), blurred[..., 4:] + cover * (1 - blurred[..., 4:])
    return np.asarray(out / np.maximum(cover, 1e-6))


def beside_edges(radius: np.ndarray) -> np.ndarray:
    """Within 10 pixels of where neighbours are spread by a pixel more or less."""
    around = np.ones((3, 3), np.uint8)
    edge = cv2.dilate(radius.astype(np.float32), around) - cv2.erode(radius.astype(np.float32), around) > 1
    return np.asarray(cv2.dilate(edge.astype(np.uint8), cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (21, 21))) > 0)


def error(got: np.ndarray, sharp_at: float, where: np.ndarray) -> float:
    seen, wanted = (srgb_from_linear(np.clip(one[..., :3], 0, 1)) for one in (got, truth(sharp_at)))
    return float(np.sqrt(np.mean((seen - wanted)[where] ** 2)))


@cache
def four_times() -> np.ndarray:
    return render(staged(), 4 * WIDTH, 4 * HEIGHT).depth


def of_the_middle() -> np.ndarray:
    """Depth as a renderer gives it that looks at the middle of a pixel: what only touches that has no part in it."""
    return four_times()[2::4, 2::4]


@pytest.mark.parametrize("depth_of", [lambda: pinhole().depth, of_the_middle], ids=["nearest", "middle"])
@pytest.mark.parametrize("sharp_at", [7.7, 13.0, 23.0])
def test_defocus_is_what_a_real_lens_shows(sharp_at: float, depth_of: Callable[[], np.ndarray]) -> None:
    radius = discs(depth_of(), lens_for(sharp_at), sharp_at)
    edges = beside_edges(radius)
    assert 0.05 < edges.mean() < 0.5
    got = defocused(sharp_at, depth_of())
    ours = error(got, sharp_at, edges)
    assert ours <= 0.6 * error(each_by_its_own(picture(), radius), sharp_at, edges)
    assert ours < error(layer_by_layer(picture(), radius), sharp_at, edges)
    # away from edges what is left is the noise of the rays
    assert error(got, sharp_at, ~edges) < 0.006


@pytest.mark.parametrize("sharp_at", [7.7, 13.0])
def test_depth_that_belongs_to_no_thing_is_told_apart_by_ids(sharp_at: float) -> None:
    """What a renderer filtered lies between near and far; what it took from the middle of a pixel misses what only touches it."""
    smoothed = four_times().reshape(HEIGHT, 4, WIDTH, 4).mean(axis=(1, 3)).astype(np.float32)
    edges = beside_edges(discs(pinhole().depth, lens_for(sharp_at), sharp_at))
    clean = error(defocused(sharp_at, pinhole().depth), sharp_at, edges)
    for depth in (smoothed, of_the_middle()):
        assert error(defocused(sharp_at, depth, ids=True), sharp_at, edges) < 1.06 * clean
    assert error(defocused(sharp_at, smoothed), sharp_at, edges) > 1.08 * clean


def test_a_pinhole_is_a_lens_of_no_size() -> None:
    small = through_lens(staged(), 64, 36, radius=1e-6, sharp_at=10.0, rays=16)
    frame = render(staged(), 64, 36)
    assert np.abs(small[..., :3] - frame.beauty).mean() < 2e-3
    assert small[..., 3] == pytest.approx(frame.alpha, abs=0.07)
