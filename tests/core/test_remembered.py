"""Plans of cards kept from one plan of a shot to the next, and a cache that lets the least worth go."""

from typing import Any

import numpy as np
import pytest

from arrays import PLATE, STATION, card, make, scene, shot_of
from umbrax.core.document.edits import SetValue, apply
from umbrax.core.document.parameters import MatteRef
from umbrax.core.document.shot import Shot
from umbrax.core.picture import Picture, Window
from umbrax.core.plan.cache import PictureCache
from umbrax.core.plan.cards import CardPlanner
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.plan.remembered import CardPlans, KnownParts

GRADE = {"id": "t", "kind": "grade", "exposure": {"keys": [[1, 0.5, "linear"], [9, 1.5, "linear"]]}, "through": "ball"}
WRAP = {"id": "w", "kind": "wrap"}
INNER = card(STATION, id="inner", cut=["ball"])
SHOT = shot_of([
    PLATE, card(STATION, treatments=[GRADE]), card(STATION, id="moved", placing={"move": [3, 2]}, cut=["lamp"]),
    card(STATION, id="wrapped", treatments=[WRAP]), {"id": "b", "picture": {"kind": "bundle", "build": [INNER]}},
    {"id": "finish", "treat": True, "treatments": [{"id": "g", "kind": "bloom"}]},
])  # fmt: skip


@pytest.fixture
def planned(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """The cards that are really planned, in their order."""
    names: list[str] = []
    made = CardPlanner.made
    monkeypatch.setattr(CardPlanner, "made", lambda self, scale: (names.append(self.card.id), made(self, scale))[1])
    return names


def key(shot: Shot, plans: CardPlans | None, frame: int = 1, scale: int = 1) -> str:
    return ShotPlanner(shot, frame, scene(), plans=plans).picture(None, scale).key


CHANGES: list[tuple[tuple[str, ...], Any]] = [
    (("build", "station", "opacity"), 0.5), (("build", "station", "treatments", "t", "exposure"), 2.0), (("mattes", "ball", "names"), ["lamp"]),
    (("mattes", "lamp", "refine", "grow"), 2.0), (("build", "moved", "placing", "move"), [9, 9]), (("build", "sky", "enabled"), False),
    (("build", "b", "picture", "build", "inner", "opacity"), 0.2), (("build", "wrapped", "treatments", "w", "width"), 3.0),
    (("sources", "station", "passes"), {"depth": {"round": True}}), (("build", "b", "placing", "turn"), 30.0),
]  # fmt: skip


@pytest.mark.parametrize(("path", "value"), CHANGES)
def test_a_remembered_plan_is_the_plan(path: tuple[str, ...], value: Any) -> None:
    """After every kind of edit, at other frames and scales: the same key as planned anew."""
    plans = CardPlans()
    for shot in (SHOT, apply(SHOT, [SetValue(op="set", path=path, value=value)]), SHOT):
        for frame, scale in ((1, 1), (5, 1), (1, 4), (1, 8)):
            assert key(shot, plans, frame, scale) == key(shot, None, frame, scale)


@pytest.mark.parametrize(("path", "value"), [(("build", "moved", "picture"), {"kind": "solid"}), (("build", "moved", "enabled"), False)])
def test_a_plan_knows_which_cards_show_the_source_of_its_mattes(path: tuple[str, ...], value: Any) -> None:
    """A matte stands where the frontmost card stands that shows what it is pulled from."""
    moved = card(STATION, id="moved", placing={"move": [3, 2]})
    shot, plans = shot_of([card(PLATE, cut=["ball"]), STATION, moved]), CardPlans()
    edited = apply(shot, [SetValue(op="set", path=path, value=value)])
    keys = {key(one, plans) for one in (shot, edited)}
    assert keys == {key(shot, None), key(edited, None)}


def test_an_edit_plans_only_its_card_and_what_looks_at_others(planned: list[str]) -> None:
    plans = CardPlans()
    key(SHOT, plans)
    assert set(planned) == {"sky", "station", "moved", "wrapped", "b", "inner", "finish"}
    planned.clear()
    key(apply(SHOT, [SetValue(op="set", path=("build", "moved", "opacity"), value=0.5)]), plans)
    assert set(planned) == {"moved", "wrapped", "finish"}
    planned.clear()
    key(SHOT, plans, frame=2)
    assert "station" in planned, "keyed: another frame is another card"


def test_an_edit_leaves_the_rest_of_the_document_the_same_objects() -> None:
    edited = apply(SHOT, [SetValue(op="set", path=("build", "moved", "opacity"), value=0.5)])
    assert [one is other for one, other in zip(edited.build, SHOT.build, strict=True)] == [True, True, False, True, True, True]
    assert edited.mattes["ball"] is SHOT.mattes["ball"]


def test_what_another_file_holds_is_another_plan() -> None:
    plans, reader = CardPlans(), scene()
    before = ShotPlanner(SHOT, 1, reader, plans=plans).picture().key
    reader.sources["station"].version = "2"
    assert ShotPlanner(SHOT, 1, reader, plans=plans).picture().key != before


def test_plans_are_let_go_the_longest_unused_first() -> None:
    plans = CardPlans(most=2)
    for name in "ab":
        plans.put(name, name)  # type: ignore[arg-type]
    plans.get("a")
    plans.put("c", "c")  # type: ignore[arg-type]
    assert (plans.get("a"), plans.get("b"), plans.get("c"), len(plans)) == ("a", None, "c", 2)


def test_what_is_known_of_a_part_is_known_of_that_object_and_of_no_later_one_in_its_place() -> None:
    asked: list[str] = []

    def found(part: MatteRef) -> str:
        asked.append(part.matte)
        return part.matte

    parts = KnownParts(most=3)
    stays = MatteRef(matte="stays")
    for number in range(50):
        assert parts.of(MatteRef(matte=str(number)), found) == str(number)
        assert parts.of(stays, found) == "stays"
    assert len(set(asked)) == 51
    assert 1 < asked.count("stays") < 30, "found again only after three others were"


def kept(cache: PictureCache, names: str) -> str:
    return "".join(name for name in names if cache.get(name, Window(0, 0, 1, 1)))


def picture(side: int) -> Picture:
    return Picture(np.zeros((side, side, 1), np.float32), Window(0, 0, side, side))


def test_the_cheapest_by_byte_goes_first_and_what_is_used_stays() -> None:
    cache = PictureCache(4 * 3 * 100)
    for name, seconds in (("a", 1.0), ("b", 0.001), ("c", 0.5)):
        cache.put(name, picture(10), seconds)
    cache.put("d", picture(10), 0.2)
    assert kept(cache, "abcd") == "acd"
    for _ in range(256 * 8):  # d is wanted on and on: the others lose their worth
        cache.get("d", Window(0, 0, 1, 1))
    cache.put("e", picture(10), 0.002)
    assert kept(cache, "acde") == "ade", "c was worth less than a, and both rested"
    assert cache.size == 3 * 400
    assert cache.counters.evicted == 2


def test_put_again_and_many_puts_keep_the_count_of_bytes() -> None:
    cache, rng = PictureCache(100_000), np.random.default_rng(0)
    for number in range(3000):
        cache.put(f"k{rng.integers(0, 60)}", picture(int(rng.integers(1, 60))), float(rng.random()))
        if number % 3 == 0:
            cache.get(f"k{rng.integers(0, 60)}", Window(0, 0, 1, 1))
        assert cache.size <= 100_000
    held = sum(p.pixels.nbytes for n in range(60) if (p := cache.get(f"k{n}", Window(0, 0, 1, 1))) is not None)
    assert held == cache.size


def test_pictures_from_remembered_plans_are_the_same() -> None:
    plans, reader = CardPlans(), scene()
    from umbrax.core.plan.evaluate import evaluate

    for _ in range(2):
        step = ShotPlanner(SHOT, 3, reader, plans=plans).picture()
        got = evaluate(step, Window(0, 0, 120, 90), PictureCache(1 << 28)).pixels
        assert np.array_equal(got, make(SHOT, scene(), frame=3).pixels)
