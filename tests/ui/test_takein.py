"""Taking in with the real page: one drop, the contact sheet, findings, a remedy, and the way to the bench."""

import re
from pathlib import Path
from uuid import uuid4

import cv2
import numpy as np
import pytest
from dropping import drop
from playwright.sync_api import Page, expect
from screen import comes_true, drawn, quiet, touch_at

from umbrax.standin.exr import channels_of, write_exr
from umbrax.standin.faulty import empty_shadow, inverted_shadow, no_alpha
from umbrax.standin.frames import render
from umbrax.standin.scene import observatory


@pytest.fixture(scope="module")
def files(tmp_path_factory: pytest.TempPathFactory) -> list[Path]:
    """Three small frames of the station whose shadow pass is the wrong way round."""
    folder = tmp_path_factory.mktemp("files")
    paths = []
    for frame in (1001, 1002, 1003):
        channels, metadata = channels_of(render(observatory(frame), 320, 180, after=observatory(frame + 1)))
        paths.append(folder / f"hill.{frame}.exr")
        write_exr(paths[-1], inverted_shadow(channels), metadata)
    return paths


def dropped(page: Page, server: str, files: list[Path]) -> None:
    page.goto(f"{server}/take-in")
    page.get_by_text("Drop files or a folder").wait_for()
    drop(page, files)
    # which show it belongs to is asked where there are some already
    page.get_by_label("Shot", exact=True).wait_for(timeout=60000)
    page.get_by_label("Show", exact=True).fill("Dropped")
    page.get_by_label("Shot", exact=True).fill(f"{files[0].stem} {uuid4().hex[:6]}")
    page.get_by_role("button", name="Take in", exact=True).click()
    page.wait_for_url("**/passes", timeout=60000)


def test_what_lies_in_a_folder_is_seen_before_it_is_chosen(page: Page, server: str) -> None:
    page.goto(f"{server}/take-in")
    page.get_by_role("button", name="demo", exact=True).click()
    page.get_by_role("button", name="plates", exact=True).click()
    for name, brightest in (("valley", False), ("paper", True)):
        first = page.locator(f"img[alt='First frame of {name}']")
        first.wait_for()
        comes_true(page, "i => i.complete && i.naturalWidth === 240", about=first.element_handle())
        assert (picture_of(first.screenshot()).mean() > 200) == brightest


def test_a_render_with_a_folder_for_each_pass_is_taken_in_as_its_row_says_and_one_of_the_folders_alone(
    page: Page, server: str, own_media: Path
) -> None:
    for name in ("beauty", "diffuse", "shadow"):
        place = own_media / "quay" / name
        place.mkdir(parents=True)
        write_exr(place / f"quay_{name}.1001.exr", {c: np.full((9, 16), 0.4, np.float16) for c in "RGB"}, {})
    for folder, passes in (("quay", 3), ("beauty", 1)):
        page.goto(f"{server}/take-in")
        page.get_by_role("button", name=own_media.name, exact=True).click()
        for step in ("quay", "beauty")[: 1 + (folder == "beauty")]:
            page.get_by_role("button", name=step, exact=True).click()
        told = f"1 source · 1 frame · {passes} {'pass' if passes == 1 else 'passes'}"
        page.get_by_text(told, exact=True).wait_for()
        page.get_by_label("Show", exact=True).fill("Quays")
        page.get_by_label("Shot", exact=True).fill(f"{folder} {uuid4().hex[:6]}")
        page.get_by_role("button", name="Take in", exact=True).click()
        page.wait_for_url("**/passes", timeout=60000)
        expect(page.get_by_role("button", name=re.compile("^Look at "))).to_have_count(passes)


def test_of_several_versions_the_newest_is_taken_in_unless_others_are_ticked(page: Page, server: str, own_media: Path) -> None:
    for version in ("v001", "v002"):
        write_exr(own_media / f"quay_{version}.exr", {c: np.full((9, 16), 0.4, np.float16) for c in "RGB"}, {})
    page.goto(f"{server}/take-in")
    page.get_by_role("button", name=own_media.name, exact=True).click()
    old, new = (page.get_by_role("checkbox", name=f"Take in quay_{version}") for version in ("v001", "v002"))
    expect(new).to_be_checked()
    expect(old).not_to_be_checked()
    expect(page.get_by_text("older version")).to_have_count(1)
    page.get_by_text("1 source · 1 frame · 1 pass", exact=True).wait_for()
    old.check()
    new.uncheck()
    page.get_by_label("Show", exact=True).fill("Quays")
    page.get_by_label("Shot", exact=True).fill(f"versions {uuid4().hex[:6]}")
    page.get_by_role("button", name="Take in", exact=True).click()
    page.wait_for_url("**/passes", timeout=60000)
    expect(page.get_by_text("quay_v001.exr")).to_be_visible()


def test_a_file_whose_pixels_are_cut_off_says_so_where_its_first_frame_would_be(
    page: Page, server: str, files: list[Path], tmp_path: Path
) -> None:
    cut = tmp_path / "cut.1001.exr"
    whole = files[0].read_bytes()
    cut.write_bytes(whole[: len(whole) // 2])
    page.goto(f"{server}/take-in")
    page.get_by_text("Drop files or a folder").wait_for()
    drop(page, [cut])
    place = page.get_by_role("img", name="First frame of cut")
    expect(place).to_have_attribute("title", re.compile("Cannot read .cut.1001.exr.: .*render it again"), timeout=60000)
    expect(place).not_to_have_attribute("aria-busy", "true")
    page.get_by_label("Show", exact=True).fill("Dropped")
    page.get_by_label("Shot", exact=True).fill(f"cut {uuid4().hex[:6]}")
    page.get_by_role("button", name="Take in", exact=True).click()
    page.get_by_role("button", name="Look at rgba").click()
    expect(page.get_by_role("dialog")).to_contain_text("check the file or render it again", timeout=60000)


def test_one_drop_leads_to_the_contact_sheet_and_its_findings(page: Page, server: str, files: list[Path]) -> None:
    dropped(page, server, files)
    expect(page.get_by_text("1 source · 3 frames")).to_be_visible()
    for name, kind in (("rgba", "beauty"), ("diffuse", "diffuse"), ("depth", "depth"), ("object_index", "object_index")):
        expect(page.get_by_role("combobox", name=f"Kind of {name}", exact=True)).to_have_value(kind)
    finding = page.get_by_role("article", name=re.compile("shadow-polarity"))
    finding.wait_for(timeout=90000)
    expect(page.get_by_role("button", name="Look at shadow").locator("svg")).to_have_count(1)

    comes_true(page, "[...document.querySelectorAll('main span')].some((s) => s.style.backgroundImage)")
    shadow = page.get_by_role("button", name="Look at shadow")
    before = picture_of(shadow.screenshot())
    finding.get_by_role("button", name="Read white as shadow").click()
    expect(page.get_by_test_id("saved")).to_contain_text("revision 2")
    page.wait_for_timeout(1500)
    quiet(page)
    after = picture_of(shadow.screenshot())
    assert after.mean() > before.mean() + 60, "white is light again"

    # what the sources say now is examined without being asked
    expect(page.get_by_role("article", name=re.compile("shadow-polarity"))).to_have_count(0, timeout=90000)
    page.get_by_role("link", name="To the bench").click()
    page.locator('[data-testid=picture]:not([data-drawn=""])').wait_for()
    expect(page.get_by_role("button", name=re.compile("^Card hill"))).to_have_count(2)


def picture_of(data: bytes) -> np.ndarray:
    return cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)[20:80, :120].astype(float)


def test_a_kind_that_is_changed_moves_the_pass_and_can_be_undone(page: Page, server: str, files: list[Path]) -> None:
    dropped(page, server, files[:1])
    page.get_by_role("combobox", name="Kind of normal").select_option("other")
    expect(page.get_by_role("region", name="Other").get_by_role("button", name="Look at normal")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Undo")).click()
    expect(page.get_by_role("region", name="Data").get_by_role("button", name="Look at normal")).to_be_visible()
    page.get_by_role("searchbox").fill("emis")
    expect(page.get_by_role("button", name=re.compile("^Look at"))).to_have_count(1)
    page.get_by_role("button", name="Look at emission").click()
    expect(page.get_by_role("dialog")).to_contain_text("emission")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)


def test_files_that_are_no_pictures_say_so_and_nothing_is_made(page: Page, server: str, tmp_path: Path) -> None:
    (tmp_path / "note.exr").write_text("not a picture")
    page.goto(f"{server}/take-in")
    page.get_by_label("Files to bring in").set_input_files([tmp_path / "note.exr"])
    expect(page.get_by_text("cannot read 'note.exr'")).to_be_visible(timeout=20000)
    expect(page.get_by_role("button", name="Take in", exact=True)).to_be_disabled()
    expect(page).to_have_url(f"{server}/take-in")


def test_lights_without_alpha_are_one_note_that_is_answered_for_all_at_once(page: Page, server: str, tmp_path: Path) -> None:
    channels, metadata = channels_of(render(observatory(1001), 320, 180, after=observatory(1002)))
    write_exr(tmp_path / "shed.exr", no_alpha(channels), metadata)
    dropped(page, server, [tmp_path / "shed.exr"])
    note = page.get_by_role("article", name=re.compile("^no-alpha"))
    expect(note).to_have_count(1, timeout=90000)
    note.get_by_role("button", name="Take the alpha of rgba for all 2").click()
    expect(page.get_by_test_id("saved")).to_contain_text("revision 2")
    number = page.url.split("/shots/")[1].split("/")[0]
    source = page.request.get(f"{server}/api/shots/{number}").json()["document"]["sources"]["shed"]
    assert source["passes"] == {"specular": {"alpha": "rgba"}, "emission": {"alpha": "rgba"}}
    expect(note).to_have_count(0, timeout=90000)


def test_what_only_a_new_render_ends_is_copied_as_a_list(page: Page, server: str, tmp_path: Path) -> None:
    channels, metadata = channels_of(render(observatory(1001), 320, 180, after=observatory(1002)))
    write_exr(tmp_path / "hut.exr", empty_shadow(channels), metadata)
    dropped(page, server, [tmp_path / "hut.exr"])
    page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    page.get_by_role("button", name="Copy the list").click(timeout=90000)
    expect(page.get_by_text("Copied: a list of what to render")).to_be_visible()
    text = page.evaluate("navigator.clipboard.readText()")
    assert text.startswith("Please render: Dropped, hut")
    assert "- hut, shadow: the pass is 1 everywhere on every frame" in text


def test_where_no_id_names_anything_a_touch_proposes_what_there_is_with_pictures(page: Page, server: str, tmp_path: Path) -> None:
    channels, _ = channels_of(render(observatory(1001), 320, 180, after=observatory(1002)))
    kept = {name: values for name, values in channels.items() if "_ids" not in name}
    assert len(kept) < len(channels)
    write_exr(tmp_path / "hut.exr", kept, {})
    dropped(page, server, [tmp_path / "hut.exr"])
    page.get_by_role("link", name="To the bench").click()
    drawn(page)
    stage = page.get_by_test_id("stage").bounding_box()
    assert stage
    touch_at(page, (stage["x"] + stage["width"] / 2, stage["y"] + stage["height"] / 2))
    menu = page.get_by_role("dialog")
    expect(menu.get_by_text(re.compile("elsewhere")).nth(1)).to_be_visible()
    expect(menu.get_by_role("radiogroup", name="What to isolate")).to_have_count(0)
    menu.get_by_role("button", name="Matte").click()
    expect(page.get_by_role("complementary", name="Matte")).to_be_visible()
