"""How a source is read, set in the large look of one of its passes."""

from pathlib import Path

import cv2
import numpy as np
from icc import P3, SRGB_CURVE, profile
from PIL import Image
from playwright.sync_api import Page, expect
from screen import comes_true, quiet

from umbrax.store.database import Database
from umbrax.store.shots import get_revision, get_shot


def large(page: Page) -> np.ndarray:
    """The large picture as it is on the screen, `float[h, w, 3]`."""
    picture = page.get_by_role("dialog").locator("img").first
    picture.wait_for()
    comes_true(page, "i => i.complete && i.naturalWidth > 0", about=picture.element_handle())
    quiet(page)
    page.wait_for_timeout(300)
    return cv2.imdecode(np.frombuffer(picture.screenshot(), np.uint8), cv2.IMREAD_COLOR)[..., ::-1].astype(float)


def test_colours_of_a_source_are_read_as_is_set_and_that_is_undone(page: Page, server: str, shot: int, database: Database) -> None:
    page.goto(f"{server}/shots/{shot}/passes")
    page.get_by_role("button", name="Look at rgba").first.click()
    before = large(page)
    choice = page.get_by_role("combobox", name="colours of")
    expect(choice).to_have_value("auto")
    choice.select_option(label="ACEScg: linear, AP1")
    page.get_by_test_id("saved").filter(has_text="revision 2").wait_for()
    source = page.get_by_role("complementary", name="How it is read").get_by_text("colours of").inner_text().split()[2].rstrip(",")
    assert get_revision(database, shot, get_shot(database, shot).head).shot.sources[source].colour == "lin_ap1"
    after = large(page)
    warm = before[..., 0] - before[..., 2] > 25
    assert warm.mean() > 0.05
    saturation = [float((seen.max(axis=2) - seen.min(axis=2))[warm].mean()) for seen in (before, after)]
    assert saturation[1] > saturation[0] * 1.1, "the colours of wider primaries are stronger in narrower ones"
    choice.select_option("auto")
    page.get_by_test_id("saved").filter(has_text="revision 3").wait_for()
    assert np.abs(large(page) - before).mean() < 1


def test_what_a_photograph_says_of_its_colours_is_told(page: Page, server: str, shot: int, own_media: Path) -> None:
    Image.fromarray(np.full((720, 1280, 3), (180, 90, 40), np.uint8)).save(own_media / "ridge.png", icc_profile=profile(P3, SRGB_CURVE))
    order = {"base": 1, "paths": [str(own_media / "ridge.png")], "gesture": "photograph", "command": "photograph"}
    assert page.request.post(f"{server}/api/shots/{shot}/sources", data=order).ok
    page.goto(f"{server}/shots/{shot}/passes")
    page.get_by_role("button", name="Look at rgba").first.click()  # sources stand in the order of their names
    choice = page.get_by_role("combobox", name="colours of ridge")
    expect(choice.get_by_role("option", name="as the file says: P3 D65", exact=True)).to_have_count(1)
    as_said = large(page).mean(axis=(0, 1))
    choice.select_option(label="sRGB curve")
    page.get_by_test_id("saved").filter(has_text="revision 3").wait_for()
    by_curve = large(page).mean(axis=(0, 1))
    assert as_said[0] > by_curve[0] + 4, "the same codes are a stronger colour in wider primaries"
