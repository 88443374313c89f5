"""Light that is drawn where it is added: the same as its pixels added, wherever that is; and spikes and discs against SciPy."""

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from scipy import ndimage, signal

from arrays import assert_near
from umbrax.core.kernels import arms as lines
from umbrax.core.kernels import ghosts, grids, joining
from umbrax.core.kernels.arms import Arms, arms
from umbrax.core.kernels.points import Points, points_of
from umbrax.core.picture import Picture, Window, nothing
from umbrax.core.plan.cache import PictureCache
from umbrax.core.treatments import TREATMENTS
from umbrax.core.treatments.drawn_light import DrawnLight

FRAME = Window(-7, 4, 150, 101)
LAMPS = Window(20, 10, 121, 91)
KINDS: dict[str, dict[str, Any]] = {
    "bloom": {"size": 9.0, "tint": [1.0, 0.6, 0.3]},
    "spikes": {"arms": 4, "length": 20.0, "angle": 20.0},
    "reflections": {"count": 3, "size": 9.0, "softness": 0.8},
    "halo": {"size": 12.0, "colour": [1.0, 0.4, 0.1]},
}
EXTRA = {"reflections": {"centre": (70.0, 52.0), "half_diagonal": 90.0}}


def lamps(count: int) -> Picture:
    rng, light = np.random.default_rng(8), np.zeros((LAMPS.height, LAMPS.width, 3), np.float32)
    for _ in range(count):
        light[rng.integers(LAMPS.height), rng.integers(LAMPS.width)] = rng.uniform(0.5, 40.0, 3)
    return Picture(light, LAMPS)


def made(kind: str, window: Window = FRAME, own: Picture | None = None, **more: Any) -> Picture:
    treatment = TREATMENTS.get(kind)
    params = treatment.params.model_validate({"id": "t", "kind": kind, **KINDS[kind], **more})
    return treatment.apply(params, own or lamps(2), window, 1, **EXTRA.get(kind, {}))


def below(window: Window) -> np.ndarray:
    return np.random.default_rng(9).random((window.height, window.width, 4)).astype(np.float32)


@pytest.mark.parametrize("onto", [FRAME, Window(30, 20, 60, 90), Window(-40, -20, 190, 140), Window(400, 0, 420, 20)])
@pytest.mark.parametrize("kind", KINDS)
def test_light_drawn_onto_a_picture_is_its_pixels_added_bit_for_bit(kind: str, onto: Window) -> None:
    light, under = made(kind), below(onto)
    assert isinstance(light, DrawnLight)
    expected = np.empty_like(under)
    joining.add_light(under, np.ascontiguousarray(Picture(light.pixels, FRAME).crop(onto).pixels), np.float32(0.7), expected)
    np.testing.assert_array_equal(light.crop(onto).onto(under, 0.7), expected)
    np.testing.assert_array_equal(light.crop(onto).pixels, Picture(light.pixels, FRAME).crop(onto).pixels)


@pytest.mark.parametrize("kind", [kind for kind in KINDS if kind != "halo"])
def test_it_is_kept_by_what_it_is_drawn_from(kind: str) -> None:
    light, cache = made(kind), PictureCache(1 << 20)
    assert light.nbytes < light.pixels.nbytes
    cache.put("light", light)
    assert cache.size == light.nbytes
    cache.put("light", nothing(FRAME, 3))
    assert cache.size == light.pixels.nbytes


def test_what_takes_more_memory_than_its_pixels_is_drawn_at_once() -> None:
    full = Picture(np.ones((LAMPS.height, LAMPS.width, 3), np.float32), LAMPS)
    assert not isinstance(made("spikes", own=full, arms=24), DrawnLight)


def test_what_conserves_light_is_spread_less_what_was_there() -> None:
    kept, spread = made("bloom", conserve=True, tint=[1, 1, 1]).pixels, made("bloom", tint=[1, 1, 1]).pixels
    assert_near(kept, spread - lamps(2).crop(FRAME).pixels, 4e-6)


def by_lines(points: Points, angle: float, both: bool, keep: np.ndarray, share: float, window: Window) -> np.ndarray:
    """A lattice of lines in double precision: light put on it and taken off it between four places, SciPy's recursive filter along it."""
    ux, uy = math.cos(math.radians(angle)), -math.sin(math.radians(angle))
    room = 400
    lattice = np.zeros((2 * room, 2 * room, 3))

    def places(x: Any, y: Any) -> Any:
        return y * ux - x * uy + room, x * ux + y * uy + room

    for x, y, light in zip(points.x, points.y, points.light, strict=True):
        t, s = places(x, y)
        j, i = math.floor(t), math.floor(s)
        for dj, wj in ((0, 1 - (t - j)), (1, t - j)):
            for di, wi in ((0, 1 - (s - i)), (1, s - i)):
                lattice[j + dj, i + di] += wj * wi * light
    fallen = np.zeros_like(lattice)
    for c in range(3):
        a = [1.0, -float(keep[c])]
        fallen[..., c] = share * (1 - keep[c]) * signal.lfilter([1.0], a, lattice[..., c], axis=1)
        if both:
            fallen[..., c] += share * (1 - keep[c]) * signal.lfilter([1.0], a, lattice[:, ::-1, c], axis=1)[:, ::-1]
    y, x = np.mgrid[window.y0 : window.y1, window.x0 : window.x1] + 0.5
    where = places(x, y)
    return np.stack([ndimage.map_coordinates(fallen[..., c], where, order=1) for c in range(3)], axis=2)


ANGLES = st.one_of(st.sampled_from([0.0, 90.0, -45.0, 180.0, 1e-7, 30.0]), st.floats(-360, 360))


@settings(max_examples=40, deadline=None)
@given(ANGLES, st.booleans(), st.integers(0, 10_000))
@example(90.0, True, 3)
def test_spikes_are_lines_along_which_light_falls_off(angle: float, both: bool, seed: int) -> None:
    rng, keep = np.random.default_rng(seed), np.array([0.9, 0.8, 0.95], np.float32)
    light = np.zeros((90, 110, 3), np.float32)
    for _ in range(rng.choice([1, 30, 1500])):
        light[rng.integers(90), rng.integers(110)] = rng.random(3)
    points = points_of(light, Window(-20, 5, 90, 95))
    x0, y0 = (int(v) for v in rng.integers(-60, 60, 2))
    window = Window(x0, y0, x0 + int(rng.integers(1, 120)), y0 + int(rng.integers(1, 120)))
    drawing = arms(points, [angle], both, keep, 0.5, window)
    assert isinstance(drawing, Arms)
    assert_near(drawing.drawn(window), by_lines(points, angle, both, keep, 0.5, window), 2e-6)


@settings(max_examples=40, deadline=None)
@given(ANGLES, st.integers(0, 10_000))
def test_a_window_of_spikes_comes_out_as_all_of_them_do(angle: float, seed: int) -> None:
    rng, keep = np.random.default_rng(seed), np.full(3, 0.93, np.float32)
    points = points_of(lamps(30).pixels, LAMPS)
    x0, y0 = int(rng.integers(FRAME.x0, FRAME.x1 - 1)), int(rng.integers(FRAME.y0, FRAME.y1 - 1))
    part = Window(x0, y0, int(rng.integers(x0 + 1, FRAME.x1)), int(rng.integers(y0 + 1, FRAME.y1)))
    whole, some = (arms(points, [angle, angle + 60], True, keep, 0.25, window) for window in (FRAME, part))
    assert isinstance(whole, Arms)
    assert isinstance(some, Arms)
    np.testing.assert_array_equal(some.drawn(part), Picture(whole.drawn(FRAME), FRAME).crop(part).pixels)


@pytest.mark.parametrize("few", [0, 1 << 40])
def test_a_grid_spread_over_discs_is_scipys_correlation_with_one(few: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """One by one where few cells hold light, and by a filter where many do."""
    monkeypatch.setattr(ghosts, "FEW", few)
    y, x = np.mgrid[-8:9, -8:9]
    shape = np.clip(7.3 - np.hypot(x, y), 0, 1).astype(np.float32)
    copy, got = ghosts.Copy((1.0, 1.0, 1.0), 1, shape, np.array([1.0, 0.5, 0.25], np.float32)), np.empty((97, 117, 3), np.float32)
    light = lamps(60)
    ghosts.spread_over([ghosts.Mirrored(light, points_of(light.pixels, light.window))], [copy], [got])
    wide = np.pad(lamps(60).pixels.astype(np.float64), ((8, 8), (8, 8), (0, 0)))
    expected = np.stack([ndimage.correlate(wide[..., c], shape.astype(np.float64), mode="constant") for c in range(3)], axis=2)
    assert_near(got, expected * [1.0, 0.5, 0.25], 2e-4)


@settings(max_examples=60, deadline=None)
@given(st.lists(st.integers(1, 13), min_size=1, max_size=3), st.integers(0, 10_000))
@example([1, 2, 3, 4, 5, 8], 0)
def test_grids_are_straight_between_the_centres_of_their_cells(steps: list[int], seed: int) -> None:
    """Against SciPy's interpolation of first order; wherever they lie, and bit for bit on any part of a window."""
    rng, window = np.random.default_rng(seed), Window(-31, 12, 64, 51)
    places = [
        Window(x, y, x + int(rng.integers(1, 30)), y + int(rng.integers(1, 20))) for x, y in rng.integers(-9, 5, (len(steps), 2)).tolist()
    ]
    table, room = grids.table_of(places, steps)
    cells = rng.random(room).astype(np.float32)
    drawing = grids.Enlarged(cells, table)
    got, expected = drawing.drawn(window), np.zeros((window.height, window.width, 3))
    y, x = np.mgrid[window.y0 : window.y1, window.x0 : window.x1] + 0.5
    for grid, at, step in zip(grids.parts_of(cells, table), places, steps, strict=True):
        rim = np.pad(grid, ((2, 2), (2, 2), (0, 0)))
        where = [y / step - 0.5 - at.y0 + 2, x / step - 0.5 - at.x0 + 2]
        expected += np.stack([ndimage.map_coordinates(rim[..., c].astype(np.float64), where, order=1) for c in range(3)], axis=2)
    assert_near(got, expected, 2e-6)
    x0, y0 = int(rng.integers(-31, 63)), int(rng.integers(12, 50))
    part = Window(x0, y0, int(rng.integers(x0 + 1, 65)), int(rng.integers(y0 + 1, 52)))
    np.testing.assert_array_equal(drawing.drawn(part), Picture(got, window).crop(part).pixels)


@pytest.mark.parametrize("what", ["MOST_PLACES", "MOST_BLOCKS"])
def test_directions_of_too_many_lines_are_done_one_after_the_other(what: str, monkeypatch: pytest.MonkeyPatch) -> None:
    together = made("spikes", arms=7).pixels
    monkeypatch.setattr(lines, what, 1)
    apart = made("spikes", arms=7)
    assert not isinstance(apart, DrawnLight)
    assert_near(apart.pixels, together, 1e-6)
    part = Window(30, 20, 60, 90)
    np.testing.assert_array_equal(made("spikes", part, arms=7).pixels, apart.crop(part).pixels)


def test_copies_that_are_made_apart_are_the_same(monkeypatch: pytest.MonkeyPatch) -> None:
    together = made("reflections", count=7).pixels
    monkeypatch.setattr(ghosts, "TOGETHER", 1)
    np.testing.assert_array_equal(made("reflections", count=7).pixels, together)
