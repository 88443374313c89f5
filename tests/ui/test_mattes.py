"""Isolating with the real page: gathering by a stroke, taking out, crossing, naming, using, pointing elsewhere; mattes of other kinds."""

import re
from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Locator, Page, expect
from screen import beside, drawn, open_bench, seen, spot, touch

from umbrax.store.database import Database
from umbrax.store.shots import get_revision, get_shot


def document(database: Database, shot: int) -> dict[str, Any]:
    return get_revision(database, shot, get_shot(database, shot).head).shot.model_dump(mode="json", by_alias=True, exclude_none=True)


def stroke(page: Page, *points: tuple[float, float]) -> None:
    """A drag with Shift held."""
    page.keyboard.down("Shift")
    page.mouse.move(*spot(page, *points[0]))
    page.mouse.down()
    for point in points[1:]:
        page.mouse.move(*spot(page, *point))
    page.mouse.up()
    page.keyboard.up("Shift")


def named(panel: Any) -> list[str]:
    return [text.strip() for text in panel.get_by_role("listitem").all_inner_texts()]


def only_this(panel: Locator, name: str) -> None:
    """Take the first name that is found and holds this in place of all others."""
    row = panel.get_by_role("listitem").filter(has_text=name).filter(has_text="%").first
    row.hover()
    row.get_by_role("button", name="only this").click()


def box(picture: np.ndarray, page: Page, x0: int, y0: int, x1: int, y1: int) -> np.ndarray:
    """A part of the picture as it is on the screen."""
    stage = page.get_by_test_id("stage").bounding_box()
    assert stage
    (left, top), (right, bottom) = spot(page, x0, y0), spot(page, x1, y1)
    return picture[int(top - stage["y"]) : int(bottom - stage["y"]), int(left - stage["x"]) : int(right - stage["x"])]


DOOR, WALL = (480, 520, 530, 600), (600, 480, 700, 600)


def test_gathered_crossed_named_used_twice_and_pointed_elsewhere(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    plain = seen(page)
    # 1: a stroke from the dome down to its wall
    stroke(page, (560, 320), (560, 500))
    panel = page.get_by_role("complementary", name="Matte")
    expect(panel.get_by_label("Name of the matte")).to_have_value("dome_shell and others")
    assert named(panel) == ["dome_shell", "drum_band", "drum"]
    # 2: the band is taken out
    page.keyboard.down("Shift")
    page.mouse.click(*spot(page, 560, 404))
    page.keyboard.up("Shift")
    expect(panel.get_by_role("listitem")).to_have_count(2)
    assert named(panel) == ["dome_shell", "drum"]
    # 3: crossed with what is of wood
    panel.get_by_role("button", name="Combine…").click()
    page.get_by_role("menuitem", name="wood material").click()
    expect(panel.get_by_label("Name of the matte")).to_have_value("dome_shell and others x wood")
    # 4: named
    panel.get_by_label("Name of the matte").fill("wooden wall")
    panel.get_by_label("Name of the matte").press("Enter")
    expect(page.get_by_role("region", name="Mattes")).to_contain_text("wooden wall")
    # 5 to 8: used by a grade and by a bloom
    for card, chip in (("station", "Through dome"), ("finish", "the whole card's light")):
        page.get_by_role("button", name=f"Card {card}").click()
        page.get_by_role("button", name=chip).click()
        page.get_by_role("menuitem", name="wooden wall", exact=True).click()
        drawn(page)
    graded = document(database, shot)
    treatments = {t["id"]: t for card in graded["build"] for t in card.get("treatments", ())}
    assert treatments["t2"]["through"] == "dome_shell and others x wood"
    assert treatments["t3"]["feed"] == {"matte": "dome_shell and others x wood"}
    page.get_by_role("button", name="Card station").click()
    page.keyboard.press("p")
    before = seen(page)
    # 9 and 10: the matte is pointed at the door instead, by one click on its name
    page.get_by_role("region", name="Mattes").get_by_role("button", name="dome_shell and others", exact=False).first.click()
    panel.get_by_role("searchbox", name="Add a name").fill("mast_1")
    only_this(panel, "mast_1")
    expect(panel.get_by_role("listitem")).to_have_count(1)
    page.keyboard.press("Escape")
    drawn(page)
    page.get_by_role("button", name="Card station").click()
    page.get_by_role("button", name="Card finish").click()
    drawn(page)
    after = document(database, shot)
    assert after["mattes"]["dome_shell and others"]["names"] == ["mast_1"]
    assert [t for card in after["build"] for t in card.get("treatments", ())] == list(treatments.values()), "both treatments follow the matte"
    page.keyboard.press("p")
    now = seen(page)
    wall_before, wall_now = (np.abs(box(p, page, *WALL) - box(plain, page, *WALL)).mean() for p in (before, now))
    assert wall_before != pytest.approx(wall_now, abs=0.3), "what was treated through it is no more"


@pytest.mark.parametrize("way", ["stroke", "touch", "menu"])
def test_the_first_matte_of_a_shot_that_was_just_taken_in(page: Page, server: str, shot: int, database: Database, way: str) -> None:
    build = [{"id": "station", "picture": {"kind": "pass", "source": "station", "pass": "rgba"}}]
    made = beside(database, shot, mattes={}, build=build)
    open_bench(page, server, made)
    before = seen(page)
    if way == "stroke":
        stroke(page, (560, 320), (560, 500))
    elif way == "touch":
        touch(page, 560, 320)
        page.get_by_role("dialog").get_by_role("button", name="Grade").click()
    else:
        page.get_by_role("button", name="Make a matte").click()
        page.get_by_role("menuitem", name="Depth depth").first.click()
    drawn(page)
    assert len(document(database, made)["mattes"]) == 1
    expect(page.get_by_role("region", name="Mattes").get_by_role("button").nth(1)).to_be_visible()
    assert np.abs(box(seen(page), page, 480, 300, 640, 380) - box(before, page, 480, 300, 640, 380)).mean() > 5, "it is tinted, or graded"


def test_a_stroke_over_nothing_makes_nothing(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    count = len(document(database, shot)["mattes"])
    stroke(page, (60, 60), (300, 60))
    drawn(page)
    assert len(document(database, shot)["mattes"]) == count
    page.keyboard.down("Shift")
    for _ in range(2):
        page.mouse.click(*spot(page, 440, 350))
        drawn(page)
    page.keyboard.up("Shift")
    made = document(database, shot)["mattes"]
    assert made["dome_shell"]["names"] == ["dome_shell"]
    assert len(made) == count + 1


@pytest.mark.parametrize(
    ("kind", "key", "value"), [("Depth depth", "kind", "depth"), ("Index material_index", "numbers", [1]), ("Alpha", "source", "station")]
)
def test_other_kinds_are_made_and_refined(page: Page, server: str, shot: int, database: Database, kind: str, key: str, value: Any) -> None:
    open_bench(page, server, shot)
    before = set(document(database, shot)["mattes"])
    page.get_by_role("button", name="Make a matte").click()
    page.get_by_role("menuitem", name=kind).first.click()
    panel = page.get_by_role("complementary", name="Matte")
    panel.wait_for()
    drawn(page)
    (made,) = set(document(database, shot)["mattes"]) - before
    assert document(database, shot)["mattes"][made][key] == value
    page.get_by_role("radio", name="alone").click()
    drawn(page)
    alone = seen(page)
    assert alone.max() > 240
    assert alone[..., 0].std() > 20
    panel.get_by_role("checkbox", name="Invert").click()
    drawn(page)
    inverted = seen(page)
    middle = box(alone, page, 300, 200, 1200, 650) + box(inverted, page, 300, 200, 1200, 650)
    assert np.abs(np.median(middle) - 255) < 6
    assert document(database, shot)["mattes"][made]["refine"]["invert"] is True
    panel.get_by_role("button", name="Back to the card").click()
    expect(page.get_by_role("complementary", name="Card")).to_be_visible()


def test_names_are_searched_added_as_a_pattern_and_taken_out(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.get_by_role("region", name="Mattes").get_by_role("button", name="dome", exact=False).first.click()
    panel = page.get_by_role("complementary", name="Matte")
    search = panel.get_by_role("searchbox", name="Add a name")
    search.fill("lamp")
    expect(panel.get_by_role("button", name="mast_1_lamp")).to_be_visible()
    search.fill("mast_*_lamp")
    search.press("Enter")
    drawn(page)
    assert "mast_*_lamp" in document(database, shot)["mattes"]["dome"]["names"]
    panel.get_by_role("button", name="Take mast_*_lamp out").click()
    drawn(page)
    assert "mast_*_lamp" not in document(database, shot)["mattes"]["dome"]["names"]
    search.fill("no such thing")
    expect(panel.get_by_text("No name holds it")).to_be_visible()


def test_of_very_many_mattes_one_is_found_by_typing(page: Page, server: str, shot: int, database: Database) -> None:
    """In the order that numbers have, in the list and in a menu; Enter takes the first that is found, Escape what was typed."""
    mattes = {f"lamp {n}": {"kind": "shape", "form": "ellipse", "points": [300, 300, 90 + n, 90]} for n in range(1, 31)}
    build = [{"id": "sky", "picture": {"kind": "solid"}, "treatments": [{"id": "g", "kind": "grade"}]}]
    made = beside(database, shot, sources={}, mattes=mattes, build=build)
    open_bench(page, server, made)
    listed = page.get_by_role("region", name="Mattes")
    search = listed.get_by_label("Search mattes")

    def rows() -> list[str]:
        return re.findall(r"lamp \d+", listed.inner_text())

    assert rows() == [f"lamp {n}" for n in range(1, 31)]
    search.fill("p 2")
    expect(listed.get_by_text("11 of 30")).to_be_visible()
    assert rows() == ["lamp 2", *(f"lamp {n}" for n in range(20, 30))]
    search.fill("tower")
    expect(listed.get_by_text("No matte holds “tower”.")).to_be_visible()
    search.press("Escape")
    expect(search).to_have_value("")
    page.get_by_role("button", name="everywhere", exact=True).click()
    menu = page.get_by_role("menu")
    expect(menu.get_by_role("status")).to_have_text("type to find")
    page.keyboard.type("lamp 27")
    expect(menu.get_by_role("menuitem")).to_have_text(["lamp 27"])
    page.keyboard.press("Escape")
    expect(menu.get_by_role("menuitem")).to_have_count(31)
    page.keyboard.type("27")
    expect(menu.get_by_role("menuitem")).to_have_text(["lamp 27"])
    page.keyboard.press("Enter")
    expect(menu).to_have_count(0)
    expect(page.get_by_role("button", name="Through lamp 27", exact=True)).to_be_visible()
    drawn(page)
    assert document(database, made)["build"][0]["treatments"][0]["through"] == "lamp 27"
    page.get_by_role("button", name="Add a treatment").click()
    page.keyboard.type("mirrored")  # which no title holds
    expect(menu.get_by_role("menuitem")).to_have_text([re.compile("^Lens reflections")])
