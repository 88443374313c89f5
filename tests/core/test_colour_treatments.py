"""Colour treatments against hand-worked values, SciPy's PCHIP and luma by BT.709."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator

from arrays import PLATE, STATION, assert_near, card, make, scene, shot_of
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Picture, Window
from umbrax.core.treatments import TREATMENTS

LUMA = np.array([0.2126, 0.7152, 0.0722])  # BT.709


def treated(kind: str, colours: Any, alpha: float = 1.0, **more: Any) -> np.ndarray:
    """What becomes of colours, given and returned without alpha; a row longer than what loops go over at once, and one shorter."""
    treatment = TREATMENTS.get(kind)
    params = treatment.params.model_validate({"id": "t", "kind": kind, **more})
    flat = np.atleast_2d(np.asarray(colours, np.float32))
    results = []
    for width in (len(flat), len(flat) + 300):
        row = np.resize(flat, (1, width, 3))
        pixels = np.concatenate([row * np.float32(alpha), np.full((1, width, 1), alpha, np.float32)], axis=2)
        window = Window(0, 0, width, 1)
        out = treatment.apply(params, Picture(pixels, window), window, 1).pixels
        results.append(out[0, : len(flat), :3] / np.where(out[0, : len(flat), 3:] > 0, out[0, : len(flat), 3:], 1))
    assert np.array_equal(results[0], results[1])
    return results[0]


def grey(*values: float) -> np.ndarray:
    return np.repeat(np.array(values, np.float32)[:, None], 3, axis=1)


@pytest.mark.parametrize("kind", ["levels", "curves", "tones", "recolour", "spill"])
def test_where_there_is_nothing_nothing_comes_and_every_row_is_treated(kind: str) -> None:
    """A picture of more rows than there are processors, empty but for a few pixels; each comes out as it does by itself."""
    more = {"levels": {"out_black": 0.2}, "curves": {"master": [[0, 0.3], [1, 0.6]]}, "tones": {"lift": [0.1, 0.2, 0.3]}}
    treatment = TREATMENTS.get(kind)
    params = treatment.params.model_validate({"id": "t", "kind": kind, **more.get(kind, {})})
    pixels = np.zeros((53, 700, 4), np.float32)
    pixels[np.arange(53), np.arange(53) * 13] = [0.1, 0.4, 0.2, 0.5]
    window = Window(0, 0, 700, 53)
    out = treatment.apply(params, Picture(pixels, window), window, 1).pixels
    one = treatment.apply(params, Picture(pixels[:1, :1].copy(), Window(0, 0, 1, 1)), Window(0, 0, 1, 1), 1).pixels[0, 0]
    wanted = np.zeros_like(pixels)
    wanted[np.arange(53), np.arange(53) * 13] = one
    assert np.array_equal(out, wanted)
    assert not np.array_equal(one, pixels[0, 0])


@pytest.mark.parametrize("alpha", [1.0, 0.35])
def test_levels_by_hand(alpha: float) -> None:
    """((0.5 - 0.1) / (0.9 - 0.1))^(1/2) = 0.70711, times 0.6 and 0.2 more: 0.62426; below black the power leaves it as it is."""
    got = treated("levels", grey(0.5, 0.1, 0.9, 1.7, 0.02), alpha, black=0.1, white=0.9, gamma=2, out_black=0.2, out_white=0.8)
    inner = np.array([0.5, 0.0, 1.0, 2.0, -0.1])
    wanted = np.where(inner > 0, np.sqrt(np.abs(inner)), inner) * 0.6 + 0.2
    assert got == pytest.approx(np.repeat(wanted[:, None], 3, axis=1), rel=3e-6, abs=1e-6)
    assert wanted[0] == pytest.approx(0.6242641)


def test_levels_of_each_channel() -> None:
    got = treated("levels", [[0.5, 0.5, 0.5]], black=[0, 0.25, 0.5], white=[1, 1, 0.75], out_white=[2, 1, 1])
    assert got[0] == pytest.approx([1.0, 1 / 3, 0.0], abs=1e-6)


@pytest.mark.parametrize("alpha", [1.0, 0.35])
def test_tones_by_hand(alpha: float) -> None:
    """(1.5 (0.4 + 0.1 x 0.6))^(1/2) = 0.69^0.5 = 0.83066; lift leaves white where gain puts it."""
    got = treated("tones", grey(0.4, 1.0, 0.0, 3.0), alpha, lift=[0.1] * 3, gain=[1.5] * 3, gamma=[2.0] * 3)
    wanted = np.sqrt(1.5 * (np.array([0.4, 1.0, 0.0, 3.0]) + 0.1 * (1 - np.array([0.4, 1.0, 0.0, 3.0]))))
    assert got[:, 1] == pytest.approx(wanted, rel=3e-6)
    assert treated("tones", grey(-0.2), gamma=[2.0] * 3)[0] == pytest.approx([-0.2] * 3)
    assert treated("tones", [[0.5, 0.5, 0.5]], gain=[1, 2, 0.5])[0] == pytest.approx([0.5, 1.0, 0.25])


@st.composite
def curves(draw: st.DrawFn) -> list[tuple[float, float]]:
    xs = sorted(draw(st.sets(st.integers(-20, 120), min_size=2, max_size=8)))
    return [(x / 100, draw(st.floats(-0.5, 2))) for x in xs]


@given(curves())
@settings(max_examples=40, deadline=None)
def test_curves_are_scipys_pchip_and_straight_beyond_it(points: list[tuple[float, float]]) -> None:
    """PCHIP of Fritsch and Butland, 1984, in double precision."""
    exact = PchipInterpolator(*np.array(points).T)
    first, last = points[0][0], points[-1][0]
    x = np.concatenate([np.linspace(first, last, 700), [first - 0.5, last + 7.0]])
    wanted = exact(np.clip(x, first, last)) + exact.derivative()(np.clip(x, first, last)) * (x - np.clip(x, first, last))
    got = treated("curves", grey(*x), red=points)[:, 0]
    steepest = np.abs(exact.derivative()(np.linspace(first, last, 5000))).max()
    assert_near(got, wanted, 2e-6 + 3e-7 * steepest * (1 + abs(last) + 7), relative=2e-6)
    assert treated("curves", grey(*x), red=points)[:, 1] == pytest.approx(x.astype(np.float32))


def test_the_master_comes_before_the_channels() -> None:
    doubled, inverted = [[0, 0], [1, 2]], [[0, 1], [1, 0]]
    got = treated("curves", grey(0.3), master=doubled, green=inverted)[0]
    assert got == pytest.approx([0.6, 0.4, 0.6], abs=1e-6)


def test_points_of_a_curve_rise() -> None:
    with pytest.raises(UmbraxError, match="rising x"):
        shot_of([card(STATION, treatments=[{"id": "t", "kind": "curves", "master": [[0.5, 0], [0.2, 1]]}])])


STOPS = [[0.0, [0.0, 0.1, 0.4], 1.0], [0.5, [0.5, 0.5, 0.5], 1.0], [1.0, [1.0, 0.8, 0.2], 1.0]]


def test_recolour_takes_the_colour_at_the_luma() -> None:
    colours = np.random.default_rng(2).uniform(0, 1, (50, 3))
    luma = colours @ LUMA
    wanted = np.stack([np.interp(luma, [0, 0.5, 1], [stop[1][c] for stop in STOPS]) for c in range(3)], axis=1)
    assert treated("recolour", colours, stops=STOPS) == pytest.approx(wanted, abs=2e-6)
    kept = treated("recolour", colours, stops=STOPS, keep_light=True)
    assert kept @ LUMA == pytest.approx(luma, abs=1e-5)
    assert kept / (kept @ LUMA)[:, None] == pytest.approx(wanted / (wanted @ LUMA)[:, None], rel=1e-4)
    assert treated("recolour", grey(40.0, -1.0), stops=STOPS) == pytest.approx(np.array([STOPS[2][1], STOPS[0][1]]), abs=1e-6)


def test_recolour_can_make_the_dark_transparent() -> None:
    stops = [[0.0, [1, 0, 0], 0.0], [1.0, [0, 0, 1], 1.0]]
    shot = shot_of([card(STATION, treatments=[{"id": "t", "kind": "recolour", "stops": stops}])])
    plain, got = make(shot_of([STATION]), scene()).pixels, make(shot, scene()).pixels
    a = plain[..., 3]
    luma = np.clip(plain[..., :3] @ LUMA / np.where(a > 0, a, 1), 0, 1)
    assert got[..., 3] == pytest.approx(a * luma, abs=2e-6)
    # associated: blue comes with alpha, and the red of the transparent end is never seen by itself
    assert got[..., 2] == pytest.approx(a * luma, abs=2e-6)
    assert got[..., 0].max() < 1e-6


def test_spill_by_hand() -> None:
    """Green 0.8 over the mean of 0.4 and 0.2: 0.5 too much; over the larger 0.4, over the smaller 0.6."""
    for limit, over in (("average", 0.5), ("larger", 0.4), ("smaller", 0.6)):
        got = treated("spill", [[0.4, 0.8, 0.2]], limit=limit, replace=[0.5, 0.0, 0.2])[0]
        assert got == pytest.approx([0.4 + 0.5 * over, 0.8 - over, 0.2 + 0.2 * over], abs=1e-6)
    assert treated("spill", [[0.9, 0.4, 0.2]], key="red")[0] == pytest.approx([0.3, 0.4, 0.2], abs=1e-6)
    assert treated("spill", [[0.1, 0.4, 0.9]], key="blue", amount=0.5)[0] == pytest.approx([0.1, 0.4, 0.25], abs=1e-6)


@given(st.floats(0, 50, width=32), st.sampled_from(["red", "green", "blue"]), st.sampled_from(["average", "larger", "smaller"]))
@settings(max_examples=30, deadline=None)
def test_spill_leaves_neutral_greys(value: float, key: str, limit: str) -> None:
    assert np.array_equal(treated("spill", grey(value), key=key, limit=limit, replace=[1, 1, 1])[0], np.float32([value] * 3))


@pytest.mark.parametrize("nothing", ["full", "none"])
def test_haze_by_hand(nothing: str) -> None:
    """1 - exp(-0.15 z) of the way to its colour; beyond what is there none or all of it, and no line at the rim."""
    colour = np.array([0.3, 0.5, 0.9])
    haze = {"id": "t", "kind": "haze", "density": 0.15, "colour": colour.tolist(), "nothing": nothing}
    plain, got = (make(shot_of([card(STATION, treatments=t)]), scene()).pixels for t in ([], [haze]))
    a = plain[..., 3:]
    x = np.arange(120)
    part = (1 - np.exp(-0.15 * (3 + 8 * x / 120)))[None, :, None]
    wanted = plain[..., :3] * (1 - part) + colour * a * part
    inside = a[..., 0] > 0
    # a rim has the depth of what is beside it: at most two pixels along the ramp away
    assert_near(got[..., :3][inside], wanted[inside], 0.012)
    assert_near(got[..., :3][a[..., 0] == 1], wanted[a[..., 0] == 1], 2e-5)
    assert np.array_equal(got[..., 3:], a)
    assert got[..., :3][~inside].max() == 0


def test_haze_wants_one_source() -> None:
    with pytest.raises(UmbraxError, match="haze"):
        shot_of([PLATE, {"id": "f", "treat": True, "treatments": [{"id": "t", "kind": "haze"}]}])
