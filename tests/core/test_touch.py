"""Touch: the frontmost card answers, small things answer nearby, and one gesture makes matte and treatment."""

import numpy as np
import pytest

from arrays import PLATE, STATION, card, make, scene, shot_of
from umbrax.core import edits
from umbrax.core.errors import UmbraxError
from umbrax.core.touch import touch, treat_touched

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
    assert touch(shot_of(BUILD), scene(), 1, *SKY) is None
    reader = scene()
    ids, coverage, names = reader.sources["station"].ids["object_ids"]
    alone = np.where(ids == names["lamp"], coverage, 0)
    reader.sources["station"].ids = {"object_ids": (ids, alone.astype(np.float32), names)}
    near = (LAMP[0] + 5, LAMP[1])
    assert touch(shot_of(BUILD), reader, 1, *near) is None
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
    assert touch(shot_of([PLATE, card(STATION, enabled=False)]), scene(), 1, *BALL) is None


def gesture(on: str, action: str, at: tuple[int, int] = LAMP):  # type: ignore[no-untyped-def]
    shot = shot_of(BUILD, mattes={})
    found = touch(shot, scene(), 1, *at)
    assert found is not None
    made = treat_touched(shot, found, on, action)  # type: ignore[arg-type]
    return shot, made, edits.apply(shot, made.edits)


def test_one_gesture_makes_treatment_in_its_stage_and_uses_a_matte_that_means_the_same() -> None:
    shot, made, edited = gesture("object", "grade")
    assert made.matte == "lamp", "the shot already has this matte"
    assert set(edited.mattes) == set(shot.mattes)
    assert [t.kind for t in edited.card("station").treatments] == ["grade", "soften"]
    assert made.treatment == "t5"


def test_bloom_on_both_crossed_makes_a_combined_matte_once() -> None:
    shot, _, edited = gesture("both", "bloom", BALL)
    assert set(edited.mattes) - set(shot.mattes) == {"enamel", "ball x enamel"}
    found = touch(edited, scene(), 1, *BALL)
    assert found is not None
    again = edits.apply(edited, treat_touched(edited, found, "both", "bloom").edits)
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
        treat_touched(shot, found, "material", "grade")
