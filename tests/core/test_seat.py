"""The seat check against pictures whose blacks, grain, blur and rims are known, and its remedies by asking again."""

from typing import Any

import numpy as np
import pytest
from scipy import ndimage
from skimage import data

from arrays import disc
from umbrax.core.colour import LUMA_BT709, linear_from_srgb
from umbrax.core.errors import UmbraxError
from umbrax.core.measuring.seat import Answer, Seated, Side, seat_check
from umbrax.core.measuring.seat.fringe import exponent
from umbrax.core.measuring.seat.pixels import spread
from umbrax.core.measuring.seat.sharpness import edge_blurs
from umbrax.core.picture import Window
from umbrax.core.treatments.grain import grains

HEIGHT, WIDTH = 240, 320
ROWS, COLUMNS = np.mgrid[:HEIGHT, :WIDTH].astype(np.float64)


def view(low: float = 0.06, high: float = 0.5, blur: float = 0.0, grain: float = 0.0, size: float = 0.0, seed: int = 1) -> np.ndarray:
    """What lies behind: a sky over a ridge with steps, opaque."""
    light = low + (high - low) * (0.5 + 0.3 * ROWS / HEIGHT)
    light[150:] = low
    for x in (30, 90, 150, 220, 280):
        light[150:, x : x + 24] = high
    if blur:
        light = ndimage.gaussian_filter(light, blur, mode="nearest")
    rgb = np.repeat(light[..., None], 3, axis=2).astype(np.float32)
    if grain:
        rgb += grains(Window(0, 0, WIDTH, HEIGHT), size, 0.5, seed, grain)
    return np.concatenate([rgb, np.ones((HEIGHT, WIDTH, 1), np.float32)], axis=2)


def ball(light: Any = 0.3, radius: float = 60.0, shade: float = 0.6) -> np.ndarray:
    """What is put over it: a disc that grows darker downward, its rim as a renderer makes it."""
    alpha = disc(HEIGHT, WIDTH, 120.0, 160.0, radius)[..., None]
    rgb = np.asarray(light) * (1 - shade * np.clip((ROWS - 60) / 120, 0, 1))[..., None] * np.ones(3)
    return np.concatenate([rgb * alpha, alpha], axis=2).astype(np.float32)


def told(own: np.ndarray, behind: np.ndarray, *treatments: str) -> dict[str, Answer]:
    return {one.kind: one for one in seat_check(Seated(Side(own), Side(behind), frozenset(treatments)))}


def lit(own: np.ndarray, change: Any) -> np.ndarray:
    """Its light without alpha changed, its alpha as it was."""
    alpha = own[..., 3:]
    straight = np.divide(own[..., :3], alpha, out=np.zeros_like(own[..., :3]), where=alpha > 0)
    return np.concatenate([change(straight) * alpha, alpha], axis=2).astype(np.float32)


def test_what_sits_is_told_to_sit() -> None:
    found = told(ball(), view())
    assert [one.kind for one in found.values()] == ["blacks", "grain", "sharpness", "fringe", "surroundings"]
    assert [kind for kind, one in found.items() if one.sits is not True or one.remedy] == []


def test_blacks_are_lifted_to_those_behind() -> None:
    """`gain (x + lift (1 - x))` of the tones treatment, by hand."""
    own, behind = ball(np.array([0.02, 0.03, 0.09])), view(low=0.05)
    found = told(own, behind)["blacks"]
    assert found.sits is False
    assert found.behind == pytest.approx((0.05, 0.05, 0.05), abs=1e-3)
    assert found.own == pytest.approx(np.array([0.02, 0.03, 0.09]) * 0.4, rel=0.15)
    assert found.remedy is not None
    assert found.remedy.treatment["kind"] == "tones"
    lift = np.array(found.remedy.treatment["lift"])
    lifted = told(lit(own, lambda light: light + lift * (1 - light)), behind)["blacks"]
    assert lifted.sits is True
    assert lifted.own == pytest.approx(lifted.behind, abs=2e-3)
    # what is brighter than all behind it is no fault: it may show nothing dark
    assert told(ball(0.9), behind)["blacks"].sits is True


def test_what_is_no_black_gets_no_lift() -> None:
    found = told(ball(2.0, shade=0.0), view(low=3.0, high=9.0))["blacks"]
    assert (found.sits, found.remedy) == (False, None)


def test_blacks_are_told_channel_by_channel_and_not_of_grain() -> None:
    found = told(ball(np.array([0.01, 0.4, 0.4])), view())["blacks"]
    assert found.remedy is not None
    assert found.remedy.treatment["lift"][0] > 0.04
    assert found.remedy.treatment["lift"][1:] == [0, 0]
    noisy = view(grain=0.02)
    noisy[..., :3] = np.maximum(noisy[..., :3], 0)
    assert told(ball(np.array([0.02, 0.03, 0.09])), noisy)["blacks"].behind == pytest.approx((0.06, 0.06, 0.06), abs=0.015)


@pytest.mark.parametrize(("strength", "size"), [(0.01, 0.0), (0.02, 0.8), (0.006, 1.2)])
def test_grain_is_measured_as_it_was_made(strength: float, size: float) -> None:
    found = Side(view(grain=strength, size=size)).noise
    assert found is not None
    assert found.strength == pytest.approx(strength, rel=0.2)
    assert found.size == pytest.approx(size, abs=0.2)


@pytest.mark.parametrize("response", [0.0, 0.5, 1.0])
def test_grain_that_goes_with_light_is_told(response: float) -> None:
    """The treatment's own formula: strength (luma / 0.18)^response."""
    light = np.repeat((0.05 + 0.7 * ROWS / HEIGHT)[..., None], 3, axis=2)
    grained = light + grains(Window(0, 0, WIDTH, HEIGHT), 0.8, 0.5, 3, 0.01) * (light / 0.18) ** response
    found = Side(opaque(grained)).noise
    assert found is not None
    assert found.response == pytest.approx(response, abs=0.12)
    assert found.strength_at(0.18) == pytest.approx(0.01, rel=0.15)
    asked = told(ball(0.4, radius=90), opaque(grained))["grain"]
    assert asked.remedy is not None
    assert asked.remedy.treatment["response"] == found.response
    assert asked.remedy.treatment["strength"] == pytest.approx(0.01, rel=0.15)


def test_missing_grain_is_put_on() -> None:
    own, behind = ball(radius=90), view(grain=0.015, size=0.8)
    found = told(own, behind)["grain"]
    assert found.sits is False
    assert found.remedy is not None
    made = dict(found.remedy.treatment)
    assert made.pop("kind") == "grain"
    grained = grains(Window(0, 0, WIDTH, HEIGHT), made["size"], 0.5, 9, made["strength"])
    again = told(lit(own, lambda light: light + grained), behind)["grain"]
    assert again.sits is True
    assert again.own == pytest.approx(again.behind, rel=0.3)
    # and the other way round nothing can be put on
    noisier = told(lit(own, lambda light: light + 3 * grained), behind)["grain"]
    assert noisier.sits is False
    assert noisier.remedy is None
    assert "noisier" in noisier.message


def test_shading_is_no_grain() -> None:
    shaded = Side(ball(radius=90, shade=0.9)).noise
    assert shaded is not None
    assert shaded.strength < 1e-3
    assert told(ball(radius=90), view())["grain"].message == "neither has grain that is seen"


@pytest.mark.parametrize("blur", [0.6, 1.0, 2.0])
@pytest.mark.parametrize("grain", [0.0, 0.005])
def test_the_blur_of_an_edge_is_told(blur: float, grain: float) -> None:
    """Steps blurred by SciPy's Gaussian, straight and leaning."""
    lean = ndimage.gaussian_filter((COLUMNS > 100 + ROWS * 0.4).astype(np.float64), blur)
    for step in (ndimage.gaussian_filter((COLUMNS > 160).astype(np.float64), blur), lean):
        noisy = 0.1 + 0.5 * step + np.random.default_rng(4).normal(0, grain, step.shape)
        found = edge_blurs(noisy.astype(np.float32), 0.2, np.ones(step.shape, np.bool_))
        assert len(found) > 150
        assert np.median(found) == pytest.approx(blur, rel=0.1, abs=0.15)


def test_a_rim_is_softened_to_the_edges_behind() -> None:
    own, behind = ball(), view(blur=1.8)
    found = told(own, behind)["sharpness"]
    assert found.sits is False
    assert found.behind == pytest.approx((1.8,), rel=0.15)
    assert found.own[0] < 0.6
    assert found.remedy is not None
    assert found.remedy.treatment["kind"] == "soften"
    size = found.remedy.treatment["size"]
    again = told(ndimage.gaussian_filter(own, (size, size, 0)), behind)["sharpness"]
    assert again.sits is True
    assert again.own == pytest.approx(again.behind, abs=0.4)
    assert told(own, view(blur=6))["sharpness"].sits is None, "out of focus, and perhaps meant to be"
    assert told(own, view(low=0.3, high=0.3))["sharpness"].sits is None, "no edge to compare with"


def test_alpha_once_too_often_and_what_stood_behind_show_at_the_rim() -> None:
    """Light times alpha twice has the exponent 1; shading that falls off to the rim has none."""
    good = ball(shade=0.0)
    shaded = good.copy()
    shaded[..., :3] *= np.sqrt(np.clip(1 - (np.hypot(ROWS - 120, COLUMNS - 160) / 61) ** 2, 0, 1))[..., None]
    twice = good.copy()
    twice[..., :3] *= good[..., 3:]
    assert exponent(Seated(Side(good), Side(view()))) == pytest.approx(0, abs=0.01)
    assert exponent(Seated(Side(twice), Side(view()))) == pytest.approx(1, abs=0.02)
    assert told(shaded, view())["fringe"].sits is True
    dark = told(twice, view())["fringe"]
    assert (dark.sits, "darker" in dark.message) == (False, True)
    # cut out of a picture before white: a rim holds what is not covered of that
    alpha = good[..., 3:]
    filmed = good[..., :3] + (1 - alpha) * 1.0
    bright = told(np.concatenate([filmed * alpha, alpha], axis=2), view())["fringe"]
    assert (bright.sits, "brighter" in bright.message) == (False, True)
    assert bright.remedy is not None
    assert bright.remedy.treatment == {"kind": "edge", "grow": -1.0}


def test_bright_light_behind_a_rim_is_to_be_wrapped() -> None:
    dark, bright = ball(0.02, shade=0.0), view(low=0.5, high=2.0)
    found = told(dark, bright)["surroundings"]
    assert found.sits is False
    assert found.remedy is not None
    assert found.remedy.treatment == {"kind": "wrap"}
    assert told(dark, bright, "wrap")["surroundings"].sits is True
    assert told(dark, view(low=0.03, high=0.05))["surroundings"].sits is True
    half = bright.copy()
    half[:, :, :3][:, 70:] *= 0.01  # bright behind a small part of the rim alone
    assert told(dark, half)["surroundings"].sits is True


def test_what_is_not_there_is_refused_by_name() -> None:
    nothing = np.zeros((HEIGHT, WIDTH, 4), np.float32)
    with pytest.raises(UmbraxError, match="next to nothing of this card"):
        told(nothing, view())
    with pytest.raises(UmbraxError, match="nothing behind this card"):
        told(ball(), nothing)
    with pytest.raises(UmbraxError, match="nothing behind this card"):
        told(view(), view())


def test_what_is_no_number_and_what_is_very_bright_spoils_nothing() -> None:
    own, behind = ball(), view(grain=0.01)
    own[120, 160, :3] = np.nan
    own[110, 150, :3] = np.inf
    behind[20, 20, :3] = (np.nan, 1e30, -1e30)
    assert {kind: one.sits for kind, one in told(own, behind).items() if kind != "grain"} == {
        kind: one.sits for kind, one in told(ball(), view(grain=0.01)).items() if kind != "grain"
    }


def test_means_of_what_a_mask_holds_see_nothing_else() -> None:
    values = np.where(COLUMNS < 100, 3.0, 1e6).astype(np.float32)
    assert spread(values, COLUMNS < 100, 4.0)[:, :100] == pytest.approx(3.0, rel=1e-5)
    three = np.repeat(values[..., None], 3, axis=2) @ np.diag(LUMA_BT709).astype(np.float32)
    assert spread(three, COLUMNS < 100, 4.0)[50, 99] == pytest.approx(np.array(LUMA_BT709) * 3, rel=1e-5)


@pytest.mark.parametrize("name", ["astronaut", "coffee", "chelsea"])
def test_photographs_full_of_detail_tell_grain_and_blur(name: str) -> None:
    """The photographs that scikit-image ships: what is put on them is found again under all that they show."""
    light = linear_from_srgb(getattr(data, name)().astype(np.float32) / 255)
    blurred = ndimage.gaussian_filter(light, (2, 2, 0))
    grained = Side(opaque(blurred + np.random.default_rng(1).normal(0, 0.01, light.shape)))
    found = grained.noise
    assert found is not None
    assert found.strength == pytest.approx(0.01, rel=0.1)
    assert found.size < 0.4
    for side in (Side(opaque(blurred)), grained):
        blurs = edge_blurs(side.luma, 0.2, np.ones(light.shape[:2], np.bool_))
        assert 1.7 < np.percentile(blurs, 20) < 2.8
    assert np.percentile(edge_blurs(Side(opaque(light)).luma, 0.2, np.ones(light.shape[:2], np.bool_)), 20) < 1.7


def opaque(light: np.ndarray) -> np.ndarray:
    return np.concatenate([light, np.ones((*light.shape[:2], 1))], axis=2).astype(np.float32)
