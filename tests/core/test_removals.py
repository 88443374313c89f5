"""Deleting a matte with what uses it leaves a document without a loose end, and everything else as it was."""

from arrays import PLATE, STATION, card, shot_of
from umbrax.core.document import edits
from umbrax.core.document.removals import matte_removal

BUILD = [
    PLATE,
    card(
        STATION, cut=["lamp", {"matte": "ball", "invert": True}],
        treatments=[
            {"id": "t1", "kind": "grade", "exposure": 1.0, "through": "lamp"},
            {"id": "t2", "kind": "grade", "exposure": 1.0, "through": "ball"},
            {"id": "t3", "kind": "bloom", "feed": {"matte": "shine"}},
        ],
    ),
]  # fmt: skip
MATTES = {
    "shine": {"kind": "combined", "how": "all_of", "mattes": ["lamp", "glass"]},
    "deep": {"kind": "combined", "how": "any_of", "mattes": ["shine", "ball"]},
}


def test_everything_that_leads_to_it_goes_with_it() -> None:
    shot = shot_of(BUILD, mattes=MATTES)
    removal = matte_removal(shot, "lamp")
    assert removal.with_it == ("matte shine", "matte deep", "grade of card station", "bloom of card station", "the cut of card station")
    left = edits.apply(shot, removal.edits)
    assert set(left.mattes) == {"ball", "glass"}
    assert [t.id for t in left.card("station").treatments] == ["t2"]
    assert [(ref.matte, ref.invert) for ref in left.card("station").cut] == [("ball", True)]


def test_an_unused_matte_goes_alone() -> None:
    shot = shot_of(BUILD, mattes=MATTES)
    removal = matte_removal(shot, "deep")
    assert removal.with_it == ()
    assert set(edits.apply(shot, removal.edits).mattes) == {"ball", "lamp", "glass", "shine"}
