"""Late mattes attached to a source in the page, passes set several at a time, and the large look's range of values."""

import re
from pathlib import Path

import cv2
import numpy as np
import pytest
from playwright.sync_api import Page, expect
from screen import comes_true, quiet

from umbrax.standin.exr import write_exr
from umbrax.store.database import Database
from umbrax.store.shots import get_revision


@pytest.fixture
def sheet(page: Page, server: str, shot: int) -> Page:
    """The contact sheet of the demo shot."""
    page.goto(f"{server}/shots/{shot}/passes")
    page.get_by_role("button", name="Look at depth", exact=True).wait_for()
    comes_true(page, "[...document.querySelectorAll('main span')].some((s) => s.style.backgroundImage)")
    return page


@pytest.fixture
def mattes(tmp_path: Path) -> list[Path]:
    """Two stills of the shot's size: one whose name tells what it is, one that only its values tell."""
    paths = []
    for number, name in enumerate(("lamps_matte.png", "left half.png")):
        pixels = np.zeros((720, 1280), np.uint8)
        pixels[:, : 640 - 300 * number] = 255
        paths.append(tmp_path / name)
        cv2.imwrite(str(paths[-1]), pixels)
    return paths


def test_late_mattes_are_attached_under_names_as_one_step(sheet: Page, mattes: list[Path]) -> None:
    page = sheet
    before = page.get_by_test_id("saved").inner_text()
    page.get_by_role("button", name="Source station").click()
    page.get_by_role("menuitem", name="Attach passes or mattes…").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Files to bring in").set_input_files(mattes)
    name = dialog.get_by_role("textbox", name="Name of left half.png")
    name.wait_for(timeout=20000)
    expect(dialog.get_by_role("combobox", name="Kind of left half.png")).to_have_value("single_matte")
    name.fill("lamps_matte")
    expect(dialog.get_by_text("Two files cannot both be called lamps_matte")).to_be_visible()
    expect(dialog.get_by_role("button", name="Attach 2")).to_be_disabled()
    name.fill("left side")
    dialog.get_by_role("button", name="Attach 2").click()
    expect(dialog).to_have_count(0)
    group = page.get_by_role("region", name="IDs and mattes")
    expect(group.get_by_role("button", name="Look at left side")).to_be_visible()
    expect(page.get_by_role("combobox", name="Kind of lamps_matte")).to_have_value("single_matte")
    quiet(page)
    page.wait_for_timeout(1500)
    picture = cv2.imdecode(np.frombuffer(group.get_by_role("button", name="Look at left side").screenshot(), np.uint8), 0)
    width = picture.shape[1]
    assert picture[20:60, 10 : width // 5].mean() > 240
    assert picture[20:60, width // 2 :].mean() < 15, "its own picture, not that of a neighbour"

    group.get_by_role("button", name="Look at left side").click()
    panel = page.get_by_role("complementary", name="How it is read")
    expect(panel).to_contain_text("Attached as left side")
    panel.get_by_role("button", name="Take it off").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_role("button", name="Look at left side")).to_have_count(0)
    for _ in range(2):
        page.get_by_role("button", name=re.compile("^Undo")).click()
        page.wait_for_timeout(400)
    expect(page.get_by_role("button", name="Look at lamps_matte")).to_have_count(0)
    assert before


def test_ranks_in_files_of_their_own_are_one_layer_and_taken_off_as_one(page: Page, server: str, database: Database, own_media: Path) -> None:
    grey = {letter: np.full((90, 160), 0.5, np.float32) for letter in "RGBA"}
    for name in ("quay", "quay_ids00", "quay_ids01"):
        write_exr(own_media / f"{name}.exr", grey, {})
    order = {"show": f"Ranks {own_media.name}"[-100:], "shot": "quay", "paths": [str(own_media / "quay.exr")]}
    made = page.request.post(f"{server}/api/take-in", data=order).json()["id"]
    assert set(get_revision(database, made, 1).shot.sources["quay"].attached) == {"ids00", "ids01"}
    page.goto(f"{server}/shots/{made}/passes")
    page.get_by_role("button", name="Look at ids").click()
    part = page.get_by_role("complementary", name="Where it lies")
    expect(part).to_contain_text("Attached as ids00, ids01 from quay_ids00.exr and 1 other file")
    part.get_by_role("button", name="Take them off").click()
    page.get_by_test_id("saved").filter(has_text="revision 2").wait_for()
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_role("button", name="Look at ids")).to_have_count(0)
    assert not get_revision(database, made, 2).shot.sources["quay"].attached


def test_kinds_of_several_passes_are_set_as_one_step(sheet: Page) -> None:
    page = sheet
    for name in ("specular", "reflection"):
        page.get_by_role("button", name=f"Look at {name}", exact=True).hover()
        page.get_by_role("checkbox", name=f"Choose {name}", exact=True).check()
    bar = page.get_by_role("toolbar", name="Chosen passes")
    expect(bar).to_contain_text("2 passes chosen")
    bar.get_by_role("combobox").select_option("coat")
    for name in ("specular", "reflection"):
        expect(page.get_by_role("combobox", name=f"Kind of {name}", exact=True)).to_have_value("coat")
    page.get_by_role("button", name=re.compile("^Undo")).click()
    expect(page.get_by_role("combobox", name="Kind of specular", exact=True)).to_have_value("specular")
    expect(page.get_by_role("combobox", name="Kind of reflection", exact=True)).to_have_value("reflection")
    bar.get_by_role("button", name="Let go").click()
    expect(bar).to_have_count(0)


def test_a_large_look_at_depth_has_a_range_that_can_be_set(sheet: Page) -> None:
    page = sheet
    page.get_by_role("button", name="Look at depth", exact=True).click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("nothing there")
    white = dialog.get_by_role("textbox", name="Value shown white")

    def dome() -> float:
        page.wait_for_timeout(300)
        comes_true(page, "[...document.querySelectorAll('[role=dialog] img')].every((i) => i.complete)")
        quiet(page)
        box = dialog.get_by_role("img", name=re.compile("^depth")).bounding_box()
        assert box
        clip = {"x": box["x"] + box["width"] * 0.42, "y": box["y"] + box["height"] * 0.5, "width": 30, "height": 30}
        return float(cv2.imdecode(np.frombuffer(page.screenshot(clip=clip), np.uint8), 0).mean())

    usual = dome()
    white.fill("14")
    white.press("Enter")
    assert dome() > usual + 15, "a nearer white makes the dome lighter"
    dialog.get_by_role("button", name="Usual range").click()
    assert abs(dome() - usual) < 4
    page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)


def test_arrows_walk_the_large_look_through_the_passes(sheet: Page) -> None:
    page = sheet
    page.get_by_role("button", name="Look at diffuse", exact=True).click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_role("heading", name="diffuse")).to_be_visible()
    page.keyboard.press("ArrowRight")
    expect(dialog.get_by_role("heading", name="diffuse")).to_have_count(0)
    page.keyboard.press("ArrowLeft")
    expect(dialog.get_by_role("heading", name="diffuse")).to_be_visible()
