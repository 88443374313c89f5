"""Light groups: the light of single lamps as another way to part a beauty, beside its light passes."""

import numpy as np
import pytest

from arrays import ArrayReader, ArraySource, assert_near, make, scene, shot_of
from checkup_frames import ArrayFrame, changed, good, one, rules
from umbrax.core.checkup import Examined, light_sum
from umbrax.core.document.doubled_light import doubled_by
from umbrax.core.document.first_build import first_build

SHARES = {"key": 0.5, "fill": 0.3, "sky": 0.2}


def lamps(beauty: np.ndarray, kind: str = "light_group", **shares: float) -> dict[str, tuple[str, np.ndarray]]:
    """A pass for each lamp, its share of the beauty."""
    return {name: (kind, beauty * np.array([share, share, share, 1], np.float32)) for name, share in (shares or SHARES).items()}


def lit(kind: str = "light_group", **shares: float) -> ArrayFrame:
    """A good frame with lamps; its light passes are there as well."""
    frame = good()
    return changed(frame, **lamps(frame.passes["rgba"][1], kind, **shares))


def without_lights(frame: ArrayFrame) -> ArrayFrame:
    return changed(frame, diffuse=None, emission=None)


def test_groups_that_add_up_are_no_finding_and_how_the_beauty_is_rebuilt() -> None:
    frame = without_lights(lit())
    assert rules(frame) == set()
    found = light_sum(Examined(frame))
    assert found is not None
    assert (found.lights, found.plain, found.left) == (("key", "fill", "sky"), True, 0)


def test_where_light_passes_add_up_as_well_they_come_first() -> None:
    found = light_sum(Examined(lit()))
    assert found is not None
    assert found.lights == ("diffuse", "emission")


def test_groups_are_taken_where_light_passes_do_not_add_up() -> None:
    frame = lit()
    kind, diffuse = frame.passes["diffuse"]
    frame = changed(frame, diffuse=(kind, diffuse * np.array([0.5, 0.5, 0.5, 1], np.float32)))
    found = light_sum(Examined(frame))
    assert found is not None
    assert found.lights == ("key", "fill", "sky")
    assert "sum-residue" not in rules(frame)


def test_what_shines_by_itself_may_be_in_no_group() -> None:
    frame = good()
    glow = frame.passes["emission"][1]
    reflected = frame.passes["rgba"][1] - glow * np.array([1, 1, 1, 0], np.float32)
    frame = changed(frame, diffuse=None, **lamps(reflected, key=0.75, fill=0.25))
    found = light_sum(Examined(frame))
    assert found is not None
    assert set(found.lights) == {"key", "fill", "emission"}


def test_groups_that_leave_something_are_told_with_how_much() -> None:
    finding = one("sum-residue", without_lights(lit(key=0.5, fill=0.3)))
    assert finding.remedy == {"do": "rest-pass"}
    assert "the sum of 2 light passes" in finding.message


def test_passes_of_unknown_kind_that_add_up_to_the_beauty_are_told_to_be_lamps() -> None:
    frame = without_lights(lit("other"))
    finding = one("kind", changed(frame, fuzz=("other", np.random.default_rng(1).random((*frame.passes["key"][1].shape[:2], 3)) * 9)))
    assert finding.remedy == {"do": "set", "kind": "light_group", "passes": ["key", "fill", "sky"]}


@pytest.mark.parametrize("shares", [{"key": 0.5, "fill": 0.3}, {"key": 1.0}, {"key": 1.5, "fill": -0.5}])
def test_passes_that_do_not_are_not(shares: dict[str, float]) -> None:
    assert "kind" not in rules(without_lights(lit("other", **shares)))


def station(**more: tuple[str, np.ndarray]) -> ArraySource:
    source = scene().sources["station"]
    source.passes |= lamps(source.passes["rgba"][1]) | more
    return source


def rebuilt(source: ArraySource, **picture: object) -> np.ndarray:
    card = {"id": "station", "picture": {"kind": "rebuild", "source": "station", **picture}}
    return make(shot_of([card]), ArrayReader(station=source)).pixels


def test_the_rest_of_groups_is_what_all_groups_leave() -> None:
    beauty = station().passes["rgba"][1]
    extra = np.zeros_like(beauty)
    extra[..., :3] = 0.125 * beauty[..., 3:]
    source = station(rgba=("beauty", beauty + extra))
    assert_near(rebuilt(source, lights={name: {} for name in SHARES}, rest={}), beauty + extra, 1e-6)
    only_key = rebuilt(source, lights={"key": {}}, rest={})
    assert_near(only_key[..., :3], 0.5 * beauty[..., :3] + extra[..., :3], 1e-6)
    with_glow = rebuilt(source, lights={**{name: {} for name in SHARES}, "emission": {}}, rest={})
    assert_near(with_glow, beauty + extra, 1e-5)


def test_without_names_a_rebuild_takes_groups_only_where_nothing_else_is() -> None:
    source = station()
    source.passes["key"] = ("light_group", 4 * source.passes["key"][1])
    lights = source.passes["diffuse"][1] + source.passes["emission"][1]
    assert_near(rebuilt(source)[..., :3], lights[..., :3], 1e-6)
    del source.passes["diffuse"], source.passes["emission"]
    assert_near(rebuilt(source)[..., :3], (4 * 0.5 + 0.3 + 0.2) * source.passes["rgba"][1][..., :3], 1e-5)


def test_a_rebuild_adds_no_part_of_a_light_that_is_there_whole() -> None:
    source = station()
    whole, beauty = source.passes["diffuse"][1], source.passes["rgba"][1]
    source.passes |= {"diffuse_direct": ("diffuse", 0.75 * whole), "diffuse_key": ("diffuse", 0.25 * whole)}
    source.of = {"diffuse_direct": "direct", "diffuse_key": "key"}
    assert_near(rebuilt(source)[..., :3], (whole + source.passes["emission"][1])[..., :3], 1e-6)
    split: dict[str, dict[str, object]] = {"diffuse_direct": {}, "diffuse_key": {}, "emission": {}}
    assert_near(rebuilt(source, lights=split, rest={}), beauty, 1e-5)


@pytest.mark.parametrize(("gone", "rest"), [(None, {}), ("sky", {"rest": {}})])
def test_a_first_build_of_groups_and_of_what_they_leave(gone: str | None, rest: dict[str, object]) -> None:
    source = station()
    for name in ("diffuse", "emission", gone):
        source.passes.pop(name or "", None)
    found = light_sum(Examined(ArrayFrame(source.passes, {}, dict.fromkeys(source.passes, "float"))))
    card = first_build({"station": source.info("station")}, {"station": found})[-1]
    assert card["picture"] == {"kind": "rebuild", "source": "station", "lights": {name: {} for name in SHARES if name != gone}} | rest


def test_light_of_a_group_that_glows_over_its_beauty_shows_twice() -> None:
    bloom = {"id": "b", "kind": "bloom"}
    cards = [
        {"id": "station", "picture": {"kind": "pass", "source": "station"}},
        {"id": "glow", "picture": {"kind": "pass", "source": "station", "pass": "key"}, "join": "plus", "treatments": [bloom]},
    ]
    found = doubled_by(shot_of(cards), "glow", station().info)
    assert found is not None
    assert found.id == "station"
