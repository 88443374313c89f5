"""What a treatment may look at: a test's own treatments ask for each of it, in each stage."""

from typing import Any, Literal

import numpy as np
import pytest

from arrays import PLATE, STATION, assert_near, card, make, scene, shot_of
from umbrax.core.document import cards as models
from umbrax.core.document.parameters import MatteRef
from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError
from umbrax.core.kernels.resample import reduce_area
from umbrax.core.picture import Picture, Window
from umbrax.core.plan.cache import PictureCache
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.treatments import TREATMENTS
from umbrax.core.treatments.base import STAGES, Around, Stage, Treatment, TreatmentParams

SEEN: dict[str, Picture] = {}


class AskingParams(TreatmentParams):
    kind: Literal["asking"]


def looks(params: Any, around: Around) -> dict[str, Any]:
    return {"below": around.below(), "depth": around.of_pass("depth"), "ball": around.matte(MatteRef(matte="ball"))}


def apply(params: Any, own: Picture, window: Window, scale: int, **given: Picture) -> Picture:
    SEEN.update(given)
    return Picture(own.crop(window).pixels, window, own.edge)


def asking(stage: Stage) -> Treatment:
    wide = dict.fromkeys(("below", "depth"), "whole")
    return Treatment(
        "asking", "Asking", stage, AskingParams, 1, apply, lambda p: False, lambda p, s: 2, (0, 0), looks=looks, lays=lambda p: "over",
        needs=lambda params, window, scale: wide,  # type: ignore[arg-type,return-value]
    )  # fmt: skip


@pytest.fixture(params=[stage for stage in STAGES if stage != "light"])
def stage(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> str:
    SEEN.clear()
    monkeypatch.setitem(TREATMENTS._entries, "asking", asking(request.param))
    return str(request.param)


def with_asking(build: list[dict[str, Any]], at: int) -> Any:
    shot = shot_of(build)
    asked = AskingParams(id="ask", kind="asking")
    changed = tuple(one.model_copy(update={"treatments": (asked,)}) if i == at else one for i, one in enumerate(shot.build))
    assert isinstance(changed[at], models.Card)
    return shot.model_copy(update={"build": changed})


@pytest.mark.parametrize("n", [1, 2])
@pytest.mark.parametrize("move", [(0, 0), (16, -8)])
def test_it_gets_what_it_asked_for_where_its_card_stands(stage: str, move: tuple[int, int], n: int) -> None:
    placing = {"placing": {"move": list(move)}} if move != (0, 0) else {}
    shot, reader = with_asking([PLATE, card(STATION, **placing)], 1), scene()
    whole = Window(0, 0, 120, 90).scaled(n)
    make(shot, reader, scale=n, kept=False)  # of no kind that a document has
    planner = ShotPlanner(shot_of([PLATE, STATION]), 1, reader)
    plain = {
        "below": planner.picture("sky", n), "depth": planner.read("station", "depth", n), "ball": planner.coverage(MatteRef(matte="ball"), n)
    }  # fmt: skip
    # in the picture's own pixels what is behind is moved back; later what is of the card is moved with it
    back = (-move[0] // n, -move[1] // n) if stage == "colour" else (0, 0)
    along = (0, 0) if stage == "colour" else (move[0] // n, move[1] // n)
    for name, step in plain.items():
        x, y = back if name == "below" else along
        wanted = evaluate(step, Window(-40, -40, 140, 110), PictureCache(1 << 28)).crop(
            Window(whole.x0 - x, whole.y0 - y, whole.x1 - x, whole.y1 - y)
        )
        inside = np.s_[12:-12, 20:-20]
        assert np.allclose(SEEN[name].crop(whole).pixels[inside], wanted.pixels[inside], atol=1e-6, equal_nan=True), name


def test_a_pass_is_asked_of_a_card_of_one_source_only(stage: str) -> None:
    solid = {"id": "solid", "picture": {"kind": "solid"}}
    with pytest.raises(UmbraxError, match="not made of one source") as refused:
        make(with_asking([PLATE, solid], 1), scene(), kept=False)
    assert (refused.value.where.card, refused.value.where.treatment) == ("solid", "ask")


def test_what_a_treatment_lays_on_a_card_is_looked_at_by_itself() -> None:
    """A wrap's light inside the element's rim, and nothing of the element; an error where a treatment lays nothing."""
    shot = shot_of([PLATE, card(STATION, treatments=[{"id": "w", "kind": "wrap"}, {"id": "g", "kind": "grade", "exposure": 1}])])
    planner = ShotPlanner(shot, 1, scene())
    laid = evaluate(planner.laid("station", "w"), Window(0, 0, 120, 90), PictureCache(1 << 28)).pixels
    own = evaluate(planner.card("station"), Window(0, 0, 120, 90), PictureCache(1 << 28)).pixels
    assert 0.02 < laid[..., :3].max() < own[..., :3].max()
    assert not laid[own[..., 3] == 0].any()
    with pytest.raises(UmbraxError, match="lays nothing"):
        planner.laid("station", "g")


def test_a_near_shadow_looked_at_by_itself_is_whole_in_previews() -> None:
    """Of the shot's previews it has only what of it is seen."""
    planner = ShotPlanner(shot_of([PLATE, card(STATION, treatments=[{"id": "c", "kind": "cast", "distance": 3.0}])]), 1, scene())
    whole = evaluate(planner.laid("station", "c"), Window(0, 0, 120, 92), PictureCache(1 << 28)).pixels
    for n in (2, 4):
        small = evaluate(planner.laid("station", "c", n), Window(0, 0, 120 // n, 92 // n), PictureCache(1 << 28)).pixels
        assert_near(small, reduce_area(whole, n), 1e-6)


def test_what_is_not_in_focus_is_coloured_by_its_side() -> None:
    """The ball's depth rises from left to right: warm in front of what is sharp, cool behind it."""
    shot = shot_of([PLATE, card(STATION, treatments=[{"id": "d", "kind": "defocus", "focus": 6.0, "radius": 12.0}])])
    planner = ShotPlanner(shot, 1, scene())
    looked = evaluate(planner.focus("station"), Window(0, 0, 120, 90), PictureCache(1 << 28)).pixels
    own = evaluate(planner.before_placing("station", 1), Window(0, 0, 120, 90), PictureCache(1 << 28)).pixels
    near, sharp, far = ((55, x) for x in (30, 45, 76))
    assert looked[near][0] - looked[near][2] > own[near][0] - own[near][2] + 0.1
    assert looked[far][2] - looked[far][0] > own[far][2] - own[far][0] + 0.1
    assert np.array_equal(looked[sharp], own[sharp])
    with pytest.raises(UmbraxError, match="not defocused"):
        planner.focus("sky")


@pytest.mark.parametrize(
    "treatment",
    [
        {"kind": "wrap", "width": 4.0, "size": 6.0}, {"kind": "bleed", "width": 4.0, "size": 6.0},
        {"kind": "bloom", "hidden": True, "threshold": 0.0}, {"kind": "bloom", "feed": {"card": "cut"}, "threshold": 0.0},
    ],
)  # fmt: skip
@pytest.mark.parametrize("in_front", [False, True])
def test_a_card_is_cut_by_the_alpha_of_one_that_looks_at_it(treatment: dict[str, Any], in_front: bool) -> None:
    """What holds a plate out of an element, and light of that plate on the element: not a circle, the element's own alpha is meant."""
    looking = card(STATION, id="looking", cut=["ball"], placing={"move": [5, 3]}, treatments=[{"id": "t", **treatment}])
    alike = card(looking, id="alike", treatments=[], enabled=False)

    def shot(by: str) -> Shot:
        held_out = {"id": "cut", "picture": {"kind": "pass", "source": "valley"}, "cut": [{"matte": "held", "invert": True}]}
        build = [PLATE, looking, held_out] if in_front else [PLATE, held_out, looking]
        return shot_of([*build, alike], mattes={"held": {"kind": "alpha", "card": by}})

    for scale in (1, 2):
        found, expected = (make(shot(by), scene(), scale=scale).pixels for by in ("looking", "alike"))
        np.testing.assert_array_equal(found, expected)
        without = make(shot("alike").model_copy(update={"build": shot("alike").build[:1]}), scene(), scale=scale).pixels
        assert np.abs(found - without).max() > 0.01
