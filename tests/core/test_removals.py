"""Deleting a matte with what uses it leaves a document without a loose end, and everything else as it was."""

from arrays import PLATE, STATION, card, shot_of
from umbrax.core.document import edits
from umbrax.core.document.removals import card_removal, matte_removal, source_removal

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


def test_a_source_goes_with_its_cards_mattes_and_all_that_uses_these() -> None:
    late = {"id": "late", "treat": True, "treatments": [{"id": "t9", "kind": "grade", "exposure": 1.0, "through": "shape"}]}
    shot = shot_of([*BUILD, late], mattes=MATTES | {"shape": {"kind": "alpha", "card": "station"}})
    removal = source_removal(shot, "station")
    assert removal.with_it[0] == "card station"
    assert "grade of card late" in removal.with_it, "its matte looks at a card that goes"
    left = edits.apply(shot, removal.edits)
    assert ([card.id for card in left.build], left.mattes, list(left.sources)) == (["sky", "late"], {}, ["valley"])
    assert left.card("late").treatments == ()


def test_a_source_in_a_bundle_is_taken_out_of_it() -> None:
    inner = [card(STATION, treatments=[{"id": "t1", "kind": "grade", "exposure": 1.0, "through": "ball"}]), card(PLATE, id="inner sky")]
    shot = shot_of([PLATE, {"id": "pair", "picture": {"kind": "bundle", "build": inner}}])
    left = edits.apply(shot, source_removal(shot, "station").edits)
    assert [one.id for one in left.cards()] == ["sky", "pair", "inner sky"]
    assert "station" not in left.sources


def test_an_unused_source_goes_alone_and_one_of_bakes_leaves_its_mattes() -> None:
    more = {"station": {"path": "s.exr"}, "valley": {"path": "v.exr"}, "baked": {"path": "b.exr"}, "spare": {"path": "p.exr"}}
    baked = {"ball": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["ball"], "bake": {"source": "baked", "pass": "ball"}}}
    shot = shot_of([PLATE, STATION], sources=more, mattes=baked)
    assert source_removal(shot, "spare").with_it == ()
    left = edits.apply(shot, source_removal(shot, "baked").edits)
    assert left.mattes["ball"].bake is None
    assert set(left.sources) == {"station", "valley", "spare"}


def test_a_card_goes_with_the_mattes_that_look_at_its_picture() -> None:
    late = {"id": "late", "treat": True, "treatments": [{"id": "t9", "kind": "grade", "exposure": 1.0, "through": "shape"}]}
    shot = shot_of([PLATE, card(STATION), late], mattes={"shape": {"kind": "alpha", "card": "station"}})
    removal = card_removal(shot, "station")
    assert removal.with_it == ("matte shape", "grade of card late")
    left = edits.apply(shot, removal.edits)
    assert ([one.id for one in left.build], set(left.mattes), set(left.sources)) == (
        ["sky", "late"],
        {"ball", "lamp", "glass"},
        set(shot.sources),
    )
    assert card_removal(shot, "sky").with_it == ()
    assert card_removal(shot, "sky").edits == (edits.RemoveItem(op="remove", path=("build", "sky")),)


def test_cards_that_go_together_name_only_what_goes_besides() -> None:
    late = {"id": "late", "treat": True, "treatments": [{"id": "t9", "kind": "grade", "exposure": 1.0, "through": "shape"}]}
    shot = shot_of([PLATE, card(STATION), late], mattes={"shape": {"kind": "alpha", "card": "station"}})
    removal = card_removal(shot, "late", "station", "late")
    assert removal.with_it == ("matte shape",), "its grade goes with the card that has it"
    left = edits.apply(shot, removal.edits)
    assert [one.id for one in left.build] == ["sky"]
    assert "shape" not in left.mattes
