"""Plans: only what is needed, each once, and nothing at all for what has no effect."""

from typing import Any

import numpy as np
import pytest

from arrays import PLATE, STATION, ArrayReader, ArraySource, card, make, scene, shot_of
from umbrax.core.picture import Window
from umbrax.core.plan.cache import PictureCache
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.plan.steps import Step


def treated(*treatments: dict[str, Any], **more: Any) -> list[dict[str, Any]]:
    return [PLATE, card(STATION, treatments=[{"id": f"t{n}", **t} for n, t in enumerate(treatments)], **more)]


def steps_of(build: list[dict[str, Any]], frame: int = 1, scale: int = 1, **rest: Any) -> list[Step]:
    found: dict[str, Step] = {}
    waiting = [ShotPlanner(shot_of(build, **rest), frame, scene()).picture(None, scale)]
    while waiting:
        step = waiting.pop()
        if step.key not in found:
            found[step.key] = step
            waiting.extend(step.inputs)
    return list(found.values())


def key_of(build: list[dict[str, Any]], frame: int = 1, scale: int = 1, **rest: Any) -> str:
    return ShotPlanner(shot_of(build, **rest), frame, scene()).picture(None, scale).key


@pytest.mark.parametrize("idle", [
    {"kind": "grade"}, {"kind": "grade", "exposure": 2, "enabled": False}, {"kind": "grade", "exposure": 2, "amount": 0},
    {"kind": "soften", "size": 0}, {"kind": "bloom", "amount": 0}, {"kind": "bloom", "tint": [0, 0, 0]},
])  # fmt: skip
def test_what_has_no_effect_is_not_in_the_plan(idle: dict[str, Any]) -> None:
    assert key_of(treated(idle)) == key_of([PLATE, STATION])


def test_names_and_matte_names_change_no_pixels_and_no_keys() -> None:
    plain = key_of(treated({"kind": "grade", "exposure": 1, "through": "ball"}))
    assert key_of(treated({"kind": "grade", "exposure": 1, "through": "ball", "name": "warmer"}, name="hut")) == plain
    again = {"again": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["ball"]}}
    assert key_of(treated({"kind": "grade", "exposure": 1, "through": "again"}), mattes=again) == plain, "another name for the same matte"


def test_a_still_shot_has_one_key_on_all_frames_and_a_keyed_number_has_its_own() -> None:
    assert key_of(treated({"kind": "grade", "exposure": 1}), frame=1) == key_of(treated({"kind": "grade", "exposure": 1}), frame=7)
    ramp = {"kind": "grade", "exposure": {"keys": [[1, 0.5, "linear"], [9, 1.5, "linear"]]}}
    assert len({key_of(treated(ramp), frame=frame) for frame in range(1, 10)}) == 9
    held = {"kind": "grade", "exposure": {"keys": [[1, 0.5, "hold"], [9, 1.5, "hold"]]}}
    assert len({key_of(treated(held), frame=frame) for frame in range(1, 10)}) == 2


def test_scales_and_settings_have_keys_of_their_own() -> None:
    keys = {key_of(treated({"kind": "soften", "size": size}), scale=n) for size in (3.0, 4.0) for n in (1, 2, 4)}
    assert len(keys) == 6


def test_a_source_is_read_once_however_many_cards_show_it() -> None:
    reader = scene()
    copies = [card(STATION, id=f"c{n}", opacity=0.5) for n in range(4)]
    make(shot_of([PLATE, *copies]), reader)
    assert len(reader.read) == len(set(reader.read))


class WindowReader(ArrayReader):
    """Notes how much was asked for."""

    def __init__(self, **sources: ArraySource):
        super().__init__(**sources)
        self.windows: list[Window] = []

    def pixels(self, source: str, frame: int, name: str, window: Window, shown: bool = False) -> np.ndarray:
        self.windows.append(window)
        return super().pixels(source, frame, name, window)


def test_only_the_window_and_what_it_needs_around_it_is_read() -> None:
    for size, least, most in ((0.0, 10, 10), (2.0, 10, 40)):
        reader = WindowReader(**scene().sources)
        make(shot_of(treated({"kind": "soften", "size": size})), reader, window=Window(50, 40, 60, 50))
        widest = max(window.width for window in reader.windows)
        assert least <= widest <= most


def test_an_element_of_nothing_leaves_the_plate_bit_for_bit() -> None:
    shot = shot_of(
        [PLATE, card(STATION, picture={"kind": "rebuild", "source": "far"})], sources={n: {"path": n} for n in ("far", "station", "valley")}
    )
    nobody = {"rgba": ("beauty", np.zeros((90, 120, 4), np.float32)), "diffuse": ("diffuse", np.zeros((90, 120, 3), np.float32))}
    reader = ArrayReader(far=ArraySource(nobody), **scene().sources)
    out = evaluate(ShotPlanner(shot, 1, reader).picture(), Window(0, 0, 5, 5), PictureCache(1 << 28))
    assert np.array_equal(out.pixels[..., :3], scene().sources["valley"].passes["rgba"][1][:5, :5])


def test_upto_a_card_is_the_shot_that_ends_there() -> None:
    build = [
        *treated({"kind": "grade", "exposure": 1}),
        {"id": "finish", "treat": True, "treatments": [{"id": "x", "kind": "soften", "size": 4}]},
    ]
    planner = ShotPlanner(shot_of(build), 1, scene())
    for number, name in enumerate(("sky", "station", "finish"), 1):
        assert planner.picture(name).key == key_of(build[:number])


def test_every_step_says_what_it_is_and_where_it_belongs() -> None:
    steps = steps_of(treated({"kind": "grade", "exposure": 1, "through": "ball"}, {"kind": "bloom"}))
    assert all(step.what and step.channels in (1, 2, 3, 4) for step in steps)
    named = {(step.where.card, step.where.treatment) for step in steps if step.what in ("grade", "bloom")}
    assert named == {("station", "t0"), ("station", "t1")}
