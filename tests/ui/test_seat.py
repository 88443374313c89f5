"""The seat check in the card's panel: what does not sit is told, mended by one click, measured again, and undone."""

import numpy as np
from playwright.sync_api import Locator, Page, expect
from screen import open_bench, saved, seen


def row(page: Page, title: str) -> Locator:
    return page.get_by_role("region", name="Seat check").locator("> div").filter(has_text=title)


def darkest(page: Page) -> float:
    """Of the picture where the station stands."""
    shown = seen(page)
    height, width = shown.shape[:2]
    return float(np.percentile(shown[height // 3 : height * 3 // 4, width // 3 : width * 2 // 3].max(axis=2), 1))


def test_an_element_is_seated_by_what_is_measured(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card station").click()
    page.get_by_role("button", name="does it sit?").click()
    blacks = row(page, "Blacks")
    expect(blacks.get_by_label("does not sit")).to_be_visible(timeout=30_000)
    expect(blacks).to_contain_text("darker than anything behind it")
    expect(row(page, "Fringe").get_by_label("sits", exact=True)).to_be_visible()
    before = darkest(page)
    blacks.get_by_role("button", name="Lift its blacks").click()
    saved(page, 2)
    expect(blacks.get_by_label("sits", exact=True)).to_be_visible(timeout=30_000)
    expect(blacks.get_by_role("button")).to_have_count(0)
    assert darkest(page) > before + 8
    expect(page.get_by_role("region", name="Treatments")).to_contain_text("Tones")
    page.keyboard.press("Control+z")
    saved(page, 1)
    expect(blacks.get_by_label("does not sit")).to_be_visible(timeout=30_000)


def test_a_shadow_has_no_seat_and_a_background_says_why(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card shadow").click()
    expect(page.get_by_role("button", name="does it sit")).to_have_count(0)
    page.get_by_role("button", name="Card valley").click()
    page.get_by_role("button", name="does it sit").click()
    expect(page.get_by_role("alert").filter(has_text="nothing behind this card")).to_be_visible(timeout=30_000)
