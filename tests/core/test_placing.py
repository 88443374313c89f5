"""Cards that stand somewhere: whole pixels exactly, the rest as reference libraries do it, and all that follows."""

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
import scipy.ndimage
from hypothesis import given, settings
from hypothesis import strategies as st

from arrays import PLATE, STATION, ArrayReader, assert_near, card, disc, make, scene, shot_of
from umbrax.core.document.parameters import MatteRef
from umbrax.core.document.placing import Placing
from umbrax.core.document.timing import at_frame
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Picture, Window
from umbrax.core.plan.cache import PictureCache
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.placed import placed, resampled
from umbrax.core.plan.placement import Placement
from umbrax.core.plan.places import placement_of
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.plan.steps import Step, content_key

SIZE = (60, 80)
FRAME = Window(0, 0, SIZE[1], SIZE[0])
FILTERS = ("bilinear", "cubic", "lanczos")


def still(pixels: np.ndarray, window: Window = FRAME, edge: Any = "empty") -> Step:
    def run(wanted: Window, _: tuple[Picture, ...]) -> Picture:
        return Picture(pixels, window, edge).crop(wanted)

    key = content_key("still", float(pixels.sum()), ())
    return Step(key, "still", window, pixels.shape[2], (), lambda _: (), run, edge)


def smooth(seed: int = 1, channels: int = 4) -> np.ndarray:
    """Something that fades out well within the frame and has no detail finer than a few pixels."""
    noise = np.random.default_rng(seed).random((*SIZE, channels))
    y, x = np.mgrid[: SIZE[0], : SIZE[1]]
    fade = np.clip(1.2 - np.hypot((y - 29.5) / 20, (x - 39.5) / 26) ** 2, 0, 1)[..., None]
    soft = scipy.ndimage.gaussian_filter(noise * fade, (2.5, 2.5, 0)) * fade
    return (soft / soft.max()).astype(np.float32)


def at(
    placing: dict[str, Any], pixels: np.ndarray, window: Window = FRAME, *, scale: int = 1, edge: Any = "empty", way: Any = None
) -> np.ndarray:
    way = way or placement_of(at_frame(Placing.model_validate(placing), 1), FRAME)
    step = placed(still(pixels, edge=edge), way, 1, scale, FRAME.scaled(scale), ShotPlanner(shot_of([]), 1, scene()).where)
    return evaluate(step, window, PictureCache(1 << 28)).pixels


@pytest.mark.parametrize("filter_", FILTERS)
@pytest.mark.parametrize("move", [(3, -7), (-20, 0), (0.0, 11)])
def test_whole_pixels_are_moved_bit_for_bit(move: tuple[float, float], filter_: str) -> None:
    pixels = np.random.default_rng(2).normal(size=(*SIZE, 4)).astype(np.float32)
    wanted = Picture(pixels, FRAME).crop(Window(-int(move[0]), -int(move[1]), SIZE[1] - int(move[0]), SIZE[0] - int(move[1]))).pixels
    assert np.array_equal(at({"move": move, "filter": filter_}, pixels), wanted)


@pytest.mark.parametrize("turns", [1, 2, 3, 5, -1])
def test_quarter_and_half_turns_are_bit_for_bit_and_counter_clockwise(turns: int) -> None:
    pixels = np.random.default_rng(2).normal(size=(40, 40, 4)).astype(np.float32)
    way = placement_of(Placing.model_validate({"turn": 90 * turns, "about": (20, 20)}), FRAME)
    step = placed(still(pixels, Window(0, 0, 40, 40)), way, 1, 1, FRAME, ShotPlanner(shot_of([]), 1, scene()).where)
    got = evaluate(step, Window(0, 0, 40, 40), PictureCache(1 << 28)).pixels
    assert np.array_equal(got, np.rot90(pixels, turns))
    part = evaluate(step, Window(7, 3, 21, 30), PictureCache(1 << 28)).pixels
    assert np.array_equal(part, got[3:30, 7:21])


def test_mirrored_is_bit_for_bit() -> None:
    pixels = np.random.default_rng(2).normal(size=(*SIZE, 4)).astype(np.float32)
    assert np.array_equal(at({"scale": [-1, 1]}, pixels), pixels[:, ::-1])
    assert np.array_equal(at({"turn": 180}, pixels), pixels[::-1, ::-1])


@settings(max_examples=12, deadline=None)
@given(right=st.floats(-9, 9, width=32), down=st.floats(-9, 9, width=32))
def test_a_part_of_a_pixel_is_scipys_shift(right: float, down: float) -> None:
    """scipy.ndimage.shift, order 1, constant 0 outside. Cubic and Lanczos agree with order 5 on what they can carry."""
    pixels = smooth()
    linear = scipy.ndimage.shift(pixels.astype(np.float64), (down, right, 0), order=1, mode="grid-constant", cval=0)
    assert_near(at({"move": (right, down), "filter": "bilinear"}, pixels), linear, 2e-6)
    fine = scipy.ndimage.shift(pixels.astype(np.float64), (down, right, 0), order=5, mode="grid-constant", cval=0)
    assert_near(at({"move": (right, down), "filter": "cubic"}, pixels), fine, 0.006)
    assert_near(at({"move": (right, down), "filter": "lanczos"}, pixels), fine, 0.003)


@pytest.mark.parametrize("filter_", FILTERS)
@pytest.mark.parametrize(("turn", "scale"), [(17.0, 1.0), (-133.0, 1.3), (45.0, [1.2, 2.0]), (0.0, 1.7)])
def test_turned_and_enlarged_is_scipys_affine_transform(turn: float, scale: Any, filter_: str) -> None:
    """scipy.ndimage.affine_transform with the inverse matrix about the middle; pixel centres count from 0 there."""
    pixels = smooth()
    s = np.diag([scale, scale] if isinstance(scale, float) else scale)
    cos, sin = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    forward = np.array([[cos, sin], [-sin, cos]]) @ s  # x right, y down, counter-clockwise on the screen
    back = np.linalg.inv(forward)[::-1, ::-1]  # of (y, x)
    middle = np.array([SIZE[0] / 2 - 0.5, SIZE[1] / 2 - 0.5])
    order = 1 if filter_ == "bilinear" else 5
    wanted = np.stack([
        scipy.ndimage.affine_transform(pixels[..., c].astype(np.float64), back, middle - back @ middle, order=order, mode="grid-constant")
        for c in range(4)
    ], axis=2)  # fmt: skip
    assert_near(at({"turn": turn, "scale": scale, "filter": filter_}, pixels), wanted, {"bilinear": 2e-6}.get(filter_, 0.008))


@pytest.mark.parametrize(("turn", "scale"), [(17.0, 1.0), (-133.0, 1.3), (31.0, 0.4), (5.0, 1.73)])
def test_data_is_taken_from_the_pixel_it_falls_in(turn: float, scale: float) -> None:
    """scipy.ndimage.affine_transform of order 0, with nothing made of two values; no mean where it gets smaller."""
    depth = np.random.default_rng(8).choice([3.0, 40.0, 1e10], size=(*SIZE, 1)).astype(np.float32)
    way = placement_of(at_frame(Placing.model_validate({"turn": turn, "scale": scale}), 1), FRAME)
    got = at({}, depth, way=replace(way, filter="nearest"))[..., 0]
    cos, sin = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    back = np.linalg.inv(scale * np.array([[cos, sin], [-sin, cos]]))[::-1, ::-1]
    middle = np.array([SIZE[0] / 2 - 0.5, SIZE[1] / 2 - 0.5])
    wanted = scipy.ndimage.affine_transform(depth[..., 0], back, middle - back @ middle, order=0, mode="grid-constant")
    assert np.array_equal(got, wanted)


@pytest.mark.parametrize("scale", [0.5, 0.37, [0.8, 0.21], 0.05])
@pytest.mark.parametrize("turn", [0.0, 90.0, 31.0])
def test_what_gets_smaller_keeps_its_light(scale: Any, turn: float) -> None:
    pixels = smooth()
    lamp = np.zeros((*SIZE, 4), np.float32)
    lamp[30, 41] = (900, 500, 200, 1)
    factor = scale * scale if isinstance(scale, float) else scale[0] * scale[1]
    placing = {"scale": scale, "turn": turn, "move": (0.3, -0.7)}
    for picture in (pixels, lamp):
        got = at(placing, picture).sum(axis=(0, 1))
        assert got == pytest.approx(picture.sum(axis=(0, 1)) * factor, rel=1e-5)


def test_halved_is_the_mean_of_four_pixels() -> None:
    pixels = np.random.default_rng(4).random((*SIZE, 4)).astype(np.float32)
    got = at({"scale": 0.5, "about": (0, 0)}, pixels)[:30, :40]
    assert got == pytest.approx(pixels.reshape(30, 2, 40, 2, 4).mean(axis=(1, 3)), abs=1e-6)


@pytest.mark.parametrize("filter_", FILTERS)
@pytest.mark.parametrize("placing", [{"move": (0.5, 0.3)}, {"turn": 23}, {"scale": 2.7, "turn": 5}, {"scale": 0.6}])
def test_no_fringe_over_the_same_colour(placing: dict[str, Any], filter_: str) -> None:
    """A disc of a colour over that colour is nothing but that colour, whatever the filter does to its edge."""
    alpha = disc(*SIZE, 30, 40, 14)[..., None]
    colour = np.array([0.8, 0.3, 0.1], np.float32)
    pixels = np.concatenate([alpha * colour, alpha], axis=2)
    got = at({**placing, "filter": filter_}, pixels)
    assert got[..., 3].min() >= 0
    assert got[..., 3].max() <= 1
    assert_near(got[..., :3] + (1 - got[..., 3:]) * colour, np.broadcast_to(colour, (*SIZE, 3)), 3e-6)


@pytest.mark.parametrize("filter_", FILTERS)
@pytest.mark.parametrize("placing", [
    {"move": (2.5, 0.3)}, {"turn": 23}, {"scale": [2.7, 0.4], "turn": 90}, {"scale": 0.31, "turn": 7}, {"scale": 1.3},
])  # fmt: skip
@pytest.mark.parametrize("n", [1, 2, 4])
def test_a_window_is_the_whole_bit_for_bit(placing: dict[str, Any], filter_: str, n: int) -> None:
    pixels = np.random.default_rng(5).random((*SIZE, 4)).astype(np.float32)
    whole = Picture(at({**placing, "filter": filter_}, pixels, FRAME.scaled(n), scale=n), FRAME.scaled(n))
    for window in (Window(13, 9, 40, 31), Window(0, 0, 8, 60), Window(72, 52, 80, 60)):
        part = at({**placing, "filter": filter_}, pixels, window.scaled(n), scale=n)
        assert np.array_equal(part, whole.crop(window.scaled(n)).pixels)


def test_a_plate_ends_where_it_ends_and_goes_on_where_it_fills_the_frame() -> None:
    white = np.ones((*SIZE, 4), np.float32)
    half = at({"scale": 0.5}, white, edge="extend")
    assert half[30, 40, 3] == 1
    assert half[5, 40, 3] == 0
    large = at({"scale": 1.5, "turn": 3}, white, Window(-40, -40, 130, 110), edge="extend")
    assert large == pytest.approx(1, abs=1e-6)


# cards


MOVED = {"move": [17, -9]}


def moved_station(**more: Any) -> dict[str, Any]:
    return card(STATION, placing=MOVED, **more)


def shifted_reader(by: tuple[int, int]) -> ArrayReader:
    """The scene with the render itself moved: what a moved card must equal."""
    reader = scene()
    station = reader.sources["station"]
    station.passes = {name: (kind, _moved(pixels, by, 1.0 if kind in ("shadow",) else 0.0)) for name, (kind, pixels) in station.passes.items()}
    station.ids = {
        name: (_moved(ids.transpose(1, 2, 0), by, 0).transpose(2, 0, 1), _moved(cover.transpose(1, 2, 0), by, 0.0).transpose(2, 0, 1), names)
        for name, (ids, cover, names) in station.ids.items()
    }
    return reader


def _moved(pixels: np.ndarray, by: tuple[int, int], fill: float) -> np.ndarray:
    out = np.full_like(pixels, fill)
    height, width = pixels.shape[:2]
    x, y = by
    out[max(y, 0) : height + min(y, 0), max(x, 0) : width + min(x, 0)] = pixels[max(-y, 0) : height - max(y, 0), max(-x, 0) : width - max(x, 0)]
    return out


GRADE = {"id": "t1", "kind": "grade", "exposure": 1.5, "through": "ball"}


@pytest.mark.parametrize("more", [
    {}, {"cut": ["ball"]}, {"treatments": [GRADE]}, {"cut": ["lamp"], "treatments": [GRADE]},
    {"treatments": [{"id": "t2", "kind": "soften", "size": 3.0, "through": "ball"}]},
    {"treatments": [{"id": "t3", "kind": "bloom", "size": 9.0, "feed": {"matte": "lamp"}}]},
    {"treatments": [{"id": "t4", "kind": "wrap", "width": 9.0, "size": 5.0}]},
    {"cut": [{"matte": "glass", "invert": True}]},
])  # fmt: skip
@pytest.mark.parametrize("n", [1, 2])
def test_a_moved_card_is_the_card_of_a_moved_render(more: dict[str, Any], n: int) -> None:
    """With all its mattes: cut, colour and spatial treatments, the light it spreads, and what wraps it."""
    moved = {"move": [16, -8]}  # whole pixels at both scales
    got = make(shot_of([PLATE, card(STATION, placing=moved, **more)]), scene(), scale=n).pixels
    wanted = make(shot_of([PLATE, card(STATION, **more)]), shifted_reader((16, -8)), scale=n).pixels
    assert_near(got, wanted, 2e-5)


def test_a_matte_looked_at_stands_where_its_card_does_and_on_a_treat_card_too() -> None:
    shot, alone = shot_of([PLATE, moved_station(treatments=[GRADE])]), MatteRef(matte="ball")
    wanted = evaluate(ShotPlanner(shot_of([PLATE, STATION]), 1, shifted_reader((17, -9))).coverage(alone, 1), Window(0, 0, 120, 90), cache())
    got = evaluate(ShotPlanner(shot, 1, scene()).coverage(alone, 1), Window(0, 0, 120, 90), cache())
    assert np.array_equal(got.pixels, wanted.pixels)
    finish = {"id": "finish", "treat": True, "treatments": [GRADE]}
    of_all = make(shot_of([PLATE, moved_station(), finish]), scene()).pixels
    assert_near(of_all, make(shot_of([PLATE, STATION, finish]), shifted_reader((17, -9))).pixels, 2e-5)


def cache() -> PictureCache:
    return PictureCache(1 << 28)


SHAPE = {"fence": {"kind": "shape", "form": "ellipse", "points": [55.0, 40.0, 30.0, 24.0]}}


def test_what_is_drawn_stays_in_the_frame_unless_it_is_told_to_follow() -> None:
    half = {"crossed": {"kind": "combined", "how": "all_of", "mattes": ["ball", "fence"]}}
    for matte, reader in (("fence", None), ("crossed", None), ({"matte": "fence", "on": "station"}, "follows")):
        name = matte if isinstance(matte, str) else matte["matte"]
        grade = {"id": "t1", "kind": "grade", "exposure": 1.5, "through": matte}
        got = make(shot_of([PLATE, moved_station(treatments=[grade])], mattes=SHAPE | half), scene()).pixels
        fence = SHAPE if reader is None else {"fence": {**SHAPE["fence"], "points": [72.0, 31.0, 30.0, 24.0]}}
        still_grade = {**grade, "through": name}
        wanted = make(shot_of([PLATE, card(STATION, treatments=[still_grade])], mattes=fence | half), shifted_reader((17, -9))).pixels
        assert_near(got, wanted, 2e-5, matte)


def test_on_frame_a_matte_follows_nothing() -> None:
    grade = {"id": "t1", "kind": "grade", "exposure": 1.5, "through": {"matte": "ball", "on": "frame"}}
    got = make(shot_of([PLATE, moved_station(treatments=[grade])]), scene()).pixels
    weight = evaluate(ShotPlanner(shot_of([PLATE, STATION]), 1, scene()).coverage(MatteRef(matte="ball"), 1), Window(0, 0, 120, 90), cache())
    plain = make(shot_of([PLATE, moved_station()]), scene()).pixels
    changed = np.abs(got - plain).max(axis=2) > 1e-4
    assert changed.any()
    assert (weight.pixels[..., 0][changed] > 0).all()


def test_a_moved_card_grades_nothing_anew() -> None:
    kept, reader = cache(), scene()
    treatments = [GRADE, {"id": "t2", "kind": "grade", "contrast": 1.2}]
    make(shot_of([PLATE, card(STATION, treatments=treatments, placing={"move": [3.5, 2]})]), reader, cache=kept)
    kept.counters.computed.clear()
    read = len(reader.read)
    for x in (4.5, 5.25, 60):
        make(shot_of([PLATE, card(STATION, treatments=treatments, placing={"move": [x, 2]})]), reader, cache=kept)
    assert set(kept.counters.computed) == {"placed", "join 3 over"}
    assert len(reader.read) == read


def test_placing_is_keyed_and_a_still_one_is_not_there() -> None:
    keyed = {"move": {"keys": [[1, [0, 0], "linear"], [9, [16, -8], "linear"]]}, "turn": {"keys": [[1, 0, "linear"], [9, 40, "linear"]]}}
    got = make(shot_of([PLATE, card(STATION, placing=keyed)]), scene(), frame=5).pixels
    assert np.array_equal(got, make(shot_of([PLATE, card(STATION, placing={"move": [8, -4], "turn": 20})]), scene()).pixels)
    assert np.array_equal(make(shot_of([PLATE, card(STATION, placing=keyed)]), scene()).pixels, make(shot_of([PLATE, STATION]), scene()).pixels)


@pytest.mark.parametrize("scale", [2.0, 4.0])
@pytest.mark.parametrize("n", [2, 4])
def test_previews_of_an_enlarged_card_hold_its_detail(scale: float, n: int) -> None:
    shot = shot_of([PLATE, card(STATION, placing={"scale": scale})], width=120, height=88)
    whole, small = make(shot, scene()).pixels, make(shot, scene(), scale=n).pixels
    reduced = whole.reshape(88 // n, n, 120 // n, n, 4).mean(axis=(1, 3))
    assert np.abs(np.clip(small, 0, 1) - np.clip(reduced, 0, 1)).mean() < 0.004


@pytest.mark.parametrize(("placing", "said"), [
    ({"scale": 0}, "scale from 0.001"), ({"scale": {"keys": [[1, 1, "linear"], [5, [1, 0], "linear"]]}}, "scale from 0.001"),
    ({"move": [1]}, "move"), ({"filter": "nearest"}, "filter"),
])  # fmt: skip
def test_placings_without_sense_are_refused(placing: dict[str, Any], said: str) -> None:
    with pytest.raises(UmbraxError, match=said):
        shot_of([card(STATION, placing=placing)])


def test_a_treat_card_stands_nowhere_and_wraps_nothing() -> None:
    for more in ({"placing": MOVED}, {"treatments": [{"id": "w", "kind": "wrap"}]}):
        with pytest.raises(UmbraxError, match="treat card"):
            shot_of([PLATE, {"id": "finish", "treat": True, **more}])
    with pytest.raises(UmbraxError, match="name a card, or frame"):
        shot_of([card(STATION, cut=[{"matte": "ball", "on": "nobody"}])])


@settings(max_examples=30, deadline=None)
@given(turn=st.floats(-720, 720), x=st.floats(0.2, 3), y=st.floats(-3, -0.2), move=st.tuples(st.floats(-200, 200), st.floats(-200, 200)))
def test_the_way_back_leads_back(turn: float, x: float, y: float, move: tuple[float, float]) -> None:
    way = placement_of(Placing.model_validate({"turn": turn, "scale": (x, y), "move": move, "about": (3, 4)}), FRAME)
    assert way.inverse().at(*way.at(11.5, -7.25)) == pytest.approx((11.5, -7.25), abs=1e-8)
    assert way.at(3, 4) == pytest.approx((3 + move[0], 4 + move[1]), abs=1e-9)
    assert (Placement() @ way) == way


def test_a_gradient_that_is_moved_has_no_end() -> None:
    gradient = {"kind": "gradient", "start": [0, 0], "end": [120, 0]}
    got = make(shot_of([{"id": "g", "picture": gradient, "placing": {"move": [-60, 0]}}]), scene()).pixels
    still_one = {**gradient, "start": [-60, 0], "end": [60, 0]}
    assert_near(got, make(shot_of([{"id": "g", "picture": still_one}]), scene()).pixels, 1e-6)
    assert (got[..., 3] == 1).all()


@pytest.mark.parametrize("placing", [{"move": [6.5, -3.25], "turn": 11, "scale": 0.8}, {"scale": [2.2, 1.6], "turn": 90}, {"move": [16, -8]}])
@pytest.mark.parametrize("n", [1, 2, 4])
def test_a_placed_card_with_all_that_is_on_it_is_the_same_in_every_window(placing: dict[str, Any], n: int) -> None:
    treatments = [
        GRADE, {"id": "s", "kind": "soften", "size": 2.5, "through": "ball"}, {"id": "w", "kind": "wrap", "width": 8.0, "size": 5.0},
        {"id": "b", "kind": "bloom", "size": 9.0, "feed": {"matte": "lamp"}},
    ]  # fmt: skip
    inner = card(STATION, placing=placing, cut=[{"matte": "glass", "invert": True}], treatments=treatments)
    bundle = {"id": "bundle", "picture": {"kind": "bundle", "build": [inner]}, "placing": {"turn": -7, "about": [10, 20]}}
    for build in ([PLATE, inner], [PLATE, bundle]):
        shot = shot_of(build)
        whole = make(shot, scene(), scale=n)
        for window in (Window(37, 21, 64, 50), Window(0, 0, 9, 90), Window(59, 44, 60, 45)):
            assert np.array_equal(make(shot, scene(), window=window.scaled(n), scale=n).pixels, whole.crop(window.scaled(n)).pixels)


@pytest.mark.parametrize("edge", ["empty", "one", "extend"])
@pytest.mark.parametrize("limits", [False, True])
def test_four_channels_at_once_are_those_channels_one_by_one(edge: Any, limits: bool) -> None:
    """Also where taps lie outside the picture, or all of them do, and alpha leaves 0..1."""
    rng = np.random.default_rng(8)
    pixels = rng.random((23, 31, 4), np.float32) * np.float32(1.6) - np.float32(0.3)
    way = Placement(1.3, 0.6, -3.2, -0.5, 1.2, 6.7)
    whole = Window(-25, -20, 60, 55)
    made = resampled(Picture(pixels, Window(2, -3, 33, 20), edge), way, whole, limits)
    apart = [resampled(Picture(np.ascontiguousarray(pixels[..., c : c + 1]), Window(2, -3, 33, 20), edge), way, whole) for c in range(4)]
    wanted = np.concatenate(apart, axis=2)
    if limits:
        alpha = wanted[..., 3:].copy()
        wanted[..., :3] *= np.where(alpha > 1, 1 / np.where(alpha > 1, alpha, 1), np.where(alpha < 0, 0, 1))
        wanted[..., 3:] = np.clip(alpha, 0, 1)
    assert_near(made, wanted, 3e-6)
    part = Window(-3, 4, 29, 21)
    inside = made[part.y0 - whole.y0 : part.y1 - whole.y0, part.x0 - whole.x0 : part.x1 - whole.x0]
    assert np.array_equal(resampled(Picture(pixels, Window(2, -3, 33, 20), edge), way, part, limits), inside), "window = whole"
