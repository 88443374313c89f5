"""Touch: the frontmost card answers, small things answer nearby, and one gesture makes matte and treatment."""

from typing import Any

import numpy as np
import pytest

from arrays import PLATE, STATION, card, make, scene, shot_of
from umbrax.core.document import edits
from umbrax.core.errors import UmbraxError
from umbrax.core.mattes.ids import last_part
from umbrax.core.picture import Window
from umbrax.core.plan.cache import PictureCache
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.touch import (
    Offer,
    Proposal,
    Touched,
    at_touch,
    boxed,
    focus_on,
    gathered,
    how_far,
    make_matte,
    named,
    of_ids,
    of_passes,
    propose,
    touch,
    treat_touched,
)  # fmt: skip

BUILD = [PLATE, card(STATION, treatments=[{"id": "t4", "kind": "soften", "size": 1.0}])]
LAMP, BALL, SKY = (60, 30), (50, 55), (3, 3)


def test_object_and_material_under_a_point_are_named() -> None:
    found = touch(shot_of(BUILD), scene(), 1, *LAMP)
    assert found is not None
    assert found.card == "station"
    assert found.object is not None
    assert found.object.name == "lamp"
    assert found.material is not None
    assert found.material.name == "glass"


def test_where_nothing_is_nothing_answers_unless_something_is_near() -> None:
    assert touch(shot_of([STATION]), scene(), 1, *SKY) is None
    plate = touch(shot_of(BUILD), scene(), 1, *SKY)
    assert plate is not None
    assert (plate.card, plate.hits) == ("sky", ()), "what shows through answers, by no name"
    reader = scene()
    ids, coverage, names = reader.sources["station"].ids["object_ids"]
    alone = np.where(ids == names["lamp"], coverage, 0)
    reader.sources["station"].ids = {"object_ids": (ids, alone.astype(np.float32), names)}
    near = (LAMP[0] + 5, LAMP[1])
    assert touch(shot_of(BUILD), reader, 1, *near).object is None  # type: ignore[union-attr]
    found = touch(shot_of(BUILD), reader, 1, *near, radius=6)
    assert found is not None
    assert found.object is not None
    assert found.object.name == "lamp"


def test_a_small_thing_answers_from_nearby_though_a_large_one_is_behind_it() -> None:
    beside = (LAMP[0] + 5, LAMP[1] + 1)
    direct = touch(shot_of(BUILD), scene(), 1, *beside)
    assert direct is not None
    assert direct.object is not None
    assert direct.object.name == "ball"
    near = touch(shot_of(BUILD), scene(), 1, *beside, radius=7)
    assert near is not None
    assert near.object is not None
    assert near.object.name == "lamp"
    assert near.material is not None
    assert near.material.name == "glass", "the material is that of the small thing"
    far = touch(shot_of(BUILD), scene(), 1, *BALL, radius=7)
    assert far is not None
    assert far.object is not None
    assert far.object.name == "ball"


def test_the_frontmost_enabled_card_answers() -> None:
    front = card(STATION, id="again")
    assert touch(shot_of([*BUILD, front]), scene(), 1, *BALL).card == "again"  # type: ignore[union-attr]
    assert touch(shot_of([*BUILD, front | {"enabled": False}]), scene(), 1, *BALL).card == "station"  # type: ignore[union-attr]
    assert touch(shot_of([PLATE, card(STATION, enabled=False)]), scene(), 1, *BALL).card == "sky"  # type: ignore[union-attr]
    hidden = touch(shot_of([PLATE]), scene(), 1, *BALL, source="station")
    assert hidden is not None
    assert hidden.card is None
    assert hidden.object is not None
    assert hidden.object.name == "ball", "a source that is looked at answers though no card shows it"
    with pytest.raises(UmbraxError, match="no card shows this"):
        treat_touched(shot_of([PLATE]), hidden.card, named(hidden, "object"), "grade")


def gesture(on: str, action: str, at: tuple[int, int] = LAMP):  # type: ignore[no-untyped-def]
    shot = shot_of(BUILD, mattes={})
    found = touch(shot, scene(), 1, *at)
    assert found is not None
    made = treat_touched(shot, found.card, named(found, on), action)
    return shot, made, edits.apply(shot, made.edits)


def test_one_gesture_makes_treatment_in_its_stage_and_uses_a_matte_that_means_the_same() -> None:
    shot, made, edited = gesture("object", "grade")
    assert made.matte == "lamp", "the shot already has this matte"
    assert set(edited.mattes) == set(shot.mattes)
    assert [t.kind for t in edited.card("station").treatments] == ["grade", "soften"]
    assert made.treatment == "t5"


@pytest.mark.parametrize(
    ("name", "called"),
    [
        ("yard/crates/left", "left"),
        ("|yard|crates|left", "left"),
        ("ship:hull:left/", "left"),
        ("left", "left"),
        ("//", "//"),
        ("dome_shell", "dome_shell"),
    ],
)
def test_a_matte_is_called_by_the_last_part_of_a_name(name: str, called: str) -> None:
    assert last_part(name) == called


def test_two_names_that_end_alike_make_two_mattes() -> None:
    shot = shot_of(BUILD, mattes={})
    for name, called in (("yard/left", "left"), ("quay/left", "left 2"), ("yard/left", "left")):
        item = {"kind": "id", "source": "station", "layer": "object_ids", "names": [name]}
        made = treat_touched(shot, "station", Offer((name,), (item,), "object_ids", 1.0), "grade")
        shot = edits.apply(shot, made.edits)
        assert made.matte == called
        assert shot.mattes[called].names == (name,)  # type: ignore[attr-defined]


def test_bloom_on_both_crossed_makes_a_combined_matte_once() -> None:
    shot, _, edited = gesture("both", "bloom", BALL)
    assert set(edited.mattes) - set(shot.mattes) == {"enamel", "ball x enamel"}
    found = touch(edited, scene(), 1, *BALL)
    assert found is not None
    again = edits.apply(edited, treat_touched(edited, found.card, named(found, "both"), "bloom").edits)
    assert set(again.mattes) == set(edited.mattes)
    assert [t.kind for t in again.card("station").treatments] == ["soften", "bloom", "bloom"]


def test_a_touch_shows_at_once() -> None:
    shot, _, edited = gesture("object", "bloom")
    before, after = make(shot, scene()).pixels, make(edited, scene()).pixels
    assert (after - before)[LAMP[1] + 8, LAMP[0], 0] > 1 / 255, "beyond the lamp's matte"


def test_what_has_no_name_cannot_be_treated_by_it() -> None:
    reader = scene()
    del reader.sources["station"].ids["material_ids"]
    shot = shot_of(BUILD)
    found = touch(shot, reader, 1, *LAMP)
    assert found is not None
    with pytest.raises(UmbraxError, match="nothing names the material here"):
        named(found, "material")


def test_what_lies_behind_in_a_pixel_is_offered_after_what_covers_most() -> None:
    reader = scene()
    ids, coverage, names = reader.sources["station"].ids["object_ids"]
    x, y = LAMP
    ids[:2, y, x], coverage[:2, y, x] = [names["ball"], names["lamp"]], [0.7, 0.3]
    found = touch(shot_of(BUILD), reader, 1, *LAMP)
    assert found is not None
    assert [(offer.title, round(offer.coverage, 2)) for offer in of_ids(found)] == [("ball", 0.7), ("glass", 1.0), ("lamp", 0.3)]
    shot = shot_of(BUILD)
    made = make_matte(shot, of_ids(found)[2])
    assert (made.matte, made.edits) == ("lamp", ()), "the shot has that matte already"


def test_numbers_and_channels_under_a_point_are_offered() -> None:
    reader = scene()
    packed = np.zeros((90, 120, 3), np.float32)
    packed[..., 1] = 0.9 * (np.mgrid[:90, :120][1] > 30)
    packed[..., 2] = 0.1
    reader.sources["station"].passes["packed"] = ("rgb_matte", packed)
    found = touch(shot_of(BUILD), reader, 1, *BALL)
    assert found is not None
    offers = of_passes(reader, 1, found, "packed")
    assert [offer.title for offer in offers] == ["packed green", "packed blue", "number 2"]
    shot = shot_of(BUILD)
    made = make_matte(shot, offers[0])
    green = edits.apply(shot, made.edits).mattes[made.matte].model_dump(mode="json", by_alias=True)
    assert green == {"kind": "channel", "source": "station", "pass": "packed", "channel": "green"}


def proposed(reader, at: tuple[int, int]) -> list[Proposal]:  # type: ignore[no-untyped-def]
    shot = shot_of(BUILD)
    found = touch(shot, reader, 1, *at)
    assert found is not None
    cache = PictureCache(1 << 26)
    return propose(ShotPlanner(shot, 1, reader), found, lambda step: evaluate(step, Window(0, 0, 120, 90), cache).pixels[..., 0])


def test_without_ids_other_passes_are_proposed_with_what_leaks_and_crossed_where_that_helps() -> None:
    """Two balls of one number at two depths, a third at the first's depth: only number and depth together tell it apart."""
    reader = scene()
    station = reader.sources["station"]
    station.ids = {}
    y, x = np.mgrid[:90, :120]
    left, right, top = (np.hypot(y - cy, x - cx) < radius for cy, cx, radius in ((58, 35, 18), (58, 85, 18), (15, 60, 12)))
    alpha = (left | right | top).astype(np.float32)[..., None]
    station.passes = {
        "rgba": ("beauty", np.concatenate([alpha * [0.5, 0.2, 0.1], alpha], axis=2).astype(np.float32)),
        "depth": ("depth", np.where(left | top, 4.0, np.where(right, 9.0, np.inf)).astype(np.float32)[..., None]),
        "object_index": ("object_index", np.where(top, 5, 3 * alpha[..., 0]).astype(np.float32)[..., None]),
    }
    found = proposed(reader, (35, 58))
    leaks = {one.offer.title: round(one.trust.leak, 2) for one in found}
    one, other = left.sum() / (left | right).sum(), left.sum() / (left | top).sum()
    assert leaks.pop("colour of station") == pytest.approx(1 - left.sum() / alpha.sum(), abs=0.02)
    depth = next(title for title in leaks if title.startswith("depth") and " x " not in title)
    assert leaks.pop(depth) == pytest.approx(1 - other, abs=0.02)
    assert leaks.pop("number 3") == pytest.approx(1 - one, abs=0.02)
    best = found[0]
    assert sorted(part["kind"] for part in best.offer.parts) == ["depth", "index"]
    assert best.trust.leak == pytest.approx(0, abs=0.01)
    assert np.array_equal(best.part, left)
    shot = shot_of(BUILD)
    made = make_matte(shot, best.offer)
    assert edits.apply(shot, made.edits).mattes[made.matte].how == "all_of"  # type: ignore[attr-defined]


def test_whatever_is_seen_something_is_proposed_for_it() -> None:
    plate = proposed(scene(), SKY)
    assert [one.offer.kind for one in plate] == ["key"]


def test_a_box_gathers_what_lies_at_least_half_in_it() -> None:
    shot, lamp = shot_of(BUILD), Window(LAMP[0] - 1, LAMP[1] - 1, LAMP[0] + 4, LAMP[1] + 4)
    assert boxed(shot, scene(), 1, lamp) == ("station", "object_ids", ["lamp"])
    assert boxed(shot, scene(), 1, Window(0, 0, 120, 90)) == ("station", "object_ids", ["ball", "lamp"])
    assert boxed(shot, scene(), 1, Window(0, 0, 5, 5)) is None


def test_where_objects_have_no_ids_a_stroke_and_a_box_gather_what_has() -> None:
    bare = scene()
    del bare.sources["station"].ids["object_ids"]
    names = gathered(shot_of(BUILD), bare, 1, [(5, 5), BALL, LAMP, SKY])
    assert names is not None
    assert names[1] == "material_ids"
    assert names[2] == list(dict.fromkeys(names[2]))
    assert len(names[2]) == 2
    assert boxed(shot_of(BUILD), bare, 1, Window(0, 0, 120, 90)) is not None


def test_focusing_makes_one_defocus_and_then_moves_the_shots_camera() -> None:
    shot = shot_of(BUILD)
    made = focus_on(shot, "station", 7.5, 1)
    focused = edits.apply(shot, made.edits)
    assert (made.matte, made.card) == (None, "station")
    assert [one.kind for one in focused.card("station").treatments] == ["soften", "defocus"]
    assert focused.camera.focus == 7.5
    again = edits.apply(focused, focus_on(focused, "sky", 3.0, 1).edits)
    assert again.camera.focus == 3.0
    assert again.build == focused.build
    # keys are kept, and one that has values of its own is focused itself
    keyed = edits.apply(shot_of(BUILD, camera={"focus": {"keys": [[1, 4.0, "linear"], [9, 8.0, "hold"]]}}), made.edits[:1])
    focus = edits.apply(keyed, focus_on(keyed, "station", 6.0, 5).edits).camera.focus
    assert [(key[0], key[1]) for key in focus.keys] == [(1, 4.0), (5, 6.0), (9, 8.0)]  # type: ignore[attr-defined]
    own = shot_of([PLATE, card(STATION, treatments=[{"id": "d", "kind": "defocus"}])])
    assert edits.apply(own, focus_on(own, "station", 6.0, 5).edits).card("station").treatments[0].focus == 6.0  # type: ignore[attr-defined]
    with pytest.raises(UmbraxError, match="how far away"):
        focus_on(shot, "station", None, 1)


def test_what_has_no_depth_is_not_offered_to_be_focused_on() -> None:
    station = shot_of(BUILD).card("station")
    assert "defocus" in [one.kind for one in at_touch(station, True)]
    assert "defocus" not in [one.kind for one in at_touch(station, False)]


def test_how_far_away_is_what_the_card_says_and_else_its_pass() -> None:
    """A depth set on a card goes for all of it, keyed too; where nothing stands nothing tells, whatever the pass has there."""

    def told(at: tuple[int, int], value: float = np.inf, **more: Any) -> float | None:
        reader = scene()
        depth = reader.sources["station"].passes["depth"][1]
        depth[~np.isfinite(depth)] = value
        return how_far(ShotPlanner(shot_of([card(STATION, **more)]), 5, reader), Touched("station", "station", 5, *at))

    assert told(BALL) == pytest.approx(3 + 8 * BALL[0] / 120)
    assert told(BALL, depth=6.0) == 6.0
    assert told((1, 1), depth={"keys": [[1, 4.0, "linear"], [9, 8.0, "linear"]]}) == 6.0
    for nothing in (np.inf, 1e10, np.nan):
        assert told((1, 1), nothing) is None


def test_an_outline_starts_where_it_was_touched() -> None:
    shot = shot_of(BUILD)
    found = touch(shot, scene(), 1, *BALL)
    assert found is not None
    line = edits.apply(shot, treat_touched(shot, "station", named(found, "object"), "outline", at=BALL).edits).card("station").treatments[-1]
    told = line.model_dump(by_alias=True)
    assert (told["of"], told["from"], told["kind"]) == ("ball", BALL, "outline")
