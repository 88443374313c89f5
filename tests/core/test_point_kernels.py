"""The point kernels against plain NumPy, at widths that leave a rest beside the processor's vectors."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from umbrax.core.kernels import blank, joining
from umbrax.core.kernels.feeding import feed_light
from umbrax.core.kernels.lit import lit_window
from umbrax.core.kernels.resample import reduce_area, reduce_nearest
from umbrax.core.picture import Window

WIDTHS = [1, 2, 3, 7, 15, 16, 17, 33, 64, 129]


def random(*shape: int, low: float = -1.0, high: float = 3.0, seed: int = 0) -> np.ndarray:
    return np.random.default_rng(seed).uniform(low, high, shape).astype(np.float32)


@pytest.mark.parametrize("width", WIDTHS)
@pytest.mark.parametrize("channels", [1, 2, 3, 4, 5])
def test_mixing_and_scaling_hold_for_any_width_and_channels(width: int, channels: int) -> None:
    below, treated = random(3, width, channels), random(3, width, channels, seed=1)
    weight = random(3, width, 1, low=-0.5, high=1.5, seed=2)
    out = np.empty_like(below)
    joining.mix(below, treated, weight, np.float32(0.9), out)
    w = np.clip(np.float32(0.9) * weight, 0, 1)
    assert out == pytest.approx(below + (treated - below) * w, abs=1e-6)
    nothing, all_of_it = np.broadcast_to(w == 0, out.shape), np.broadcast_to(w == 1, out.shape)
    assert np.array_equal(out[nothing], below[nothing])
    assert np.array_equal(out[all_of_it], treated[all_of_it])
    joining.scale_by(below, weight, out)
    assert np.array_equal(out, below * weight)


def test_mixing_nothing_in_keeps_what_is_not_finite_on_the_other_side_out() -> None:
    below, treated = random(1, 20, 4), np.full((1, 20, 4), np.nan, np.float32)
    out = np.empty_like(below)
    joining.mix(below, treated, np.zeros((1, 20, 1), np.float32), np.float32(1), out)
    assert np.array_equal(out, below)


@pytest.mark.parametrize("width", WIDTHS)
def test_light_is_added_to_colour_and_leaves_alpha(width: int) -> None:
    below, light, out = random(2, width, 4), random(2, width, 3, seed=1), np.empty((2, width, 4), np.float32)
    joining.add_light(below, light, np.float32(0.7), out)
    assert out[..., :3] == pytest.approx(below[..., :3] + np.float32(0.7) * light, abs=1e-6)
    assert np.array_equal(out[..., 3], below[..., 3])


@pytest.mark.parametrize("channels", [1, 3, 4])
def test_lights_are_summed_with_their_gains(channels: int) -> None:
    total, light = random(2, 19, 4), random(2, 19, channels, seed=1)
    gain = np.array([0.5, 2, 0], np.float32)
    expected = total.copy()
    expected[..., :3] += gain * (light[..., :3] if channels >= 3 else light)
    assert joining.add_scaled(total, light, gain) == pytest.approx(expected, abs=1e-6)


def soft_threshold(peak: float, threshold: float, knee: float) -> float:
    """0 below the knee, a parabola within it, peak - threshold above."""
    half = threshold * knee
    if peak >= threshold + half:
        return peak - threshold
    return (peak - threshold + half) ** 2 / (4 * half) if half > 0 and peak > threshold - half else 0.0


@given(st.floats(0, 3), st.floats(0, 1), st.floats(0.1, 5), st.integers(0, 100))
def test_the_feed_is_what_is_above_the_soft_threshold_in_its_own_colour(threshold: float, knee: float, limit: float, seed: int) -> None:
    threshold, knee, limit = (float(np.float32(v)) for v in (threshold, knee, limit))
    pixels = random(1, 21, 4, low=-1, high=6, seed=seed)
    fed = feed_light(pixels, threshold, knee, limit)
    for given_pixel, got in zip(pixels[0], fed[0], strict=True):
        colour = np.maximum(given_pixel[:3].astype(np.float64), 0)
        peak = colour.max()
        share = min(soft_threshold(peak, threshold, knee), limit) / peak if peak > 0 else 0
        assert got == pytest.approx(colour * share, abs=2e-5)
        assert got.max() <= limit * (1 + 1e-5)


@pytest.mark.parametrize("bright", [[], [(0, 0)], [(4, 7), (9, 20)], [(11, 23)], [(3, 0), (5, 23)]])
def test_a_feed_knows_what_part_of_it_is_lit(bright: list[tuple[int, int]]) -> None:
    pixels = random(12, 24, 4, low=0, high=0.5)
    for y, x in bright:
        pixels[y, x, 1] = 3.0
    fed, at = feed_light(pixels, 1.0, 0.0, 10.0), Window(100, 50, 124, 62)
    looked_for = lit_window(fed.copy(), at)  # a copy is not remembered
    assert lit_window(fed, at) == looked_for
    assert (fed[..., 1] > 0).sum() == len(bright)
    if bright:
        ys, xs = [y for y, _ in bright], [x for _, x in bright]
        assert looked_for == Window(100 + min(xs), 50 + min(ys), 101 + max(xs), 51 + max(ys))
    else:
        assert looked_for.empty


@pytest.mark.parametrize("n", [1, 2, 4, 8])
@pytest.mark.parametrize("channels", [1, 3, 4])
def test_reducing_takes_means_and_nearest_takes_what_is_there(n: int, channels: int) -> None:
    pixels = random(16, 24, channels)
    means = pixels.reshape(16 // n, n, 24 // n, n, channels).mean(axis=(1, 3))
    assert reduce_area(pixels, n) == pytest.approx(means, abs=1e-6)
    nearest = reduce_nearest(pixels, n)
    assert nearest.shape == means.shape
    assert np.isin(nearest, pixels).all(), "depth is never averaged"


@pytest.mark.parametrize("shape", [(1,), (3, 5), (7, 9, 4), (0, 4, 3)])
def test_new_pictures_begin_on_a_cache_line(shape: tuple[int, ...]) -> None:
    made = blank(*shape)
    assert made.shape == shape
    assert made.dtype == np.float32
    assert made.flags.c_contiguous
    assert made.__array_interface__["data"][0] % 64 == 0 or made.size == 0
