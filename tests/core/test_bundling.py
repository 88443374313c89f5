"""Bundles made and dissolved by edits: nothing changes in the picture, or it is said why not."""

from typing import Any

import numpy as np
import pytest

from arrays import PLATE, STATION, assert_near, card, make, scene, shot_of
from umbrax.core.document.bundling import dissolving, gathering
from umbrax.core.document.edits import apply
from umbrax.core.errors import UmbraxError

SHADOW = {"id": "shadow", "picture": {"kind": "shadow", "source": "station"}, "opacity": 0.7}
GRADED = card(STATION, treatments=[{"id": "t1", "kind": "grade", "exposure": 0.7, "through": "ball"}], opacity=0.8)
FINISH = {"id": "finish", "treat": True, "treatments": [{"id": "t2", "kind": "bloom", "size": 9.0}]}
FRONT = {"id": "front", "picture": {"kind": "solid", "alpha": 0.1}}


def gathered(shot: Any, *ids: str) -> Any:
    return apply(shot, gathering(shot, ids)[1])


def pixels(shot: Any) -> np.ndarray:
    return make(shot, scene()).pixels


def test_gathering_and_dissolving_leave_every_pixel_and_give_the_same_document() -> None:
    shot = shot_of([PLATE, SHADOW, GRADED, FINISH, FRONT])
    bundled = gathered(shot, "station", "shadow")
    assert [one.id for one in bundled.build] == ["sky", "bundle", "finish", "front"]
    assert [one.id for one in bundled.card("bundle").inside()] == ["shadow", "station"]
    assert_near(pixels(bundled), pixels(shot), 2e-6)
    assert apply(bundled, dissolving(bundled, "bundle")) == shot
    at_the_back = gathered(shot, "sky", "shadow", "station", "finish")
    assert_near(pixels(at_the_back), pixels(shot), 2e-6)
    assert apply(at_the_back, dissolving(at_the_back, "bundle")) == shot


def test_a_bundle_in_a_bundle() -> None:
    shot = gathered(gathered(shot_of([PLATE, SHADOW, GRADED, FRONT]), "shadow", "station"), "bundle", "front")
    assert [one.id for one in shot.cards()] == ["sky", "bundle 2", "bundle", "shadow", "station", "front"]
    inner = apply(shot, dissolving(shot, "bundle"))
    assert [one.id for one in inner.card("bundle 2").inside()] == ["shadow", "station", "front"]


def test_a_bundle_moved_by_whole_pixels_hands_that_to_its_cards() -> None:
    shot = gathered(shot_of([PLATE, SHADOW, card(GRADED, placing={"move": [2, 1]})]), "shadow", "station")
    moved = shot.model_copy(update={"build": (shot.build[0], shot.build[1].model_copy(update={"placing": placing(move=[7, -4])}))})
    apart = apply(moved, dissolving(moved, "bundle"))
    assert apart.card("station").placing.move == (9, -3)
    assert_near(pixels(apart), pixels(moved), 2e-6)


def placing(**more: Any) -> Any:
    return shot_of([card(STATION, placing=more)]).card("station").placing


@pytest.mark.parametrize(
    ("more", "reason"),
    [
        ({"opacity": 0.5}, "opacity"),
        ({"join": "screen"}, "joined by screen"),
        ({"placing": {"move": [0.5, 0]}}, "whole pixels"),
        ({"placing": {"turn": 3}}, "whole pixels"),
        ({"cut": ["ball"]}, "cut as one"),
        ({"treatments": [{"id": "s", "kind": "soften"}]}, "treated as one"),
    ],
)
def test_what_a_bundle_does_as_one_is_said(more: dict[str, Any], reason: str) -> None:
    shot = shot_of([PLATE, {"id": "b", "picture": {"kind": "bundle", "build": [SHADOW, GRADED]}, **more}])
    with pytest.raises(UmbraxError, match=reason):
        dissolving(shot, "b")


@pytest.mark.parametrize(
    ("inner", "reason"),
    [
        (FINISH, "treats only what is in it"),
        (card(GRADED, join="multiply"), "joined by multiply to only"),
        (card(STATION, treatments=[{"id": "w", "kind": "wrap"}]), "takes light"),
    ],
)
def test_what_its_cards_do_only_in_it_is_said_unless_it_lies_at_the_back(inner: dict[str, Any], reason: str) -> None:
    bundle = {"id": "b", "picture": {"kind": "bundle", "build": [SHADOW, inner]}}
    with pytest.raises(UmbraxError, match=reason):
        dissolving(shot_of([PLATE, bundle]), "b")
    back = shot_of([bundle, FRONT])
    assert_near(pixels(apply(back, dissolving(back, "b"))), pixels(back), 2e-6)


def test_cards_that_cannot_be_one_are_refused_by_name() -> None:
    shot = shot_of([PLATE, SHADOW, GRADED, FINISH, FRONT])
    with pytest.raises(UmbraxError, match="'station' lies between"):
        gathering(shot, ["shadow", "finish"])
    with pytest.raises(UmbraxError, match="treats what lies behind it"):
        gathering(shot, ["finish", "front"])
    with pytest.raises(UmbraxError, match="no bundle"):
        dissolving(shot, "front")
    with pytest.raises(UmbraxError, match="unknown card"):
        gathering(shot, ["nobody"])
