"""Every treatment at both ends of every setting: numbers that are numbers, in the memory that a picture of the frame's size takes."""

import tracemalloc
from collections.abc import Iterator
from itertools import product
from typing import Any

import numpy as np
import pytest

from arrays import PLATE, STATION, assert_near, card, make, scene, shot_of
from umbrax.core.document.text import read_text
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Window
from umbrax.core.plan.cache import PictureCache
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.steps import Step
from umbrax.core.treatments import TREATMENTS

REFUSED = {"nothing-above", "no-depth", "several-sources", "unknown-pass"}  # rightly, of this one card
ROOM = (120 + 1000) * (90 + 1000) * 16  # bytes of a picture of the frame and of what 500 pixels around it have to do with it
MOST = 40 * ROOM  # alive at once
POWERS = ("power", "gamma", "contrast")  # light of 30 to the power of 100 is no number that a pixel could hold
NOT_SET = {"id", "kind", "name", "enabled", "through", "lay", "source", "pass", "camera", "depth", "motion"}
FURTHER = ["bezier", 0, -3, 1, 4]  # goes far below the first key and far above the second on its way


def settings(kind: str) -> Iterator[tuple[str, dict[str, Any]]]:
    for name, schema in TREATMENTS.get(kind).params.model_json_schema(by_alias=True)["properties"].items():
        if name not in NOT_SET:
            forms = [one for one in (*schema.get("oneOf", ()), *schema.get("anyOf", ())) if one.get("type") not in (None, "null")]
            yield name, schema | (forms[0] if forms else {})


def ends(schema: dict[str, Any]) -> list[Any]:
    """The least and the largest of what a setting may be, or all that it may be."""
    if "prefixItems" in schema:
        low, high = zip(*(ends(one) for one in schema["prefixItems"]), strict=True)
        return [list(low), list(high), [low[0], *high[1:]]]
    number = schema.get("type") in ("number", "integer")
    return [schema["minimum"], schema["maximum"]] if number else list(schema.get("enum", ()))


def on_its_way(schema: dict[str, Any]) -> list[Any]:
    """Keys from one end to the other that overshoot both; a lamp that goes out and on."""
    if not schema.get("animated"):
        return []
    low, high = ends(schema)[:2]
    trembles = [{"flicker": 1.0, "of": high, "every": 1.0}] if schema.get("type") == "number" else []
    return [{"keys": [[1, low, FURTHER], [5, high, FURTHER], [9, low, "linear"]]}, *trembles]


def tried(kind: str, name: str, value: Any, frame: int) -> tuple[np.ndarray, int] | UmbraxError:
    """The finished picture and the most memory that was taken, or why it was refused."""
    more: dict[str, Any] = {"source": "valley"} if kind == "texture" else {}
    if name == "amount" and "lay" in TREATMENTS.get(kind).params.model_fields:
        more["lay"] = {"join": "plus"}
    treated = card(STATION, treatments=[{"id": "t", "kind": kind, **more, name: value}])
    reader = scene()
    tracemalloc.start()
    try:
        return make(shot_of([PLATE, treated]), reader, frame=frame).pixels, tracemalloc.get_traced_memory()[1]
    except UmbraxError as error:
        return error
    finally:
        tracemalloc.stop()


@pytest.mark.parametrize("kind", TREATMENTS.kinds())
def test_a_setting_at_its_ends_and_past_them_gives_numbers_in_the_memory_of_a_frame(kind: str) -> None:
    make(shot_of([PLATE, card(STATION, treatments=[{"id": "t", "kind": "grade", "exposure": 1}])]), scene())
    for name, schema in settings(kind):
        for value, frame in product((*ends(schema), *on_its_way(schema)), (2, 7)):
            got = tried(kind, name, value, frame)
            if isinstance(got, UmbraxError):
                assert got.code in REFUSED or "lay the treatment on its input" in got.message, f"{name} {value}: {got}"
                continue
            pixels, most = got
            assert name in POWERS or np.isfinite(pixels).all(), f"{name} {value}"
            assert most < MOST, f"{name} {value}: {most / ROOM:.0f} pictures"


def test_what_there_is_no_memory_for_is_refused_by_its_place_before_anything_is_made() -> None:
    ramp = {"kind": "gradient", "stops": [{"at": 0, "colour": [0, 0, 0]}, {"at": 1, "colour": [1, 1, 1]}]}
    wide = {"id": "t", "kind": "soften", "size": 1000, "aspect": 100}
    endless = {"id": "sky", "picture": ramp, "placing": {"turn": 10}, "treatments": [wide]}
    cache = PictureCache(1 << 28)
    with pytest.raises(UmbraxError, match=r"takes a picture of \d+ x \d+ pixels, and there is memory for 268 million; make what") as told:
        make(shot_of([endless]), scene(), cache=cache)
    assert (told.value.code, told.value.where.card) == ("too-large", "sky")
    assert not cache.counters.computed


def test_a_step_that_finds_no_memory_says_so() -> None:
    def run(window: Window, _: tuple[Any, ...]) -> Any:
        raise MemoryError

    step = Step("k", "glow", Window(0, 0, 9, 9), 4, (), lambda _: (), run)
    with pytest.raises(UmbraxError, match="glow takes more memory than there is") as told:
        evaluate(step, Window(0, 0, 9, 9), PictureCache(1 << 20))
    assert told.value.code == "too-large"


def test_a_colour_that_no_sum_could_hold_is_refused_by_its_name() -> None:
    document = shot_of([card(STATION, treatments=[{"id": "t", "kind": "grade", "slope": [1, 1, 1]}])]).model_dump_json(by_alias=True)
    with pytest.raises(UmbraxError, match=r"build.0.treatments.0.slope.1: input should be less than or equal to 1000000"):
        read_text(document.replace('"kind":"grade"', '"kind":"grade","slope":[1,1e30,1]'))


def test_a_tile_that_is_smaller_than_a_pixel_keeps_its_light() -> None:
    """120 x 90 of the plate's pixels on 1.2 x 0.9 of the frame's: its mean, whatever averages it."""
    reader = scene()
    mean = next(iter(reader.sources["valley"].passes.values()))[1][..., :3].mean(axis=(0, 1))
    got = make(shot_of([{"id": "t", "picture": {"kind": "texture", "source": "valley", "scale": 0.01, "turn": 12.0}}]), reader).pixels
    assert_near(got[..., :3].mean(axis=(0, 1)), mean, relative=0.005)
    assert_near(got[..., :3], np.broadcast_to(mean, (90, 120, 3)), relative=0.1)
