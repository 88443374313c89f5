"""From an empty bench to an element in its plate, in few gestures; and what is made there kept as a recipe for another shot."""

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Locator, Page, expect
from screen import add_designed, card, drawn, open_bench, revision, saved, seen, spot, value_at

from umbrax.core.document.text import read_data
from umbrax.store.database import Database
from umbrax.store.shots import add_shot, get_revision, list_shots

MOST = 25


class Hand:
    """A person's gestures, counted: a press, a text that is typed, a choice of a list."""

    def __init__(self, page: Page):
        self.page, self.count = page, 0

    def press(self, what: Locator) -> None:
        self.count += 1
        what.click()

    def type(self, what: Locator, text: str) -> None:
        self.count += 1
        what.fill(text)
        what.press("Enter")

    def choose(self, what: Locator, text: str) -> None:
        self.count += 1
        what.select_option(text)

    def touch(self, x: float, y: float) -> None:
        self.count += 1
        place = spot(self.page, x, y)
        self.page.mouse.move(*place)
        self.page.get_by_test_id("loupe").wait_for()
        self.page.wait_for_timeout(300)
        self.page.mouse.click(*place)
        self.page.get_by_role("dialog").wait_for()

    def button(self, name: str | re.Pattern[str], **more: bool) -> None:
        self.press(self.page.get_by_role("button", name=name, **more).first)


@pytest.fixture
def empty(database: Database, server: str, request: pytest.FixtureRequest) -> int:
    """A shot with nothing in it, in the demo's show."""
    show = next(row for row in list_shots(database) if row.name == "Dome at dusk").show_id
    layout = {"width": 1280, "height": 720, "first": 1001, "last": 1003}
    made = add_shot(database, show, read_data({"umbrax": 1, "name": f"empty {request.node.name[-50:]}", "format": layout}))
    assert made is not None
    return made


def test_an_element_with_its_shadow_graded_and_textured_over_a_plate_in_few_gestures(
    page: Page, server: str, empty: int, demo: Path, database: Database
) -> None:
    page.request.post(f"{server}/api/media/folders", data={"path": str(demo)})
    open_bench(page, server, empty)
    hand = Hand(page)
    dialog = page.get_by_role("dialog")
    for folder, name in (("plates", "valley"), ("station", "station")):
        hand.button("Add a source", exact=True)
        if folder == "plates":
            hand.press(dialog.get_by_role("button", name="demo", exact=True))
        hand.press(dialog.get_by_role("button", name=folder, exact=True))
        hand.press(dialog.get_by_role("button", name=f"Add {name}", exact=True))
        dialog.wait_for(state="hidden")
        drawn(page)
    cards = page.get_by_role("button", name=re.compile("^Card "))
    expect(cards).to_have_count(3)
    plain = seen(page)
    # the dome, graded through what was touched
    hand.touch(480, 360)
    hand.press(dialog.get_by_role("button", name="Grade"))
    drawn(page)
    hand.type(page.get_by_role("textbox", name="Exposure", exact=True), "1")
    # paper lies on it
    hand.button("Add a source", exact=True)
    hand.press(dialog.get_by_role("button", name="plates", exact=True))
    hand.press(dialog.get_by_role("button", name=re.compile("Other ways to use paper|Add paper")).first)
    dialog.wait_for(state="hidden")
    hand.button(re.compile("^Card paper"))
    hand.button("Switch the card off")
    hand.button(re.compile("^Card station(?! shadow)"))
    hand.button("Add a treatment")
    hand.press(page.get_by_role("menuitem", name=re.compile("^Texture")))
    hand.choose(page.get_by_role("combobox", name="Source").last, "paper")
    drawn(page)
    # the shadow, darker and softer
    hand.button(re.compile("^Card station shadow"))
    hand.press(page.get_by_role("button", name="Soften", exact=True))
    hand.type(page.get_by_role("textbox", name="Size", exact=True), "3")
    drawn(page)
    assert hand.count <= MOST, hand.count
    shadow, station = card(database, empty, page, "station shadow"), card(database, empty, page, "station")
    assert [one.kind for one in shadow.treatments] == ["levels", "soften"]
    assert {one.kind for one in station.treatments} == {"grade", "texture"}
    made = seen(page)
    assert np.abs(value_at(page, made, 480, 360) - value_at(page, plain, 480, 360)).max() > 15, "the dome is brighter"
    assert np.abs(value_at(page, made, 60, 60) - value_at(page, plain, 60, 60)).max() <= 3, "the plate is as it was"


def test_a_recipe_is_kept_and_laid_on_another_shot_and_asks_for_what_it_does_not_find(
    page: Page, server: str, shot: int, empty: int, database: Database
) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card station").click()
    page.get_by_role("button", name="recipes").click()
    dialog = page.get_by_role("dialog")
    name = f"dusk {shot}"
    dialog.get_by_role("textbox").fill(name)
    dialog.get_by_role("textbox").press("Enter")
    kept = dialog.get_by_role("listitem", name=f"Recipe {name}")
    expect(kept).to_contain_text("through dome")
    dialog.get_by_role("textbox").fill(name)
    expect(dialog.get_by_role("button", name="Replace it")).to_be_visible()

    open_bench(page, server, empty)
    add_designed(page, "solid")
    before = seen(page)
    page.get_by_role("button", name="recipes").click()
    dialog.get_by_role("listitem", name=f"Recipe {name}").get_by_role("button", name="Lay on solid").click()
    expect(dialog).to_contain_text("dome for Grade")
    lay = dialog.get_by_role("button", name="Lay it on")
    expect(lay).to_be_disabled()
    dialog.get_by_role("combobox", name="In place of dome").select_option(label="everywhere")
    lay.click()
    saved(page, 3)
    (grade,) = card(database, empty, page, "solid").treatments
    assert grade.kind == "grade"
    assert np.abs(seen(page) - before).max() > 2, "it shows"
    page.get_by_role("button", name="recipes").click()
    dialog.get_by_role("button", name=f"Delete recipe {name}").click()
    expect(dialog.get_by_role("listitem", name=f"Recipe {name}")).to_have_count(0)


def test_treatments_change_places_within_their_stage_by_keys_and_by_drag(page: Page, server: str, empty: int, database: Database) -> None:
    open_bench(page, server, empty)
    add_designed(page, "gradient")
    for number, kind in enumerate(("Grade", "Levels", "Soften"), 3):
        page.get_by_role("button", name="Add a treatment").click()
        page.get_by_role("menuitem", name=re.compile(f"^{kind}")).click()
        saved(page, number)
        page.get_by_role("button", name=kind, exact=True).click()  # folded again

    def kinds() -> list[str]:
        return [one.kind for one in card(database, empty, page, "gradient").treatments]

    levels = page.get_by_role("button", name="Levels", exact=True)
    levels.focus()
    page.keyboard.press("Alt+ArrowUp")
    saved(page, 6)
    assert kinds() == ["levels", "grade", "soften"]
    levels.focus()
    page.keyboard.press("Alt+ArrowUp")
    page.wait_for_timeout(300)
    assert revision(page) == 6, "the first of its stage stays"
    box, other = (page.get_by_role("button", name=name, exact=True).bounding_box() for name in ("Grade", "Levels"))
    assert box
    assert other
    page.mouse.move(box["x"] + 30, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] + 30, box["y"], steps=3)
    page.mouse.move(other["x"] + 30, other["y"] + 4, steps=6)
    page.mouse.up()
    saved(page, 7)
    assert kinds() == ["grade", "levels", "soften"]


def test_a_card_is_looked_at_alone_and_a_gradient_is_turned_in_the_picture(page: Page, server: str, empty: int, database: Database) -> None:
    open_bench(page, server, empty)
    add_designed(page, "gradient")
    before = seen(page)
    end = page.get_by_role("button", name="End of the gradient")
    box = end.bounding_box()
    assert box
    page.mouse.move(box["x"] + 5, box["y"] + 5)
    page.mouse.down()
    page.mouse.move(*spot(page, 900, 600), steps=5)
    page.mouse.up()
    saved(page, 3)
    picture = card(database, empty, page, "gradient").picture
    assert picture is not None
    x, y = picture.model_dump()["end"]
    assert x > 700
    assert np.abs(value_at(page, seen(page), 1100, 60) - value_at(page, before, 1100, 60)).max() > 30
    end.focus()
    page.keyboard.press("Shift+ArrowLeft")
    saved(page, 4)
    assert card(database, empty, page, "gradient").picture.model_dump()["end"] == (x - 10, y)  # type: ignore[union-attr]
    opacity = page.get_by_role("textbox", name="Opacity", exact=True)
    opacity.fill("0.5")
    opacity.press("Enter")
    alpha = page.get_by_role("textbox", name="Stop alpha")
    alpha.fill("0")
    alpha.press("Enter")
    saved(page, 6)
    page.get_by_role("button", name="Look at it alone").click()
    drawn(page)
    assert value_at(page, seen(page), 40, 2) == pytest.approx(122, abs=6), "nearly nothing is there: grey, 0.18 as a display shows it"
    page.get_by_test_id("stage").focus()
    page.keyboard.press("i")
    drawn(page)
    checks = seen(page)
    row = [value_at(page, checks, 8 + 16 * n, 8)[0] for n in range(3, 8)]
    assert np.abs(np.diff(row)).min() > 8, "squares"
    assert (np.sign(np.diff(row)[1:]) == -np.sign(np.diff(row)[:-1])).all(), "of two greys in turn"
    page.keyboard.press("i")
    drawn(page)
    assert value_at(page, seen(page), 40, 2).max() < 60, "the picture itself, on nothing"


def test_cards_are_copied_into_another_shot_with_what_they_need(page: Page, server: str, shot: int, empty: int, database: Database) -> None:
    open_bench(page, server, shot)
    whole = seen(page)
    page.get_by_role("button", name="Card valley").click()
    page.get_by_role("button", name="Card station").click(modifiers=["Shift"])
    page.keyboard.press("Control+c")
    expect(page.get_by_text("Copied 3 cards")).to_be_visible()
    open_bench(page, server, empty)
    page.keyboard.press("Control+v")
    saved(page, 2)
    there = get_revision(database, empty, 2).shot
    assert [one.id for one in there.build] == ["sky", "shadow", "station"]
    assert set(there.mattes) == {"dome"}
    assert np.abs(value_at(page, seen(page), 480, 420) - value_at(page, whole, 480, 420)).max() <= 6, "the bloom in front of it stayed behind"
    page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name=re.compile("^Card "))).to_have_count(0)


def test_text_says_what_is_typed_and_points_at_what_is_touched(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card finish").click()
    before = seen(page)
    add_designed(page, "text")
    words = page.get_by_role("textbox", name="Text", exact=True)
    words.fill("Dome slit\nopen")
    words.press("Control+Enter")
    saved(page, 3)
    page.get_by_text("on a box").click()
    saved(page, 4)
    page.get_by_role("button", name="Point at…").click()
    page.mouse.click(*spot(page, 620, 370))
    page.get_by_role("button", name="Point at something else…").wait_for()
    drawn(page)
    picture = card(database, shot, page, "text").picture
    assert picture is not None
    assert picture.model_dump()["text"] == "Dome slit\nopen"
    assert picture.leader.to.matte == "dome_slit"  # type: ignore[attr-defined]
    made = seen(page)
    assert np.abs(value_at(page, made, 74, 74) - value_at(page, before, 74, 74)).max() > 20, "the box"
    changed = np.abs(made - before).max(axis=2) > 40
    assert changed.any(axis=0).sum() > 200, "a line to the dome"


def test_tones_are_dragged_on_their_plot_and_colours_taken_from_the_picture(page: Page, server: str, empty: int, database: Database) -> None:
    open_bench(page, server, empty)
    add_designed(page, "gradient")
    before = seen(page)
    page.get_by_role("button", name="Add a treatment").click()
    page.get_by_role("menuitem", name=re.compile("^Tones")).click()
    saved(page, 3)
    expect(page.get_by_test_id("histogram")).to_be_visible()
    box = page.get_by_role("slider", name="middle").bounding_box()
    assert box
    page.mouse.move(box["x"] + 5, box["y"] + 5)
    page.mouse.down()
    page.mouse.move(box["x"] + 5, box["y"] - 25, steps=4)
    page.mouse.up()
    saved(page, 4)
    tones = card(database, empty, page, "gradient").treatments[0].model_dump()
    assert tones["gamma"][0] > 1.2
    assert len(set(tones["gamma"])) == 1
    assert value_at(page, seen(page), 640, 360).mean() > value_at(page, before, 640, 360).mean() + 12
    page.get_by_role("slider", name="highlights").focus()
    page.keyboard.press("Shift+ArrowDown")
    saved(page, 5)
    assert card(database, empty, page, "gradient").treatments[0].model_dump()["gain"][0] < 0.95
    # a solid takes its colour from the picture
    add_designed(page, "solid")
    page.get_by_role("button", name="Switch the card off").click()
    saved(page, 7)
    wanted = value_at(page, seen(page), 640, 500)
    page.get_by_role("button", name="Colour: choose it").click()
    page.get_by_role("button", name="From the picture").click()
    page.mouse.click(*spot(page, 640, 500))
    saved(page, 8)
    page.get_by_role("button", name="Switch the card on").click()
    saved(page, 9)
    assert value_at(page, seen(page), 640, 200) == pytest.approx(wanted, abs=3)


def test_a_plate_is_looped_over_some_of_its_frames(page: Page, server: str, database: Database, empty: int) -> None:
    """Its picture comes round, and what is said of its mattes is there only while it has a time of its own."""
    document = {
        "umbrax": 1, "name": "looped", "format": {"width": 1280, "height": 720, "first": 1001, "last": 1004},
        "sources": {"station": {"path": "station/station.{frame:04d}.exr"}},
        "build": [{"id": "plate", "picture": {"kind": "plate", "source": "station"}}],
    }  # fmt: skip
    made = add_shot(database, next(row for row in list_shots(database) if row.id == empty).show_id, read_data(document))
    assert made is not None
    open_bench(page, server, made)
    page.get_by_role("button", name="Card plate").click()
    page.get_by_text("plate · station").click()
    time = page.get_by_role("region", name="Time of the plate")
    told = time.get_by_text("follow its time where this card uses them")
    expect(told).to_have_count(0)
    time.get_by_role("button", name=re.compile("hold, loop or turn")).click()
    saved(page, 2)
    expect(told).to_be_visible()
    last = time.get_by_role("textbox").last
    last.fill("1002")
    last.press("Enter")
    saved(page, 3)
    time.get_by_role("button", name="Beyond").click()
    page.get_by_role("menuitem", name="loop").click()
    saved(page, 4)
    timing = card(database, made, page, "plate").picture.time
    assert (timing.span, timing.beyond) == ((1001, 1002), "loop")
    ruler, frames = page.get_by_role("slider", name="Frame"), [seen(page)]
    for frame in (1002, 1003):
        ruler.press("ArrowRight")
        expect(ruler).to_have_attribute("aria-valuenow", str(frame))
        drawn(page)
        frames.append(seen(page))
    assert np.abs(frames[2] - frames[0]).max() <= 1
    assert np.abs(frames[1] - frames[0]).max() > 20
