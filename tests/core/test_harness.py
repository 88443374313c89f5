"""The harness: what holds for every registered treatment, join and matte kind, present and future.

A new entry falls under it by being registered; EXAMPLES gives settings at which it really does something.
"""

from typing import Any

import numpy as np
import pytest

from arrays import PLATE, STATION, ArrayReader, assert_near, card, cropped, lowered, make, patterned, scene, shot_of
from umbrax.core.colour import luma_of, srgb_from_linear
from umbrax.core.document.parameters import MatteRef
from umbrax.core.document.placing import Placing
from umbrax.core.document.shot import Shot
from umbrax.core.document.tiling import Tiling
from umbrax.core.kernels.resample import reduce_area
from umbrax.core.mattes import MATTES
from umbrax.core.picture import Picture, Window
from umbrax.core.pictures import PICTURES
from umbrax.core.plan import evaluate as evaluating
from umbrax.core.plan.cache import PictureCache
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.plan.steps import Step, nothing
from umbrax.core.plan.treatments import known_to
from umbrax.core.treatments import TREATMENTS

EXAMPLES: dict[str, dict[str, Any]] = {
    "grade": {"exposure": 0.7, "contrast": 1.3, "saturation": 1.4, "offset": [0.02, 0.0, 0.01]},
    "soften": {"size": 5.0, "aspect": 1.5},
    "bloom": {"threshold": 1.0, "size": 14.0, "amount": 0.6},
    "spikes": {"threshold": 0.8, "length": 30.0, "angle": 20.0, "spread": 0.5, "amount": 3.0},
    "reflections": {"threshold": 0.8, "size": 14.0, "count": 3, "spread": 0.8, "amount": 4.0},
    "halo": {"threshold": 0.8, "size": 16.0, "core": 0.4, "amount": 0.8},
    "sharpen": {"size": 2.0, "strength": 1.5},
    "cast": {"distance": 14.0, "angle": -30.0, "density": 0.8, "colour": [0.1, 0.0, 0.2]},
    "fringe": {"size": 3.0},
    "warp": {"k1": 0.08, "k2": -0.03},
    "motion_blur": {"shutter": 0.8},
    "outline": {"of": "ball", "width": 4.0, "start": 0.1, "end": 0.8, "colour": [2.0, 0.5, 0.1]},
    "defocus": {"focus": 6.0, "radius": 9.0, "rim": 0.5},
    "wrap": {"width": 12.0, "size": 8.0, "amount": 0.9},
    "bleed": {"width": 6.0, "size": 12.0, "gain": 2.0},
    "levels": {"black": 0.05, "white": [0.8, 0.9, 1.1], "gamma": 1.3, "out_white": 0.9},
    "tones": {"lift": [0.03, 0.0, -0.02], "gamma": [1.2, 1.0, 0.9], "gain": [1.1, 1.0, 1.3]},
    "curves": {"master": [[0, 0.02], [0.3, 0.4], [1, 0.95]], "red": [[0.0, 0.02], [0.5, 0.6], [0.9, 0.85]]},
    "recolour": {"stops": [[0.1, [0.1, 0.0, 0.2], 0.92], [0.6, [0.8, 0.5, 0.1], 1.0]]},
    "spill": {"key": "red", "limit": "smaller", "allow": 0.9, "replace": [0.1, 0.2, 0.1]},
    "haze": {"density": 0.15, "colour": [0.3, 0.5, 0.9]},
    "grain": {"size": 0.8, "strength": 0.15, "response": 0.5, "still": True},
    "vignette": {"strength": 0.8, "size": 0.2, "softness": 0.6, "aspect": 1.5},
    "smear": {"length": 30.0, "angle": 30.0, "fall": "exponential"},
    "edge": {"grow": -2.0, "feather": 4.0},
    "texture": {"source": "valley", "scale": 0.4, "turn": 20.0},
}
# lengths that are shorter than a pixel of a preview
SHORT: dict[str, list[dict[str, Any]]] = {
    "soften": [{"size": 0.8}, {"size": 3.0, "aspect": 0.5}],
    "bloom": [{"threshold": 0.6, "size": 2.0}],
    "sharpen": [{"size": 0.7}],
    "cast": [
        {"distance": 6.0, "softness": 0.1},
        {"distance": 3.0, "softness": 0.0},
        {"distance": 1.5, "softness": 0.3, "density": 1.0},
        {"lay_down": 1.0, "angle": 50.0, "length": 0.7, "softness": 0.05},
        {"lay_down": 0.5, "angle": -70.0, "length": 2.0, "softness": 0.2, "foot": [60, 71]},
    ],
    "fringe": [{"size": 1.0, "centre": [100, 300]}],
    "outline": [{"of": "ball", "width": 1.0, "dash": [9.0, 5.0]}, {"width": 3.0, "side": "outside", "form": "open", "softness": 0.5}],
    "defocus": [
        {"mode": "uniform", "radius": 1.5},
        {"mode": "lens", "focus": 5.0, "sensor_mm": 4.0, "blades": 5, "turn": 20.0, "squeeze": 0.7},
    ],
    "wrap": [{"width": 2.0, "size": 3.0}, {"width": 9.0, "size": 0.8}],
    "bleed": [{"width": 2.0, "size": 3.0}, {"rim": "diffuse", "size": 0.8, "gain": 0.7, "join": "overlay"}],
    "smear": [{"length": 3.0, "angle": 80.0}, {"length": 9.0, "angle": -20.0, "sides": "one"}],
    "edge": [{"grow": 0.7, "feather": 0.0}, {"grow": 3.0, "feather": 1.0}],
    "grain": [{"size": 0.0, "strength": 0.1}, {"size": 3.0, "strength": 0.1, "colour": 1.0}],
}
NEUTRAL: dict[str, dict[str, Any]] = {
    "grade": {},
    "soften": {"size": 0.0},
    "bloom": {"tint": [0.0, 0.0, 0.0]},
    "spikes": {"amount": 0.0},
    "reflections": {"amount": 0.0},
    "halo": {"colour": [0.0, 0.0, 0.0], "core": 0.0},
    "sharpen": {"strength": 0.0},
    "cast": {"density": 0.0},
    "fringe": {"size": 0.0},
    "warp": {"k1": 0.0},
    "motion_blur": {"shutter": 0.0},
    "outline": {"width": 0.0},
    "defocus": {"radius": 0.0},
    "wrap": {"width": 0.0},
    "bleed": {"gain": 0.0},
    "levels": {},
    "tones": {},
    "curves": {},
    "recolour": {"amount": 0.0},
    "spill": {"amount": 0.0},
    "haze": {"density": 0.0, "nothing": "none"},
    "grain": {"strength": 0.0},
    "vignette": {"strength": 0.0},
    "smear": {"length": 0.0},
    "edge": {},
    "texture": {},
}
MATTE_EXAMPLES: dict[str, dict[str, Any]] = {
    "id": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["ball"]},
    "combined": {"kind": "combined", "how": "except", "mattes": ["ball", "glass"]},
    "channel": {"kind": "channel", "source": "station", "pass": "diffuse", "channel": "luma", "black": 0.1, "white": 0.6},
    "depth": {"kind": "depth", "source": "station", "near": 4.0, "far": 9.0, "soft_near": 1.0, "soft_far": 3.0},
    "index": {"kind": "index", "source": "station", "numbers": [2]},
    "key": {"kind": "key", "source": "station", "pass": "rgba", "colour": [0.6, 0.5, 0.3], "tolerance": 0.05, "softness": 0.1},
    "alpha": {"kind": "alpha", "source": "station"},
    "shape": {"kind": "shape", "form": "curve", "points": [20.5, 15, 95, 22.25, 70, 80, 31, 64]},
}
PICTURE_EXAMPLES: dict[str, dict[str, Any]] = {
    "pass": {"kind": "pass", "source": "station", "pass": "beauty"},
    "rebuild": {"kind": "rebuild", "source": "station", "lights": {"diffuse": {"gain": 1.3}, "emission": {"gain": 0.5}}},
    "shadow": {"kind": "shadow", "source": "station"},
    "plate": {"kind": "plate", "source": "valley"},
    "solid": {"kind": "solid", "colour": [0.4, 0.2, 0.1], "alpha": 0.5},
    "bundle": {
        "kind": "bundle",
        "build": [{**PLATE, "id": "inner"}, {"id": "glow", "treat": True, "treatments": [{"id": "i1", "kind": "bloom"}]}],
    },
    "noise": {"kind": "noise", "size": 40.0, "octaves": 3, "low": 0.3, "high": 0.8},
    "texture": {"kind": "texture", "source": "valley", "scale": 0.4, "turn": 20.0, "move": [7, 3]},
    "text": {"kind": "text", "text": "Dome 4", "size": 24.0, "at": [10, 12], "box": {}, "leader": {"to": "ball"}},
    "gradient": {"kind": "gradient", "shape": "radial", "start": [60, 45], "end": [20, 30], "bands": 7},
}
REFINED = {"refine": {"grow": -1.5, "feather": 3.0}}
KINDS = TREATMENTS.kinds()
ON_ALL = [kind for kind in KINDS if not TREATMENTS.get(kind).elements_only]


def treated(kind: str, settings: dict[str, Any], *, on_treat_card: bool = False, **more: Any) -> Shot:
    treatment = {"id": "t1", "kind": kind, **settings, **more}
    if on_treat_card:
        return shot_of([PLATE, STATION, {"id": "finish", "treat": True, "treatments": [treatment]}])
    return shot_of([PLATE, card(STATION, treatments=[treatment])])


def of_size(shot: Shot, height: int, width: int) -> Shot:
    return shot.model_copy(update={"format": shot.format.model_copy(update={"width": width, "height": height})})


def shown(kind: str) -> Shot:
    return shot_of([PLATE, {"id": "front", "picture": PICTURE_EXAMPLES[kind], "opacity": 0.8}])


def joined(kind: str, **more: Any) -> Shot:
    return shot_of([PLATE, card(STATION, join=kind, **{"opacity": 0.9, **more})])


# one of each way a join is made; what holds for the loops of all of them is asked of the loops themselves
THROUGH_THE_ENGINE = ("over", "in", "plus", "multiply", "screen", "overlay", "divide", "hue", "min")
SHOTS = (
    [pytest.param(treated(kind, EXAMPLES[kind]), id=kind) for kind in KINDS]
    + [pytest.param(treated(kind, EXAMPLES[kind], on_treat_card=True), id=f"{kind} of all") for kind in ON_ALL]
    + [pytest.param(joined(kind), id=f"join {kind}") for kind in THROUGH_THE_ENGINE]
    + [pytest.param(shown(kind), id=f"picture {kind}") for kind in PICTURE_EXAMPLES]
)


PREVIEWS = (2, 4, 8)


def test_everything_registered_has_an_example() -> None:
    assert set(EXAMPLES) == set(NEUTRAL) == set(KINDS)
    assert set(PICTURE_EXAMPLES) == set(PICTURES.kinds())
    assert set(MATTE_EXAMPLES) == set(MATTES.kinds())


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("settings", [{"enabled": False}, {"amount": 0.0}, None])
def test_neutral_settings_give_the_input_bit_for_bit(kind: str, settings: dict[str, Any] | None) -> None:
    changed = NEUTRAL[kind] if settings is None else {**EXAMPLES[kind], **settings}
    plain = make(shot_of([PLATE, STATION]), scene()).pixels
    assert np.array_equal(make(treated(kind, changed), scene()).pixels, plain)
    if kind in ON_ALL:
        assert np.array_equal(make(treated(kind, changed, on_treat_card=True), scene()).pixels, plain)


@pytest.mark.parametrize("kind", KINDS)
def test_the_example_does_something(kind: str) -> None:
    plain = make(shot_of([PLATE, STATION]), scene()).pixels
    assert np.abs(make(treated(kind, EXAMPLES[kind]), scene()).pixels - plain).max() > 0.01


@pytest.mark.parametrize("n", [1, 2, 4, 8])
@pytest.mark.parametrize("shot", SHOTS)
def test_a_window_equals_the_whole_bit_for_bit(shot: Shot, n: int) -> None:
    whole = make(shot, scene(), scale=n)
    for window in (Window(37, 21, 64, 50), Window(0, 0, 9, 90), Window(100, 80, 120, 90), Window(59, 44, 60, 45)):
        small = window.scaled(n)
        assert np.array_equal(make(shot, scene(), window=small, scale=n).pixels, whole.crop(small).pixels)


@pytest.mark.parametrize("n", [1, 2, 4])
@pytest.mark.parametrize(
    ("placing", "rows"), [({}, 1), ({}, 40), ({"scale": [0.7, 0.7], "turn": 20.0, "move": [9.5, 4]}, 1)], ids=["here", "cut off", "placed"]
)
@pytest.mark.parametrize("shot", SHOTS)
def test_a_file_that_holds_only_where_something_stands_gives_the_same(shot: Shot, placing: dict[str, Any], rows: int, n: int) -> None:
    """Renderers write as much as is not empty (OpenEXR's data window), or all of the frame: nothing is cut off but by the frame."""
    cards = tuple(one.model_copy(update={"placing": Placing(**placing)}) if one.id == "station" else one for one in shot.build)
    shot = of_size(shot.model_copy(update={"build": cards}), 88, 120)
    whole = make(shot, lowered(scene(88, 120), rows), scale=n).pixels
    ends = make(shot, cropped(lowered(scene(88, 120), rows), "rgba", "diffuse", "emission", "motion", "depth"), scale=n).pixels
    assert_near(ends, whole, 2e-5, relative=2e-5)


@pytest.mark.parametrize("kind", [kind for kind in ON_ALL if "through" in TREATMENTS.get(kind).params.model_fields])
@pytest.mark.parametrize("amount", [1.0, 0.4])
def test_through_mixes_by_the_matte_and_the_amount(kind: str, amount: float) -> None:
    """input + (treated - input) clamp(amount x matte), whether or not the treatment mixes in its own pass."""
    plain, full = make(shot_of([PLATE, STATION]), scene()).pixels, make(treated(kind, EXAMPLES[kind], on_treat_card=True), scene()).pixels
    shot = treated(kind, EXAMPLES[kind], on_treat_card=True, through="ball", amount=amount)
    planner, window = ShotPlanner(shot, 1, scene()), Window(0, 0, 120, 90)
    weight = amount * evaluate(planner.coverage(MatteRef(matte="ball"), 1), window, PictureCache(1 << 28)).pixels
    got = make(shot, scene()).pixels
    assert_near(got, plain + (full - plain) * weight, 2e-6)
    assert np.array_equal(got[weight[..., 0] == 0], plain[weight[..., 0] == 0])
    if amount == 1:
        assert np.array_equal(got[weight[..., 0] == 1], full[weight[..., 0] == 1])


def view_difference(small: Picture, whole: Picture, n: int) -> np.ndarray:
    """How far a preview is from the reduced final picture, in view values; the frame's last pixels count for what is missing."""
    grown = Picture(whole.pixels, whole.window, "extend").crop(small.window.magnified(n))
    reduced = reduce_area(np.ascontiguousarray(grown.pixels), n)
    assert_near(small.pixels[..., 3], reduced[..., 3], 0.02)
    inside = [srgb_from_linear(np.clip(p[..., :3], 0, 1)) for p in (small.pixels, reduced)]
    return np.abs(inside[0] - inside[1])


def assert_within(difference: np.ndarray, tolerance: tuple[float, float]) -> None:
    assert difference.mean() <= tolerance[0]
    assert np.percentile(difference, 99) <= tolerance[1]


def assert_border_within(difference: np.ndarray, most: float) -> None:
    """The last row and column, whose blocks hang over the frame's edge; how much each pixel there counts is not laid down."""
    for border in (difference[-1], difference[:, -1]):
        assert border.mean() <= most


@pytest.mark.parametrize("kind", KINDS)
def test_previews_agree_with_the_final_at_every_scale(kind: str) -> None:
    """Odd sizes, hard edges, and lengths both longer and shorter than a pixel of the preview."""
    reader = patterned(285, 387)
    larger = {"bloom": {"threshold": 0.6, "size": 60.0, "amount": 0.6}, "soften": {"size": 20.0}}.get(kind, {})
    for example in (EXAMPLES[kind], EXAMPLES[kind] | larger, *SHORT.get(kind, [])):
        treatments = [{"id": "t1", "kind": kind, **example}]
        builds = [[PLATE, card(STATION, treatments=treatments)]]
        builds += [[PLATE, STATION, {"id": "f", "treat": True, "treatments": treatments}]] if kind in ON_ALL else []
        for build in builds:
            shot = shot_of(build, width=387, height=285)
            final = make(shot, reader)
            for n in PREVIEWS:
                difference = view_difference(make(shot, reader, scale=n), final, n)
                assert_within(difference[:-1, :-1], TREATMENTS.get(kind).tolerance)
                # of light that spreads, such a block holds what there is: what is spread no farther than a pixel is thinner there
                thins = TREATMENTS.get(kind).stage == "light" or kind == "grain"
                assert_border_within(difference, 2 * TREATMENTS.get(kind).tolerance[1] if thins else 4 / 255)


@pytest.mark.parametrize("n", PREVIEWS)
@pytest.mark.parametrize("more", [{}, {"opacity": 0.5}, {"join": "multiply"}])
@pytest.mark.parametrize(("kind", "settings"), [(kind, settings) for kind in ("wrap", "bleed", "cast") for settings in SHORT[kind]])
def test_a_preview_is_laid_on_as_much_as_the_final_however_narrow_it_is(
    kind: str, settings: dict[str, Any], more: dict[str, Any], n: int
) -> None:
    """Laid inside of an alpha, or hidden by it: a preview's pixel at the edge has a part of both, which is not the mean of one times that of
    the other."""
    station = card(STATION, **more)

    def laid_on(n: int) -> float:
        shots = (
            of_size(shot_of([PLATE, one]), 176, 240) for one in (card(station, treatments=[{"id": "t1", "kind": kind, **settings}]), station)
        )
        treated_one, plain = (make(shot, scene(176, 240), scale=n).pixels[..., :3].sum(dtype=np.float64) for shot in shots)
        return float(treated_one - plain) * n * n

    assert laid_on(n) == pytest.approx(laid_on(1), rel=0.03)


@pytest.mark.parametrize("shot", SHOTS[len(KINDS) + len(ON_ALL) :])
def test_joins_and_pictures_agree_with_the_final_at_every_scale(shot: Shot) -> None:
    reader, shot = patterned(483, 645), of_size(shot, 483, 645)
    final = make(shot, reader)
    for n in PREVIEWS:
        difference = view_difference(make(shot, reader, scale=n), final, n)
        # of two pictures it takes the smaller pixel by pixel, alpha included: at an edge that is no mean of them
        assert_within(difference[:-1, :-1], (1 / 255, (5 if "min" in {one.join for one in shot.build} else 4) / 255))
        assert_border_within(difference, 4 / 255)


@pytest.mark.parametrize("n", [2, 4, 8])
@pytest.mark.parametrize("extra", [{}, REFINED, {"refine": {"invert": True}}])
@pytest.mark.parametrize("kind", MATTES.kinds())
def test_mattes_at_a_scale_are_the_reduced_full_matte(kind: str, extra: dict[str, Any], n: int) -> None:
    shot = shot_of([PLATE], mattes={"m": MATTE_EXAMPLES[kind] | extra}, width=120, height=88)
    planner, cache = ShotPlanner(shot, 1, scene(88, 120)), PictureCache(1 << 28)
    whole = evaluate(planner.coverage(MatteRef(matte="m"), 1), Window(0, 0, 120, 88), cache)
    small = evaluate(planner.coverage(MatteRef(matte="m"), n), Window(0, 0, 120 // n, 88 // n), cache)
    assert_near(small.pixels, reduce_area(whole.pixels, n), 1 / 255)


INVERTED = {"refine": {"invert": True}}
COMBINED = [
    {"kind": "combined", "how": how, "mattes": [{"matte": "near", "invert": True}, {"matte": "outer"}]}
    for how in ("all_of", "any_of", "except", "one_of", "product")
]  # fmt: skip
PULLED = [example for kind, example in MATTE_EXAMPLES.items() if kind != "shape"] + COMBINED


@pytest.mark.parametrize("n", [1, 2])
@pytest.mark.parametrize("placed", [False, True])
@pytest.mark.parametrize("extra", [{}, REFINED, INVERTED])
@pytest.mark.parametrize("example", PULLED, ids=lambda example: f"{example['kind']} {example.get('how', '')}")
def test_mattes_of_a_file_that_holds_only_where_something_stands_are_the_same(
    example: dict[str, Any], extra: dict[str, Any], placed: bool, n: int
) -> None:
    """And where a placed one ends there is nothing of what it is pulled from: an inverted one is all of what lies beyond."""
    parts = {"near": MATTE_EXAMPLES["depth"], "outer": MATTE_EXAMPLES["alpha"] | INVERTED}
    station = card(STATION, placing={"scale": [0.7, 0.7], "turn": 20.0, "move": [9.5, 4]} if placed else {})
    treatment = {"id": "t1", "kind": "grade", "exposure": 1.0, "through": "m"}
    finish = {"id": "finish", "treat": True, "treatments": [treatment]}
    shot = shot_of([PLATE, station, finish], mattes={"m": example | extra, **parts}, width=120, height=88)
    whole = make(shot, scene(88, 120), scale=n).pixels
    ends = make(shot, cropped(scene(88, 120), "rgba", "diffuse", "emission", "depth", "object_index"), scale=n).pixels
    assert_near(ends, whole, 2e-5)


@pytest.mark.parametrize("extra", [{}, REFINED])
@pytest.mark.parametrize("kind", MATTES.kinds())
def test_mattes_in_a_window_equal_the_whole(kind: str, extra: dict[str, Any]) -> None:
    shot = shot_of([PLATE], mattes={"m": MATTE_EXAMPLES[kind] | extra})
    step = ShotPlanner(shot, 1, scene()).coverage(MatteRef(matte="m"), 1)
    whole = evaluate(step, Window(0, 0, 120, 90), PictureCache(1 << 28))
    part = evaluate(step, Window(31, 20, 77, 51), PictureCache(1 << 28))
    assert np.array_equal(part.pixels, whole.crop(part.window).pixels)


def wild(height: int = 40, width: int = 50) -> ArrayReader:
    """Light from -50 to 1e4."""
    reader = scene(height, width)
    rng = np.random.default_rng(0)
    for name in ("rgba", "diffuse", "emission"):
        kind, pixels = reader.sources["station"].passes[name]
        noisy = pixels.copy()
        noisy[..., :3] = rng.choice(np.array([-50, -0.1, 0, 0.5, 40, 1e4], np.float32), noisy[..., :3].shape)
        reader.sources["station"].passes[name] = (kind, noisy)
    return reader


@pytest.mark.parametrize("shot", SHOTS)
def test_wild_values_give_no_nan_and_leave_alpha_in_range(shot: Shot) -> None:
    out = make(of_size(shot, 40, 50), wild()).pixels
    assert np.isfinite(out).all()
    assert out[..., 3].min() >= -1e-6
    assert out[..., 3].max() <= 1 + 1e-5


@pytest.mark.parametrize(("height", "width"), [(1, 1), (1, 7), (7, 1), (13, 17)])
@pytest.mark.parametrize("shot", SHOTS)
def test_tiny_and_odd_frames_at_every_scale(shot: Shot, height: int, width: int) -> None:
    for n in (1, 2, 4, 8):
        out = make(of_size(shot, height, width), scene(height, width), scale=n)
        assert out.window == Window(0, 0, width, height).scaled(n)
        assert np.isfinite(out.pixels).all()


@pytest.mark.parametrize("shot", SHOTS)
def test_an_empty_window_gives_an_empty_picture(shot: Shot) -> None:
    assert make(shot, scene(), window=Window(10, 10, 10, 30)).pixels.shape == (20, 0, 4)


def animated_names(kind: str) -> list[str]:
    fields = TREATMENTS.get(kind).params.model_fields
    return [name for name, field in fields.items() if field.annotation is float and field.metadata != [] and name in EXAMPLES[kind]]


@pytest.mark.parametrize("kind", KINDS)
def test_a_keyed_number_equals_the_plain_one_at_its_frame(kind: str) -> None:
    names = animated_names(kind)
    assert names or kind in ("levels", "tones", "recolour", "curves"), "every example animates at least one number, or has none by itself"
    for name in names:
        value = EXAMPLES[kind][name]
        keyed = {**EXAMPLES[kind], name: {"keys": [[1, value, "linear"], [9, value / 2, "linear"]]}}
        half = {**EXAMPLES[kind], name: value * 0.75}
        assert np.array_equal(make(treated(kind, keyed), scene(), frame=1).pixels, make(treated(kind, EXAMPLES[kind]), scene()).pixels)
        assert np.array_equal(make(treated(kind, keyed), scene(), frame=5).pixels, make(treated(kind, half), scene()).pixels)


@pytest.fixture
def unchanged(monkeypatch: pytest.MonkeyPatch) -> None:
    """Every step is looked at while it runs: the pictures it is given are the same afterwards, bit for bit."""
    computed = evaluating._computed

    def checked(node: Step, window: Window, inputs: tuple[Picture, ...], watch: Any) -> Picture:
        before = [picture.pixels.copy() for picture in inputs]
        result = computed(node, window, inputs, watch)
        for picture, kept in zip(inputs, before, strict=True):
            assert np.array_equal(picture.pixels, kept, equal_nan=True), f"{node.what} changed what it was given"
        return result

    monkeypatch.setattr(evaluating, "_computed", checked)


@pytest.mark.parametrize("n", [1, 4])
@pytest.mark.parametrize("shot", SHOTS)
@pytest.mark.usefixtures("unchanged")
def test_nothing_changes_what_it_is_given(shot: Shot, n: int) -> None:
    """In the whole frame and inside it, where a step is given a view of what others use as well."""
    cache, reader = PictureCache(1 << 28), scene()
    for window in (shot.format.display, Window(37, 21, 64, 50)):
        make(shot, reader, window=window.scaled(n), scale=n, cache=cache)


@pytest.mark.parametrize("extra", [{}, REFINED, {"refine": {"black": 0.1, "gamma": 1.4, "invert": True}}])
@pytest.mark.parametrize("kind", MATTES.kinds())
@pytest.mark.usefixtures("unchanged")
def test_no_matte_changes_what_it_is_pulled_from(kind: str, extra: dict[str, Any]) -> None:
    shot, cache = shot_of([PLATE], mattes={"m": MATTE_EXAMPLES[kind] | extra}), PictureCache(1 << 28)
    for scale, window in ((1, Window(0, 0, 120, 90)), (4, Window(9, 5, 16, 12))):
        evaluate(ShotPlanner(shot, 1, scene()).coverage(MatteRef(matte="m"), scale), window, cache)


class Everything:
    """Whatever a treatment asks for, there is something."""

    frame = 1
    display = Window(0, 0, 120, 90)
    luma = luma_of("lin_ap1")

    def below(self) -> Step:
        return nothing(4)

    def shown(self) -> Step:
        return nothing(4)

    def at_full_size(self) -> "Everything":
        return self

    def alpha(self) -> Step:
        return nothing(1)

    def of_pass(self, wanted: str) -> Step:
        return nothing(4)

    def depth(self, wanted: str) -> Step:
        return nothing(1)

    def depth_told_apart(self, wanted: str) -> Step:
        return nothing(2)

    def turn(self) -> tuple[float, float, float, float]:
        return 1.0, 0.0, 0.0, 1.0

    def tiled(self, source: str, how: Tiling) -> Step:
        return nothing(4)

    def matte(self, reference: MatteRef) -> Step:
        return nothing(1)


@pytest.mark.parametrize("kind", KINDS)
def test_a_treatment_works_on_pictures_that_cannot_be_written(kind: str) -> None:
    treatment = TREATMENTS.get(kind)
    params = treatment.params.model_validate({"id": "t", "kind": kind, **EXAMPLES[kind]})
    window = Window(20, 10, 50, 40)
    pixels = np.random.default_rng(3).random((90, 120, 3 if treatment.stage == "light" else 4)).astype(np.float32)
    pixels.flags.writeable = False
    whole = Window(0, 0, 120, 90)
    steps = treatment.looks(params, Everything())
    looked_at = {name: Picture(np.broadcast_to(np.float32(0.5), (90, 120, step.channels)), whole) for name, step in steps.items()}
    treatment.apply(params, Picture(pixels, Window(0, 0, 120, 90)), window, 1, **looked_at, **known_to(treatment, params, Everything()))
    if treatment.mixed is not None:
        treatment.mixed(params, Picture(pixels, Window(0, 0, 120, 90)).crop(window), None, window, 1)


@pytest.mark.parametrize("display", [None, Window(0, 0, 120, 90)])
def test_levels_turned_over_are_full_where_the_render_ends(display: Window | None) -> None:
    """(0 - 1) / (0 - 1) = 1 outside the pass's window too, at every scale."""
    reader = scene(64, 80)
    reader.sources["station"].display = display
    turned = {"black": 1.0, "white": 0.0}
    for refine, expected in ((turned, 1.0), ({"black": -0.5, "white": 0.5}, 0.5), (turned | {"invert": True}, 0.0)):
        shot = shot_of([PLATE], mattes={"m": MATTE_EXAMPLES["id"] | {"refine": refine}})
        planner = ShotPlanner(shot, 1, reader)
        for n in (1, 2, 4, 8):
            got = evaluate(planner.coverage(MatteRef(matte="m"), n), shot.format.display.scaled(n), PictureCache(1 << 26)).pixels
            assert got[-1] == pytest.approx(expected)
            assert got[:, -1] == pytest.approx(expected)
