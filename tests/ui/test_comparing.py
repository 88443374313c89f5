"""Comparing: with what the shot was, without a card, with what was rendered; flipped, wiped, and how far both are apart; the history."""

import numpy as np
from playwright.sync_api import Page, expect
from screen import drawn, edit, open_bench, revision, saved, seen, spot, value_at, with_open_bloom

DOME, SKY = (555, 330), (300, 90)  # places in the picture


def set_to(path: list[str], value: object) -> dict[str, object]:
    return {"op": "set", "path": path, "value": value}


def changed(page: Page, server: str, shot: int) -> None:
    """The bench on a shot whose dome was made dark, and then the bloom taken off."""
    edit(page, server, shot, 1, set_to(["build", "station", "treatments", "t2", "exposure"], -3.0))
    edit(page, server, shot, 2, set_to(["build", "finish", "enabled"], False))
    open_bench(page, server, shot)


def pick(page: Page, name: str) -> None:
    page.get_by_role("button", name="Compare with…").click()
    page.get_by_role("menuitem", name=name).click()
    drawn(page)


def test_steps_are_seen_compared_and_gone_back_to(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    first = seen(page)
    changed(page, server, shot)
    now = seen(page)
    assert value_at(page, first, *DOME).mean() > value_at(page, now, *DOME).mean() + 60, "the dome was made dark"

    page.keyboard.press("h")
    history = page.get_by_role("complementary", name="History")
    expect(history.get_by_role("listitem")).to_have_count(3)
    expect(history.get_by_role("listitem", name="Revision 3")).to_contain_text("now")
    history.get_by_role("listitem", name="Revision 1").get_by_role("button").first.click()
    drawn(page)
    assert np.abs(seen(page) - first).max() <= 3, "the shot as it was"
    assert revision(page) == 3, "which it only looks like"

    page.get_by_role("button", name="Wipe revision 1").click()
    drawn(page)
    wiped = seen(page)
    edge = page.get_by_role("slider", name="Wipe between revision 1 and now")
    edge.press("Home")
    assert np.abs(value_at(page, seen(page), *DOME) - value_at(page, now, *DOME)).max() < 6, "nothing of it is left"
    edge.press("End")
    assert np.abs(value_at(page, seen(page), *DOME) - value_at(page, first, *DOME)).max() < 6, "it is all there is"
    assert np.abs(value_at(page, wiped, *DOME) - value_at(page, first, *DOME)).max() < 6, "left of the middle stands what was"
    page.keyboard.press("Escape")
    expect(edge).to_have_count(0)

    page.get_by_role("button", name="Go back to revision 1").click()
    saved(page, 4)
    assert np.abs(seen(page) - first).max() <= 3
    expect(history.get_by_role("listitem", name="Revision 4")).to_contain_text("back to revision 1")
    page.keyboard.press("Control+z")
    saved(page, 3)
    assert np.abs(seen(page) - now).max() <= 3, "going back is a step, and is undone as one"
    expect(history.get_by_role("listitem", name="Revision 4")).to_contain_text("undone")
    page.get_by_role("button", name="Card station").click()
    expect(history).to_have_count(0)


def test_two_revisions_are_seen_beside_one_another(page: Page, server: str, shot: int) -> None:
    """Neither is what the shot is now, and what is changed ends it."""
    changed(page, server, shot)
    slit = (628, 318)
    now = seen(page)
    page.keyboard.press("h")
    history = page.get_by_role("complementary", name="History")
    looked = {}
    for number in (2, 1):
        history.get_by_role("listitem", name=f"Revision {number}").get_by_role("button").first.click()
        drawn(page)
        looked[number] = seen(page)
    beside = (slit[0] - 60, slit[1])  # where the bloom of the slit lies on the dome, which the first revision has bright
    assert np.abs(value_at(page, looked[2], *beside) - value_at(page, now, *beside)).max() > 4, "bloom is on in the second"
    history.get_by_role("listitem", name="Revision 2").hover()
    history.get_by_role("button", name="Compare revision 1 with revision 2").click()
    edge = page.get_by_role("slider", name="Wipe between revision 1 and revision 2")
    for key, number in (("Home", 2), ("End", 1)):
        edge.press(key)
        drawn(page)
        for place in (DOME, beside):
            assert np.abs(value_at(page, seen(page), *place) - value_at(page, looked[number], *place)).max() <= 3, number
    page.keyboard.press("d")
    drawn(page)
    assert value_at(page, seen(page), *SKY).max() < 3
    assert value_at(page, seen(page), *DOME).mean() > 60
    page.keyboard.press("Escape")
    drawn(page)
    assert np.abs(seen(page) - now).max() <= 3
    history.get_by_role("listitem", name="Revision 1").get_by_role("button").first.click()
    history.get_by_role("listitem", name="Revision 2").hover()
    history.get_by_role("button", name="Compare revision 1 with revision 2").click()
    page.get_by_role("button", name="Card finish").focus()
    page.keyboard.press("Control+z")
    saved(page, 2)
    expect(page.get_by_role("slider", name="Wipe between revision 1 and revision 2")).to_have_count(0)


def test_a_difference_is_black_where_nothing_changed_and_brighter_with_exposure(page: Page, server: str, shot: int) -> None:
    changed(page, server, shot)
    page.keyboard.press("h")
    page.get_by_role("listitem", name="Revision 1").get_by_role("button").first.click()
    page.keyboard.press("d")
    drawn(page)
    apart = seen(page)
    assert value_at(page, apart, *SKY).max() < 3
    dome = value_at(page, apart, *DOME).mean()
    assert dome > 60
    exposure = page.get_by_role("textbox", name="Viewer exposure")
    exposure.fill("2")
    exposure.press("Enter")
    drawn(page)
    assert value_at(page, seen(page), *DOME).mean() > dome + 40
    page.get_by_test_id("stage").focus()
    page.keyboard.press("d")
    drawn(page)
    assert value_at(page, seen(page), *SKY).mean() > 60, "the picture again"


def test_the_open_card_is_flipped_and_what_was_rendered_as_well(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card station").click()
    drawn(page)
    with_it = seen(page)
    pick(page, "without station")
    page.keyboard.press("b")
    drawn(page)
    without = seen(page)
    expect(page.get_by_role("button", name="without station", exact=True)).to_be_visible()
    assert np.abs(value_at(page, with_it, *DOME) - value_at(page, without, *DOME)).max() > 30, "the dome is gone"
    assert np.abs(value_at(page, with_it, *SKY) - value_at(page, without, *SKY)).max() < 4
    pick(page, "beauty of station")
    drawn(page)
    assert value_at(page, seen(page), *SKY).max() < 4, "a render has no sky"
    page.keyboard.press("Escape")
    drawn(page)
    assert np.abs(seen(page) - with_it).max() <= 3


def test_before_and_after_are_wiped(page: Page, server: str, shot: int) -> None:
    """Left of the edge as it was before, right of it as it is; the edge is dragged, and moved by keys."""
    after = with_open_bloom(page, server, shot)
    page.keyboard.press("b")
    drawn(page)
    before = seen(page)
    page.keyboard.press("b")
    page.keyboard.press("Shift+B")
    edge = page.get_by_role("slider", name="Wipe between before bloom and after bloom")
    expect(edge).to_have_attribute("aria-valuenow", "50")
    box = edge.bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 120)
    page.mouse.down()
    page.mouse.move(*spot(page, 960, 300), steps=5)
    page.mouse.up()
    expect(edge).to_have_attribute("aria-valuenow", "75")
    drawn(page)
    wiped = seen(page)
    for x, shows, hides in ((590, before, after), (900, before, after), (1100, after, before)):
        assert np.abs(value_at(page, wiped, x, 330) - value_at(page, shows, x, 330)).max() <= 2
        assert x != 590 or np.abs(value_at(page, wiped, x, 330) - value_at(page, hides, x, 330)).max() > 4, "the slit blooms"
    edge.focus()
    page.keyboard.press("Home")
    drawn(page)
    wiped = seen(page)
    assert all(np.abs(value_at(page, wiped, x, 330) - value_at(page, after, x, 330)).max() <= 2 for x in (590, 900, 1100))
    page.keyboard.press("Escape")
    expect(edge).to_have_count(0)
