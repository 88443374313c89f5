"""The shot document: canonical text, refusals with their path, references, migrations, edits."""

import json
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from arrays import PLATE, STATION, card, shot_of
from umbrax.core.document import edits
from umbrax.core.document.parameters import MatteRef, Parameters
from umbrax.core.document.references import matte_uses
from umbrax.core.document.shot import Shot
from umbrax.core.document.text import canonical, digest, read_data, read_text
from umbrax.core.document.timing import keyed_frames
from umbrax.core.errors import UmbraxError

GRADE = {"id": "t1", "kind": "grade", "exposure": 0.5, "through": "ball"}
EDIT: TypeAdapter[edits.Edit] = TypeAdapter(edits.Edit)


def data(**changes: Any) -> dict[str, Any]:
    base = json.loads(canonical(shot_of([PLATE, card(STATION, treatments=[GRADE])])))
    return base | changes


def refused(value: Any) -> UmbraxError:
    with pytest.raises(UmbraxError) as told:
        read_data(value)
    return told.value


def test_canonical_text_is_sorted_tight_and_survives_reading() -> None:
    text = canonical(read_data(data()))
    assert text == json.dumps(json.loads(text), sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    assert canonical(read_text(text)) == text
    assert digest(text) == digest(canonical(read_text(text)))


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"colour": {"workin": "x"}}, "colour.workin: unknown key"),
        ({"build": [card(PLATE, opacity=2)]}, "build.0.opacity: input should be less than or equal to 1"),
        ({"build": [card(PLATE, join="ovr")]}, "unknown join 'ovr', did you mean 'over'?"),
        ({"build": [card(PLATE, treatments=[{"id": "t", "kind": "blom"}])]}, "unknown treatment 'blom', did you mean 'bloom'?"),
        ({"build": [card(PLATE, treatments=[{"id": "t", "kind": "soften", "sise": 2}])]}, "build.0.treatments.0.sise: unknown key"),
        ({"build": [{"id": "x"}]}, "expected a picture, or treat: true"),
        ({"build": [{"id": "x", "treat": True, "picture": PLATE["picture"]}]}, "a treat card has no picture"),
        ({"build": [PLATE, PLATE]}, "two cards have the id 'sky'"),
        ({"build": [card(PLATE, cut=["bal"])]}, "unknown matte 'bal', did you mean 'ball'?"),
        ({"build": [{"id": "x", "picture": {"kind": "plate", "source": "vally"}}]}, "unknown source 'vally', did you mean 'valley'?"),
        ({"format": {"width": 10**9, "height": 2, "first": 1, "last": 2}}, "format.width"),
        ({"format": {"width": 9, "height": 2, "first": 5, "last": 2}}, "expected last at or after first"),
        ({"umbrax": 7}, "newer than 1"),
        ({"umbrax": "one"}, "expected \"umbrax\" to be a version number"),
    ],
)  # fmt: skip
def test_what_is_wrong_is_said_in_one_line_with_its_path(change: dict[str, Any], says: str) -> None:
    message = str(refused(data(**change)))
    assert says in message
    assert "\n" not in message


def test_a_cycle_of_mattes_is_refused_naming_its_path() -> None:
    mattes = {
        "a": {"kind": "combined", "how": "any_of", "mattes": ["b"]},
        "b": {"kind": "combined", "how": "any_of", "mattes": [{"matte": "c", "invert": True}]},
        "c": {"kind": "combined", "how": "any_of", "mattes": ["a"]},
    }
    assert "a -> b -> c -> a" in str(refused(data(mattes=mattes | data()["mattes"])))


@pytest.mark.parametrize("text", ["", "[]", "{", '{"umbrax": 1, "name": NaN}', '{"umbrax": 1, "x": Infinity}', "[" * 100000])
def test_text_that_is_no_document_is_refused(text: str) -> None:
    with pytest.raises(UmbraxError):
        read_text(text)


def test_version_zero_is_brought_forward() -> None:
    old = data()
    old["cards"] = old.pop("build")
    old["format"] = {"width": 120, "height": 90, "range": [1, 10]}
    assert canonical(read_data(old | {"umbrax": 0})) == canonical(read_data(data()))


def test_aliases_of_saved_documents_still_open() -> None:
    shot = read_data(data(build=[card(PLATE, join="add", treatments=[{"id": "t", "kind": "blur", "size": 3}])]))
    assert shot.build[0].join == "plus"
    assert shot.build[0].treatments[0].kind == "soften"


def test_keys_of_a_card_and_uses_of_a_matte_are_found() -> None:
    keyed = GRADE | {"exposure": {"keys": [[3, 0, "smooth"], [7, 1, "smooth"]]}}
    shot = shot_of([PLATE, card(STATION, treatments=[keyed], cut=["ball"])])
    assert keyed_frames(shot.build[1]) == {3, 7}
    assert matte_uses(shot, "ball") == ["card station, cut", "card station, grade"]


def apply(shot: Shot, *changes: dict[str, Any]) -> Shot:
    return edits.apply(shot, [EDIT.validate_python(change) for change in changes])


def test_the_first_of_everything_can_be_inserted() -> None:
    """As in a shot that was just taken in: tables and lists that are empty are not in the document."""
    bare = {key: value for key, value in data().items() if key not in ("mattes", "build")} | {"build": [card(PLATE)]}
    shot = read_data(bare)
    matte = {"kind": "id", "source": "station", "layer": "object_ids", "names": ["ball"]}
    edited = apply(
        shot,
        {"op": "insert", "path": ["mattes"], "item": {"id": "ball", **matte}},
        {"op": "insert", "path": ["build", PLATE["id"], "treatments"], "item": {"id": "t1", "kind": "grade", "through": "ball"}},
    )
    assert list(edited.mattes) == ["ball"]
    assert edited.build[0].treatments[0].through == MatteRef(matte="ball")
    empty = apply(edited, {"op": "remove", "path": ["build", PLATE["id"]]}, {"op": "remove", "path": ["mattes", "ball"]})
    again = apply(
        empty, {"op": "insert", "path": ["build"], "item": card(PLATE)}, {"op": "insert", "path": ["mattes"], "item": {"id": "b", **matte}}
    )
    assert [one.id for one in again.build] == [PLATE["id"]]
    assert list(again.mattes) == ["b"]


def test_edits_by_ids_and_what_they_leave_alone() -> None:
    shot = read_data(data())
    exposure = ["build", "station", "treatments", "t1", "exposure"]
    edited = apply(shot, {"op": "set", "path": exposure, "value": 1.5})
    assert edited.card("station").treatments[0].model_dump()["exposure"] == 1.5
    assert canonical(apply(edited, {"op": "set", "path": exposure, "value": 0.5})) == canonical(shot)
    reset = apply(shot, {"op": "set", "path": exposure, "value": None})
    assert "exposure" not in canonical(reset)
    moved = apply(shot, {"op": "move", "path": ["build", "sky"], "before": None})
    assert [c.id for c in moved.build] == ["station", "sky"]
    added = apply(shot, {"op": "insert", "path": ["build"], "item": {"id": "f", "treat": True}, "before": "station"})
    assert [c.id for c in added.build] == ["sky", "f", "station"]
    refined = apply(shot, {"op": "set", "path": ["mattes", "ball", "refine", "grow"], "value": -2})
    assert refined.mattes["ball"].refine.grow == -2


def set_by_hand(document: Any, path: tuple[str, ...], value: Any) -> None:
    """The same in the text of a document, by what the paths of edits are said to mean."""
    place = document
    for step in path[:-1]:
        place = next(item for item in place if item["id"] == step) if isinstance(place, list) else place.setdefault(step, {})
    place[path[-1]] = value


def outcome(read: Callable[[], Shot]) -> Any:
    try:
        return canonical(read())
    except UmbraxError as error:
        return error.code, error.message, error.where


@pytest.mark.parametrize(
    ("path", "value"),
    [
        ("name", "another"), ("format/last", 7), ("format/last", -7), ("colour/view", "srgb"), ("camera/focus", 3.5),
        ("sources/station/offset", 4), ("sources/station/passes", {"beauty": {"repair": True}}),
        ("mattes/ball/refine/grow", -2.5), ("mattes/ball/names", ["lamp"]),
        ("build/station/opacity", 0.25), ("build/station/opacity", 25), ("build/station/placing/turn", 30), ("build/station/cut", ["ball"]),
        ("build/station/cut", ["nothing"]), ("build/station/treatments/t1/exposure", 1e400), ("build/station/treatments/t1/exposhure", 1),
        ("build/station/treatments/t1/through", {"matte": "ball", "invert": True}), ("build/pair/picture/build/inner/follow", "inner"),
        ("build/pair/picture/build/inner/opacity", {"keys": [[1, 0.5, "smooth"], [9, 1, "hold"]]}), ("build", []),
        ("build/pair/opacity/flicker", 0.25), ("build/pair/picture/build/inner/treatments/t3/stops", [[0.5, [1, 0, 0], 1]]),
    ],
)  # fmt: skip
def test_an_edit_gives_or_refuses_what_reading_the_edited_text_does(path: str, value: Any) -> None:
    inner = {"id": "inner", "picture": {"kind": "solid"}, "treatments": [GRADE | {"id": "t2"}, {"id": "t3", "kind": "recolour"}]}
    pair = {"id": "pair", "picture": {"kind": "bundle", "build": [inner]}, "opacity": {"flicker": 0.5, "of": 1.0}}
    shot = shot_of([PLATE, card(STATION, treatments=[GRADE], cut=["lamp"]), pair])
    steps, by_hand = tuple(path.split("/")), json.loads(json.dumps(edits.plain_data(shot)))
    set_by_hand(by_hand, steps, value)
    twice = [edits.SetValue(op="set", path=steps, value=value)] * 2  # the second finds what the first opened
    assert outcome(lambda: edits.apply(shot, twice)) == outcome(lambda: read_data(by_hand))


@pytest.mark.parametrize(
    "change",
    [
        {"op": "set", "path": ["build", "station", "opacity"], "value": 3},
        {"op": "remove", "path": ["mattes", "ball"]},
        {"op": "set", "path": ["build", "gone", "opacity"], "value": 0.3},
        {"op": "insert", "path": ["build"], "item": {"id": "sky", "treat": True}},
    ],
)  # fmt: skip
def test_edits_that_would_break_the_document_are_refused_whole(change: dict[str, Any]) -> None:
    with pytest.raises(UmbraxError):
        apply(read_data(data()), change)


@pytest.mark.parametrize(("path", "value", "got"), [
    ("opacity/keys/1/1", 0.25, [[1, 1.0, "linear"], [9, 0.25, "hold"]]),
    ("treatments/t3/stops/1/2", 0.5, [[0.0, [0.0, 0.0, 0.0], 1.0], [1.0, [1.0, 1.0, 1.0], 0.5]]),
    ("treatments/t3/stops/0/1/2", 0.7, [[0.0, [0.0, 0.0, 0.7], 1.0], [1.0, [1.0, 1.0, 1.0], 1.0]]),
    ("picture/stops/1/at", 0.8, [{}, {"at": 0.8, "colour": [1.0, 1.0, 1.0]}]),
])  # fmt: skip
def test_an_edit_reaches_into_lists_and_keys_and_leaves_what_it_was_made_on(path: str, value: float, got: Any) -> None:
    stops = [[0.0, [0.0, 0.0, 0.0], 1.0], [1.0, [1.0, 1.0, 1.0], 1.0]]
    picture = {"kind": "gradient", "stops": [{"at": 0.0}, {"at": 1.0, "colour": [1, 1, 1]}]}
    moving = {"keys": [[1, 1.0, "linear"], [9, 0.5, "hold"]]}
    one = {"id": "one", "picture": picture, "opacity": moving, "treatments": [{"id": "t3", "kind": "recolour", "stops": stops}]}
    shot = shot_of([PLATE, one])
    before = canonical(shot)
    steps = ("build", "one", *path.split("/"))
    found = edits.plain_data(edits.apply(shot, [edits.SetValue(op="set", path=steps, value=value)]).card("one"))
    for step in path.split("/"):
        found = next(item for item in found if item["id"] == step) if isinstance(found, list) and not step.isdecimal() else found
        if isinstance(found, dict) and step in found:
            found = found[step]
        if step in ("keys", "stops"):
            break
    assert found == got
    assert canonical(shot) == before


def differences(*changes: dict[str, Any]) -> set[edits.Path]:
    shot = read_data(data())
    return edits.changed(edits.plain_data(shot), edits.plain_data(apply(shot, *changes)))


def conflict(mine: dict[str, Any], theirs: dict[str, Any]) -> bool:
    return bool(edits.conflicts([EDIT.validate_python(mine)], differences(theirs)))


EXPOSURE = {"op": "set", "path": ["build", "station", "treatments", "t1", "exposure"], "value": 2}
OPACITY = {"op": "set", "path": ["build", "station", "opacity"], "value": 0.5}
NO_STATION = {"op": "remove", "path": ["build", "station"]}
NEW_CARD = {"op": "insert", "path": ["build"], "item": {"id": "f", "treat": True}}


def test_edits_meet_only_where_their_paths_do() -> None:
    assert conflict(EXPOSURE, EXPOSURE | {"value": 1})
    assert not conflict(EXPOSURE, OPACITY)
    assert conflict(EXPOSURE, NO_STATION)
    assert conflict(NO_STATION, EXPOSURE)
    assert not conflict(OPACITY, NEW_CARD)
    assert not conflict(NEW_CARD, NEW_CARD | {"item": {"id": "g", "treat": True}})
    move = {"op": "move", "path": ["build", "sky"], "before": None}
    assert conflict(move, move)
    assert not conflict(move, OPACITY)


def parts_of_documents(of: type[Parameters] = Parameters) -> Iterator[type[Parameters]]:
    for part in of.__subclasses__():
        yield part
        yield from parts_of_documents(part)


def test_null_is_the_default_wherever_it_is_accepted() -> None:
    """An edit takes a key away by it, and nothing else is written: else a document would be another one after it was saved."""
    accepting = []
    for part in parts_of_documents():
        for name, field in part.model_fields.items():
            if field.is_required() or (default := field.get_default(call_default_factory=True)) is None:
                continue
            try:
                read = part.__pydantic_validator__.validate_assignment(part.model_construct(), name, None)
            except ValidationError:
                continue
            accepting.append((part.__name__, name))
            assert getattr(read, name) == default, (part, name)
    assert ("TextureParams", "lay") in accepting


@pytest.mark.parametrize("join", ["over", "multiply", "screen"])
def test_how_a_texture_is_laid_on_survives_being_saved(join: str) -> None:
    """Over is the default of what is laid on, multiply that of a texture: neither may stand for the other."""
    texture = {"id": "t1", "kind": "texture", "source": "valley", "lay": {"join": join}}
    saved = read_text(canonical(shot_of([card(PLATE, treatments=[texture])])))
    assert saved.build[0].treatments[0].lay.join == join


JSON = st.recursive(st.none() | st.integers() | st.text(max_size=3), lambda c: st.dictionaries(st.text(max_size=3), c, max_size=4))


@given(JSON, JSON)
def test_nothing_changed_means_equal_and_the_reverse(a: Any, b: Any) -> None:
    assert (not edits.changed(a, b)) == (a == b)


@pytest.mark.parametrize("op", ["set", "remove", "move", "insert"])
def test_a_number_never_addresses_a_card_or_a_treatment_by_its_place(op: str) -> None:
    shot = shot_of([PLATE, card(STATION, treatments=[{"id": "t1", "kind": "grade"}])])
    path = ["build", "1", "opacity"] if op == "set" else ["build"] if op == "insert" else ["build", "1"]
    rest = {"set": {"value": 0.5}, "insert": {"item": {"id": "new", "treat": True}, "before": "0"}}.get(op, {})
    order = TypeAdapter(edits.Edit).validate_python({"op": op, "path": path, **rest})
    with pytest.raises(UmbraxError, match="any more"):
        edits.apply(shot, [order])


def test_a_card_that_is_called_by_a_number_is_the_one_that_is_meant() -> None:
    shot = shot_of([card(PLATE, id="1"), STATION])
    after = edits.apply(shot, [edits.SetValue(op="set", path=("build", "1", "opacity"), value=0.5)])
    assert [one.opacity for one in after.build] == [0.5, 1.0]


def test_things_without_ids_are_addressed_by_their_place() -> None:
    shot = shot_of([card(STATION, cut=["ball", "lamp"])])
    after = edits.apply(shot, [edits.SetValue(op="set", path=("build", "station", "cut", "1"), value="glass")])
    assert [one.matte for one in after.card("station").cut] == ["ball", "glass"]
