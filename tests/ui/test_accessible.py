"""The page for everybody: no violation of WCAG 2.1 AA that axe-core can find, and all of the bench by keys alone."""

import re
from typing import Any

import pytest
from axe import violations
from playwright.sync_api import Page, expect
from screen import drawn, open_bench, quiet, seen, spot


def bench(page: Page) -> None:
    page.get_by_role("button", name="Card station").click()
    page.get_by_role("region", name="Picture").get_by_role("button", name=re.compile("^Picture")).click()
    page.get_by_role("region", name="Treatments").get_by_role("button", name=re.compile("Grade")).first.click()


def wiped(page: Page) -> None:
    page.keyboard.press("Shift+B")
    page.get_by_role("slider", name="Wipe between").wait_for()


def history(page: Page) -> None:
    page.keyboard.press("h")
    page.get_by_role("listitem", name="Revision 1").wait_for()


def seat(page: Page) -> None:
    page.get_by_role("button", name="does it sit?").click()
    page.get_by_role("region", name="Seat check").wait_for()


def matte(page: Page) -> None:
    page.get_by_role("button", name=re.compile("^dome")).last.click()


def touched(page: Page) -> None:
    page.mouse.move(*spot(page, 640, 250))
    page.get_by_test_id("loupe").wait_for()
    page.wait_for_timeout(400)
    page.mouse.click(*spot(page, 640, 250))
    page.get_by_role("dialog").wait_for()


def keys(page: Page) -> None:
    page.keyboard.press("?")
    page.get_by_role("dialog").wait_for()


def settings(page: Page) -> None:
    page.get_by_role("button", name="name, frames, rate, size and view of the shot").click()
    page.get_by_label("Frames a second").wait_for()


def add_source(page: Page) -> None:
    page.get_by_role("button", name="Add a source").first.click()
    page.get_by_role("navigation", name="Media folders").get_by_role("button").first.wait_for()


def look(page: Page) -> None:
    page.get_by_role("button", name="Look at depth").click()
    page.get_by_role("dialog").wait_for()


def account(page: Page) -> None:
    page.get_by_role("button", name="Signed in as").click()
    page.get_by_role("menuitem", name="Password and tokens").click()
    page.get_by_role("dialog").wait_for()


def comments(page: Page) -> None:
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Comments").click()
    page.get_by_role("radio", name="a point").click()
    page.get_by_role("textbox", name="New comment").wait_for()


@pytest.mark.parametrize(
    ("place", "prepare"),
    [
        ("/", None), ("/take-in", None), ("/shots/{shot}/passes", None), ("/shots/{shot}/passes", look),
        ("/shots/{shot}/hand-off", None), ("/shots/0", None), ("/queue", None), ("/people", None), ("/people", account),
        ("/join/none", None),
    ],
)  # fmt: skip
def test_no_view_has_a_violation_that_can_be_found(page: Page, server: str, shot: int, place: str, prepare: Any) -> None:
    page.goto(server + place.format(shot=shot))
    rested(page)
    if prepare is not None:
        prepare(page)
        rested(page)
    assert violations(page) == []


def test_the_bench_has_no_violation_whatever_is_open(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    rested(page)
    assert violations(page) == []
    for prepare in (bench, seat, wiped, history, matte, touched, keys, settings, add_source, comments):
        prepare(page)
        rested(page)
        assert violations(page) == [], prepare.__name__
        page.keyboard.press("Escape")


def rested(page: Page) -> None:
    page.wait_for_timeout(500)
    quiet(page)


def test_everything_on_the_bench_that_can_be_pressed_is_reached_by_tab(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    bench(page)
    drawn(page)
    left_out = page.evaluate(
        """() => [...document.querySelectorAll('button, a, input, select, [role=button], [role=slider], [role=switch]')]
          .filter((one) => one.offsetParent !== null && !one.disabled && one.tabIndex < 0)
          .map((one) => one.outerHTML.slice(0, 120))"""
    )
    assert left_out == []
    page.keyboard.press("Escape")
    page.evaluate("document.activeElement.blur()")
    reached = set()
    for _ in range(160):
        page.keyboard.press("Tab")
        reached.add(page.evaluate("document.activeElement.getAttribute('aria-label') ?? document.activeElement.textContent"))
    for wanted in ("Add a source", "Opacity", "Frame", "Card finish", "Add a card at the front", "Make a matte", "Hand off"):
        assert wanted in reached, wanted


def test_the_picture_is_touched_graded_and_gathered_by_keys_alone(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    page.get_by_test_id("stage").focus()
    page.keyboard.press("ArrowUp")
    expect(page.get_by_test_id("crosshair")).to_be_visible()
    for _ in range(10):
        page.keyboard.press("Shift+ArrowUp")
    page.get_by_test_id("loupe").wait_for()
    expect(page.get_by_test_id("loupe")).to_contain_text("dome")
    before = seen(page)
    page.get_by_test_id("stage").focus()
    page.keyboard.press("Enter")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("dome_shell")
    expect(dialog.get_by_role("button", name="Grade")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("saved")).to_contain_text("revision 2")
    exposure = page.get_by_role("textbox", name="Exposure", exact=True)
    exposure.focus()
    page.keyboard.type("1.5")
    page.keyboard.press("Enter")
    drawn(page)
    assert (seen(page) - before).max() > 30, "the dome is brighter"
    # zoomed and moved about by keys: what is under the cursor stays under it at the rim
    page.keyboard.press("+")
    page.keyboard.press("+")
    page.get_by_test_id("stage").focus()
    for _ in range(60):
        page.keyboard.press("Shift+ArrowRight")
    box, cross = page.get_by_test_id("stage").bounding_box(), page.get_by_test_id("crosshair").bounding_box()
    assert box
    assert cross
    assert box["x"] < cross["x"] < box["x"] + box["width"]
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("crosshair")).to_have_count(0)
