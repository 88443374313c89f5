"""A plate at another time than the shot's: all that is asked of its card is read then, and nothing else is."""

from typing import Any

import numpy as np
import pytest

from arrays import PLATE, STATION, ArrayReader, assert_near, card, scene, shot_of
from umbrax.core.document.parameters import MatteRef
from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Window
from umbrax.core.plan.cache import PictureCache
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.plan.reader import FrameInfo
from umbrax.core.plan.remembered import CardPlans
from umbrax.core.plan.steps import Step
from umbrax.core.plan.times import missing_in_shot, shown_at
from umbrax.core.touch import boxed, how_far, propose, touch

LAST = 3  # frame of the station
LOOPED = {"id": "loop", "picture": {"kind": "plate", "source": "station", "time": {"span": [1, LAST], "beyond": "loop"}}}
PLAIN = {"id": "loop", "picture": {"kind": "plate", "source": "station"}}
FRAME, SHOWN = 5, 2  # of the shot, and what is shown there of three that loop


class Clip(ArrayReader):
    """The scene moves, and the station ends sooner than the shot."""

    def __init__(self) -> None:
        super().__init__(**scene().sources)
        self.frames: set[tuple[str, int]] = set()
        self.versions: dict[int, str] = {}

    def describe(self, source: str, frame: int) -> FrameInfo:
        if source == "station" and frame > LAST:
            raise UmbraxError("missing-frame", f"source {source!r} has no frame {frame}")
        info = super().describe(source, frame)
        version = self.versions.get(frame, "") if source == "station" else ""
        return FrameInfo(f"{info.identity} {frame} {version}", info.display, info.passes, info.ids)

    def pixels(self, source: str, frame: int, name: str, window: Window, shown: bool = False) -> np.ndarray:
        self.frames.add((source, frame))
        kind, whole = self.sources[source].passes[name]
        del kind
        moved = np.roll(whole, 7 * frame, axis=1)
        return moved[window.y0 : window.y1, window.x0 : window.x1].copy()

    def ranks(self, source: str, frame: int, layer: str, window: Window) -> tuple[np.ndarray, np.ndarray]:
        self.frames.add((source, frame))
        ids, coverage, _ = self.sources[source].ids[layer]
        part = (slice(None), slice(window.y0, window.y1), slice(window.x0, window.x1))
        return np.roll(ids, 7 * frame, axis=2)[part].copy(), np.roll(coverage, 7 * frame, axis=2)[part].copy()


def made(shot: Shot, frame: int, scale: int = 1, reader: Clip | None = None, plans: CardPlans | None = None) -> np.ndarray:
    """As the engine makes it."""
    step = ShotPlanner(shot, frame, reader or Clip(), plans=CardPlans() if plans is None else plans).picture(None, scale)
    return evaluate(step, shot.format.display.scaled(scale), PictureCache(1 << 28)).pixels


BRIGHT = {"kind": "key", "source": "station", "pass": "rgba", "colour": [0.6, 0.45, 0.3], "tolerance": 0.3}
TREATMENTS: list[dict[str, Any]] = [
    {"kind": "grade", "exposure": 1.0, "through": "ball"}, {"kind": "grade", "exposure": 1.0, "through": "bright"},
    {"kind": "bloom", "size": 12.0}, {"kind": "bloom", "size": 12.0, "feed": {"matte": "lamp"}, "threshold": 0.0},
    {"kind": "halo", "size": 12.0, "feed": {"pass": "emission"}}, {"kind": "defocus", "focus": 4.0, "radius": 6.0},
    {"kind": "motion_blur"}, {"kind": "haze"}, {"kind": "outline", "of": "ball", "width": 3.0},
]  # fmt: skip


@pytest.mark.parametrize("treatment", [None, *TREATMENTS], ids=lambda one: "none" if one is None else f"{one['kind']} {len(one)}")
@pytest.mark.parametrize("more", [{}, {"cut": ["ball"]}, {"placing": {"move": [3.5, -2.0]}}], ids=["", "cut", "placed"])
def test_a_plate_that_loops_is_what_it_was_then(treatment: dict[str, Any] | None, more: dict[str, Any]) -> None:
    """Treatments, mattes and depth included, at full size and in a preview, long after the last of its frames."""
    treatments = [] if treatment is None else [{"id": "t", **treatment}]
    looped, plain = (shot_of([card(one, treatments=treatments, **more)], mattes={"bright": BRIGHT}) for one in (LOOPED, PLAIN))
    for scale in (1, 2, 8):
        np.testing.assert_array_equal(made(looped, FRAME, scale), made(plain, SHOWN, scale))
    assert np.abs(made(plain, SHOWN) - made(plain, 1)).max() > 0.1, "it moves"


def test_what_else_is_in_the_shot_is_read_at_its_own_frame() -> None:
    """A plate of the valley that loops, cut by what the station shows at the frame of the shot."""
    valley = card(PLATE, picture={"kind": "plate", "source": "valley", "time": {"span": [1, 1]}}, cut=["ball"])
    reader = Clip()
    made(shot_of([valley, card(STATION, cut=["lamp"])]), 3, reader=reader)
    assert reader.frames == {("valley", 1), ("station", 3)}


def test_the_alpha_of_another_card_is_of_its_own_time() -> None:
    """Two cards show one source at two times, and one is cut by the alpha of the other."""
    other = {"id": "other", "picture": {"kind": "pass", "source": "station", "pass": "rgba"}}
    looped = shot_of([card(LOOPED, cut=["of the other"]), other], mattes={"of the other": {"kind": "alpha", "card": "other"}})
    build = ShotPlanner(looped, 3, Clip(), plans=CardPlans())
    held = card(LOOPED, picture={"kind": "plate", "source": "station", "time": {"span": [1, 1]}}, cut=["of the other"])
    at_one = ShotPlanner(shot_of([held, other], mattes={"of the other": {"kind": "alpha", "card": "other"}}), 3, Clip())
    reader = Clip()
    window = looped.format.display
    alpha, still = (evaluate(one.card("loop"), window, PictureCache(1 << 28)).pixels[..., 3] for one in (build, at_one))
    own = {frame: reader.pixels("station", frame, "rgba", window)[..., 3] for frame in (1, 3)}
    assert_near(alpha, own[3] * own[3], 1e-6)
    assert_near(still, own[1] * own[3], 1e-6)


def test_a_matte_is_looked_at_as_the_card_uses_it() -> None:
    shot = shot_of([card(LOOPED, cut=["ball"])])
    step = ShotPlanner(shot, FRAME, Clip()).coverage(MatteRef(matte="ball"), 1)
    plain = ShotPlanner(shot_of([card(PLAIN, cut=["ball"])]), SHOWN, Clip()).coverage(MatteRef(matte="ball"), 1)
    found, expected = (evaluate(one, shot.format.display, PictureCache(1 << 28)).pixels for one in (step, plain))
    np.testing.assert_array_equal(found, expected)
    assert found.max() == 1


def test_plans_that_are_kept_know_when_their_files_are_read() -> None:
    reader, plans = Clip(), CardPlans()
    shot = shot_of([LOOPED])

    def key(of: Shot) -> str:
        return ShotPlanner(of, FRAME, reader, plans=plans).picture().key

    before = key(shot)
    assert key(shot) == before
    reader.versions[1] = "rendered again"
    assert key(shot) == before, "it is another frame that is shown"
    reader.versions[SHOWN] = "rendered again"
    assert key(shot) != before
    later = shot.model_copy(update={"format": shot.format.model_copy(update={"first": 2})})
    assert key(later) == ShotPlanner(later, FRAME, reader).picture().key != key(shot)


def test_a_source_that_is_looked_at_by_itself_is_that_of_its_card() -> None:
    looped, plain = ShotPlanner(shot_of([LOOPED]), FRAME, Clip()), ShotPlanner(shot_of([PLAIN]), SHOWN, Clip())
    window = looped.display
    for look in (lambda one: one.pass_picture("station", "depth", 2), lambda one: one.ids_picture("station", "object_ids", 2)):
        found, expected = (evaluate(look(one), window.scaled(2), PictureCache(1 << 28)).pixels for one in (looped, plain))
        np.testing.assert_array_equal(found, expected)
    assert touch(looped.shot, Clip(), FRAME, 68, 47, source="station") == touch(plain.shot, Clip(), SHOWN, 68, 47, source="station") is not None
    assert [shown_at(looped.shot, name, FRAME) for name in ("station", "valley")] == [SHOWN, FRAME]
    hidden = shot_of([card(LOOPED, enabled=False), card(STATION, id="in front", enabled=False)])
    assert shown_at(hidden, "station", FRAME) == FRAME
    assert shown_at(shot_of([LOOPED, card(STATION, id="in front", enabled=False)]), "station", FRAME) == SHOWN


@pytest.mark.parametrize(
    ("build", "present", "missing"),
    [
        ([LOOPED], {1, 2, 3}, []),
        ([LOOPED], {1, 3}, [2, 5, 8]),
        ([PLAIN], {1, 2, 3}, [4, 5, 6, 7, 8, 9, 10]),
        ([STATION], {1, 2, 3}, [4, 5, 6, 7, 8, 9, 10]),
        ([PLATE], set(range(9)), [9, 10]),
        ([LOOPED, card(PLATE, cut=["ball"])], set(range(10)), [10]),
        ([LOOPED, card(PLATE, treatments=[{"id": "t", "kind": "texture", "source": "station"}])], set(range(10)), [10]),
    ],
)  # fmt: skip
def test_frames_are_missing_only_where_they_are_read(build: list[dict[str, Any]], present: set[int], missing: list[int]) -> None:
    assert missing_in_shot(shot_of(build), "station", present) == missing


def plane(step: Step) -> np.ndarray:
    return evaluate(step, Window(0, 0, 120, 90), PictureCache(1 << 28)).pixels[..., 0]


def test_a_touch_is_answered_by_the_frame_that_is_shown() -> None:
    looped, plain, reader = shot_of([LOOPED]), shot_of([PLAIN]), Clip()
    x, y = 54 + 7 * SHOWN, 47
    found, expected = touch(looped, reader, FRAME, x, y), touch(plain, reader, SHOWN, x, y)
    assert found == expected
    assert found is not None
    assert found.time == SHOWN
    planners = ShotPlanner(looped, FRAME, reader), ShotPlanner(plain, SHOWN, reader)
    assert how_far(planners[0], found) == how_far(planners[1], found) is not None
    assert boxed(looped, reader, FRAME, Window(0, 0, 120, 90)) == boxed(plain, reader, SHOWN, Window(0, 0, 120, 90)) is not None
    offered = [
        propose(one, found, lambda step: evaluate(step, Window(0, 0, 120, 90), PictureCache(1 << 28)).pixels[..., 0]) for one in planners
    ]
    assert [one.offer for one in offered[0]] == [one.offer for one in offered[1]] != []
    np.testing.assert_array_equal(offered[0][0].matte, offered[1][0].matte)
