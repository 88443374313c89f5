"""Putting passes right: sub-pixel shifts, depths between near and far, depth along the ray."""

import numpy as np
import pytest
import scipy.ndimage
from hypothesis import given
from hypothesis import strategies as st

from umbrax.core.checkup.along_ray import along_ray, focal_of
from umbrax.core.repair.depth import axis_depth, snapped
from umbrax.core.repair.shifting import shifted

RANDOM = np.random.default_rng(3)
PICTURE = RANDOM.uniform(0, 1, (20, 30, 2)).astype(np.float32)


@given(right=st.floats(-3, 3, width=32), down=st.floats(-3, 3, width=32))
def test_shifting_is_scipys_linear_shift(right: float, down: float) -> None:
    """scipy.ndimage.shift, order 1, with the border going on."""
    wanted = scipy.ndimage.shift(PICTURE.astype(np.float64), (down, right, 0), order=1, mode="nearest")
    assert np.abs(shifted(PICTURE, right, down) - wanted).max() < 1e-5


def test_a_shift_of_nothing_changes_no_bit() -> None:
    assert np.array_equal(shifted(PICTURE, 0, 0), PICTURE)
    assert np.array_equal(shifted(PICTURE, 2, -1)[:-1, 2:], PICTURE[1:, :-2])


def stepped(far: float) -> np.ndarray:
    """A near post of sloping depth before something far, with one mean pixel on either side."""
    depth = np.full((9, 20), far, np.float32)
    depth[:, 6:13] = 4 + 0.01 * np.arange(7)
    depth[:, 5] = depth[:, 13] = 0.3 * 4 + 0.7 * min(far, 1e4)
    return depth


@pytest.mark.parametrize("far", [12.0, np.inf])
def test_depths_between_two_take_a_side_and_others_stay(far: float) -> None:
    depth = stepped(far)
    found = snapped(depth)
    assert set(np.unique(found[:, 5])) <= {np.float32(far), depth[4, 6]}
    assert set(np.unique(found[:, 13])) <= {np.float32(far), depth[4, 12]}
    sides = [column for column in range(20) if column not in (5, 13)]
    assert np.array_equal(found[:, sides], depth[:, sides])


def test_a_slope_and_a_sharp_edge_are_left_alone() -> None:
    depth = np.broadcast_to(np.linspace(2, 9, 40, dtype=np.float32), (12, 40)).copy()
    depth[:, 20:] += 30
    assert np.array_equal(snapped(depth), depth)


def test_along_the_axis_is_along_the_ray_by_pythagoras() -> None:
    """3-4-5: at 3 pixels from the centre with a focal length of 4, a distance of 5 along the ray is 4 along the axis."""
    assert axis_depth(np.float32([[5.0]]), (3.0, 0.0), 4.0)[0, 0] == pytest.approx(4)
    assert axis_depth(np.float32([[np.inf]]), (3.0, 0.0), 4.0)[0, 0] == np.inf


def view(noise: float = 0.0) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Points seen by a turned camera: places, positions, and depths along the axis."""
    random = np.random.default_rng(7)
    turn = np.linalg.qr(random.normal(size=(3, 3)))[0]
    places = random.uniform(-320, 320, (800, 2))
    depth = random.uniform(4, 30, 800)
    rays = np.column_stack([places / 500, np.ones(800)]) * depth[:, None]
    return places, rays @ turn.T + (3, -2, 9) + random.normal(size=(800, 3)) * noise, depth


def test_depth_along_the_ray_is_told_from_depth_along_the_axis() -> None:
    places, positions, depth = view()
    ray = depth * np.sqrt(1 + (places**2).sum(axis=1) / 500**2)
    found = along_ray(ray, positions, places)
    assert found is not None
    assert found.focal_px == pytest.approx(500, rel=1e-6)
    assert along_ray(depth, positions, places) is None


def test_positions_in_half_floats_are_good_enough_and_noise_is_not() -> None:
    places, positions, depth = view()
    ray = depth * np.sqrt(1 + (places**2).sum(axis=1) / 500**2)
    found = along_ray(ray, positions.astype(np.float16).astype(np.float64), places)
    assert found is not None
    assert found.focal_px == pytest.approx(500, rel=0.01)
    assert along_ray(ray, view(noise=2.0)[1], places) is None


def test_the_focal_length_does_not_depend_on_how_the_camera_is_turned() -> None:
    places, _, _ = view()
    rays = np.column_stack([places / 737, np.ones(len(places))])
    for seed in range(4):
        turn = np.linalg.qr(np.random.default_rng(seed).normal(size=(3, 3)))[0]
        assert focal_of(rays @ turn.T, places) == pytest.approx(737, rel=1e-6)
