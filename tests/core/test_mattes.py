"""Combined mattes, refinements and distance against set algebra, SciPy and hand-worked values."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from scipy.ndimage import distance_transform_edt
from skimage.morphology import dilation, disk, erosion, isotropic_dilation, isotropic_erosion

from arrays import PLATE, disc, scene, shot_of
from umbrax.core.cache import PictureCache
from umbrax.core.evaluate import evaluate
from umbrax.core.kernels.distance import signed_distance
from umbrax.core.mattes.base import Refine
from umbrax.core.mattes.combined import combine_sets, combine_values
from umbrax.core.mattes.refining import levels, refine_planes
from umbrax.core.parameters import MatteRef
from umbrax.core.picture import Window
from umbrax.core.plan import ShotPlanner

PLANE = arrays(np.float32, (3, 4), elements=st.floats(0, 1, width=32))


@given(PLANE, PLANE, PLANE)
@settings(max_examples=60)
def test_all_of_and_any_of_obey_set_algebra(a: np.ndarray, b: np.ndarray, c: np.ndarray) -> None:
    for how, other in (("all_of", "any_of"), ("any_of", "all_of")):
        assert np.array_equal(combine_values(how, [a, b]), combine_values(how, [b, a]))  # type: ignore[arg-type]
        assert np.array_equal(combine_values(how, [a, a]), a)  # type: ignore[arg-type]
        nested = combine_values(how, [combine_values(how, [a, b]), c])  # type: ignore[arg-type]
        assert np.array_equal(nested, combine_values(how, [a, b, c]))  # type: ignore[arg-type]
        # rounding keeps order, so de Morgan's laws hold bit for bit
        assert np.array_equal(1 - combine_values(how, [a, b]), combine_values(other, [1 - a, 1 - b]))  # type: ignore[arg-type]


@given(st.sets(st.integers(1, 9)), st.sets(st.integers(1, 9)), st.sets(st.integers(1, 9)))
def test_values_of_zero_and_one_combine_as_sets_do(a: set[int], b: set[int], c: set[int]) -> None:
    sets = [a, b, c]
    masks = [np.array([i in s for i in range(1, 10)], np.float32) for s in sets]
    for how in ("all_of", "any_of", "except", "one_of"):
        found = combine_sets(how, [frozenset(s) for s in sets])  # type: ignore[arg-type]
        assert found is not None
        assert np.array_equal(combine_values(how, masks), np.array([i in found for i in range(1, 10)], np.float32))  # type: ignore[arg-type]


def test_unrefined_ids_of_one_layer_combine_exactly_at_soft_edges() -> None:
    both = {"kind": "combined", "how": "any_of", "mattes": ["ball", "lamp"]}
    shot = shot_of([PLATE], mattes={"both": both})
    step = ShotPlanner(shot, 1, scene()).coverage(MatteRef(matte="both"), 1)
    out = evaluate(step, Window(0, 0, 120, 90), PictureCache(1 << 26)).pixels[..., 0]
    assert np.array_equal(out, scene().sources["station"].passes["rgba"][1][..., 3])


def test_binary_distance_is_scipys_exact_transform() -> None:
    matte = (np.random.default_rng(1).random((60, 70)) > 0.8).astype(np.float32)
    matte[20:40, 20:50] = 1
    expected = np.where(matte > 0.5, distance_transform_edt(matte) - 0.5, -(distance_transform_edt(1 - matte) - 0.5))
    assert signed_distance(matte, 25) == pytest.approx(np.clip(expected, -26, 26), abs=1e-5)


@pytest.mark.parametrize("edge", [20.0, 20.25, 20.5, 20.9])
def test_along_a_straight_edge_distance_is_exact_for_any_coverage(edge: float) -> None:
    matte = np.tile(np.clip(edge - np.arange(40), 0, 1).astype(np.float32), (12, 1))
    expected = edge - (np.arange(40) + 0.5)
    assert signed_distance(matte, 8)[6, 13:28] == pytest.approx(expected[13:28], abs=1e-5)


def test_at_a_soft_round_edge_distance_is_within_half_a_pixel() -> None:
    d = signed_distance(disc(80, 80, 40.3, 39.8, 20), 15)
    y, x = np.mgrid[:80, :80] + 0.5
    expected = 20 - np.hypot(y - 40.3, x - 39.8)
    assert np.abs(d - expected)[np.abs(expected) < 14].max() < 0.5


def planes(matte: np.ndarray) -> np.ndarray:
    return np.stack([matte, (matte > 0).astype(np.float32), matte], axis=2)


def test_growing_a_disc_changes_its_radius_and_feathering_keeps_its_middle() -> None:
    matte = disc(100, 100, 50, 50, 25)
    for grow in (-6.0, 4.5):
        area = refine_planes(planes(matte), Refine(grow=grow))[..., 0].sum()
        assert np.sqrt(area / np.pi) == pytest.approx(25 + grow, abs=0.25)
    soft = refine_planes(planes(matte), Refine(feather=10.0))[..., 0]
    assert soft[50, 50] == 1
    assert soft[50, 74:76].mean() == pytest.approx(0.5, abs=0.06)
    inner = refine_planes(planes(matte), Refine(feather=10.0, feather_side="in"))[..., 0]
    outer = refine_planes(planes(matte), Refine(feather=10.0, feather_side="out"))[..., 0]
    assert inner[50, 76] == 0
    assert outer[50, 73] == pytest.approx(1)


@given(arrays(np.bool_, (30, 34)), st.integers(1, 6))
@settings(max_examples=40)
def test_growing_and_choking_a_binary_matte_is_morphology_with_a_disc(solid: np.ndarray, by: int) -> None:
    solid[15, 17] = True  # distance to nothing means nothing
    solid = np.pad(solid, 12)
    matte = planes(solid.astype(np.float32))
    grown, choked = (refine_planes(matte, Refine(grow=float(amount)))[..., 0] for amount in (by, -by))
    # a contour lies half a pixel before the next pixel's centre
    assert np.array_equal(grown >= 0.5, isotropic_dilation(solid, by + 0.5))
    assert (grown[dilation(solid, disk(by))] == 1).all()
    assert (grown[~isotropic_dilation(solid, by + 1)] == 0).all()
    # as with a coverage of one half, which counts as inside, the border itself stays: an erosion by just less
    assert np.array_equal(choked >= 0.5, isotropic_erosion(solid, by + 0.499))
    assert (choked[~erosion(solid, disk(by))] == 0).all()


@pytest.mark.parametrize("by", [3.0, 12.5, 30.0])
def test_a_large_disc_grown_there_and_back_is_itself_within_a_pixel(by: float) -> None:
    matte = planes(disc(260, 260, 130.2, 129.7, 90, samples=4))
    there = refine_planes(matte, Refine(grow=-by))
    back = refine_planes(np.stack([there[..., 0], there[..., 0], np.ones_like(there[..., 0])], axis=2), Refine(grow=by))[..., 0]
    y, x = np.mgrid[:260, :260] + 0.5
    away = np.hypot(y - 130.2, x - 129.7)
    assert (back[away < 89] > 0.999).all()
    assert (back[away > 91] < 0.001).all()
    assert np.sqrt(back.sum() / np.pi) == pytest.approx(90, abs=0.25)


@given(st.floats(-8, 8, width=32), st.floats(-8, 8, width=32), st.floats(0, 6, width=32))
@settings(max_examples=40)
def test_growing_by_parts_of_a_pixel_is_monotone(first: float, second: float, feather: float) -> None:
    low, high = sorted((first, second))
    matte = planes(disc(60, 60, 30.3, 29.8, 17))
    small, large = (refine_planes(matte, Refine(grow=amount, feather=feather)) for amount in (low, high))
    assert (large[..., :2] - small[..., :2] >= -1e-6).all()


@pytest.mark.parametrize("n", [2, 4, 8])
@pytest.mark.parametrize("refine", [{}, {"grow": -2.3}, {"grow": 3.0, "feather": 4.0}, {"gamma": 1.7, "feather": 2.5, "invert": True}])
def test_a_reduced_matte_is_the_reduced_whole_one(n: int, refine: dict[str, Any]) -> None:
    mattes = {"m": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["ball"], "refine": refine}}
    planner = ShotPlanner(shot_of([PLATE], mattes=mattes), 1, scene())
    display = Window(0, 0, 120, 88)
    full, small = (
        evaluate(planner.coverage(MatteRef(matte="m"), scale), display.scaled(scale), PictureCache(1 << 26)).pixels for scale in (1, n)
    )
    blocks = full.reshape(88 // n, n, 120 // n, n).mean(axis=(1, 3))
    assert np.abs(small[..., 0] - blocks).max() <= 1 / 255


def test_levels_and_invert() -> None:
    m = np.array([0, 0.25, 0.5, 0.75, 1], np.float32)
    assert levels(m, 0.25, 0.75, 1.0).tolist() == [0, 0, 0.5, 1, 1]
    assert levels(m, 0.0, 1.0, 2.0) == pytest.approx(np.sqrt(m))
    assert levels(m, 0.0, 1.0, 1.0) is m
    turned = refine_planes(planes(m[None]), Refine(invert=True))
    assert turned[0, :, 0].tolist() == (1 - m).tolist()
