"""Grade against the ASC CDL v1.2 inside 0..1, OpenColorIO's no-clamp style outside, and identities."""

import numpy as np
import PyOpenColorIO as ocio
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from arrays import assert_near
from umbrax.core.picture import Picture, Window
from umbrax.core.treatments import TREATMENTS
from umbrax.core.treatments.grade import GradeParams, hue_matrix

GRADE = TREATMENTS.get("grade")
THREE = st.tuples(*[st.floats(0.3, 2.0)] * 3)
LUMA = np.array([0.2126, 0.7152, 0.0722])


def graded(pixels: np.ndarray, **settings_: object) -> np.ndarray:
    picture = Picture(pixels.astype(np.float32), Window(0, 0, pixels.shape[1], pixels.shape[0]))
    params = GradeParams.model_validate({"id": "t", "kind": "grade", **settings_})
    return GRADE.apply(params, picture, picture.window, 1).pixels


def opaque(low: float, high: float, seed: int = 0) -> np.ndarray:
    colours = np.random.default_rng(seed).uniform(low, high, (8, 16, 3))
    return np.concatenate([colours, np.ones((8, 16, 1))], axis=2)


@given(THREE, st.tuples(*[st.floats(-0.1, 0.2)] * 3), THREE, st.floats(0, 2))
@settings(max_examples=60, deadline=None)
def test_slope_offset_power_saturation_equal_the_definition(slope, offset, power, saturation) -> None:  # type: ignore[no-untyped-def]
    pixels = opaque(0, 1)
    inner = pixels[..., :3] * slope + offset
    powered = np.where(inner > 0, np.abs(inner) ** np.array(power), inner)
    luma = (powered @ LUMA)[..., None]
    expected = luma + saturation * (powered - luma)
    got = graded(pixels, slope=slope, offset=offset, power=power, saturation=saturation)[..., :3]
    # where nearly nothing is left of a difference, the power makes its rounding to float32 large; saturation carries it to the others
    known = (np.abs(inner) > 1e-3).all(axis=2)
    assert_near(got[known], expected[known], 2e-6, relative=2e-5)


def test_outside_the_unit_range_it_is_opencolorios_no_clamp_style() -> None:
    pixels = opaque(-2, 30, seed=4)
    transform = ocio.CDLTransform()
    transform.setStyle(ocio.CDL_NO_CLAMP)
    transform.setSlope([1.2, 0.8, 1.5])
    transform.setOffset([0.05, -0.1, 0.02])
    transform.setPower([0.7, 1.4, 1.1])
    transform.setSat(0.6)
    expected = pixels[..., :3].astype(np.float32).copy()
    ocio.Config.CreateRaw().getProcessor(transform).getDefaultCPUProcessor().applyRGB(expected)
    got = graded(pixels, slope=[1.2, 0.8, 1.5], offset=[0.05, -0.1, 0.02], power=[0.7, 1.4, 1.1], saturation=0.6)
    assert got[..., :3] == pytest.approx(expected, rel=3e-4, abs=3e-4)  # OpenColorIO's own power is approximate


def test_exposure_is_stops_and_keeps_alpha() -> None:
    pixels = opaque(0, 4)
    pixels[..., 3] = 0.5
    out = graded(pixels, exposure=2.0)
    assert out[..., :3] == pytest.approx(4 * pixels[..., :3], rel=1e-6)
    assert np.array_equal(out[..., 3], pixels[..., 3].astype(np.float32))


def test_contrast_holds_its_pivot_and_gamma_is_a_power() -> None:
    assert graded(np.full((1, 1, 4), [0.18, 0.36, -0.5, 1.0]), contrast=2.0)[0, 0, :3] == pytest.approx([0.18, 0.72, -0.5], rel=1e-5)
    assert graded(np.full((1, 1, 4), [0.25, 4.0, -0.5, 1.0]), gamma=2.0)[0, 0, :3] == pytest.approx([0.5, 2.0, -0.5], rel=1e-5)


@given(st.floats(-360, 360))
def test_turning_the_hue_keeps_greys_and_luma(degrees: float) -> None:
    matrix = hue_matrix(degrees)
    assert matrix @ np.ones(3) == pytest.approx(np.ones(3))
    assert LUMA @ matrix == pytest.approx(LUMA)


def test_a_whole_turn_of_the_hue_changes_nothing() -> None:
    assert hue_matrix(360) == pytest.approx(np.eye(3), abs=1e-12)


def test_what_is_not_linear_works_on_colour_without_its_alpha() -> None:
    solid = graded(np.array([[[0.4, 0.2, 0.1, 1.0]]]), contrast=1.5, offset=[0.1] * 3)
    half = graded(np.array([[[0.2, 0.1, 0.05, 0.5]]]), contrast=1.5, offset=[0.1] * 3)
    assert half[0, 0, :3] == pytest.approx(solid[0, 0, :3] / 2, rel=1e-5)


def test_an_offset_lifts_nothing_where_nothing_is() -> None:
    assert not graded(np.zeros((2, 2, 4)), offset=[0.3] * 3).any()


def test_the_power_keeps_negatives_infinities_and_tiny_values() -> None:
    pixels = np.array([[[-3.0, np.inf, 1e-30, 1.0]]], np.float32)
    out = graded(pixels, power=[0.5, 0.5, 0.5])[0, 0]
    assert out[0] == -3
    assert out[1] == np.inf
    assert out[2] == pytest.approx(1e-15, rel=1e-5)
