"""Numbers and keys with the real page: typed, reckoned, stepped, keyed; and the keys go back to the page."""

from typing import Any

import pytest
from playwright.sync_api import Locator, Page, expect
from screen import drawn, open_bench, revision


def card(page: Page, server: str, shot: int, name: str = "finish") -> Any:
    return next(one for one in page.request.get(f"{server}/api/shots/{shot}").json()["document"]["build"] if one["id"] == name)


@pytest.fixture
def opacity(page: Page, server: str, shot: int) -> Locator:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card finish").click()
    return page.get_by_role("textbox", name="Opacity")


def test_after_enter_the_keys_go_back_to_the_page(page: Page, server: str, shot: int, opacity: Locator) -> None:
    opacity.focus()
    page.keyboard.type("0.4")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("saved")).to_contain_text("revision 2")
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_test_id("saved")).to_contain_text("revision 1")
    assert "opacity" not in card(page, server, shot)


RECKONED = {"1/2": 0.5, "50%": 0.5, "*.5": 0.4, "/4": 0.2, "+=0.1": 0.9, "-=0.3": 0.5, "0,25": 0.25, ".2 + .1": 0.3, "7": 1.0}


def test_what_is_typed_is_reckoned(page: Page, server: str, shot: int, opacity: Locator) -> None:
    for typed, value in RECKONED.items():
        opacity.fill("0.8")
        opacity.press("Enter")
        expect(opacity).to_have_value("0.80")
        opacity.fill(typed)
        opacity.press("Enter")
        expect(opacity).to_have_value(f"{value:.2f}")
        drawn(page)
        assert card(page, server, shot).get("opacity", 1.0) == pytest.approx(value), typed


def test_what_means_no_number_is_said_and_nothing_changes(page: Page, server: str, shot: int, opacity: Locator) -> None:
    opacity.fill("a lot")
    opacity.press("Enter")
    expect(opacity).to_have_attribute("aria-invalid", "true")
    expect(opacity).to_be_focused()
    opacity.press("Escape")
    expect(opacity).to_have_value("1.00")
    assert revision(page) == 1


def test_escape_gives_up_what_was_typed_and_enter_takes_it_once(page: Page, server: str, shot: int, opacity: Locator) -> None:
    sent: list[str] = []
    page.on("request", lambda request: sent.append(request.url) if request.url.endswith("/edits") else None)
    opacity.fill("0.3")
    opacity.press("Escape")
    expect(opacity).to_have_value("1.00")
    opacity.fill("0.3")
    opacity.press("Enter")
    expect(page.get_by_test_id("saved")).to_contain_text("saved · revision 2")
    drawn(page)
    assert len(sent) == 1
    assert card(page, server, shot)["opacity"] == 0.3


def test_the_picture_comes_nearer_and_goes_farther_by_keys(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    zoom = page.locator("section[aria-label=Viewer] span.value").last
    fitted = int(zoom.inner_text().removesuffix(" %"))
    page.keyboard.press("+")
    expect(zoom).to_have_text(f"{round(fitted * 2**0.5)} %")
    page.keyboard.press("-")
    page.keyboard.press("-")
    expect(zoom).to_have_text(f"{round(fitted / 2**0.5)} %")
    page.keyboard.press("f")
    expect(zoom).to_have_text(f"{fitted} %")


def test_a_value_is_keyed_without_a_mouse(page: Page, server: str, shot: int, opacity: Locator) -> None:
    opacity.focus()
    page.keyboard.press("k")
    expect(page.get_by_test_id("saved")).to_contain_text("revision 2")
    page.keyboard.press("Escape")
    for _ in range(4):
        page.keyboard.press("ArrowRight")
    opacity.focus()
    page.keyboard.type("0.5")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("saved")).to_contain_text("revision 3")
    assert card(page, server, shot)["opacity"] == {"keys": [[1001, 1.0, "smooth"], [1005, 0.5, "smooth"]]}
    opacity.focus()
    page.keyboard.press("k")
    expect(page.get_by_test_id("saved")).to_contain_text("revision 4")
    assert card(page, server, shot)["opacity"] == {"keys": [[1001, 1.0, "smooth"]]}


def test_two_quick_steps_are_two_edits_and_none_is_lost(page: Page, server: str, shot: int, opacity: Locator) -> None:
    held: list[Any] = []
    page.route("**/edits", lambda route: (held.append(1), page.wait_for_timeout(150), route.continue_()))
    opacity.focus()
    for _ in range(5):
        page.keyboard.press("ArrowDown")
    expect(opacity).to_have_value("0.95")
    expect(page.get_by_test_id("saved")).to_contain_text("saved · revision 6")
    assert len(held) == 5
    assert card(page, server, shot)["opacity"] == pytest.approx(0.95)
    assert page.request.get(f"{server}/api/shots/{shot}").json()["undo_command"] == "opacity 0.95"
    expect(page.get_by_text("changed in another tab")).to_have_count(0)


def test_a_step_that_is_refused_takes_those_made_on_it_along_and_says_so(page: Page, server: str, shot: int, opacity: Locator) -> None:
    def refuse(route: Any) -> None:
        page.wait_for_timeout(900)  # longer than three keys take on a busy machine
        route.fulfill(status=400, json={"error": {"code": "invalid", "message": "the disk is full; make room"}})

    page.route("**/edits", refuse)
    opacity.focus()
    for _ in range(3):
        page.keyboard.press("ArrowDown")
    expect(page.get_by_text("The disk is full; make room")).to_be_visible()
    expect(page.get_by_text("The 2 steps after it went with it")).to_be_visible()
    expect(opacity).to_have_value("1.00")
    assert revision(page) == 1


def test_edges_give_the_zoom_back(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="dome").last.click()
    zoom = page.locator("section[aria-label=Viewer] span.value").last
    fitted = zoom.inner_text()
    page.get_by_role("radio", name="edges").check()
    expect(zoom).to_have_text("100 %")
    page.get_by_role("radio", name="tint").check()
    expect(zoom).to_have_text(fitted)


def test_the_menu_of_a_touch_stands_beside_what_was_touched(page: Page, server: str, shot: int) -> None:
    from screen import spot, touch

    open_bench(page, server, shot)
    touch(page, 590, 300)
    box = page.get_by_role("dialog").bounding_box()
    x, y = spot(page, 590, 300)
    assert box
    assert not (box["x"] <= x <= box["x"] + box["width"] and box["y"] <= y <= box["y"] + box["height"])
    left, right = spot(page, 545, 300)[0], spot(page, 725, 300)[0]
    assert box["x"] >= right - 8 or box["x"] + box["width"] <= left + 8, "the dome can be seen whole"
