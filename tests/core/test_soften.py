"""The Gaussian against scipy.ndimage in double precision (truncate 8), for both kinds of edge."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import gaussian_filter

from umbrax.core.kernels.blur import gaussian, reach

PEAK_ERROR, LOCAL_ERROR, LOCAL_ABOVE = 5e-4, 1e-2, 1e-3  # the bounds promised in docs/architecture.md


def probe_picture(size: int) -> np.ndarray:
    """An impulse, noise, a step and a small bright block: the four channels."""
    picture = np.zeros((size, size + 6, 4), np.float32)
    picture[size // 2, size // 2, 0] = 1
    picture[..., 1] = np.random.default_rng(0).random(picture.shape[:2])
    picture[:, : size // 2, 2] = 1
    picture[size // 2 - 1 : size // 2 + 3, size // 2 + 1 : size // 2 + 7, 3] = 5
    return picture


@pytest.mark.parametrize("extend", [False, True])
@pytest.mark.parametrize("sigma", [0.3, 1.0, 2.7, 5.0, 6.7, 6.9, 8.3, 10.0, 17.0, 25.0, 60.0])
def test_error_against_scipy(sigma: float, extend: bool) -> None:
    size = int(max(61, sigma * 13)) | 1
    picture = probe_picture(size)
    mode = "nearest" if extend else "constant"
    double = picture.astype(np.float64)
    expected = np.stack([gaussian_filter(double[..., c], sigma, mode=mode, truncate=8) for c in range(4)], axis=2)
    got = gaussian(picture, sigma, sigma, (3, 5), (3, 5, 3 + picture.shape[1], 5 + size), extend)
    error, peak = np.abs(got - expected), expected.max(axis=(0, 1))
    assert (error.max(axis=(0, 1)) <= PEAK_ERROR * peak).all()
    local = np.where(expected > LOCAL_ABOVE * peak, error / np.maximum(expected, 1e-30), 0)
    assert local.max() <= LOCAL_ERROR


@given(st.floats(0.2, 40), st.integers(0, 40), st.integers(0, 40), st.booleans())
@settings(max_examples=40, deadline=None)
def test_a_window_equals_the_whole_bit_for_bit(sigma: float, x: int, y: int, extend: bool) -> None:
    picture = np.random.default_rng(3).random((70, 90, 3)).astype(np.float32)
    whole = gaussian(picture, sigma, sigma, (0, 0), (0, 0, 90, 70), extend)
    around = reach(sigma)
    x0, y0, x1, y1 = max(0, x - around), max(0, y - around), min(90, x + 20 + around), min(70, y + 10 + around)
    part = gaussian(picture[y0:y1, x0:x1], sigma, sigma, (x0, y0), (x, y, x + 20, y + 10), extend)
    assert np.array_equal(part, whole[y : y + 10, x : x + 20])


def test_a_constant_that_goes_on_stays_itself() -> None:
    flat = np.full((50, 60, 4), 0.37, np.float32)
    for sigma in (1, 9, 50):
        assert gaussian(flat, sigma, sigma, (0, 0), (0, 0, 60, 50), True) == pytest.approx(0.37, rel=3e-6)


def test_aspect_blurs_each_way_by_its_own_size() -> None:
    point = np.zeros((61, 61, 1), np.float32)
    point[30, 30] = 1
    out = gaussian(point, 4.0, 2.0, (0, 0), (0, 0, 61, 61), False)[..., 0].astype(np.float64)
    at = np.arange(61) - 30
    assert (out.sum(axis=0) * at**2).sum() == pytest.approx(16, rel=1e-3)
    assert (out.sum(axis=1) * at**2).sum() == pytest.approx(4, rel=1e-3)
