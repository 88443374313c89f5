"""The pyramid that spreads light, against its definition by SciPy: [1 7 21 35 35 21 7 1] down, [1 5 10 10 5 1] up."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import ndimage

from arrays import assert_near, spread_octaves
from umbrax.core.kernels.filling import fill
from umbrax.core.kernels.pyramid import reach
from umbrax.core.picture import Window

WEIGHTS = [0.1, 0.2, 0.3, 0.4]
WHITE = np.ones(3, np.float32)


def down(fine: np.ndarray) -> np.ndarray:
    """[1 7 21 35 35 21 7 1]/128 along both axes, then every second pixel; a coarse pixel lies between its two fine ones."""
    taps = np.array([1, 7, 21, 35, 35, 21, 7, 1]) / 128
    for axis in (0, 1):
        # scipy's centre of eight taps is the fifth: that is the fine pixel 2 j + 1
        fine = ndimage.correlate1d(fine, taps, axis=axis, mode="constant")
        fine = np.take(fine, np.arange(1, fine.shape[axis], 2), axis=axis)
    return fine


def up(coarse: np.ndarray) -> np.ndarray:
    """Ten parts of the coarse pixel it lies in, five of the nearer neighbour and one of the farther."""
    for axis in (0, 1):
        before, after = np.roll(coarse, 1, axis), np.roll(coarse, -1, axis)
        pair = np.stack([10 * coarse + 5 * before + after, 10 * coarse + 5 * after + before], axis=axis + 1) / 16
        shape = list(coarse.shape)
        shape[axis] *= 2
        coarse = pair.reshape(shape)
    return coarse


def by_definition(light: np.ndarray, weights: list[float], tint: np.ndarray) -> np.ndarray:
    """Wide darkness around the light keeps the border out of it."""
    levels = [np.pad(light.astype(np.float64), ((128, 128), (128, 128), (0, 0)))]
    for _ in weights[1:]:
        levels.append(down(levels[-1]))
    total = weights[-1] * levels[-1]
    for weight, level in zip(weights[-2::-1], levels[-2::-1], strict=True):
        total = weight * level + up(total)
    return total[128:-128, 128:-128] * tint


@pytest.mark.parametrize("tint", [WHITE, np.array([1.0, 0.5, 0.0], np.float32)])
@pytest.mark.parametrize("levels", [2, 3, 4])
def test_spreading_is_its_definition(levels: int, tint: np.ndarray) -> None:
    light = np.random.default_rng(3).random((64, 96, 3)).astype(np.float32) ** 8
    window = Window(0, 0, 96, 64)
    weights = WEIGHTS[:levels]
    got = spread_octaves(light, window, weights, window, tint)
    assert_near(got, by_definition(light, weights, tint), 2e-6)


def test_level_zero_alone_is_the_light_itself_in_another_window() -> None:
    light = np.random.default_rng(0).random((8, 9, 3)).astype(np.float32)
    got = spread_octaves(light, Window(2, 3, 11, 11), [0.5], Window(0, 0, 12, 12), WHITE)
    assert np.array_equal(got[3:11, 2:11], light * np.float32(0.5))
    assert got.sum() == pytest.approx(0.5 * light.sum(), rel=1e-5)


@given(st.integers(-40, 40), st.integers(-40, 40), st.integers(1, 60), st.integers(1, 60), st.integers(1, 5))
def test_any_window_is_that_part_of_the_whole_bit_for_bit(x: int, y: int, width: int, height: int, levels: int) -> None:
    light = np.random.default_rng(1).random((37, 45, 3)).astype(np.float32)
    at, weights = Window(-3, 5, 42, 42), [0.1] * levels + [0.5]
    wide = Window(-60, -60, 110, 110)
    part = Window(x, y, x + width, y + height)
    whole = spread_octaves(light, at, weights, wide, WHITE)
    assert np.array_equal(spread_octaves(light, at, weights, part, WHITE), whole[y + 60 : y + height + 60, x + 60 : x + width + 60])


@pytest.mark.parametrize("levels", [1, 3, 6])
def test_light_arrives_whole_and_not_beyond_the_stated_reach(levels: int) -> None:
    light, far = np.ones((1, 1, 3), np.float32), reach(levels)
    out = Window(-far - 3, -far - 3, far + 4, far + 4)
    weights = [0.0] * levels + [1.0]
    got = spread_octaves(light, Window(0, 0, 1, 1), weights, out, WHITE)
    assert got[..., 0].sum() == pytest.approx(1, abs=1e-5)
    ring = got.copy()
    ring[3:-3, 3:-3] = 0
    assert not ring.any()


def test_holes_are_filled_from_around_them_and_what_is_known_stays() -> None:
    y, x = np.mgrid[:40, :60].astype(np.float32)
    ramp = np.stack([x / 60, y / 40], axis=2)
    known = np.ones((40, 60, 1), np.float32)
    known[12:22, 20:34] = 0
    filled = fill(ramp * known, Window(0, 0, 60, 40), known)
    outside = known[..., 0] == 1
    assert np.array_equal(filled[outside], ramp[outside])
    assert np.abs(filled - ramp)[~outside].max() < 0.1, "a smooth picture goes on smoothly"
    assert not fill(ramp, Window(0, 0, 60, 40), np.zeros_like(known)).any(), "nothing known, nothing made up"


@pytest.mark.parametrize("channels", [1, 3, 4])
def test_any_window_holds_what_the_whole_holds_there(channels: int) -> None:
    """Beside the light, across its border, far from it on each side: bit for bit; and far enough away nothing."""
    rng, tint = np.random.default_rng(5), np.ones(channels, np.float32)
    light, at = rng.random((21, 37, channels)).astype(np.float32), Window(53, -31, 90, -10)
    whole_at = Window(-200, -200, 300, 240)
    whole = spread_octaves(light, at, WEIGHTS, whole_at, tint)
    assert whole.sum(dtype=np.float64) == pytest.approx(light.sum(dtype=np.float64), rel=1e-4)
    for window in (
        Window(60, -25, 71, -17), Window(-200, -40, 41, 3), Window(97, -35, 261, -30), Window(30, -199, 130, -41), Window(40, 1, 99, 180),
        Window(-180, 90, -130, 230), Window(250, -190, 290, -150), Window(91, -10, 92, -9),
    ):  # fmt: skip
        y, x = window.y0 - whole_at.y0, window.x0 - whole_at.x0
        got = spread_octaves(light, at, WEIGHTS, window, tint)
        assert np.array_equal(got, whole[y : y + window.height, x : x + window.width]), window
        assert got.any() == (not window.intersect(at.grown(reach(3))).empty), window
