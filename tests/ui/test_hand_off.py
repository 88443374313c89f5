"""Hand-off in the page: ordering, looking at what was written, movies, fetching."""

from pathlib import Path

import cv2
import numpy as np
import OpenEXR
from axe import violations
from playwright.sync_api import Page, expect
from screen import comes_true, open_bench

from umbrax.core.colour import exact_codes
from umbrax.media.fastcopies import FastCopies
from umbrax.media.movies import count_frames
from umbrax.render.engine import Engine, Want
from umbrax.store.database import Database
from umbrax.store.shots import get_revision


def test_render_a_float_frame_and_fetch_it(page: Page, server: str, shot: int, database: Database, demo: Path, tmp_path: Path) -> None:
    open_bench(page, server, shot)
    page.get_by_role("link", name="Hand off").click()
    page.get_by_role("button", name="only 1001").click()
    page.get_by_label("full float, linear").check()
    page.get_by_role("button", name="Render", exact=True).click()
    page.locator("article[data-state=done]").wait_for(timeout=60000)
    page.get_by_role("button", name="Look at render").click()
    still = page.get_by_role("dialog").get_by_role("img")
    comes_true(page, "i => i.complete && i.naturalWidth === 1280", about=still.element_handle())
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    with page.expect_download() as waiting:
        page.get_by_role("link", name="Fetch", exact=True).click()
    waiting.value.save_as(tmp_path / "frame.exr")
    engine = Engine(FastCopies(tmp_path / "fast"))
    expected = engine.make(get_revision(database, shot, 1).shot, [demo], 1001, Want()).picture.pixels
    with OpenEXR.File(str(tmp_path / "frame.exr"), separate_channels=True) as file:
        for index, letter in enumerate("RGBA"):
            assert np.array_equal(file.channels()[letter].pixels, expected[..., index])


def test_a_smaller_picture_in_tiff_is_rendered_and_fetched(
    page: Page, server: str, shot: int, demo: Path, database: Database, tmp_path: Path
) -> None:
    page.goto(f"{server}/shots/{shot}/hand-off")
    page.get_by_role("textbox", name="Frames").fill("1002")
    page.get_by_role("button", name="TIFF").click()
    page.get_by_label("16 bit").check()
    page.locator("form").get_by_label("Size").select_option(label="a quarter: 320×180")
    expect(page.get_by_label("Colours of EXR")).to_have_count(0)
    page.get_by_label("Raise alpha by brightness").uncheck()
    page.get_by_role("button", name="Render", exact=True).click()
    page.locator("article[data-state=done]").wait_for(timeout=60000)
    expect(page.get_by_role("article")).to_contain_text("320×180")
    with page.expect_download() as waiting:
        page.get_by_role("link", name="Fetch", exact=True).click()
    waiting.value.save_as(tmp_path / "frame.tif")
    assert waiting.value.suggested_filename.endswith(".1002.tif")
    light = Engine(FastCopies(tmp_path / "fast")).make(get_revision(database, shot, 1).shot, [demo], 1002, Want(), scale=4).picture.pixels
    alpha = np.clip(light[..., 3:], 0, 1)
    shown = exact_codes(np.where(alpha > 0, light[..., :3] / np.where(alpha > 0, alpha, 1), 0), 65535)
    read = cv2.imread(str(tmp_path / "frame.tif"), cv2.IMREAD_UNCHANGED)
    assert np.abs(read[..., 2::-1].astype(int) - shown).max() <= 1
    assert np.abs(read[..., 3] - alpha[..., 0] * 65535).max() <= 1


def test_hand_off_tells_of_missing_frames_before_it_renders(page: Page, server: str, shot: int) -> None:
    page.goto(f"{server}/shots/{shot}/hand-off")
    told = page.get_by_role("status").filter(has_text="no file")
    expect(told).to_contain_text("45 frames between 1004 and 1048")
    path = ["sources", "station", "missing"]
    body = {"base": 1, "edits": [{"op": "set", "path": path, "value": "hold"}], "command": "hold", "gesture": "hold"}
    assert page.request.post(f"{server}/api/shots/{shot}/edits", data=body).ok
    expect(told).to_have_count(0, timeout=15000)


def test_a_movie_is_watched_and_fetched(page: Page, server: str, shot: int, database: Database, demo: Path, tmp_path: Path) -> None:
    page.goto(f"{server}/shots/{shot}/hand-off")
    page.get_by_role("textbox", name="Frames").fill("1001-1003")
    page.get_by_label("Colours of EXR").select_option(label="ACEScg: linear, AP1")
    page.get_by_label("Movie of the frames").select_option(label="H.264, to review")
    page.get_by_role("button", name="Render", exact=True).click()
    expect(page.get_by_text("made when all frames are there")).to_be_visible()
    page.locator("article[data-state=done]").wait_for(timeout=90000)
    with page.expect_download() as waiting:
        page.get_by_title("fetch the movie").click()
    waiting.value.save_as(tmp_path / "m.mp4")
    assert waiting.value.suggested_filename.endswith(".mp4")
    assert count_frames(tmp_path / "m.mp4") == 3

    page.get_by_role("button", name="Watch").click()
    film = page.get_by_label("finished picture as a movie")
    comes_true(page, "v => v.readyState >= 2 && v.videoWidth === 1280 && v.currentTime > 0", about=film.element_handle())
    film.evaluate("v => { v.pause(); v.currentTime = 0.06 }")
    comes_true(page, "v => !v.seeking && v.readyState >= 2", about=film.element_handle())
    seen = film.evaluate(
        "v => { const c = new OffscreenCanvas(320, 180).getContext('2d'); c.drawImage(v, 0, 0, 320, 180);"
        " return [...c.getImageData(0, 0, 320, 180).data] }"
    )
    shown = np.array(seen, np.float32).reshape(180, 320, 4)[..., :3]
    made = Engine(FastCopies(tmp_path / "fast")).make(get_revision(database, shot, 1).shot, [demo], 1002, Want(), scale=4).picture.pixels
    assert np.abs(shown - exact_codes(made[..., :3], 255)).mean() < 4, "the second frame, as the viewer shows it"
    number = page.get_by_test_id("film-frame")
    for key, frame in (("Home", "1001"), ("ArrowRight", "1002"), ("End", "1003"), ("ArrowRight", "1003"), ("ArrowLeft", "1002")):
        page.keyboard.press(key)
        expect(number).to_have_text(frame)
    for _ in range(2):  # at the last frame it stays, and does not begin anew
        page.keyboard.press("End")
        page.wait_for_timeout(600)
        expect(number).to_have_text("1003")
    page.keyboard.press("Home")
    expect(number).to_have_text("1001")
    for key in ("End", "ArrowLeft"):  # faster than frames are shown
        page.keyboard.press(key)
    expect(number).to_have_text("1002")
    assert violations(page) == []
    page.keyboard.press(" ")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    page.keyboard.press("Escape")

    page.get_by_role("button", name="Make another movie of it").click()
    page.get_by_role("menuitem", name="ProRes 4444").click()
    expect(page.get_by_text(".mov")).to_be_visible()
    page.locator("article[data-state=done]").wait_for(timeout=60000)
    expect(page.get_by_title("fetch the movie")).to_be_visible()
    expect(page.get_by_role("button", name="Watch")).to_have_count(0)
