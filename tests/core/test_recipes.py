"""Recipes: treatments kept by themselves and laid on other cards, their mattes found again by name, by pattern, or asked for."""

from typing import Any

import numpy as np
import pytest

from arrays import PLATE, STATION, ArrayReader, ArraySource, card, disc, make, ranked, scene, shot_of
from umbrax.core.document.edits import apply
from umbrax.core.document.recipes import Laid, Recipe, kept, laid_on
from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError

MATTES = {
    "lamps": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["lamp*"], "refine": {"feather": 2}},
    "corner": {"kind": "shape", "points": [0, 0, 40, 0, 40, 40, 0, 40]},
    "both": {"kind": "combined", "how": "any_of", "mattes": ["lamps", {"matte": "corner", "invert": True}]},
    "near": {"kind": "depth", "source": "station", "near": 2, "far": 9},
}


def first_shot() -> Shot:
    treatments = [
        {"id": "t1", "kind": "grade", "exposure": 1.0, "through": {"matte": "both", "invert": True}},
        {"id": "t5", "kind": "haze", "through": "near"},
        {"id": "t2", "kind": "soften", "size": 3.0},
        {"id": "t3", "kind": "bloom", "feed": {"matte": "lamps"}, "threshold": 0.0, "size": 9.0},
    ]
    return shot_of([PLATE, card(STATION, treatments=treatments)], mattes=MATTES)


def other_reader() -> ArrayReader:
    """Another render: other layer names, other lamps, no depth."""
    coverage = disc(90, 120, 40, 60, 20)
    beauty = np.stack([coverage * 0.4] * 3 + [coverage], axis=2)
    source = ArraySource({"rgba": ("beauty", beauty)}, {"things": ranked({"lamp_left": coverage})})
    return ArrayReader(set=source)


def other_shot(**more: Any) -> Shot:
    build = [{"id": "set", "picture": {"kind": "pass", "source": "set"}, "treatments": [{"id": "t1", "kind": "wrap"}]}]
    return Shot.model_validate({
        "umbrax": 1, "name": "other", "format": {"width": 120, "height": 90, "first": 1, "last": 10},
        "sources": {"set": {"path": "set.exr"}}, "build": build, **more,
    })  # fmt: skip


def laid(shot: Shot, chosen: dict[str, str | None], recipe: Recipe | None = None, on: str = "set") -> Laid:
    reader = other_reader()
    infos = {name: reader.describe(name, 1) for name in shot.sources}
    return laid_on(recipe or kept(first_shot(), "station"), shot, on, infos, chosen)


def test_a_recipe_is_what_its_treatments_want_and_no_more() -> None:
    recipe = kept(first_shot(), "station")
    assert [one["kind"] for one in recipe.treatments] == ["grade", "haze", "soften", "bloom"]
    assert set(recipe.mattes) == {"both", "lamps", "corner", "near"}
    assert Recipe.model_validate(recipe.model_dump(mode="json")) == recipe
    with pytest.raises(UmbraxError, match="no treatments"):
        kept(first_shot(), "sky")


def test_what_finds_no_matte_is_asked_for_and_until_then_nothing_is_laid() -> None:
    found = laid(other_shot(), {})
    assert [(one.name, one.treatments) for one in found.missing] == [("near", ("Haze",))]
    assert not found.edits


def test_id_mattes_are_found_by_their_patterns_in_a_layer_of_another_name() -> None:
    found = laid(other_shot(), {"near": None})
    shot = apply(other_shot(), found.edits)
    assert {name: params.kind for name, params in shot.mattes.items()} == {"lamps": "id", "corner": "shape", "both": "combined"}
    lamps = shot.mattes["lamps"].model_dump(mode="json")
    assert (lamps["source"], lamps["layer"], lamps["names"]) == ("set", "things", ["lamp*"])
    assert lamps["refine"] == {"feather": 2.0}
    treatments = {one.kind: one for one in shot.card("set").treatments}
    assert [one.kind for one in shot.card("set").treatments] == ["grade", "haze", "soften", "wrap", "bloom"], "each in its stage"
    assert len({one.id for one in shot.card("set").treatments}) == 5
    assert treatments["haze"].model_dump().get("through") is None, "everywhere, as was chosen"
    assert treatments["grade"].model_dump(mode="json")["through"] == {"matte": "both", "invert": True}
    # and it treats the other picture through its own lamps
    plain = make(other_shot(), other_reader()).pixels
    assert np.abs(make(shot, other_reader()).pixels - plain).max() > 0.1


def test_a_matte_of_the_same_name_is_used_and_a_chosen_one_before_all() -> None:
    mine = {"lamps": {"kind": "shape", "points": [0, 0, 9, 0, 9, 9]}, "veil": {"kind": "shape", "points": [0, 0, 9, 0, 9, 9]}}
    shot = apply(other_shot(mattes=mine), laid(other_shot(mattes=mine), {"near": "veil"}).edits)
    treatments = {one.kind: one.model_dump(mode="json") for one in shot.card("set").treatments}
    assert treatments["bloom"]["feed"] == {"matte": "lamps"}
    assert treatments["haze"]["through"] == "veil"
    assert shot.mattes["lamps"].kind == "shape"
    assert "lamps 2" not in shot.mattes
    with pytest.raises(UmbraxError, match="veils"):
        laid(other_shot(mattes=mine), {"near": "veils"})


def test_laid_on_another_card_of_its_shot_it_uses_its_mattes_and_changes_alike() -> None:
    first = first_shot()
    infos = {name: scene().describe(name, 1) for name in first.sources}
    found = laid_on(kept(first, "station"), first, "sky", infos, {})
    shot = apply(first, found.edits)
    assert len(shot.mattes) == len(first.mattes)
    assert [one.kind for one in shot.card("sky").treatments] == ["grade", "haze", "soften", "bloom"]


def test_a_treat_card_is_spared_what_only_elements_have_and_a_texture_without_its_source_waits_for_one() -> None:
    cloth = {"station": {"path": "s.exr"}, "valley": {"path": "v.exr"}, "cloth": {"path": "c.png"}}
    treatments = [{"id": "t1", "kind": "edge", "grow": 1.0}, {"id": "t2", "kind": "texture", "source": "cloth"}]
    recipe = kept(shot_of([card(STATION, treatments=treatments)], sources=cloth), "station")
    plain = other_shot()
    shot = plain.model_copy(update={"build": (*plain.build, type(plain.build[0]).model_validate({"id": "all", "treat": True}))})
    found = laid(shot, {}, recipe, "all")
    assert found.left_out == ["Edge"]
    assert [one.kind for one in apply(shot, found.edits).card("all").treatments] == ["texture"]
    assert apply(shot, found.edits).card("all").treatments[0].model_dump(mode="json").get("source") is None
