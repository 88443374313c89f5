"""Assembling on the bench: placed by handles and keys, bundled, tucked, curved, measured; each seen in the picture."""

import re

import numpy as np
from playwright.sync_api import Page, expect
from screen import add_designed, card, open_bench, saved, seen, spot, touch, value_at

from umbrax.store.database import Database
from umbrax.store.shots import get_revision


def test_a_card_is_placed_by_its_handles_and_by_keys(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card station").click()
    before = seen(page)
    page.get_by_role("region", name="Placing").get_by_role("button", name="Placing").click()
    grip = page.get_by_role("button", name="Move station", exact=True)
    box = grip.bounding_box()
    assert box
    page.mouse.move(box["x"] + 8, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] + 8 + 70, box["y"] + 8 + 41, steps=6)
    page.keyboard.down("Alt")  # let go of lines it could lie on
    page.mouse.move(box["x"] + 8 + 71, box["y"] + 8 + 42)
    page.mouse.up()
    page.keyboard.up("Alt")
    saved(page, 2)
    x, y = card(database, shot, page, "station").placing.move
    zoom = spot(page, 1, 0)[0] - spot(page, 0, 0)[0]
    assert (x, y) == (round(71 / zoom, 2), round(42 / zoom, 2))
    moved = seen(page)
    # the slit is where it was dragged to; where it was is something else
    assert np.abs(value_at(page, moved, 620 + round(x), 370 + round(y)) - value_at(page, before, 620, 370)).max() < 12
    grip.focus()
    page.keyboard.press("ArrowRight")
    saved(page, 3)
    page.keyboard.press("Shift+ArrowUp")
    saved(page, 4)
    assert card(database, shot, page, "station").placing.move == (x + 1, round(y - 10, 2))
    page.get_by_role("button", name="Turn", exact=True).focus()
    page.keyboard.press("ArrowLeft")
    saved(page, 5)
    assert card(database, shot, page, "station").placing.turn == 0.5
    for _ in range(4):
        page.keyboard.press("Control+z")
    saved(page, 1)
    assert np.abs(seen(page)[:40] - before[:40]).max() <= 2


def test_touch_follows_a_placed_card(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card station").click()
    page.get_by_role("region", name="Placing").get_by_role("button", name="Placing").click()
    field = page.get_by_role("textbox", name="Move X")
    field.fill("200")
    field.press("Enter")
    saved(page, 2)
    page.get_by_role("region", name="Placing").get_by_role("button", name="Placing").click()
    touch(page, 620 + 200, 370)
    expect(page.get_by_role("dialog")).to_contain_text("dome_slit")


def test_cards_are_bundled_opened_and_dissolved(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    before = seen(page)
    page.get_by_role("button", name="Card shadow").click()
    page.get_by_role("button", name="Card station").click(modifiers=["Control"])
    page.get_by_role("button", name="Bundle", exact=True).click()
    saved(page, 2)
    assert [one.id for one in card(database, shot, page, "bundle").inside()] == ["shadow", "station"]
    assert np.abs(seen(page) - before).max() <= 2
    line = page.get_by_role("region", name="Build line")
    line.get_by_role("button", name="Open the inside of bundle").click()
    expect(line).to_contain_text("inside bundle")
    expect(line.get_by_role("button", name=re.compile("^Card "))).to_have_count(2)
    # what is in it is treated as any card
    line.get_by_role("button", name="Card station").click()
    opacity = page.get_by_role("textbox", name="Opacity", exact=True)
    opacity.fill("0.5")
    opacity.press("Enter")
    saved(page, 3)
    assert card(database, shot, page, "station").opacity == 0.5
    line.get_by_role("button", name="Back out").click()
    page.get_by_role("button", name="Dissolve the bundle").click()
    saved(page, 4)
    ids = [one.id for one in get_revision(database, shot, 4).shot.build]
    assert ids[1:3] == ["shadow", "station"]
    assert "bundle" not in ids


def test_why_a_bundle_cannot_be_dissolved_is_said(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card station").click()
    page.keyboard.press("g")
    saved(page, 2)
    opacity = page.get_by_role("textbox", name="Opacity", exact=True)
    opacity.fill("0.5")
    opacity.press("Enter")
    saved(page, 3)
    page.get_by_role("button", name="Dissolve the bundle").click()
    expect(page.get_by_text("its opacity is of all of it")).to_be_visible()


def test_something_is_sent_behind_what_is_touched(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    add_designed(page, "solid")
    covered = seen(page)
    touch(page, 470, 300)
    page.get_by_role("button", name="Send solid behind it").click()
    saved(page, 3)
    tuck = card(database, shot, page, "solid").tuck[0]
    assert (tuck.card, tuck.frames) == ("station", None)
    tucked = seen(page)
    assert np.abs(value_at(page, tucked, 470, 300) - value_at(page, covered, 470, 300)).max() > 20, "the dome is in front again"
    assert np.abs(value_at(page, tucked, 100, 100) - value_at(page, covered, 100, 100)).max() <= 2
    panel = page.get_by_role("region", name="Tuck")
    expect(panel).to_contain_text("of station")
    # a designed picture has no depth to go by, and says so; nothing changes
    panel.get_by_role("button", name="by depth").click()
    expect(page.get_by_text(re.compile("othing tells how far away"))).to_be_visible()
    page.get_by_role("button", name="Close toast").click()
    assert card(database, shot, page, "solid").tuck[0].frames is None
    panel.get_by_role("button", name="no more").click()
    saved(page, 4)
    assert card(database, shot, page, "solid").tuck == ()


def test_a_curve_is_drawn_and_scopes_follow(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card finish").click()
    page.get_by_role("button", name="Scopes", exact=True).click()
    scope = page.get_by_role("region", name="Scopes").get_by_role("img")
    expect(scope).not_to_have_attribute("data-mean", "")
    means = [float(one) for one in (scope.get_attribute("data-mean") or "").split()]
    page.get_by_role("button", name="Add a treatment").click()
    page.get_by_role("menuitem", name="Curves").click()
    saved(page, 2)
    box = page.get_by_role("application", name="Curve of master: 2 points").bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] * 0.3, steps=4)
    page.mouse.up()
    saved(page, 3)
    points = card(database, shot, page, "finish").treatments[0].master  # type: ignore[attr-defined]
    # the plot's axes are as a display shows light: its middle is 0.214, seven tenths up is 0.448
    assert points[1][0] == np.float32(points[1][0]) or abs(points[1][0] - 0.214) < 0.01
    assert abs(points[1][1] - 0.448) < 0.02
    page.wait_for_timeout(600)
    brighter = [float(one) for one in (scope.get_attribute("data-mean") or "").split()]
    assert all(after > before * 1.1 for after, before in zip(brighter, means, strict=True))
