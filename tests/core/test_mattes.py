"""Combined mattes, refinements and distance against set algebra, SciPy and hand-worked values."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from scipy import ndimage
from scipy.ndimage import distance_transform_edt
from skimage.morphology import dilation, disk, erosion, isotropic_dilation, isotropic_erosion

from arrays import PLATE, disc, scene, shot_of
from umbrax.core.document.parameters import MatteRef
from umbrax.core.kernels.distance import signed_distance
from umbrax.core.mattes.base import Refine
from umbrax.core.mattes.combined import combine_sets, combine_values
from umbrax.core.mattes.refining import levels, reach, refine_planes, refined
from umbrax.core.picture import Edge, Picture, Window
from umbrax.core.plan.cache import PictureCache
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.plan.steps import Step

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


def soft_edge(width: float, phase: float = 0.0) -> np.ndarray:
    """Coverage `float32[240]` of a straight edge over a ramp of this width, averaged over each pixel; it falls at 120 + phase."""
    at = (np.arange(240 * 16) + 0.5) / 16
    return np.clip(0.5 - (at - 120 - phase) / width, 0, 1).reshape(240, 16).mean(axis=1).astype(np.float32)


def refined_edge(edge: np.ndarray, **refine: Any) -> np.ndarray:
    return refine_planes(planes(np.tile(edge, (9, 1))), Refine(**refine))[4, :, 0]


@pytest.mark.parametrize("width", [0.01, 1.0, 1.5, 2.0, 2.3, 3.0, 4.7, 16.0, 90.0])
@pytest.mark.parametrize(
    "refine", [{"grow": 1.0}, {"grow": -1.0}, {"grow": 7.3}, {"grow": -20.0}, {"feather": 4.0}, {"grow": 3.0, "feather": 25.0}]
)
def test_no_edge_folds_however_soft_it_is(width: float, refine: dict[str, float]) -> None:
    for phase in (0.0, 0.25, 0.6):
        rises = np.diff(refined_edge(soft_edge(width, phase), **refine)[4:-4])
        assert rises.max() <= 2e-3, "half an 8-bit code, at the width where crisp edges become soft"


def test_the_levels_of_a_wide_ramp_move_by_what_it_is_grown() -> None:
    """Flat dilation moves every level alike (Serra 1982): grow 1 is the next pixel's value."""
    edge = soft_edge(16)
    for by in (-30, -3, 1, 12):
        grown = refined_edge(edge, grow=float(by))
        assert grown[60:180] == pytest.approx(np.roll(edge, by)[60:180], abs=2e-6)
    assert refined_edge(edge, grow=0.5)[60:180] == pytest.approx((edge + np.roll(edge, 1))[60:180] / 2, abs=1e-5)


def test_a_soft_disc_keeps_its_shape_and_moves_evenly_all_round() -> None:
    y, x = np.mgrid[:360, :360] + 0.5
    far = np.hypot(x - 180, y - 180)

    def disc_of(radius: float) -> np.ndarray:
        return np.clip(0.5 - (far - radius) / 12, 0, 1).astype(np.float32)

    for by in (1.3, -1.3, 10.0, -20.5, -36.0, 60.0, 110.0):
        got = refine_planes(planes(disc_of(45)), Refine(grow=by))[..., 0]
        assert np.abs(got - disc_of(45 + by)).max() * 12 <= 0.5 + 0.002 * abs(by), "of a pixel, and between 48 directions of the way"


@pytest.mark.parametrize("width", [3.0, 10.0, 40.0])
def test_feather_widens_a_ramp_of_any_width_by_its_variance(width: float) -> None:
    """Variances add under convolution; a ramp of width w has w^2 / 12, a feather of f takes the place of a pixel's own 1."""

    def variance(edge: np.ndarray) -> float:
        density, at = -np.diff(edge.astype(np.float64)), np.arange(len(edge) - 1)
        return float((density * at**2).sum() - (density * at).sum() ** 2)

    edge = soft_edge(width)
    for feather in (6.0, 20.0):
        expected = variance(edge) + (feather**2 - 1) / 12
        assert variance(refined_edge(edge, feather=feather)) == pytest.approx(expected, rel=0.02)


def test_the_share_of_a_soft_rim_before_the_sky_follows_what_is_left_of_its_coverage() -> None:
    edge = soft_edge(16)
    rim = np.tile(np.stack([edge, np.ones_like(edge), edge], axis=1), (9, 1, 1))
    choked = refine_planes(rim, Refine(grow=-4.0))[4]
    assert choked[60:180, 1] * edge[60:180] == pytest.approx(np.roll(edge, -4)[60:180], abs=2e-6)


def test_where_soft_and_crisp_edges_meet_windows_still_agree_bit_for_bit() -> None:
    rng = np.random.default_rng(4)
    matte = np.kron((rng.random((10, 12)) > 0.5).astype(np.float32), np.ones((16, 16), np.float32))
    matte[:, 90:] = np.minimum(matte[:, 90:], soft_edge(30)[None, 60:162])
    settings_, around = Refine(grow=-2.5, feather=9.0), reach(Refine(grow=-2.5, feather=9.0))
    whole = refine_planes(planes(np.pad(matte, around, mode="edge")), settings_, (-around, -around))
    part = np.pad(matte, around, mode="edge")[40 : 60 + 2 * around, 70 : 110 + 2 * around]
    alone = refine_planes(planes(part), settings_, (70 - around, 40 - around))
    inner = (slice(around, around + 20), slice(around, around + 40))
    assert np.array_equal(alone[inner], whole[40 + around : 60 + around, 70 + around : 110 + around])


@pytest.mark.parametrize("edge", ["empty", "one"])
@pytest.mark.parametrize("refine", [Refine(grow=12.0), Refine(grow=-30.0, feather=40.0), Refine(grow=3.0, feather=120.0, invert=True)])
def test_what_lies_far_beyond_a_matte_need_not_be_made(edge: Edge, refine: Refine) -> None:
    """The step looks no farther than the matte's border, and gives bit for bit what all that is within reach would give."""
    rng = np.random.default_rng(8)
    soft = ndimage.gaussian_filter(rng.random((70, 90)), 3)
    matte = Picture(planes(np.clip((soft - soft.mean()) * 14 + 0.5, 0, 1).astype(np.float32)), Window(-8, 5, 82, 75), edge)
    step = refined(Step("m", "matte", matte.window, 3, (), lambda _: (), lambda window, _: matte.crop(window), edge), refine, matte.window)
    for window in (matte.window, Window(-30, 20, 40, 90), Window(90, 80, 130, 100), Window(10, 20, 30, 35)):
        around = reach(refine)
        near = window.grown(around)
        wanted = refine_planes(matte.crop(near).pixels, refine, (near.x0, near.y0))[around:-around, around:-around]
        assert np.array_equal(step.run(window, (matte.crop(near.intersect(matte.window)),)).pixels, wanted)
