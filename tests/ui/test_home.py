"""The shots kept in order with the real page: renamed, moved, deleted and brought back, found, and forty at a glance."""

import re
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from dropping import drop
from playwright.sync_api import Locator, Page, expect
from screen import HEIGHT, MARGIN, WIDTH, drawn, open_bench, seen

from own_render import write_plate
from umbrax.store.database import Database
from umbrax.store.shots import add_shot, get_revision, list_shots
from umbrax.store.shows import add_show

ALL = [f"shot {index:02d}" for index in range(10)]


def shots_of(page: Page, server: str, show: str) -> list[str]:
    shows: list[dict[str, Any]] = page.request.get(f"{server}/api/shows").json()["shows"]
    return next(([shot["name"] for shot in one["shots"]] for one in shows if one["name"] == show), [])


@pytest.fixture
def show(database: Database, server: str, request: pytest.FixtureRequest) -> str:
    """A show of ten shots, and an empty one beside it."""
    # letters: a number might hold that of a shot, which is searched for
    name = "Job " + "".join("abcdefghij"[int(digit)] for digit in str(abs(hash(request.node.name)) % 10**6))
    number = add_show(database, name, str(Path(server).parent))
    add_show(database, f"{name} beside", "/nowhere")
    row = next(one for one in list_shots(database) if one.name == "Dome at dusk")
    shot = get_revision(database, row.id, 1).shot
    for index in range(10):
        add_shot(database, number, shot.model_copy(update={"name": f"shot {index:02d}"}))
    return name


def tile(page: Page, show: str, shot: str) -> Locator:
    return page.get_by_role("region", name=show, exact=True).get_by_role("article", name=shot, exact=True)


def do(page: Page, show: str, shot: str, what: str) -> None:
    tile(page, show, shot).get_by_role("button", name=f"Shot {shot}").click()
    page.get_by_role("menuitem", name=re.compile(f"^{what}")).click()


def test_ten_shots_are_renamed_by_keys_alone(page: Page, server: str, show: str) -> None:
    page.goto(server)
    for index in range(10):
        old = f"shot {index:02d}"
        tile(page, show, old).get_by_role("link").focus()
        page.keyboard.press("F2")
        page.keyboard.type(f"scene {index:02d}")
        page.keyboard.press("Enter")
        expect(tile(page, show, f"scene {index:02d}")).to_be_visible()
    assert shots_of(page, server, show) == [f"scene {index:02d}" for index in range(10)]
    # Escape gives a name up
    tile(page, show, "scene 00").get_by_role("link").focus()
    page.keyboard.press("F2")
    page.keyboard.type("nothing")
    page.keyboard.press("Escape")
    expect(tile(page, show, "scene 00")).to_be_visible()
    assert "nothing" not in shots_of(page, server, show)


def test_a_shot_is_deleted_and_brought_back_at_once_or_later(page: Page, server: str, show: str) -> None:
    page.goto(server)
    do(page, show, "shot 03", "Delete")
    expect(tile(page, show, "shot 03")).to_have_count(0)
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(tile(page, show, "shot 03")).to_be_visible()
    tile(page, show, "shot 04").get_by_role("link").focus()
    page.keyboard.press("Delete")
    expect(tile(page, show, "shot 04")).to_have_count(0)
    page.reload()
    page.get_by_role("region", name="Deleted").get_by_role("button").first.click()
    page.get_by_role("button", name="Bring shot 04 back").click()
    expect(tile(page, show, "shot 04")).to_be_visible()


def test_a_shot_moves_to_another_show_and_a_show_is_opened_alone(page: Page, server: str, show: str) -> None:
    page.goto(server)
    do(page, show, "shot 05", f"{show} beside")
    expect(tile(page, f"{show} beside", "shot 05")).to_be_visible()
    expect(tile(page, show, "shot 05")).to_have_count(0)
    page.get_by_role("link", name=f"{show} beside").click()
    expect(page).to_have_title(f"{show} beside · Shots · Umbrax")
    expect(page.get_by_role("region", name=show, exact=True)).to_have_count(0)
    expect(tile(page, f"{show} beside", "shot 05")).to_be_visible()


@pytest.mark.parametrize(
    ("words", "found"),
    [
        ("{show} shot 07", ["shot 07"]),
        ("07 {show}", ["shot 07"]),
        ("{show} valley", ALL),
        ("no such thing", []),
    ],
)
def test_the_search_finds_by_show_shot_and_source(page: Page, server: str, show: str, words: str, found: list[str]) -> None:
    page.goto(server)
    tile(page, show, "shot 00").wait_for()
    page.get_by_role("searchbox").fill(words.format(show=show))
    if not found:
        expect(page.get_by_text("Nothing is called")).to_be_visible()
        page.get_by_role("button", name="Show all").click()
        expect(tile(page, show, "shot 00")).to_be_visible()
        return
    expect(page.get_by_role("region", name=show, exact=True).get_by_role("article")).to_have_count(len(found))
    for name in found:
        expect(tile(page, show, name)).to_be_visible()


def test_forty_shots_fit_two_screens(page: Page, server: str, database: Database) -> None:
    number = add_show(database, "Forty", "/nowhere")
    row = next(one for one in list_shots(database) if one.name == "Dome at dusk")
    shot = get_revision(database, row.id, 1).shot
    for index in range(40):
        add_shot(database, number, shot.model_copy(update={"name": f"of forty {index:02d}"}))
    page.goto(f"{server}/shows/{number}")
    tiles = page.get_by_role("article")
    expect(tiles).to_have_count(40)
    heights = {}
    for size in ("middle", "small"):
        page.get_by_role("radio", name=size).check()
        heights[size] = page.get_by_role("main").evaluate("main => main.scrollHeight")
    assert heights["middle"] <= 2 * (800 - 40)
    assert heights["small"] < heights["middle"]
    page.reload()
    expect(page.get_by_role("radio", name="small")).to_be_checked()


def test_a_drop_on_a_show_joins_it_and_is_named_after_its_file(page: Page, server: str, show: str, tmp_path: Path) -> None:
    write_plate(tmp_path / "winter_sky_v003.png")
    page.goto(server)
    page.get_by_role("region", name=f"{show} beside").wait_for()
    drop(page, [tmp_path / "winter_sky_v003.png"], f'[data-show="{show} beside"]')
    page.wait_for_url("**/passes", timeout=30000)
    assert shots_of(page, server, f"{show} beside") == ["Winter sky"]
    expect(page).to_have_title("Passes · Winter sky · Umbrax")


def test_a_drop_beside_all_shows_asks_which_one(page: Page, server: str, show: str, tmp_path: Path) -> None:
    write_plate(tmp_path / "summer.png")
    page.goto(server)
    tile(page, show, "shot 00").wait_for()
    drop(page, [tmp_path / "summer.png"], "header")
    dialog = page.get_by_role("dialog")
    dialog.get_by_label(re.compile("^Show")).fill(f"{show} new")
    dialog.get_by_role("button", name="Take in").click()
    page.wait_for_url("**/passes", timeout=30000)
    assert shots_of(page, server, f"{show} new") == ["Summer"]


def test_name_frames_rate_and_size_are_edited_as_one_step(page: Page, server: str, shot: int) -> None:
    page.goto(f"{server}/shots/{shot}")
    page.get_by_role("button", name="name, frames, rate, size and view of the shot").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Last frame").fill("900")
    expect(dialog.get_by_role("alert")).to_have_text("The last frame comes at or after the first.")
    expect(dialog.get_by_role("button", name="Save")).to_be_disabled()
    dialog.get_by_label("Last frame").fill("1024")
    dialog.get_by_label("Frames a second").fill("24000/1001")
    dialog.get_by_label("Name").fill(f"Set {shot}")
    dialog.get_by_role("button", name="Save").click()
    expect(page.get_by_test_id("time")).to_contain_text("1001–1024")
    expect(page.get_by_role("banner")).to_contain_text("23.976 fps")
    expect(page).to_have_title(f"Set {shot} · Umbrax")
    page.keyboard.press("Control+z")
    expect(page.get_by_test_id("time")).to_contain_text("1001–1048")


def test_pixels_that_are_not_square_are_shown_in_their_shape(page: Page, server: str, shot: int) -> None:
    """Twice as wide as high: the picture takes all of the stage's width and half of the height; what is under the cursor is the pixel there."""
    open_bench(page, server, shot)
    squares = page.get_by_role("button", name="Pixels 2 times as wide as high")
    expect(squares).to_have_count(0)
    page.get_by_role("button", name="name, frames, rate, size and view of the shot").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Width of a pixel").fill("0")
    expect(dialog.get_by_role("alert")).to_have_text("A pixel is 0.1 to 10 times as wide as high.")
    dialog.get_by_label("Width of a pixel").fill("2")
    dialog.get_by_role("button", name="Save").click()
    expect(squares).to_have_attribute("aria-pressed", "true")
    drawn(page)
    stage = page.get_by_test_id("stage").bounding_box()
    assert stage
    wide = stage["width"] - 2 * MARGIN
    high = wide / (2 * WIDTH) * HEIGHT

    def lit() -> tuple[int, int]:
        """How many columns and rows of the stage hold the picture."""
        picture = seen(page)
        there = np.abs(picture - picture[2, 2]).max(axis=2) > 12
        return int(there.mean(axis=0).__gt__(0.1).sum()), int(there.mean(axis=1).__gt__(0.1).sum())

    across, down = lit()
    assert (across, down) == (pytest.approx(wide, abs=6), pytest.approx(high, abs=6))
    left, top = stage["x"] + MARGIN, stage["y"] + (stage["height"] - high) / 2
    page.mouse.move(left + 0.75 * wide, top + 0.25 * high)
    at = page.get_by_test_id("loupe").inner_text().splitlines()[0]
    assert [int(part) for part in at.split(",")] == [pytest.approx(0.75 * WIDTH, abs=3), pytest.approx(0.25 * HEIGHT, abs=3)]
    squares.click()
    drawn(page)
    across, down = lit()
    assert across / down == pytest.approx(WIDTH / HEIGHT, rel=0.03)


def test_without_shows_the_page_teaches_and_the_demo_is_one_click_away(page: Page, server: str) -> None:
    page.route("**/api/shows", lambda route: route.fulfill(json={"shows": [], "deleted": [], "demo": "Ridge Observatory"}))
    asked: list[str] = []
    page.route("**/api/demo", lambda route: (asked.append(route.request.method), route.continue_()))
    page.goto(server)
    main = page.get_by_role("main")
    for term in ("A source", "A pass", "A matte", "A shot"):
        expect(main.get_by_text(term, exact=True)).to_be_visible()
    page.get_by_role("button", name="Bring in the demo").click()
    expect(page.get_by_text("run bin/start once")).to_be_visible()
    assert asked == ["POST"]
