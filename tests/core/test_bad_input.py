"""What could stop the program: patterns, mattes made of mattes, numbers without end. Each costs little, or is refused in words."""

import random
import re
import string
from collections.abc import Iterator
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from arrays import STATION, scene, shot_of
from umbrax.core.checkup.sequence import MOST, count_in, frames_in, holes_of, missing_frames
from umbrax.core.document.cards import Card
from umbrax.core.document.edits import Edit, apply
from umbrax.core.document.references import DEEPEST
from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError
from umbrax.core.mattes.ids import ids_of_names, matches
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.plan.reader import IdLayer


@given(st.text("ab_", max_size=12), st.text("ab_*", max_size=8))
def test_a_pattern_is_a_regular_expression_of_anything_between(text: str, pattern: str) -> None:
    wanted = re.compile(".*".join(map(re.escape, pattern.split("*"))), re.DOTALL).fullmatch(text) is not None
    if "*" in pattern:
        assert matches(text, pattern.split("*")) == wanted


def test_thirty_stars_among_thousands_of_names_are_found_by_going_through_each_once() -> None:
    """A backtracking match would never end here: every piece but the last is in every name, over and over."""
    names = {"a" * 200 + "".join(random.Random(n).choices(string.ascii_lowercase, k=6)): n + 1 for n in range(5000)}
    names["a" * 200 + "zzzzzz!"] = 6000
    layer = IdLayer("objects", "object", 6, None, names)  # type: ignore[arg-type]
    assert ids_of_names(("*a" * 30 + "*!",), layer) == frozenset({6000})


def doubled(count: int, how: str = "any_of", **more: Any) -> dict[str, Any]:
    """Mattes of which each is made of the one before it, twice."""
    chain = {"m0": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["ball"], **more}}
    for n in range(1, count):
        chain[f"m{n}"] = {"kind": "combined", "how": how, "mattes": [f"m{n - 1}", f"m{n - 1}"], **more}
    return chain


@pytest.mark.parametrize("more", [{}, {"refine": {"gamma": 2.0}}])
@pytest.mark.parametrize("placing", [{}, {"move": [3.0, 0.0]}])
def test_a_matte_that_is_used_twice_over_and_over_is_planned_once(placing: dict[str, Any], more: dict[str, Any]) -> None:
    """Two to the sixtieth ways lead to the first of them."""
    card = {**STATION, "cut": [f"m{DEEPEST - 5}"], **({"placing": placing} if placing else {})}
    shot = shot_of([card], mattes=doubled(DEEPEST - 4, **more))
    planner = ShotPlanner(shot, 1, scene())
    assert planner.picture() is not None
    assert planner.sources_of(f"m{DEEPEST - 5}") == {"station"}


def test_mattes_and_bundles_lie_in_one_another_only_so_often() -> None:
    with pytest.raises(UmbraxError, match="more than 64 times over"):
        shot_of([STATION], mattes=doubled(300))
    card: dict[str, Any] = STATION
    for n in range(20):
        card = {"id": f"b{n}", "picture": {"kind": "bundle", "build": [card]}}
    with pytest.raises(UmbraxError, match="more than 16 times over"):
        shot_of([card])


@pytest.mark.parametrize(
    "edit",
    [
        {"op": "set", "path": ["name", "first", "letter"], "value": 1},
        {"op": "insert", "path": ["name"], "item": {"id": "x"}},
        {"op": "insert", "path": ["format", "width"], "item": {"id": "x"}},
        {"op": "remove", "path": ["format", "width", "deeper"]},
        {"op": "move", "path": ["format", "width"]},
        {"op": "move", "path": ["build", "station", "picture", "kind"]},
    ],
)
def test_a_path_that_leads_through_a_number_or_a_name_is_refused(edit: dict[str, Any]) -> None:
    with pytest.raises(UmbraxError, match="there is no"):
        apply(shot_of([STATION]), [TypeAdapter(Edit).validate_python(edit)])


def test_holes_are_told_up_to_a_number_however_far_frames_lie_apart() -> None:
    assert holes_of([]) == []
    assert holes_of([4, 1, 7, 8]) == [(2, 3), (5, 6)]
    assert frames_in(holes_of([4, 1, 7])) == [2, 3, 5, 6]
    endless = holes_of([1, 99_999_999])
    assert (endless, count_in(endless)) == ([(2, 99_999_998)], 99_999_997)
    assert frames_in(endless) == list(range(2, 2 + MOST))
    finding = missing_frames("s", [1, 99_999_999])[0]
    assert finding.measure == {"missing": 99_999_997}
    assert len(finding.frames) == MOST


@pytest.mark.parametrize(("first", "last"), [(1, 10**10), (-(10**22), 1), (1, 2_000_000)])
def test_a_shot_has_only_so_many_frames(first: int, last: int) -> None:
    with pytest.raises(UmbraxError, match=r"frames|less than or equal|greater than or equal"):
        shot_of([STATION], format={"width": 10, "height": 10, "first": first, "last": last})


def test_references_are_checked_by_going_through_the_cards_as_often_for_many_mattes_as_for_one(monkeypatch: pytest.MonkeyPatch) -> None:
    """A shot with hundreds of mattes is checked after every edit, while a number is dragged."""
    asked: list[int] = []
    cards = Shot.cards

    def counted(shot: Shot) -> Iterator[Card]:
        asked[-1] += 1
        return cards(shot)

    monkeypatch.setattr(Shot, "cards", counted)
    for many in (1, 50):
        asked.append(0)
        shot_of([STATION], mattes={f"m {n}": {"kind": "combined", "how": "any_of", "mattes": ["ball"]} for n in range(many)})
    assert asked[0] == asked[1] > 0
