"""Comments in the page: said of a point, seen there by others, followed to their frame, answered and resolved."""

from playwright.sync_api import Browser, Page, StorageState, expect
from screen import drawn, open_bench, spot


def test_a_point_is_said_something_of_and_another_finds_it(page: Page, browser: Browser, server: str, shot: int, session: StorageState) -> None:
    open_bench(page, server, shot)
    page.keyboard.press("n")
    panel = page.get_by_role("complementary", name="Comments")
    panel.get_by_role("radio", name="a point").click()
    page.mouse.click(*spot(page, 985, 147))
    box = page.get_by_test_id("said-of").bounding_box()
    assert box
    wanted = spot(page, 985, 147)
    assert abs(box["x"] + box["width"] / 2 - wanted[0]) < 2
    assert abs(box["y"] + box["height"] / 2 - wanted[1]) < 2
    words = page.get_by_role("textbox", name="New comment")
    words.fill("this lamp flickers")
    words.press("Control+Enter")
    expect(panel.get_by_role("listitem", name="Comment 1")).to_contain_text("this lamp flickers")
    panel.get_by_role("radio", name="shot").click()
    words.fill("n is no shortcut while somebody types")
    page.get_by_role("button", name="Say it").click()
    expect(panel.get_by_role("listitem")).to_have_count(2)

    other = browser.new_page(viewport={"width": 1280, "height": 800}, storage_state=session)
    open_bench(other, server, shot)
    other.get_by_role("slider", name="Frame").focus()
    other.keyboard.press("End")
    drawn(other)
    expect(other.get_by_test_id("said")).to_have_count(1)
    other.get_by_role("button", name="Comments: 2 open").click()
    theirs = other.get_by_role("complementary", name="Comments")
    expect(other.get_by_role("button", name="Comment 1: this lamp")).to_have_count(0)
    theirs.get_by_role("listitem", name="Comment 1").get_by_title("go to the frame it is about").click()
    expect(other.get_by_role("slider", name="Frame")).to_have_attribute("aria-valuenow", "1001")
    pin = other.get_by_role("button", name="Comment 1: this lamp")
    place, lamp = pin.bounding_box(), spot(other, 985, 147)
    assert place
    assert abs(place["x"] + place["width"] / 2 - lamp[0]) < 2
    theirs.get_by_role("button", name="Answer").first.click()
    answer = other.get_by_role("textbox", name="Answer to comment 1")
    answer.fill("steady from now on")
    answer.press("Control+Enter")
    theirs.get_by_role("button", name="Resolve comment 1").click()
    expect(other.get_by_role("button", name="Comments: 1 open")).to_be_visible()
    expect(theirs.get_by_role("listitem", name="Comment 1")).to_contain_text("resolved by")

    expect(panel.get_by_role("listitem", name="Comment 1")).to_have_count(0, timeout=20000)
    panel.get_by_role("radio", name="all 2").click()
    expect(panel.get_by_role("listitem", name="Comment 1")).to_contain_text("steady from now on")
    other.close()

    page.get_by_role("button", name="Card station").click()
    expect(panel).to_have_count(0)
    page.goto(server)
    expect(page.get_by_label("1 open comment").first).to_be_visible()
    page.goto(f"{server}/people")
    lately = page.get_by_role("region", name="Changes")
    expect(lately).to_contain_text("added comment")
    expect(lately).not_to_contain_text("comment on", timeout=1000)


def test_giving_up_says_nothing_and_deleting_asks_nobody_else(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Comments").click()
    panel = page.get_by_role("complementary", name="Comments")
    expect(panel).to_contain_text("Nobody has said anything of this shot yet")
    page.get_by_role("radio", name="a point").click()
    page.get_by_role("textbox", name="New comment").fill("of what?")
    page.get_by_role("button", name="Say it").click()
    expect(page.get_by_text("touch what it is about", exact=True)).to_be_visible()
    page.keyboard.press("Escape")
    expect(panel.get_by_role("listitem", name="Comment 1")).to_have_count(0)
    page.get_by_role("radio", name="frame 1001").click()
    page.get_by_role("button", name="Say it").click()
    row = panel.get_by_role("listitem", name="Comment 1")
    row.get_by_role("button", name="More about comment 1").click()
    page.get_by_role("menuitem", name="In other words").click()
    page.get_by_role("textbox", name="Other words").press("Escape")
    expect(row).to_contain_text("of what?")
    row.get_by_role("button", name="More about comment 1").click()
    page.get_by_role("menuitem", name="Delete it").click()
    expect(row).to_have_count(0)
