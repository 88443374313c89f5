"""Places of a document as people are told of them: by names, never by ids or keys."""

import pytest

from arrays import PLATE, STATION, card, shot_of
from umbrax.core.document.words import listed_mattes, named, where_told
from umbrax.core.errors import Where

SHOT = shot_of(
    [
        PLATE,
        card(STATION, name="Dome", treatments=[{"id": "t3", "kind": "grade"}, {"id": "t4", "kind": "bloom", "name": "Lamp glow"}]),
        {"id": "b1", "name": "Pair", "picture": {"kind": "bundle", "build": [card(PLATE, id="c9", name="Far")]}},
    ],
    mattes={"m1": {"kind": "alpha", "source": "station", "name": "All of it"}},
)


@pytest.mark.parametrize(
    ("path", "told"),
    [
        (("build", "station", "opacity"), "opacity of card Dome"),
        (("build", "station", "treatments", "t3", "exposure"), "exposure of grade of card Dome"),
        (("build", "station", "treatments", "t4"), "Lamp glow of card Dome"),
        (("build", "station", "picture", "lights", "diffuse", "gain"), "gain of diffuse of card Dome"),
        (("build", "b1", "picture", "build", "c9", "opacity"), "opacity of card Far"),
        (("build", "#order"), "the order of the cards"),
        (("mattes", "m1", "refine", "grow"), "grow of refine of matte All of it"),
        (("sources", "station", "path"), "path of source station"),
        (("format", "first"), "first of format"),
        (("build", "gone", "opacity"), "opacity of card gone"),
    ],
)
def test_a_place_is_told_by_names(path: tuple[str, ...], told: str) -> None:
    assert where_told(SHOT, path) == told


def test_an_error_names_its_card_and_treatment() -> None:
    assert named(SHOT, Where(card="station", treatment="t3", frame=2)) == Where(card="Dome", treatment="grade", frame=2)
    assert named(SHOT, Where(card="nobody", frame=2)) == Where(card="nobody", frame=2)


def test_mattes_are_listed_by_what_they_are_called_and_2_before_10() -> None:
    names = {"a": "mast 10", "b": "Mast 2", "c": "mast 2 lamp", "d": "arm", "e": "²", "f": None, "10": None, "9": None}
    mattes = {key: {"kind": "alpha", "source": "station", **({"name": name} if name else {})} for key, name in names.items()}
    listed = listed_mattes(shot_of([PLATE, STATION], mattes=mattes))
    assert [one for one in listed if one in names] == ["9", "10", "d", "f", "b", "c", "a", "e"]
