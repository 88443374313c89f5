"""Planes of halves and floats become the pixels they stand for, and floats become the nearest halves."""

import numpy as np
import pytest

from umbrax.core.kernels.packing import halves
from umbrax.core.kernels.unpacking import unpacked


@pytest.mark.parametrize("channels", [1, 3, 4])
def test_every_half_float_comes_through_exactly(channels: int) -> None:
    every = np.arange(65536, dtype=np.uint16).view(np.float16).reshape(1, 256, 256)
    out = unpacked(np.ascontiguousarray(np.repeat(every, channels, axis=0)), (0, 0), np.zeros(channels, np.float32), (256, 256), False)
    for channel in range(channels):
        assert np.array_equal(out[..., channel], every[0].astype(np.float32), equal_nan=True)


@pytest.mark.parametrize("dtype", [np.float16, np.float32])
@pytest.mark.parametrize("channels", [1, 4])
@pytest.mark.parametrize("place", [(0, 0), (3, 5), (-2, -4), (6, -3), (-30, 0), (0, 40), (12, 30)])
def test_planes_lie_at_their_place_and_the_fill_around_them(dtype: type, channels: int, place: tuple[int, int]) -> None:
    planes = np.random.default_rng(1).random((channels, 9, 31)).astype(dtype)
    fills = np.arange(1, channels + 1, dtype=np.float32)
    wide = np.broadcast_to(fills, (100, 160, channels)).copy()
    top, left = 40 + place[0], 50 + place[1]
    wide[top : top + 9, left : left + 31] = planes.transpose(1, 2, 0)
    assert np.array_equal(unpacked(planes, place, fills, (13, 37), False), wide[40:53, 50:87])


@pytest.mark.parametrize("dtype", [np.float16, np.float32])
def test_what_is_not_finite_becomes_nothing_where_asked(dtype: type) -> None:
    planes = np.array([[[np.nan, np.inf, -np.inf, 2.0]]], dtype)
    fills = np.array([np.inf], np.float32)
    assert unpacked(planes, (0, 1), fills, (1, 6), True)[0, :, 0].tolist() == [0, 0, 0, 0, 2, 0]
    kept = unpacked(planes, (0, 1), fills, (1, 6), False)[0, :, 0]
    assert np.isnan(kept[1])
    assert np.isinf(kept[[0, 2, 3, 5]]).all()


def test_floats_become_the_halves_that_numpy_rounds_to() -> None:
    every = np.arange(65536, dtype=np.uint16).view(np.float16).astype(np.float32)
    finite = np.sort(every[np.isfinite(every)])
    ties = (finite[:-1] + finite[1:]) / 2
    outside = np.array([1e-9, -1e-9, 65519, 65520, 1e9, -1e30], np.float32)
    values = np.concatenate([every, ties, np.nextafter(ties, np.float32(np.inf)), np.nextafter(ties, np.float32(-np.inf)), outside])
    with np.errstate(over="ignore", invalid="ignore"):
        expected = values.astype(np.float16)
    assert np.array_equal(halves(values), expected, equal_nan=True)
    assert halves(values[:70].reshape(7, 10)[:, ::3]).shape == (7, 4)
