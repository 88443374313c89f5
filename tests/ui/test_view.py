"""The view of a shot, chosen in its settings."""

from pathlib import Path

import numpy as np
from playwright.sync_api import Page, expect
from screen import drawn, edit, open_bench, saved, seen, value_at

from own_render import write_plate

SLIT, SKY = (628, 320), (300, 90)  # what is brighter than white, and what is not


def choose(page: Page, view: str) -> None:
    page.get_by_role("button", name="name, frames, rate").click()
    page.get_by_role("combobox", name="View").select_option(view)
    page.get_by_role("button", name="Save").click()


def test_highlights_roll_off_where_that_is_chosen_and_mattes_stay_as_they_are(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    before = seen(page)
    assert value_at(page, before, *SLIT).min() > 250, "white, with nothing in it"
    page.get_by_role("region", name="Mattes").get_by_role("button", name="dome", exact=False).first.click()
    page.get_by_role("radio", name="alone").click()
    drawn(page)
    matte = seen(page)
    choose(page, "aces")
    saved(page, 2)
    assert np.abs(seen(page) - matte).max() <= 3
    expect(page.get_by_role("button", name="24 fps · ACES")).to_be_visible()
    page.keyboard.press("p")
    drawn(page)
    after = seen(page)
    assert value_at(page, after, *SLIT).max() < 252
    assert value_at(page, after, *SLIT).mean() > value_at(page, after, *SKY).mean() + 40
    page.keyboard.press("Control+z")
    saved(page, 1)
    assert np.abs(seen(page) - before).max() <= 3


def test_what_was_made_for_a_display_is_offered_to_show_as_it_did(page: Page, server: str, shot: int, own_media: Path) -> None:
    write_plate(own_media / "violet.png", 1280, 720)
    order = {"base": 1, "paths": [str(own_media / "violet.png")], "gesture": "plate", "command": "plate"}
    assert page.request.post(f"{server}/api/shots/{shot}/sources", data=order).ok
    edit(page, server, shot, 2, {"op": "set", "path": ["build", "sky", "enabled"], "value": False})
    open_bench(page, server, shot)
    before = value_at(page, seen(page), *SKY)
    page.get_by_role("button", name="name, frames, rate").click()
    page.get_by_role("combobox", name="View").select_option("aces")
    offer = page.get_by_role("checkbox", name="Have violet show as now")
    expect(offer).to_be_checked()
    page.get_by_role("button", name="Save").click()
    saved(page, 4)
    assert np.abs(value_at(page, seen(page), *SKY) - before).max() <= 4
    page.keyboard.press("Control+z")
    saved(page, 3)
    page.get_by_role("button", name="name, frames, rate").click()
    page.get_by_role("combobox", name="View").select_option("aces")
    offer.uncheck()
    page.get_by_role("button", name="Save").click()
    saved(page, 5)
    assert value_at(page, seen(page), *SKY).mean() < before.mean() - 10
