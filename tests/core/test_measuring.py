"""Scopes against NumPy's histograms and colour-science, matching by hand, grain measured again from what the treatment made."""

from typing import Any

import numpy as np
import pytest

from arrays import card, make, scene, shot_of
from umbrax.core.colour import srgb_from_linear
from umbrax.core.errors import UmbraxError
from umbrax.core.measuring.grain import grain_of
from umbrax.core.measuring.matching import average, matching_slope
from umbrax.core.measuring.scopes import CHROMA, XYZ_FROM_BT709, scopes


def pixels(seed: int = 0, low: float = -0.1, high: float = 1.3, alpha: Any = 1.0) -> np.ndarray:
    rng = np.random.default_rng(seed)
    light = rng.uniform(low, high, (60, 90, 3))
    a = np.broadcast_to(np.asarray(alpha, float), (60, 90))[..., None]
    return np.concatenate([light * a, a], axis=2).astype(np.float32)


def test_the_histogram_is_numpys_of_what_a_display_shows() -> None:
    given = pixels()
    shown = np.clip(srgb_from_linear(given[..., :3].astype(np.float64)), 0, 1)
    found = scopes(given, bins=64)
    for c in range(3):
        assert found.histogram[c] == pytest.approx(np.histogram(shown[..., c], 64, (0, 1))[0], abs=2)
        assert found.histogram[c].sum() == 60 * 90
    assert found.mean == pytest.approx(given[..., :3].mean(axis=(0, 1)), abs=1e-5)
    assert found.below == pytest.approx((given[..., :3] < 0).mean(), abs=1e-6)
    assert found.above == pytest.approx((given[..., :3] > 1).mean(), abs=1e-3)


def test_a_matte_and_alpha_weigh_what_is_counted() -> None:
    alpha = np.linspace(0, 1, 90)[None, :]
    weight = np.random.default_rng(3).uniform(0, 1, (60, 90, 1)).astype(np.float32)
    given = pixels(alpha=alpha, low=0.05, high=0.95)
    found = scopes(given, weight, bins=32)
    w = (given[..., 3] * weight[..., 0]).astype(np.float64)
    colour = given[..., :3] / np.maximum(given[..., 3:], 1e-6)
    shown = srgb_from_linear(colour.astype(np.float64))
    for c in range(3):
        wanted = np.histogram(shown[..., c][w > 0], 32, (0, 1), weights=w[w > 0])[0]
        assert found.histogram[c] == pytest.approx(wanted, abs=1.5)
    assert found.mean == pytest.approx((colour * w[..., None]).sum(axis=(0, 1)) / w.sum(), rel=1e-4)


def test_the_waveform_shows_each_columns_values() -> None:
    ramp = np.linspace(0, 1, 256)
    light = np.repeat(((ramp + 1e-9) ** 2.2)[None, :, None], 40, axis=0)
    given = np.concatenate([np.repeat(light, 3, axis=2), np.ones((40, 256, 1))], axis=2).astype(np.float32)
    found = scopes(given, bins=64, columns=64)
    assert found.waveform.shape == (3, 64, 64)
    assert found.waveform.sum(axis=1) == pytest.approx(np.full((3, 64), 160.0))
    rows = (np.arange(64)[:, None] * found.waveform[1]).sum(axis=0) / 160
    wanted = srgb_from_linear(light[0, :, 0]).reshape(64, 4).mean(axis=1) * 64
    assert rows == pytest.approx(wanted - 0.5, abs=0.6)


def test_chromaticities_are_those_of_colour_science() -> None:
    """RGB to XYZ of BT.709 as the colour-science package has it (ITU-R BT.709-6)."""
    colour = pytest.importorskip("colour")
    space = colour.RGB_COLOURSPACES["ITU-R BT.709"]
    assert pytest.approx(space.matrix_RGB_to_XYZ, abs=2e-4) == XYZ_FROM_BT709
    for rgb in ([1.0, 0, 0], [0, 1.0, 0], [0, 0, 1.0], [0.5, 0.5, 0.5], [0.2, 0.5, 0.9]):
        given = np.ones((2, 2, 4), np.float32)
        given[..., :3] = rgb
        found = scopes(given, chroma=200).chroma
        y, x = np.unravel_index(int(found.argmax()), found.shape)
        xy = colour.XYZ_to_xy(space.matrix_RGB_to_XYZ @ np.array(rgb))
        assert ((x + 0.5) / 200 * CHROMA[0], (y + 0.5) / 200 * CHROMA[1]) == pytest.approx(xy, abs=0.005)
        assert found.sum() == 4
    assert scopes(np.zeros((3, 3, 4), np.float32)).chroma.sum() == 0


@pytest.mark.parametrize("how", ["neutral", "whole"])
def test_the_picked_match_makes_the_two_averages_equal(how: str) -> None:
    one, other = pixels(1, 0.1, 0.6), pixels(2, 0.2, 1.5) * np.array([0.6, 0.9, 1.4, 1], np.float32)
    here, there = average(one), average(other)
    slope = matching_slope(here, there, how)  # type: ignore[arg-type]
    shot = shot_of(
        [card({"id": "c", "picture": {"kind": "solid", "colour": list(here)}}, treatments=[{"id": "g", "kind": "grade", "slope": list(slope)}])]
    )
    graded = average(make(shot, scene()).pixels)
    luma = np.array([0.2126, 0.7152, 0.0722])
    if how == "whole":
        assert graded == pytest.approx(there, abs=1e-3)
    else:
        assert np.array(graded) @ luma == pytest.approx(np.array(here) @ luma, abs=1e-5)
        assert np.array(graded) / (np.array(graded) @ luma) == pytest.approx(np.array(there) / (np.array(there) @ luma), abs=1e-3)


def test_black_and_nothing_match_nothing() -> None:
    with pytest.raises(UmbraxError, match="black in a channel"):
        matching_slope((0.0, 0.2, 0.2), (0.1, 0.1, 0.1), "whole")
    with pytest.raises(UmbraxError, match="nothing is there"):
        average(np.zeros((4, 4, 4), np.float32))


@pytest.mark.parametrize(("size", "strength"), [(0.0, 0.03), (0.8, 0.02), (1.4, 0.05)])
def test_grain_is_measured_as_it_was_made(size: float, strength: float) -> None:
    ramp = {
        "id": "r",
        "picture": {"kind": "gradient", "end": [0, 200], "stops": [{"at": 0, "colour": [0.1] * 3}, {"at": 1, "colour": [0.4] * 3}]},
    }
    grain = {"id": "g", "kind": "grain", "size": size, "strength": strength, "colour": 1.0}
    got = make(shot_of([card(ramp, treatments=[grain])], width=200, height=200), scene(200, 200)).pixels
    found = grain_of(got)
    assert found[1] == pytest.approx(strength, rel=0.08)
    assert found[0] == pytest.approx(size, abs=0.12)
    with pytest.raises(UmbraxError, match="24 x 24"):
        grain_of(got[:10, :10])
