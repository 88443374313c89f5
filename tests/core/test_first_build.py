"""The first build: it shows every source, in a sensible order, and is the beauty wherever there is one."""

import numpy as np
import pytest

from arrays import ArrayReader, ArraySource, assert_near, make, scene, shot_of
from checkup_frames import ArrayFrame
from umbrax.core.checkup import Examined, examine, light_sum
from umbrax.core.document import edits
from umbrax.core.document.adding import added_sources
from umbrax.core.document.first_build import first_build


def summed(source: ArraySource) -> tuple[ArrayReader, object]:
    frame = ArrayFrame(source.passes, {}, dict.fromkeys(source.passes, "float"))
    return frame, light_sum(Examined(frame))


def station(extra: np.ndarray | float = 0.0) -> ArraySource:
    """The station, its beauty brighter than its lights by something."""
    source = scene().sources["station"]
    kind, beauty = source.passes["rgba"]
    beauty = beauty.copy()
    beauty[..., :3] += extra * beauty[..., 3:]
    source.passes["rgba"] = (kind, beauty)
    return source


def test_lights_that_add_up_are_rebuilt_as_they_are() -> None:
    source = station()
    _, found = summed(source)
    (shadow, card) = first_build({"station": source.info("station")}, {"station": found})
    assert shadow["picture"]["kind"] == "shadow"
    assert [one["kind"] for one in shadow["treatments"]] == ["levels", "soften"], "ready to be darkened and softened"
    plain = {key: value for key, value in shadow.items() if key != "treatments"}
    shown = [make(shot_of([one]), ArrayReader(station=source)).pixels for one in (shadow, plain)]
    assert np.array_equal(*shown), "until they are turned nothing changes"
    assert card["picture"] == {"kind": "rebuild", "source": "station", "lights": {"diffuse": {}, "emission": {}}}


def test_what_lights_leave_of_the_beauty_is_added_as_rest() -> None:
    source = station(0.05)
    frame, found = summed(source)
    assert "sum-residue" in [one.rule for one in examine("station", [1], lambda _: frame)]
    (_, card) = first_build({"station": source.info("station")}, {"station": found})
    assert card["picture"]["rest"] == {}
    picture = make(shot_of([card]), ArrayReader(station=source)).pixels
    assert np.allclose(picture, source.passes["rgba"][1], atol=1e-5)


def test_passes_that_are_no_lights_of_the_beauty_leave_it_whole() -> None:
    source = station(3.0)
    _, found = summed(source)
    (_, card) = first_build({"station": source.info("station")}, {"station": found})
    assert card["picture"] == {"kind": "pass", "source": "station", "pass": "rgba"}


def test_lights_to_be_multiplied_by_surface_colour_leave_the_beauty_whole() -> None:
    source = station()
    kind, diffuse = source.passes["diffuse"]
    source.passes["diffuse"] = (kind, (diffuse / 0.4).astype(np.float32))
    source.passes["albedo"] = ("surface_colour", np.full_like(diffuse, 0.4))
    _, found = summed(source)
    (_, card) = first_build({"station": source.info("station")}, {"station": found})
    assert card["picture"]["kind"] == "pass"


def test_parts_of_a_light_that_is_there_whole_are_not_added_twice() -> None:
    source = station()
    kind, diffuse = source.passes["diffuse"]
    source.passes |= {"diffuse_direct": (kind, diffuse * 0.7), "diffuse_indirect": (kind, diffuse * 0.3)}
    of = {"diffuse_direct": "direct", "diffuse_indirect": "indirect"}
    found = light_sum(Examined(ArrayFrame(source.passes, {}, {}, of=of)))
    (_, card) = first_build({"station": source.info("station")}, {"station": found})
    assert set(card["picture"]["lights"]) == {"diffuse", "emission"}


@pytest.mark.parametrize("finished", [True, False])
def test_a_forgotten_plate_goes_behind_everything_and_a_render_in_front_of_the_last_element(finished: bool) -> None:
    end = [{"id": "end", "treat": True}] if finished else []
    shot = shot_of([{"id": "station", "picture": {"kind": "rebuild", "source": "station"}}, *end])
    new = {"dusk": scene().sources["valley"].info("dusk"), "second": scene().sources["station"].info("second")}
    data = {"dusk": {"path": "d.exr"}, "second": {"path": "two.exr"}}
    after = edits.apply(shot, added_sources(shot, data, new, {}, with_cards=True))
    assert [card.id for card in after.build] == ["dusk", "station", "second shadow", "second", *(["end"] if finished else [])]
    assert after.sources["dusk"].path == "d.exr"
    only = edits.apply(shot, added_sources(shot, data, new, {}, with_cards=False))
    assert (only.build, set(only.sources)) == (shot.build, {"station", "valley", "dusk", "second"})


def test_a_card_of_the_same_name_gets_a_number() -> None:
    shot = shot_of([{"id": "dusk", "treat": True}])
    info = scene().sources["valley"].info("dusk")
    after = edits.apply(shot, added_sources(shot, {"dusk": {"path": "d.exr"}}, {"dusk": info}, {}, with_cards=True))
    assert [card.id for card in after.build] == ["dusk 2", "dusk"]


def test_beside_parts_of_a_light_there_is_no_rest_that_would_be_the_beauty() -> None:
    source = station(0.05)
    kind, diffuse = source.passes["diffuse"]
    source.passes |= {"diffuse_direct": (kind, diffuse * 0.7), "diffuse_indirect": (kind, diffuse * 0.3)}
    of = {"diffuse_direct": "direct", "diffuse_indirect": "indirect"}
    found = light_sum(Examined(ArrayFrame(source.passes, {}, {}, of=of)))
    assert found is not None
    (_, card) = first_build({"station": source.info("station")}, {"station": found})
    assert_near(make(shot_of([card]), ArrayReader(station=source)).pixels, source.passes["rgba"][1], 1e-5)
