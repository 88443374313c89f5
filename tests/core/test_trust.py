"""Whether a matte can be trusted: parts, leaks, holes and sums, by hand-made mattes of known areas."""

import numpy as np
import pytest
from scipy.ndimage import binary_fill_holes, label

from umbrax.core.mattes.trust import holes_of, largest_part, part_of, sums_told, trust


def two_squares() -> np.ndarray:
    """20 x 20 with a hole of 4 x 4, and 10 x 10 elsewhere."""
    m = np.zeros((60, 80), np.float32)
    m[10:30, 10:30] = 1
    m[18:22, 18:22] = 0
    m[40:50, 60:70] = 1
    return m


def test_leak_is_the_area_outside_the_part_under_the_point_to_the_whole() -> None:
    m = two_squares()
    large, small = part_of(m, 12, 12), part_of(m, 65, 45)
    assert trust(m, large).leak == pytest.approx(100 / 484)
    assert trust(m, small).leak == pytest.approx(384 / 484)
    assert trust(m, large).hole == pytest.approx(16 / 400)
    assert trust(m, small).hole == 0
    assert np.array_equal(largest_part(m), large)


def test_a_soft_rim_belongs_to_its_part_and_a_point_beside_it_still_finds_it() -> None:
    m = two_squares() * 0
    m[20:40, 20:40] = 1
    m[19, 20:40] = m[40, 20:40] = 0.4
    part = part_of(m, 42, 30)
    assert part is not None
    assert trust(m, part).leak == 0
    assert part_of(m, 60, 50) is None
    assert trust(m, None).leak == 1
    assert trust(m * 0, None).leak == 0


def test_the_blur_of_a_moving_thing_is_its_rim_but_what_a_key_leaves_beside_it_is_not() -> None:
    y, x = np.mgrid[:160, :400].astype(np.float32)
    shifts = np.linspace(-25, 25, 51)
    blurred = np.mean([np.clip(40.5 - np.hypot(x - 200 - shift, y - 80), 0, 1) for shift in shifts], axis=0).astype(np.float32)
    part = part_of(blurred, 200, 80)
    assert part is not None
    assert trust(blurred, part).leak < 0.005, "its ends are more than 20 pixels from what is above one half"
    rest = np.random.default_rng(4).uniform(0.03, 0.12, blurred.shape).astype(np.float32)
    rest[:, :60] = 0.1
    keyed = np.maximum(blurred, rest)
    wanted = rest[blurred < rest].sum() / keyed.sum()
    assert wanted > 0.4
    assert abs(trust(keyed, part_of(keyed, 200, 80)).leak - wanted) < 0.06


def test_soft_edges_between_two_parts_go_to_the_nearer_one() -> None:
    x = np.arange(200, dtype=np.float32)
    m = np.tile(np.clip(np.maximum(1 - np.abs(x - 60) / 40, 1 - np.abs(x - 140) / 40), 0, 1), (50, 1))
    part = part_of(m, 60, 25)
    assert trust(m, part).leak == pytest.approx(0.5, abs=0.01)


def test_parts_and_holes_are_those_of_scipy() -> None:
    m = (np.random.default_rng(2).random((50, 60)) > 0.42).astype(np.float32)
    labels, _ = label(m > 0.5, structure=np.ones((3, 3)))
    y, x = np.argwhere(m > 0.5)[700]
    part = part_of(m, int(x), int(y))
    assert part is not None
    assert np.array_equal(part, labels == labels[y, x])
    assert np.array_equal(holes_of(part), binary_fill_holes(part) & ~part)


def test_a_sum_tells_what_is_covered_once_twice_and_not_at_all() -> None:
    a, b = np.zeros((10, 10), np.float32), np.zeros((10, 10), np.float32)
    a[:, :6], b[:, 4:9] = 1, 1
    everything = np.ones_like(a)
    told = sums_told(a + b, everything)
    assert (told.once, told.over, told.under) == pytest.approx((0.7, 0.2, 0.1))
    alpha = everything.copy()
    alpha[:, 9] = 0
    assert sums_told(a + b, alpha).under == 0
    assert sums_told(a + (1 - a), everything).once == 1
