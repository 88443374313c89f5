"""Cards brought into another shot: what they need comes along, what is there already is used, what cannot come is told."""

import numpy as np
import pytest

from arrays import PLATE, STATION, card, make, scene, shot_of
from umbrax.core.document.bringing import brought
from umbrax.core.document.edits import apply
from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError

FRONT = {
    "id": "front", "picture": {"kind": "pass", "source": "station"}, "cut": [{"matte": "both", "invert": True}], "follow": "station",
    "tuck": [{"behind": "ball", "card": "station"}], "treatments": [{"id": "t1", "kind": "bloom", "feed": {"matte": "lamp"}, "threshold": 0.0}],
}  # fmt: skip
MATTES = {"both": {"kind": "combined", "how": "any_of", "mattes": ["ball", "lamp"]}}


def origin() -> Shot:
    graded = card(STATION, treatments=[{"id": "t2", "kind": "grade", "exposure": 1.0, "through": "ball"}])
    return shot_of([PLATE, graded, FRONT], mattes=MATTES)


def empty(**more: object) -> Shot:
    layout = {"width": 120, "height": 90, "first": 1, "last": 10}
    return Shot.model_validate({"umbrax": 1, "name": "other", "format": layout, **more})


def test_cards_come_with_all_they_need_and_look_the_same() -> None:
    made = brought(origin(), ["sky", "station", "front"], empty())
    shot = apply(empty(), made.edits)
    assert made.cards == ["sky", "station", "front"]
    assert not made.left_out
    assert set(shot.sources) == {"valley", "station"}
    assert set(shot.mattes) == {"ball", "lamp", "both"}
    assert np.array_equal(make(shot, scene()).pixels, make(origin(), scene()).pixels)


def test_what_is_there_already_is_used_and_names_that_mean_something_else_are_changed() -> None:
    other = empty(
        sources={"render": {"path": "s.exr"}, "valley": {"path": "another.exr"}},
        mattes={
            "ball": {"kind": "shape", "points": [0, 0, 9, 0, 9, 9]},
            "lamp": {"kind": "id", "source": "render", "layer": "object_ids", "names": ["lamp"]},
        },
        build=[{"id": "station", "treat": True, "treatments": [{"id": "t1", "kind": "soften", "size": 0}]}],
    )
    shot = apply(other, brought(origin(), ["sky", "station", "front"], other, before="station").edits)
    assert [one.id for one in shot.build] == ["sky", "station 2", "front", "station"]
    assert set(shot.sources) == {"render", "valley", "valley 2"}
    assert set(shot.mattes) == {"ball", "lamp", "ball 2", "both"}
    front = shot.card("front").model_dump(mode="json", by_alias=True)
    assert front["follow"] == "station 2"
    assert front["tuck"][0] == {"behind": "ball 2", "card": "station 2"}
    assert front["treatments"][0]["feed"] == {"matte": "lamp"}
    assert shot.card("sky").picture.source == "valley 2"  # type: ignore[union-attr]
    assert shot.mattes["both"].model_dump(mode="json")["mattes"] == ["ball 2", "lamp"]
    assert len({one.id for found in shot.cards() for one in found.treatments}) == 3


def test_what_is_followed_stays_behind_and_is_told() -> None:
    made = brought(origin(), ["front"], empty())
    assert made.left_out == ["what is followed of card front", "the tuck of card front"]
    assert apply(empty(), made.edits).card("front").follow is None


def test_a_bundle_comes_whole_and_a_matte_that_looks_elsewhere_is_refused() -> None:
    bundle = {"id": "bundle", "picture": {"kind": "bundle", "build": [PLATE, STATION]}}
    shot = shot_of([bundle])
    there = apply(shot, brought(shot, ["bundle"], shot).edits)
    assert [one.id for one in there.cards()] == ["bundle", "sky", "station", "bundle 2", "sky 2", "station 2"]
    looking = {"rim": {"kind": "alpha", "card": "station"}}
    shot = shot_of([STATION, {"id": "veil", "picture": {"kind": "solid"}, "cut": ["rim"]}], mattes=looking)
    with pytest.raises(UmbraxError, match="looks at station"):
        brought(shot, ["veil"], empty())
    both = apply(empty(), brought(shot, ["station", "veil"], empty()).edits)
    assert both.mattes["rim"].model_dump(mode="json")["card"] == "station"
    with pytest.raises(UmbraxError, match="no cards"):
        brought(shot, [], empty())
