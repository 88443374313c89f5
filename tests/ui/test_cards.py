"""Working on cards: pictures, cuts, joins, treatments and order, each seen in the picture and kept in the document."""

from urllib.parse import parse_qs, urlsplit

import numpy as np
import pytest
from playwright.sync_api import Page, expect
from screen import beside, drawn, edit, open_bench, revision, saved, seen, value_at, wait_until

from umbrax.core.document.cards import Card
from umbrax.core.joins import JOINS
from umbrax.store.database import Database
from umbrax.store.shots import get_revision


def card(database: Database, shot: int, number: int, name: str) -> Card:
    return get_revision(database, shot, number).shot.card(name)


SLIT, TERRACE = (620, 370), (200, 640)


def test_the_lights_of_a_rebuild_are_set_one_by_one(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card station").click()
    before = seen(page)
    page.get_by_role("region", name="Picture").get_by_role("button").first.click()
    field = page.get_by_role("textbox", name="emission", exact=True)
    field.fill("0")
    field.press("Enter")
    saved(page, 2)
    assert card(database, shot, 2, "station").picture.lights["emission"].gain == 0  # type: ignore[union-attr]
    after = seen(page)
    assert value_at(page, after, *SLIT).mean() < value_at(page, before, *SLIT).mean() - 40, "the lit slit goes dark"
    assert np.abs(value_at(page, after, *TERRACE) - value_at(page, before, *TERRACE)).max() < 3


def test_a_new_rebuild_offers_its_lights(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Add a card at the front").click()
    page.get_by_role("menuitem", name="rebuilt from its 5 light passes").click()
    saved(page, 2)
    page.get_by_role("region", name="Picture").get_by_role("button").first.click()
    made = get_revision(database, shot, 2).shot.build[-1]
    assert set(made.picture.lights) == {"diffuse", "specular", "reflection", "emission", "ambient"}  # type: ignore[union-attr]
    expect(page.get_by_role("textbox", name="diffuse", exact=True)).to_have_value("1.00")


def test_a_card_is_cut_by_a_matte_and_whole_again(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    whole = seen(page)
    page.get_by_role("button", name="Card station").click()
    page.get_by_role("region", name="Picture").get_by_role("button", name="none").click()
    page.get_by_role("menuitem", name="dome").click()
    saved(page, 2)
    assert [reference.matte for reference in card(database, shot, 2, "station").cut] == ["dome"]
    cut = seen(page)
    drum = (560, 520)
    assert np.abs(value_at(page, cut, *drum) - value_at(page, whole, *drum)).max() > 15, "the wooden drum is gone"
    assert np.abs(value_at(page, cut, 470, 300) - value_at(page, whole, 470, 300)).max() < 8, "the dome stays"
    page.get_by_role("button", name="Take the cut by dome away").click()
    saved(page, 3)
    assert np.abs(seen(page) - whole).max() <= 2


def test_join_and_opacity(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card station").click()
    over = seen(page)
    page.get_by_role("complementary", name="Card").get_by_role("button", name="over").click()
    joins = page.get_by_role("dialog", name="Joins")
    expect(joins.get_by_role("button")).to_have_count(len(JOINS.kinds()))
    joins.get_by_role("button", name="screen").hover()
    expect(joins).to_contain_text("where a value is above 1 the larger is kept")
    joins.get_by_role("button", name="screen").click()
    saved(page, 2)
    assert card(database, shot, 2, "station").join == "screen"
    screened = seen(page)
    assert value_at(page, screened, 560, 520).mean() > value_at(page, over, 560, 520).mean() + 10, "screen brightens"
    opacity = page.get_by_role("textbox", name="Opacity", exact=True)
    opacity.fill("0")
    opacity.press("Enter")
    saved(page, 3)
    gone = seen(page)
    dome = (470, 300)
    assert value_at(page, gone, *dome).mean() < value_at(page, over, *dome).mean() - 40, "the valley shows where the dome was"


def test_a_treatment_is_pointed_at_another_matte_and_switched_off(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card station").click()
    treatments = page.get_by_role("region", name="Treatments")
    treatments.get_by_role("button", name="Through dome").click()
    page.get_by_role("menuitem", name="brass").click()
    saved(page, 2)
    assert card(database, shot, 2, "station").treatments[0].through.matte == "brass"  # type: ignore[attr-defined]
    treatments.get_by_role("button", name="Through brass").click()
    page.get_by_role("menuitem", name="everywhere").click()
    saved(page, 3)
    assert card(database, shot, 3, "station").treatments[0].through is None  # type: ignore[attr-defined]
    treatments.get_by_role("switch", name="grade on").click()
    saved(page, 4)
    assert card(database, shot, 4, "station").treatments[0].enabled is False
    expect(treatments.get_by_role("switch", name="grade on")).to_have_attribute("aria-checked", "false")


@pytest.mark.parametrize("by", ["keys", "pointer"])
def test_cards_are_put_in_another_order(page: Page, server: str, shot: int, database: Database, by: str) -> None:
    open_bench(page, server, shot)
    station = page.get_by_role("button", name="Card station")
    station.click()
    if by == "keys":
        page.keyboard.press("Alt+Shift+ArrowLeft")
    else:
        start, end = station.bounding_box(), page.get_by_role("button", name="Card shadow").bounding_box()
        assert start
        assert end
        page.mouse.move(start["x"] + 60, start["y"] + 40)
        page.mouse.down()
        page.mouse.move(start["x"] + 30, start["y"] + 42, steps=4)
        page.mouse.move(end["x"] + 30, end["y"] + 42, steps=8)
        page.mouse.up()
    saved(page, 2)
    assert [one.id for one in get_revision(database, shot, 2).shot.build] == ["sky", "station", "shadow", "finish"]
    if by == "keys":
        page.keyboard.press("Alt+Shift+ArrowRight")
        saved(page, 3)
        assert [one.id for one in get_revision(database, shot, 3).shot.build] == ["sky", "shadow", "station", "finish"]


def test_a_card_is_duplicated_with_its_treatments(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card station").click()
    page.get_by_role("button", name="Duplicate the card").click()
    saved(page, 2)
    build = get_revision(database, shot, 2).shot.build
    assert [one.id for one in build] == ["sky", "shadow", "station", "station copy", "finish"]
    ids = [t.id for one in build for t in one.treatments]
    assert len(ids) == len(set(ids))
    assert build[3].treatments[0].model_dump(exclude={"id"}) == build[2].treatments[0].model_dump(exclude={"id"})


def test_channels_and_viewer_exposure_are_for_looking_only(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    plain = seen(page)
    field = page.get_by_role("textbox", name="Viewer exposure")
    field.fill("2")
    field.press("Enter")
    drawn(page)
    assert value_at(page, seen(page), *TERRACE).mean() > value_at(page, plain, *TERRACE).mean() + 30
    field.fill("0")
    field.press("Enter")
    page.get_by_role("button", name="picture so far").click()
    page.get_by_role("menuitem", name="red", exact=True).click()
    drawn(page)
    red = seen(page)
    assert np.abs(red[..., 0] - red[..., 2])[200:300, 200:400].max() <= 3, "one channel is grey"
    assert value_at(page, red, *TERRACE)[0] == pytest.approx(value_at(page, plain, *TERRACE)[0], abs=4)
    assert revision(page) == 1


def test_a_card_is_placed_by_numbers_wrapped_and_touched_where_it_stands(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card station").click()
    before = seen(page)
    placing = page.get_by_role("region", name="Placing")
    expect(placing.get_by_text("as rendered")).to_be_visible()
    placing.get_by_role("button").first.click()
    field = placing.get_by_role("textbox", name="Move X")
    field.fill("-200")
    field.press("Enter")
    saved(page, 2)
    assert card(database, shot, 2, "station").placing.move == (-200, 0)
    expect(placing.get_by_text("-200, 0 px")).to_be_visible()
    after = seen(page)
    moved = (SLIT[0] - 200, SLIT[1])
    assert np.abs(value_at(page, after, *moved) - value_at(page, before, *SLIT)).max() < 12, "the lit slit stands 200 pixels to the left"
    assert np.abs(value_at(page, after, *SLIT) - value_at(page, before, *SLIT)).max() > 40
    page.get_by_role("button", name="Add a treatment").click()
    page.get_by_role("menuitem", name="Light wrap").click()
    saved(page, 3)
    wrap = card(database, shot, 3, "station").treatments[-1]
    assert wrap.kind == "wrap"
    expect(page.get_by_text("screen", exact=True)).to_be_visible()
    page.get_by_role("button", name="Card finish").click()
    page.get_by_role("button", name="Add a treatment").click()
    expect(page.get_by_role("menuitem", name="Sharpen")).to_be_visible()
    expect(page.get_by_role("menuitem", name="Light wrap")).to_have_count(0)


def shape_of_station(page: Page, server: str, shot: int) -> None:
    edit(page, server, shot, 1, {"op": "insert", "path": ["mattes"], "item": {"id": "shape", "kind": "alpha", "card": "station"}})


def test_a_card_is_deleted_with_the_matte_that_looks_at_it_and_says_so(page: Page, server: str, shot: int, database: Database) -> None:
    shape_of_station(page, server, shot)
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card station").click()
    page.get_by_role("button", name="Delete the card").click()
    notice = page.get_by_text("Deleted card station, and with it matte shape")
    notice.hover()  # what is read does not go away
    saved(page, 3)
    assert "shape" not in get_revision(database, shot, 3).shot.mattes
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_role("button", name="Card station")).to_be_visible()
    saved(page, 2)
    expect(notice).to_have_count(0)


def test_marked_cards_are_deleted_in_one_step_and_the_way_back_goes_when_it_would_lead_elsewhere(
    page: Page, server: str, shot: int, database: Database
) -> None:
    shape_of_station(page, server, shot)
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card shadow").click()
    page.get_by_role("button", name="Card station").click(modifiers=["Control"])
    page.get_by_role("button", name="Delete them").click()
    saved(page, 3)
    left = get_revision(database, shot, 3).shot
    assert ([one.id for one in left.build], "shape" in left.mattes) == (["sky", "finish"], False)
    notice = page.get_by_text("Deleted 2 cards, and with them matte shape")
    notice.hover()
    page.get_by_role("button", name="Card finish").click()
    page.get_by_role("button", name="Duplicate the card").click()
    saved(page, 4)
    expect(notice).to_have_count(0)
    page.keyboard.press("Control+z")
    saved(page, 3)
    page.keyboard.press("Control+z")
    saved(page, 2)
    expect(page.get_by_role("button", name="Card shadow")).to_be_visible()
    expect(page.get_by_role("button", name="Card station")).to_be_visible()


def test_the_delete_key_takes_what_is_focused_and_goes_on_from_the_next(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card station").click()
    page.get_by_role("button", name="Card shadow").focus()  # where the open one is another
    page.keyboard.press("Delete")
    saved(page, 2)
    assert [one.id for one in get_revision(database, shot, 2).shot.build] == ["sky", "station", "finish"]
    station = page.get_by_role("button", name="Card station")
    expect(station).to_have_attribute("aria-pressed", "true")
    expect(station).to_be_focused()
    page.locator("[data-treatment] button[aria-expanded]").first.focus()
    page.keyboard.press("Delete")
    saved(page, 3)
    assert card(database, shot, 3, "station").treatments == ()
    expect(page.get_by_role("button", name="Add a treatment")).to_be_focused()
    station.focus()
    page.keyboard.press("Delete")
    saved(page, 4)
    expect(page.get_by_role("button", name="Card finish")).to_be_focused()
    field = page.get_by_role("textbox", name="Viewer exposure")
    field.focus()
    page.keyboard.press("Delete")
    page.get_by_role("button", name="picture so far").focus()
    page.keyboard.press("Delete")
    assert [one.id for one in get_revision(database, shot, 4).shot.build] == ["sky", "finish"]
    assert revision(page) == 4, "elsewhere it deletes no card"


def test_the_keyboard_goes_on_from_a_treatment_that_is_removed_to_the_next(page: Page, server: str, shot: int, database: Database) -> None:
    treatments = ["build", "station", "treatments"]
    added = ({"op": "insert", "path": treatments, "item": {"id": name, "kind": "grade", "name": name}} for name in ("first", "second"))
    edit(page, server, shot, 1, *added)
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card station").click()
    first, second = (page.locator(f"[data-treatment={name}] [aria-roledescription]") for name in ("first", "second"))
    first.focus()
    page.keyboard.press("Delete")
    saved(page, 3)
    expect(second).to_be_focused()
    second.click()
    page.get_by_role("button", name="Remove second").click()
    saved(page, 4)
    assert [one.id for one in card(database, shot, 4, "station").treatments] == ["t2"]
    expect(page.locator("[data-treatment=t2] [aria-roledescription]")).to_be_focused()


def test_of_very_many_cards_those_in_sight_are_drawn(page: Page, server: str, shot: int, database: Database) -> None:
    """With every step all forty would be made anew, each of them what forty cards make."""
    build = [{"id": f"c{n}", "picture": {"kind": "solid", "colour": [n / 40, 0, 0]}} for n in range(40)]
    made = beside(database, shot, sources={}, mattes={}, build=build)
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url) if "/thumb?" in request.url else None)

    def drawn_of(revision: int) -> set[str]:
        drawn(page)
        queries = [parse_qs(urlsplit(address).query) for address in asked]
        return {query["card"][0] for query in queries if "card" in query and query["revision"] == [str(revision)]}

    open_bench(page, server, made)
    first, last = (page.get_by_role("button", name=f"Card c{n}", exact=True) for n in (0, 39))
    last.scroll_into_view_if_needed()
    wait_until(page, lambda: "c39" in drawn_of(1), "the last card is drawn where it comes into sight")
    last.click()
    opacity = page.get_by_role("textbox", name="Opacity")
    opacity.fill("0.5")
    opacity.press("Enter")
    saved(page, 2)
    assert "c39" in drawn_of(2)
    assert not drawn_of(2) & {f"c{n}" for n in range(25)}
    first.scroll_into_view_if_needed()
    wait_until(page, lambda: "c0" in drawn_of(2), "the first card is drawn anew where it comes into sight again")
