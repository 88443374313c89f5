"""Grain, vignette, smear and edge: statistics, response to a line, and by hand."""

from typing import Any

import numpy as np
import pytest
from scipy import ndimage

from arrays import PLATE, STATION, ArrayReader, ArraySource, assert_near, card, make, scene, shot_of
from umbrax.core.kernels.smearing import taps
from umbrax.core.picture import Picture, Window
from umbrax.core.treatments import TREATMENTS
from umbrax.core.treatments.grain import grains

FLAT = {"id": "flat", "picture": {"kind": "solid", "colour": [0.18, 0.18, 0.18]}}


def of(kind: str, pixels: np.ndarray, window: Window | None = None, edge: Any = "empty", **settings: Any) -> np.ndarray:
    treatment = TREATMENTS.get(kind)
    params = treatment.params.model_validate({"id": "t", "kind": kind, **settings})
    whole = Window(0, 0, pixels.shape[1], pixels.shape[0])
    known = {"display": whole} if kind == "edge" else {}
    return treatment.apply(params, Picture(pixels.astype(np.float32), whole, edge), window or whole, 1, **known).pixels


@pytest.mark.parametrize("size", [0.0, 0.6, 1.5, 3.0])
def test_grains_size_and_strength_are_what_is_measured(size: float) -> None:
    """White noise blurred by a Gaussian s has the autocorrelation exp(-d^2 / (4 s^2)) at a distance d."""
    treatment = {"id": "g", "kind": "grain", "size": size, "strength": 0.05, "colour": 0.3}
    got = make(shot_of([card(FLAT, treatments=[treatment])], width=700, height=500), scene(500, 700)).pixels[..., :3] - 0.18
    assert got.mean() == pytest.approx(0, abs=0.004)
    assert got.std() == pytest.approx(0.05, rel=0.02)
    if size >= 1.5:
        lag = int(size)
        correlation = (got[:, lag:] * got[:, :-lag]).mean() / got.var()
        assert np.sqrt(-(lag**2) / (4 * np.log(correlation))) == pytest.approx(size, rel=0.05)
    alike = np.corrcoef(got[..., 0].ravel(), got[..., 1].ravel())[0, 1]
    assert alike == pytest.approx(0.7, abs=0.03)


def test_grain_is_normal_and_has_no_pattern() -> None:
    noise = grains(Window(-40, 7, 660, 507), 0, 1.0, 5)
    assert noise.std() == pytest.approx(1, abs=0.005)
    assert (np.abs(noise) > 2).mean() == pytest.approx(0.0455, abs=0.006)
    assert np.abs(np.fft.rfft2(noise[..., 0])[1:, 1:]).max() < 5 * np.sqrt(noise[..., 0].size)


def test_grain_follows_seed_and_frame_and_grows_with_light() -> None:
    def shot(**more: Any) -> Any:
        return shot_of([card(FLAT, treatments=[{"id": "g", "kind": "grain", **more}])])

    one = make(shot(), scene()).pixels
    assert np.array_equal(one, make(shot(), scene()).pixels)
    for other in (make(shot(seed=2), scene()), make(shot(), scene(), frame=2)):
        assert abs(np.corrcoef(one[..., 0].ravel() - 0.18, other.pixels[..., 0].ravel() - 0.18)[0, 1]) < 0.05
    assert np.array_equal(make(shot(still=True), scene()).pixels, make(shot(still=True), scene(), frame=2).pixels)
    light = np.ones((200, 400, 4), np.float32)
    light[:, :200, :3], light[:, 200:, :3] = 0.18, 0.72
    noise = TREATMENTS.get("grain")
    params = noise.params.model_validate({"id": "t", "kind": "grain", "strength": 0.02, "response": 0.5})
    got = (
        noise.apply(params, Picture(light, Window(0, 0, 400, 200)), Window(0, 0, 400, 200), 1, frame=1, display=Window(0, 0, 400, 200)).pixels[
            ..., :3
        ]
        - light[..., :3]
    )
    assert got[:, 200:].std() / got[:, :200].std() == pytest.approx(2.0, rel=0.05)


def test_nothing_gets_no_grain() -> None:
    got = make(shot_of([card(STATION, treatments=[{"id": "g", "kind": "grain", "strength": 0.3}])]), scene()).pixels
    assert got[got[..., 3] == 0].max() == 0


def test_vignette_by_hand() -> None:
    """At the corner r = 1: t = (1 - 0.5) / 1, s = 0.25 x 2 = 0.5, so 0.8 of the half is taken; nothing within `size`."""
    dark = {"id": "v", "kind": "vignette", "strength": 0.8, "size": 0.5, "softness": 1.0}
    shot = shot_of([card(FLAT, treatments=[dark])], width=801, height=601)
    got = make(shot, scene(601, 801)).pixels
    assert got[300, 400, 0] == pytest.approx(0.18)
    assert got[0, 0, 0] == pytest.approx(0.18 * (1 - 0.8 * 0.5), rel=0.005)
    assert np.all(got[..., 3] == 1)
    moved = {**dark, "centre": [0, 0]}
    assert make(shot_of([card(FLAT, treatments=[moved])]), scene()).pixels[0, 0, 0] == pytest.approx(0.18, rel=1e-4)


@pytest.mark.parametrize("angle", [0, 30, 90, 135, -71, 180])
@pytest.mark.parametrize(("sides", "fall"), [("one", "box"), ("both", "box"), ("one", "exponential"), ("both", "exponential")])
def test_a_point_becomes_a_line_of_that_length_and_direction(angle: float, sides: str, fall: str) -> None:
    length, middle = 60.0, 160
    point = np.zeros((321, 321, 4), np.float32)
    point[middle, middle] = 1
    got = of("smear", point, length=length, angle=angle, sides=sides, fall=fall)[..., 0]
    assert got.sum() == pytest.approx(1, abs=1e-5)
    y, x = np.mgrid[:321, :321] - middle
    along = x * np.cos(np.radians(angle)) - y * np.sin(np.radians(angle))
    across = x * np.sin(np.radians(angle)) + y * np.cos(np.radians(angle))
    mean = {"both": 0, "one": length / 2 if fall == "box" else length / 3}[sides]
    assert (got * along).sum() == pytest.approx(mean, abs=0.35)
    assert (got * across).sum() == pytest.approx(0, abs=0.02)
    assert np.abs(across[got > 0]).max() <= 1.01
    # of an even line; of an exponential with the rate 3 / length, or twice that both ways
    spread = {"box": length / np.sqrt(12), "exponential": length / 3 * (np.sqrt(2) / 2 if sides == "both" else 1)}[fall]
    assert np.sqrt((got * (along - (got * along).sum()) ** 2).sum()) == pytest.approx(spread, rel=0.05)


def test_an_even_smear_along_a_row_is_a_running_mean() -> None:
    """Against scipy.ndimage.uniform_filter1d in double precision."""
    rng = np.random.default_rng(0)
    pixels = rng.uniform(0, 1, (20, 300, 4))
    wanted = ndimage.uniform_filter1d(pixels, 41, axis=1, mode="nearest")
    assert_near(of("smear", pixels, edge="extend", length=41.0), wanted, 2e-6)


def test_taps_of_every_smear_add_up_to_1() -> None:
    for length in (0.2, 1.0, 7.3):
        for angle in range(0, 360, 23):
            _, weights = taps(length, angle, angle % 2 == 0, angle % 3 == 0)
            assert weights.sum() == pytest.approx(1, abs=1e-6)


def half_plane(alpha: float = 1.0) -> np.ndarray:
    pixels = np.zeros((60, 120, 4), np.float32)
    pixels[:, 60:] = [0.6 * alpha, 0.3 * alpha, 0.1 * alpha, alpha]
    pixels[:, 59] = pixels[:, 60] * 0.5
    return pixels


@pytest.mark.parametrize("grow", [-7.5, -2.0, 0.4, 3.0, 8.25])
def test_an_edge_moves_by_so_many_pixels_in_its_own_colour(grow: float) -> None:
    got = of("edge", half_plane(), grow=grow)
    assert got[30, :, 3].sum() == pytest.approx(60.5 + grow, abs=0.02)
    there = got[30, :, 3] > 1e-3
    # no dark or light line over anything: its colour goes on
    assert got[30, there, :3] / got[30, there, 3:] == pytest.approx(np.broadcast_to([0.6, 0.3, 0.1], (int(there.sum()), 3)), abs=2e-3)


def test_a_feathered_edge_is_a_ramp_about_the_contour() -> None:
    got = of("edge", half_plane(), feather=20.0)[30, :, 3]
    assert got.sum() == pytest.approx(60.5, abs=0.1)
    assert (np.diff(got) >= -1e-6).all()
    assert ((got > 0.01) & (got < 0.99)).sum() == pytest.approx(20, abs=2)


def test_the_frame_cuts_no_edge() -> None:
    full = {"id": "e", "kind": "edge", "grow": -3.0}
    shot = shot_of([card(PLATE, picture={"kind": "pass", "source": "valley", "pass": "rgba"}, treatments=[full])])
    assert make(shot, ArrayReader(valley=ArraySource({"rgba": ("beauty", np.ones((90, 120, 4), np.float32))}))).pixels.min() == 1
