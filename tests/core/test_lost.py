"""What a version of a render lost: the picture is computed without it, and people are told what to do."""

from typing import Any

import numpy as np
import pytest

from arrays import PLATE, STATION, ArrayReader, card, make, scene, shot_of
from umbrax.core.document import edits
from umbrax.core.document.lost import Lost, lost_in, seen_in
from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError
from umbrax.core.mattes.hashing import id_of_name

LIGHTS = {"diffuse": {}, "emission": {"gain": 2.0}}
REBUILT = card(STATION, picture={"kind": "rebuild", "source": "station", "lights": LIGHTS})
GRADE = {"id": "t1", "kind": "grade", "exposure": 1.0}


def without(reader: ArrayReader, *names: str) -> ArrayReader:
    """The scene as a later version has it: passes and layers gone, and no longer the same file."""
    station = reader.sources["station"]
    for name in names:
        station.passes.pop(name, None)
        station.ids.pop(name, None)
    station.version = f"without {names}"
    return reader


def renamed(reader: ArrayReader, old: str, new: str) -> ArrayReader:
    ids, coverage, names = reader.sources["station"].ids["object_ids"]
    assert names is not None
    moved = {new if name == old else name: id_of_name(new if name == old else name) for name in names}
    swapped = np.where(ids == id_of_name(old), np.uint32(id_of_name(new)), ids)
    reader.sources["station"].ids["object_ids"] = (swapped, coverage, moved)
    return reader


def lost(shot: Shot, reader: ArrayReader) -> list[Lost]:
    return lost_in(shot, {name: source.info(name) for name, source in reader.sources.items()})


def mended(shot: Shot, found: Lost, label: str) -> Shot:
    remedy = next(one for one in found.remedies if one.label == label)
    return edits.apply(shot, remedy.edits)


def test_a_rebuild_is_computed_with_the_lights_there_are() -> None:
    pixels = make(shot_of([REBUILT]), without(scene(), "emission")).pixels
    diffuse = scene().sources["station"].passes["diffuse"][1]
    assert np.array_equal(pixels[..., :3], diffuse)
    assert np.array_equal(pixels[..., 3], scene().sources["station"].passes["rgba"][1][..., 3])


def test_a_light_that_is_given_by_kind_is_not_lost_while_there_is_one() -> None:
    reader = without(scene(), "emission")
    reader.sources["station"].passes["self_light"] = ("emission", np.ones((90, 120, 3), np.float32))
    assert lost(shot_of([REBUILT]), reader) == []


@pytest.mark.parametrize(
    ("label", "lights", "rest"),
    [
        ("Remove it", {"diffuse"}, False),
        ("Take the beauty's rest", {"diffuse"}, True),
        ("Take glow", {"diffuse", "glow"}, False),
    ],
)
def test_each_way_to_mend_a_lost_light_leaves_nothing_lost(label: str, lights: set[str], rest: bool) -> None:
    reader = without(scene(), "emission")
    reader.sources["station"].passes["glow"] = ("reflection", np.ones((90, 120, 3), np.float32))
    shot = shot_of([PLATE, REBUILT])
    (found,) = lost(shot, reader)
    after = mended(shot, found, label)
    picture = after.card("station").picture
    assert set(picture.lights) == lights  # type: ignore[union-attr]
    assert (picture.rest is not None) is rest  # type: ignore[union-attr]
    assert lost(after, reader) == []
    if label == "Take glow":
        assert picture.lights["glow"].gain == 2.0, "how it was set stays"  # type: ignore[union-attr]
    make(after, reader)


def test_with_the_rest_a_rebuild_without_a_lost_light_is_the_beauty() -> None:
    reader = without(scene(), "emission")
    shot = shot_of([card(REBUILT, picture={"kind": "rebuild", "source": "station", "lights": {"diffuse": {}, "emission": {}}})])
    (found,) = lost(shot, reader)
    assert np.allclose(
        make(mended(shot, found, "Take the beauty's rest"), reader).pixels, reader.sources["station"].passes["rgba"][1], atol=1e-6
    )


def test_a_card_without_its_pass_leaves_the_rest_of_the_picture_as_it_is() -> None:
    light = {"id": "glow", "picture": {"kind": "pass", "source": "station", "pass": "emission"}, "join": "plus"}
    shot, reader = shot_of([PLATE, light, {"id": "end", "treat": True, "treatments": [GRADE]}]), without(scene(), "emission")
    alone = make(shot_of([PLATE, {"id": "end", "treat": True, "treatments": [GRADE]}]), reader).pixels
    assert np.array_equal(make(shot, reader).pixels, alone)
    (found,) = lost(shot, reader)
    assert "shows nothing" in found.message
    assert [one.label for one in found.remedies][-2:] == ["Show the beauty", "Delete the card"]
    assert [one.id for one in mended(shot, found, "Delete the card").build] == ["sky", "end"]


def test_a_rebuild_of_nothing_but_lost_lights_is_left_out() -> None:
    reader = without(scene(), "emission", "diffuse")
    assert np.array_equal(make(shot_of([PLATE, REBUILT]), reader).pixels, make(shot_of([PLATE]), reader).pixels)


@pytest.mark.parametrize("gone", ["object_ids", "material_ids"])
def test_a_matte_of_a_lost_layer_is_empty_and_the_picture_stays(gone: str) -> None:
    matte = {"object_ids": "ball", "material_ids": "glass"}[gone]
    graded = card(STATION, treatments=[{**GRADE, "through": matte}])
    reader = without(scene(), gone)
    assert np.array_equal(make(shot_of([PLATE, graded]), reader).pixels, make(shot_of([PLATE, STATION]), reader).pixels)
    turned = card(STATION, treatments=[{**GRADE, "through": {"matte": matte, "invert": True}}])
    all_of_it = card(STATION, treatments=[GRADE])
    assert np.allclose(make(shot_of([PLATE, turned]), reader).pixels, make(shot_of([PLATE, all_of_it]), reader).pixels, atol=1e-6)


def test_combined_mattes_stand_the_loss_of_a_layer() -> None:
    both = {"either": {"kind": "combined", "how": "any_of", "mattes": ["ball", "glass"]}}
    graded = card(STATION, treatments=[{**GRADE, "through": "either"}])
    only = card(STATION, treatments=[{**GRADE, "through": "ball"}])
    reader = without(scene(), "material_ids")
    assert np.array_equal(make(shot_of([graded], mattes=both), reader).pixels, make(shot_of([only], mattes=both), reader).pixels)


def test_an_object_of_another_name_is_told_with_the_names_that_are_alike() -> None:
    shot, reader = shot_of([PLATE, STATION]), renamed(scene(), "ball", "ball_big")
    (found,) = lost(shot, reader)
    assert (found.noun, found.name, found.matte) == ("name", "ball", "ball")
    assert "is empty" in found.message
    assert [one.label for one in found.remedies] == ["Take ball_big", "Take ball_big, and call the matte so", "Delete the matte"]
    after = mended(shot, found, "Take ball_big, and call the matte so")
    assert (after.mattes["ball"].names, after.mattes["ball"].name) == (("ball_big",), "ball_big")  # type: ignore[attr-defined]
    assert lost(after, reader) == []


def test_without_a_beauty_a_matte_of_its_alpha_is_empty_and_told() -> None:
    own = {"own": {"kind": "alpha", "source": "station"}}
    shot, reader = (
        shot_of([PLATE, {"id": "late", "treat": True, "treatments": [{**GRADE, "through": "own"}]}], mattes=own),
        without(scene(), "rgba"),
    )
    assert np.array_equal(make(shot, reader).pixels, make(shot_of([PLATE]), reader).pixels)
    assert [(one.noun, one.name, one.matte) for one in lost(shot, reader)] == [("pass", "beauty", "own")]


def test_a_backdrop_whose_layer_is_gone_stays_in_and_is_told() -> None:
    shot = shot_of([STATION], sources={"station": {"path": "s.exr", "backdrop": {"layer": "cover_ids"}}, "valley": {"path": "v.exr"}})
    (found,) = lost(shot, scene())
    assert [one.label for one in found.remedies] == ["Take object_ids", "Take material_ids", "Leave it in"]
    assert mended(shot, found, "Leave it in").sources["station"].backdrop is None


def test_one_of_several_names_can_be_taken_out() -> None:
    two = {"pair": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["ball", "lamp"]}}
    shot, reader = shot_of([STATION], mattes=two), renamed(scene(), "ball", "other")
    found = next(one for one in lost(shot, reader) if one.matte == "pair")
    assert "is empty" not in found.message
    assert mended(shot, found, "Take the name out").mattes["pair"].names == ("lamp",)  # type: ignore[attr-defined]


@pytest.mark.parametrize("name", ["lam*", f"#{id_of_name('nobody'):08x}", 77])
def test_patterns_that_find_something_and_raw_ids_are_not_lost(name: Any) -> None:
    own = {"own": {"kind": "id", "source": "station", "layer": "object_ids", "names": [name]}}
    assert lost(shot_of([STATION], mattes=own), scene()) == []


def test_a_pattern_that_finds_nothing_is_lost() -> None:
    own = {"own": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["mast_*"]}}
    assert [one.name for one in lost(shot_of([STATION], mattes=own), scene())] == ["mast_*"]


def test_without_a_manifest_nothing_is_said_of_names() -> None:
    reader = scene()
    ids, coverage, _ = reader.sources["station"].ids["object_ids"]
    reader.sources["station"].ids["object_ids"] = (ids, coverage, None)
    assert (
        lost(shot_of([STATION], mattes={"own": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["nobody"]}}), reader) == []
    )


@pytest.mark.parametrize(
    ("matte", "gone", "takes"),
    [
        ({"kind": "depth", "source": "station", "pass": "depth.far"}, "depth.far", "Take depth"),
        ({"kind": "index", "source": "station", "pass": "numbers", "numbers": [1]}, "numbers", "Take object_index"),
        ({"kind": "channel", "source": "station", "pass": "shadow_left"}, "shadow_left", "Take shadow"),
        ({"kind": "key", "source": "station", "pass": "diffuse_direct"}, "diffuse_direct", "Take diffuse"),
    ],
)
def test_a_matte_of_a_lost_pass_is_empty_and_can_take_another(matte: dict[str, Any], gone: str, takes: str) -> None:
    reader = scene()
    shot = shot_of([card(STATION, treatments=[{**GRADE, "through": "own"}])], mattes={"own": matte})
    assert np.array_equal(make(shot, reader).pixels, make(shot_of([STATION]), reader).pixels)
    (found,) = lost(shot, reader)
    assert (found.matte, found.name) == ("own", gone)
    assert lost(mended(shot, found, takes), reader) == []


def test_a_chosen_alpha_that_is_gone_is_the_beautys_again() -> None:
    chosen = {"station": {"path": "s.exr", "passes": {"diffuse": {"alpha": "cover"}}}, "valley": {"path": "v.exr"}}
    shot = shot_of([STATION], sources=chosen)
    (found,) = lost(shot, scene())
    assert (found.noun, found.name) == ("alpha", "cover")
    assert lost(mended(shot, found, "Choose none"), scene()) == []


def test_what_any_frame_holds_is_not_lost() -> None:
    full, thin = scene().sources["station"], without(scene(), "emission").sources["station"]
    thin.ids["object_ids"] = (*thin.ids["object_ids"][:2], {"ball": id_of_name("ball")})
    seen = seen_in([thin.info("station"), full.info("station")])
    assert {"emission", "diffuse"} <= set(seen.passes)
    assert set(seen.ids["object_ids"].names or ()) == {"ball", "lamp"}


def test_a_look_at_a_lost_pass_itself_is_refused_with_its_name() -> None:
    with pytest.raises(UmbraxError, match="unknown pass 'diffus', did you mean 'diffuse'"):
        scene().sources["station"].info("station").find("diffus")
