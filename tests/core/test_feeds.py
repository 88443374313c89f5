"""Light that spreads in previews: fed from what their blocks hold, not from their means."""

from typing import Any

import numpy as np
import pytest

from arrays import ArrayReader, ArraySource, assert_near, make, ranked, shot_of
from umbrax.core.kernels import feeding
from umbrax.core.picture import Picture
from umbrax.core.plan import builds
from umbrax.core.plan.cards import CardPlanner
from umbrax.core.plan.patches import boxes_of
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.treatments import defocus

SIZE = (96, 128)


def lamp_scene(value: float, y: int, x: int, size: int = 2, ground: float = 0.2, alpha: bool = True) -> ArrayReader:
    """A lamp of a few pixels on an element that covers all, or on nothing."""
    light = np.full((*SIZE, 4), ground, np.float32)
    light[..., 3] = 1
    if not alpha:
        light[:] = 0
    light[y : y + size, x : x + size] = (value, value * 0.6, value * 0.2, 1)
    plate = np.full((*SIZE, 3), 0.1, np.float32)
    return ArrayReader(station=ArraySource({"rgba": ("beauty", light)}), valley=ArraySource({"rgba": ("beauty", plate)}))


def glow(reader: ArrayReader, n: int, on_all: bool, more: dict[str, Any] | None = None) -> float:
    """How much light a bloom adds to the frame, in full-size pixels."""
    bloom = {"id": "t", "kind": "bloom", "threshold": 1.0, "size": 12.0, **(more or {})}
    element = {"id": "e", "picture": {"kind": "pass", "source": "station"}}
    sky = {"id": "sky", "picture": {"kind": "plate", "source": "valley"}}
    totals = []
    for treatments in ([bloom], []):
        if on_all:
            build = [sky, element, {"id": "f", "treat": True, "treatments": treatments}]
        else:
            build = [sky, {**element, "treatments": treatments}]
        shot = shot_of(build, width=SIZE[1], height=SIZE[0]).model_copy(update={"mattes": {}})
        totals.append(float(make(shot, reader, scale=n).pixels[..., 0].sum(dtype=np.float64)) * n * n)
    return totals[0] - totals[1]


@pytest.mark.parametrize("on_all", [False, True])
@pytest.mark.parametrize("value", [1.5, 3.0, 30.0, 1000.0])
@pytest.mark.parametrize(("y", "x"), [(48, 64), (49, 65), (50, 67), (51, 63)])
def test_a_lamp_of_two_pixels_blooms_alike_in_every_preview(y: int, x: int, value: float, on_all: bool) -> None:
    """Wherever it lies in the blocks of the preview, and though their mean is below the threshold: within 2 %."""
    for alpha in (True, False):
        reader = lamp_scene(value, y, x, alpha=alpha)
        whole = glow(reader, 1, on_all)
        for n in (2, 4, 8):
            assert glow(reader, n, on_all) == pytest.approx(whole, rel=0.02), (n, alpha)


def test_what_is_blurred_hides_no_lamp() -> None:
    """A lamp that a soften spread below the threshold does not bloom in a preview either."""
    reader, soft = lamp_scene(3.0, 48, 64), {"id": "s", "kind": "soften", "size": 9.0}
    bloom, element = {"id": "t", "kind": "bloom", "threshold": 1.0, "size": 12.0}, {"id": "e", "picture": {"kind": "pass", "source": "station"}}
    for n in (1, 2, 4):
        for treated in ({**element}, {"id": "f", "treat": True}):
            pictures = []
            for treatments in ([soft], [soft, bloom]):
                build = [element] * ("treat" in treated) + [{**treated, "treatments": treatments}]
                shot = shot_of(build, width=SIZE[1], height=SIZE[0]).model_copy(update={"mattes": {}})
                pictures.append(make(shot, reader, scale=n).pixels)
            assert_near(pictures[1], pictures[0], 1e-6)


def test_light_that_spread_past_the_frame_does_not_feed_again() -> None:
    """What a treat card spreads comes from the frame and what pictures cover; within them nothing changes."""
    reader = lamp_scene(400.0, 0, 0)
    inner = {"id": "i", "kind": "bloom", "threshold": 1.0, "size": 20.0}
    element = {"id": "e", "picture": {"kind": "pass", "source": "station"}, "treatments": [inner]}
    outer = {"id": "f", "treat": True, "treatments": [{"id": "o", "kind": "bloom", "threshold": 0.0, "knee": 0.0, "size": 9.0}]}
    shot = shot_of([element, outer], width=SIZE[1], height=SIZE[0]).model_copy(update={"mattes": {}})
    below = shot_of([element], width=SIZE[1], height=SIZE[0]).model_copy(update={"mattes": {}})
    added = make(shot, reader).pixels[..., :3] - make(below, reader).pixels[..., :3]
    assert 0 < added.sum() <= make(below, reader).pixels[..., :3].sum() * 1.01


@pytest.mark.parametrize("n", [1, 2])
def test_a_border_that_goes_on_past_the_frame_feeds_nothing_there(n: int) -> None:
    """However far other cards reach beyond the frame; what they show there themselves does."""
    bright = np.full((*SIZE, 3), 3.0, np.float32)
    thing, lamp = np.zeros((2, *SIZE, 4), np.float32)
    thing[20:60, 20:100, 3] = 1
    lamp[40:44, 2:6] = (400, 400, 400, 1)
    reader = ArrayReader(valley=ArraySource({"rgba": ("beauty", bright)}), station=ArraySource({"rgba": ("beauty", thing)}))
    plate = {"id": "sky", "picture": {"kind": "plate", "source": "valley"}}
    bloom = {"id": "f", "treat": True, "treatments": [{"id": "b", "kind": "bloom", "threshold": 1.0, "size": 12.0}]}
    away = {"id": "away", "picture": {"kind": "pass", "source": "station"}, "placing": {"move": [-128, 0]}}

    def made(*cards: dict[str, Any]) -> np.ndarray:
        return make(shot_of([*cards], width=SIZE[1], height=SIZE[0]), reader, scale=n).pixels

    alone = made(plate, bloom)
    assert np.array_equal(made(plate, away, bloom), alone)
    reader.sources["station"] = ArraySource({"rgba": ("beauty", lamp)}, version="lamp")
    beside = made(plate, {**away, "placing": {"move": [-12, 0]}}, bloom) - alone
    assert beside[40 // n, 0, 0] > 0.1, "a lamp just outside glows in"


def test_a_block_of_two_values_is_parted_exactly() -> None:
    block = np.zeros((4, 4, 4), np.float32)
    block[..., :3], block[..., 3] = 0.25, 1
    block[1:3, 1, :3] = (6.0, 3.0, 1.0)
    spans = feeding.spans(block, 4, True)
    assert spans[0, 0].tolist() == pytest.approx([(0.25 * 14 + 12) / 16, 6.0, 0.25, 1.0])
    mean = block.mean(axis=(0, 1), keepdims=True)
    grey = np.array([[[mean[0, 0, 0]] * 3 + [1]]], np.float32)
    most, least, share = feeding.parted(grey, spans)
    assert share[0, 0, 0] == pytest.approx(2 / 16)
    assert (most[0, 0, 0], least[0, 0, 0]) == pytest.approx((6.0, 0.25))
    hard = (1.0, 0.0, 1000.0)  # threshold, knee, limit
    fed = feeding.joined_again(feeding.feed_light(most, *hard), feeding.feed_light(least, *hard), share, None)
    assert fed[0, 0, 0] == pytest.approx(feeding.feed_light(block, *hard).mean(axis=(0, 1))[0], rel=1e-5)
    only_lamp = np.full((1, 1, 1), 2 / 16, np.float32)  # a matte of the lamp alone gives the lamp's part of it
    assert feeding.joined_again(most[..., :3], least[..., :3], share, only_lamp)[0, 0, 0] == pytest.approx(6.0 * 2 / 16)


def test_spans_of_one_picture_over_another() -> None:
    top = np.array([[[0.5, 1.0, 0.0, 0.5], [0.7, 0.8, 0.6, 1.0], [0.0, 0.0, 0.0, 0.0]]], np.float32)
    below = np.array([[[0.4, 2.0, 0.1, 1.0]] * 3], np.float32)
    got = feeding.spans_over(top, below)[0]
    assert got[0].tolist() == pytest.approx([0.7, 2.0, 0.0, 1.0])  # in part covered: the ends of either
    assert got[1].tolist() == pytest.approx([0.7, 0.8, 0.6, 1.0])
    assert got[2].tolist() == pytest.approx([0.4, 2.0, 0.1, 1.0])


def test_boxes_hold_all_that_is_marked_and_few_others() -> None:
    mask = np.zeros((200, 300), bool)
    for y, x in ((0, 0), (5, 3), (199, 299), (100, 150), (101, 152)):
        mask[y, x] = True
    boxes = boxes_of(mask, 100)
    held = np.zeros_like(mask)
    for box in boxes:
        held[box.y0 : box.y1, box.x0 : box.x1] = True
    assert (held | ~mask).all()
    assert held.sum() < 200
    assert boxes_of(mask, 10**9) == boxes_of(np.ones_like(mask), 1)


def test_what_blocks_hold_is_asked_of_each_card_once(monkeypatch: pytest.MonkeyPatch) -> None:
    """However many treat cards with blooms lie over one another."""
    asked: list[str] = []
    spans = CardPlanner.spans
    monkeypatch.setattr(CardPlanner, "spans", lambda self, scale: (asked.append(self.card.id), spans(self, scale))[1])
    blooms = [{"id": f"f{n}", "treat": True, "treatments": [{"id": f"t{n}", "kind": "bloom"}]} for n in range(8)]
    element = {"id": "e", "picture": {"kind": "pass", "source": "station"}}
    shot = shot_of([element, *blooms], width=SIZE[1], height=SIZE[0]).model_copy(update={"mattes": {}})
    ShotPlanner(shot, 1, lamp_scene(30.0, 48, 64)).picture(None, 8)
    # each treat card asks for itself, and once more as it lies behind the next
    assert asked.count("e") == 1
    assert len(asked) <= 2 * len(blooms) + 1


def through_a_lens(n: int, depth: float, value: float, **more: Any) -> float:
    """What a lamp of two pixels adds that a lens focused on 10 spreads to 12 (1 - 10 / depth) pixels, fed through its matte."""
    reader = lamp_scene(value, 48, 64)
    coverage = np.zeros(SIZE, np.float32)
    coverage[48:50, 64:66] = 1
    station = reader.sources["station"]
    station.passes["depth"] = ("depth", np.full((*SIZE, 1), depth, np.float32))
    station.ids["object_ids"] = ranked({"lamp": coverage, "ball": 1 - coverage})
    lens = {"id": "d", "kind": "defocus", "focus": 10.0, "radius": 12.0}
    bloom = {"id": "b", "kind": "bloom", "threshold": 0.5, "size": 8.0, "feed": {"matte": "lamp"}, **more}
    totals = []
    for treatments in ([lens, bloom], [lens]):
        shot = shot_of([{"id": "e", "picture": {"kind": "pass", "source": "station"}, "treatments": treatments}], width=SIZE[1], height=SIZE[0])
        totals.append(float(make(shot, reader, scale=n).pixels[..., 0].sum(dtype=np.float64)) * n * n)
    return totals[0] - totals[1]


@pytest.mark.parametrize("value", [3.0, 30.0, 1000.0])
@pytest.mark.parametrize(("depth", "near"), [(10.0, 0.01), (14.0, 0.06), (40.0, 0.06)])
def test_a_lamp_in_focus_or_far_from_it_blooms_alike_in_every_preview(depth: float, near: float, value: float) -> None:
    """What a lens leaves sharp hides in the blocks of a preview, what it spreads by pixels does not."""
    whole = through_a_lens(1, depth, value)
    for n in (2, 4, 8):
        assert through_a_lens(n, depth, value) == pytest.approx(whole, rel=near, abs=0.003 * 4 * value)


def test_a_blurred_card_is_not_blurred_again_at_full_size_for_its_light(monkeypatch: pytest.MonkeyPatch) -> None:
    made: list[int] = []
    plain = defocus.spread_through

    def watched(own: Picture, *rest: Any) -> Picture:
        made.append(own.window.width)
        return plain(own, *rest)

    monkeypatch.setattr(defocus, "spread_through", watched)
    through_a_lens(2, 14.0, 30.0)
    assert made
    assert max(made) <= SIZE[1] // 2 + 2


def test_a_look_at_a_half_makes_nothing_at_full_size_for_the_light_of_all(monkeypatch: pytest.MonkeyPatch) -> None:
    """A shot at full size is four times as dear."""
    widths: list[int] = []
    plain = builds.join

    def watched(kind: str, top: Picture, below: Picture, *rest: Any) -> Picture:
        widths.append(below.window.width)
        return plain(kind, top, below, *rest)

    monkeypatch.setattr(builds, "join", watched)
    glow(lamp_scene(3.0, 40, 40), 2, True)
    assert widths
    assert max(widths) <= SIZE[1] // 2 + 2
