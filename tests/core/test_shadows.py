"""Shadow cards: darkness laid over, or multiplied by colour; treated as the pass they are, white where light falls."""

from typing import Any

import numpy as np
import pytest
from scipy import ndimage

from arrays import PLATE, ArrayReader, assert_near, card, make, scene, shot_of

SHADOW = {"id": "shadow", "picture": {"kind": "shadow", "source": "station"}}
NOTHING = np.zeros((90, 120, 4), np.float32)


def bare(shadow: np.ndarray | None = None) -> ArrayReader:
    """The small scene with nothing that hides the catcher, and another shadow."""
    reader = scene()
    reader.sources["station"].passes["rgba"] = ("beauty", NOTHING)
    if shadow is not None:
        reader.sources["station"].passes["shadow"] = ("shadow", shadow)
    return reader


def falling(colours: int = 1) -> np.ndarray:
    """A shadow with soft and hard parts, each colour its own."""
    value = ndimage.gaussian_filter(np.random.default_rng(5).random((90, 120, colours)), (4, 4, 0))
    return ((value - value.min()) / (value.max() - value.min())).astype(np.float32)


def plate(reader: ArrayReader) -> np.ndarray:
    return make(shot_of([PLATE]), reader).pixels[..., :3].astype(np.float64)


def test_a_shadow_over_an_opaque_plate_equals_multiplying_it() -> None:
    reader = scene()
    nothing_hides_the_catcher = np.zeros((90, 120, 4), np.float32)
    reader.sources["station"].passes["rgba"] = ("beauty", nothing_hides_the_catcher)
    shadow = {"id": "shadow", "picture": {"kind": "shadow", "source": "station"}}
    raw = {"id": "raw", "picture": {"kind": "pass", "source": "station", "pass": "shadow"}, "join": "multiply"}
    laid = make(shot_of([PLATE, shadow]), reader).pixels
    multiplied = make(shot_of([PLATE, raw]), reader).pixels
    assert_near(laid, multiplied, 1e-6, relative=1e-5)


def test_levels_softness_and_opacity_are_those_of_the_pass_multiplied() -> None:
    """v' = ((v - black) / (white - black))^(1/gamma), blurred, and of that 70 %: by hand in double precision, the blur by SciPy."""
    value = falling()
    reader = bare(value)
    treatments = [{"id": "t1", "kind": "levels", "black": 0.1, "white": 0.8, "gamma": 1.4}, {"id": "t2", "kind": "soften", "size": 3.0}]
    out = make(shot_of([PLATE, card(SHADOW, treatments=treatments, opacity=0.7)]), reader).pixels
    levelled = np.clip((value[..., 0].astype(np.float64) - 0.1) / 0.7, 0, None) ** (1 / 1.4)
    darkness = ndimage.gaussian_filter(1 - np.clip(levelled, 0, 1), 3.0, mode="constant")
    expected = plate(reader) * (1 - 0.7 * darkness)[..., None]
    assert_near(out[..., :3], expected, 1.5e-3 * expected.max())
    assert np.abs(expected - plate(reader)).max() > 0.1, "the shadow shows"


@pytest.mark.parametrize("tint", [[0.0, 0.0, 0.0], [0.1, 0.2, 0.5]])
def test_by_multiply_each_colour_is_darkened_by_itself_and_the_tint_stays(tint: list[float]) -> None:
    """below x (1 - opacity (1 - v) (1 - tint)), the W3C's multiply of what the shadow lets through."""
    value = falling(3)
    reader = bare(value)
    picture = {"kind": "shadow", "source": "station", "tint": tint}
    out = make(shot_of([PLATE, {"id": "s", "picture": picture, "join": "multiply", "opacity": 0.6}]), reader).pixels
    assert_near(out[..., :3], plate(reader) * (1 - 0.6 * (1 - value) * (1 - np.array(tint))), 1e-6, relative=1e-5)
    assert out[..., 3] == pytest.approx(1.0)


def test_over_a_tinted_shadow_covers_with_its_tint_and_a_coloured_pass_counts_by_its_mean() -> None:
    value = falling(3)
    reader = bare(value)
    picture = {"kind": "shadow", "source": "station", "tint": [0.02, 0.03, 0.08]}
    out = make(shot_of([PLATE, {"id": "s", "picture": picture}]), reader).pixels
    darkness = 1 - value.mean(axis=2, keepdims=True, dtype=np.float64)
    assert_near(out[..., :3], plate(reader) * (1 - darkness) + np.array([0.02, 0.03, 0.08]) * darkness, 1e-5)


@pytest.mark.parametrize("treatments", [[], [{"id": "t1", "kind": "levels", "black": 0.2}], [{"id": "t2", "kind": "soften", "size": 5.0}]])
def test_over_nothing_it_is_its_darkness_and_no_white_rectangle(treatments: list[dict[str, Any]]) -> None:
    value = np.ones((90, 120, 1), np.float32)
    value[30:60, 40:80] = 0.3
    out = make(shot_of([card(SHADOW, treatments=treatments)]), bare(value)).pixels
    assert not out[..., :3].any()
    assert out[:8].max() < 1e-4, "nothing where light falls, up to the border"
    assert out[45, 60, 3] == pytest.approx(0.875 if treatments and treatments[0]["kind"] == "levels" else 0.7, abs=0.01)


def test_a_cut_takes_of_the_darkness_what_the_matte_covers() -> None:
    value = falling()
    matte = {"half": {"kind": "shape", "points": [0, 0, 60, 0, 60, 90, 0, 90]}}
    out = make(shot_of([card(SHADOW, cut=["half"])], mattes=matte), bare(value)).pixels
    assert out[:, :60, 3] == pytest.approx(1 - value[:, :60, 0], abs=1e-6)
    assert not out[:, 60:].any()


def test_grading_the_plate_leaves_the_density_of_the_shadow_as_it_is() -> None:
    reader = bare(falling())
    shaded, lit = (make(shot_of(build), reader).pixels for build in ([PLATE, SHADOW], [PLATE]))
    graded = card(PLATE, treatments=[{"id": "t9", "kind": "grade", "exposure": 1.5, "slope": [1.2, 0.9, 1.0]}])
    after, before = (make(shot_of(build), reader).pixels for build in ([graded, SHADOW], [graded]))
    assert_near(after[..., :3] / before[..., :3], shaded[..., :3] / lit[..., :3], relative=1e-4)


def test_the_elements_own_shading_is_dropped_from_the_shadow() -> None:
    reader = scene()
    kind, _ = reader.sources["station"].passes["shadow"]
    alpha = reader.sources["station"].passes["rgba"][1][..., 3:]
    reader.sources["station"].passes["shadow"] = (kind, np.where(alpha > 0, 0, np.float32(0.9)))  # black on the element
    out = make(shot_of([{"id": "s", "picture": {"kind": "shadow", "source": "station"}}]), reader).pixels
    assert out[..., 3] == pytest.approx(0.1, abs=0.01), "only the catcher's value is left, under the element too"
