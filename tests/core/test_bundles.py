"""Bundles: cards that are one picture, with an inside of their own."""

from typing import Any

import numpy as np
import pytest

from arrays import PLATE, STATION, assert_near, card, make, scene, shot_of
from umbrax.core.document.edits import RemoveItem, SetValue, apply
from umbrax.core.document.parameters import MatteRef
from umbrax.core.document.references import matte_uses
from umbrax.core.document.removals import matte_removal
from umbrax.core.document.text import canonical, read_text
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Window
from umbrax.core.plan.cache import PictureCache
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.touch.hits import touch

SHADOW = {"id": "shadow", "picture": {"kind": "shadow", "source": "station"}, "opacity": 0.7}
GRADED = card(STATION, cut=["ball"], treatments=[{"id": "t1", "kind": "grade", "exposure": 0.7, "through": "ball"}], opacity=0.8)
GLOWING = card(STATION, id="lamp", cut=["lamp"], treatments=[{"id": "t2", "kind": "bloom", "size": 9.0, "amount": 0.5}])


def bundle(*cards: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {"id": "bundle", "picture": {"kind": "bundle", "build": list(cards)}, **more}


@pytest.mark.parametrize("n", [1, 2, 4])
@pytest.mark.parametrize("inside", [(SHADOW, GRADED), (GRADED, GLOWING), (PLATE, GRADED)])
def test_a_bundle_is_its_cards(inside: tuple[dict[str, Any], ...], n: int) -> None:
    """Over is associative (Porter and Duff): joined first among themselves or one by one, shadow and spread light included."""
    behind = [] if inside[0] is PLATE else [PLATE]
    whole = make(shot_of([*behind, bundle(*inside)]), scene(), scale=n).pixels
    assert_near(whole, make(shot_of([*behind, *inside]), scene(), scale=n).pixels, 2e-6)


def test_a_bundle_of_one_card_is_that_card_bit_for_bit() -> None:
    assert np.array_equal(make(shot_of([PLATE, bundle(STATION)]), scene()).pixels, make(shot_of([PLATE, STATION]), scene()).pixels)
    empty = make(shot_of([PLATE, bundle()]), scene()).pixels
    assert np.array_equal(empty, make(shot_of([PLATE]), scene()).pixels)


def test_below_inside_a_bundle_is_its_inside() -> None:
    """A treat card in it treats what is in it, and a light wrap in it sees no plate behind it."""
    soft = {"id": "soft", "treat": True, "treatments": [{"id": "s", "kind": "soften", "size": 4.0}]}
    got = make(shot_of([PLATE, bundle(STATION, soft)]), scene()).pixels
    wanted = make(shot_of([PLATE, card(STATION, treatments=[{"id": "s", "kind": "soften", "size": 4.0}])]), scene()).pixels
    assert_near(got, wanted, 1e-6)
    wrapped = card(STATION, treatments=[{"id": "w", "kind": "wrap"}])
    assert np.array_equal(make(shot_of([PLATE, bundle(wrapped)]), scene()).pixels, make(shot_of([PLATE, bundle(STATION)]), scene()).pixels)
    assert not np.array_equal(make(shot_of([PLATE, wrapped]), scene()).pixels, make(shot_of([PLATE, STATION]), scene()).pixels)


MOVED = {"move": [16, -8]}


@pytest.mark.parametrize("n", [1, 2])
def test_a_placed_bundle_places_its_cards_with_all_that_is_drawn_on_them(n: int) -> None:
    fence = {"fence": {"kind": "shape", "form": "ellipse", "points": [55.0, 40.0, 30.0, 24.0]}}
    moved_fence = {"fence": {**fence["fence"], "points": [71.0, 32.0, 30.0, 24.0]}}
    inner = card(STATION, cut=["ball"], treatments=[{"id": "t1", "kind": "grade", "exposure": 0.7, "through": "fence"}])
    got = make(shot_of([PLATE, bundle(inner, placing=MOVED)], mattes=fence), scene(), scale=n).pixels
    wanted = make(shot_of([PLATE, card(inner, placing=MOVED)], mattes=moved_fence), scene(), scale=n).pixels
    assert_near(got, wanted, 2e-6)


def test_a_plate_in_a_placed_bundle_ends_where_its_frame_does() -> None:
    """However far the light of what stands before it spreads; and one that goes on fills the frame, in a bundle or not."""
    smaller = {"scale": [0.5, 0.5], "turn": 30.0}
    got = make(shot_of([bundle(PLATE, GLOWING, placing=smaller)]), scene()).pixels
    alone = make(shot_of([bundle(PLATE, placing=smaller)]), scene()).pixels
    assert np.array_equal(got[..., 3], alone[..., 3])
    assert alone[..., 3].mean() == pytest.approx(0.25, abs=0.01)
    twice = make(shot_of([bundle(card(PLATE, placing={"scale": [2, 2]}), GLOWING, placing={"scale": [0.75, 0.75]})]), scene()).pixels
    assert twice[..., 3].min() == 1


@pytest.mark.parametrize("output", ["with_source", "spread_only"])
def test_a_lamp_in_a_bundle_just_outside_the_frame_glows_in(output: str) -> None:
    bloom = {"id": "b", "kind": "bloom", "size": 9.0, "output": output}
    beside = bundle(card(STATION, cut=["lamp"]), treatments=[bloom], placing={"move": [60, 0]})
    assert make(shot_of([beside]), scene()).pixels[30, -1, 0] > 0.1


def test_a_bundle_is_cut_and_treated_through_mattes_of_what_is_in_it() -> None:
    grade = {"id": "g", "kind": "grade", "exposure": 1.0, "through": "ball"}
    got = make(shot_of([PLATE, bundle(STATION, cut=["ball"], treatments=[grade], placing=MOVED)]), scene()).pixels
    wanted = make(shot_of([PLATE, card(STATION, cut=["ball"], treatments=[grade], placing=MOVED)]), scene()).pixels
    assert_near(got, wanted, 2e-6)


def test_placings_follow_one_another() -> None:
    inner = card(STATION, placing={"turn": 90, "about": [60, 45]})
    got = make(shot_of([PLATE, bundle(inner, placing=MOVED)]), scene()).pixels
    assert got == pytest.approx(
        make(shot_of([PLATE, card(STATION, placing={"turn": 90, "about": [60, 45], **MOVED})]), scene()).pixels, abs=1e-6
    )
    planner, alone = ShotPlanner(shot_of([PLATE, bundle(card(inner, cut=["ball"]), placing=MOVED)]), 1, scene()), MatteRef(matte="ball")
    flat = ShotPlanner(shot_of([card(STATION, cut=["ball"], placing={"turn": 90, "about": [60, 45], **MOVED})]), 1, scene())
    ours, theirs = (evaluate(p.coverage(alone, 1), Window(0, 0, 120, 90), PictureCache(1 << 28)).pixels for p in (planner, flat))
    assert np.array_equal(ours, theirs)


def test_a_moved_bundle_makes_nothing_in_it_anew() -> None:
    kept = PictureCache(1 << 28)
    make(shot_of([PLATE, bundle(SHADOW, GRADED, placing={"move": [3, 2]})]), scene(), cache=kept)
    kept.counters.computed.clear()
    make(shot_of([PLATE, bundle(SHADOW, GRADED, placing={"move": [5.5, 2]})]), scene(), cache=kept)
    assert set(kept.counters.computed) == {"placed", "join 3 over"}


def test_a_picture_upto_and_a_card_inside_can_be_asked_for() -> None:
    planner = ShotPlanner(shot_of([PLATE, bundle(SHADOW, GRADED)]), 1, scene())
    inside = ShotPlanner(shot_of([SHADOW, GRADED]), 1, scene())
    assert planner.picture("shadow").key == inside.picture("shadow").key
    assert planner.picture("station").key == inside.picture().key
    assert planner.card("station").key == inside.card("station").key


def test_a_document_with_a_bundle_is_read_written_and_edited_inside() -> None:
    shot = shot_of([PLATE, bundle(SHADOW, GRADED, placing={"move": {"keys": [[1, [0, 0], "linear"], [9, [8, 4], "smooth"]]}, "scale": 0.5})])
    assert read_text(canonical(shot)) == shot
    path = ("build", "bundle", "picture", "build", "station")
    assert shot.path_of("station") == path
    edited = apply(shot, [SetValue(op="set", path=(*path, "opacity"), value=0.25)])
    assert edited.card("station").opacity == 0.25
    assert [one.id for one in apply(shot, [RemoveItem(op="remove", path=path)]).cards()] == ["sky", "bundle", "shadow"]


def test_references_reach_into_bundles() -> None:
    shot = shot_of([PLATE, bundle(SHADOW, GRADED)])
    assert matte_uses(shot, "ball") == ["card station, cut", "card station, grade"]
    gone = apply(shot, matte_removal(shot, "ball").edits)
    assert gone.card("station").cut == ()
    assert gone.card("station").treatments == ()
    for build, said in (
        ([STATION, bundle(STATION)], "two cards have the id"),
        ([bundle(card(STATION, cut=["nobody"]))], "unknown matte 'nobody'"),
        ([bundle({"id": "x", "picture": {"kind": "plate", "source": "nowhere"}})], "unknown source 'nowhere'"),
    ):
        with pytest.raises(UmbraxError, match=said):
            shot_of(build)
    alpha = {"own": {"kind": "alpha", "card": "bundle"}}
    with pytest.raises(UmbraxError, match="circle"):
        shot_of([bundle(card(STATION, cut=["own"]))], mattes=alpha)


def test_touch_answers_for_the_card_in_the_bundle_where_it_stands() -> None:
    shot = shot_of([PLATE, bundle(card(STATION, placing={"move": [10, 0]}), placing={"move": [6, -8]})])
    found = touch(shot, scene(), 1, 70, 40)
    assert found is not None
    assert (found.card, found.source, found.x, found.y) == ("station", "station", 54, 48)
    assert (found.frame_x, found.frame_y) == (70, 40)
    assert found.object is not None
    assert found.object.name == "ball"
