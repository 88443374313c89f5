"""The bench in a browser: looking, touching, dragging, undoing, two tabs, handing off."""

import time

import cv2
import numpy as np
import pytest
from playwright.sync_api import Browser, Page, Route, StorageState, expect
from screen import comes_true, drawn, open_bench, revision, seen, spot, touch, wait_until, with_open_bloom

from umbrax.core.document.shot import Shot
from umbrax.core.document.text import read_data
from umbrax.store.database import Database
from umbrax.store.shots import add_shot, get_revision
from umbrax.store.shows import add_show

pytestmark = pytest.mark.ui
LAMP = (985, 147)
BLOOM_RADIUS = 320  # beyond this, the bloom of a touched lamp is below 1/255


def exact(page: Page, server: str, shot: int, number: int) -> np.ndarray:
    """The exact picture of a revision as the server gives it."""
    body = {"revision": number, "frame": 1001, "scale": 1, "format": "png"}
    answer = page.request.post(f"{server}/api/shots/{shot}/look", data=body)
    return cv2.imdecode(np.frombuffer(answer.body(), np.uint8), cv2.IMREAD_COLOR)[..., ::-1].astype(int)


def document(database: Database, shot: int, number: int) -> Shot:
    return get_revision(database, shot, number).shot


def test_the_home_shows_the_demo_with_its_picture(page: Page, server: str) -> None:
    page.goto(server)
    tile = page.get_by_role("link", name="Dome at dusk").first
    image = tile.locator("img")
    expect(image).to_be_visible(timeout=30000)
    comes_true(page, "i => i.complete && i.naturalWidth === 320", about=image.element_handle(), seconds=30)
    tile.click()
    drawn(page)
    assert seen(page).std() > 20


def test_touch_a_lamp_choose_bloom_undo_reload(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    before_screen, before = seen(page), exact(page, server, shot, 1)
    touch(page, *LAMP)
    expect(page.get_by_role("dialog")).to_contain_text("mast_2_lamp")
    expect(page.get_by_role("dialog")).to_contain_text("lamp glass")
    page.get_by_role("dialog").get_by_role("button", name="Bloom").click()
    page.get_by_text("revision 2").wait_for()
    drawn(page)
    assert np.abs(seen(page) - before_screen).max() > 12, "it shows on the screen"
    after = exact(page, server, shot, 2)
    y, x = np.mgrid[:720, :1280]
    away = np.hypot(y - LAMP[1], x - LAMP[0])
    ring = (away > 14) & (away < 40)
    assert (after - before)[ring].mean() > 2, "pixels brighten beyond the lamp's matte"
    assert np.abs(after - before)[away > BLOOM_RADIUS].max() <= 1, "and far away nothing changes"
    expect(page.get_by_role("region", name="Treatments")).to_contain_text("Bloom")
    expect(page.get_by_role("complementary", name="Tray")).to_contain_text("mast_2_lamp")
    page.reload()
    drawn(page)
    assert revision(page) == 2
    page.keyboard.press("Control+z")
    page.get_by_text("revision 1").wait_for()
    assert np.array_equal(exact(page, server, shot, 1), before)
    drawn(page)
    assert np.abs(seen(page) - before_screen).max() <= 2
    page.keyboard.press("Control+Shift+z")
    page.get_by_text("revision 2").wait_for()


def test_hovering_lights_the_object_and_the_loupe_names_it(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    plain = seen(page)
    page.mouse.move(*spot(page, 470, 300))
    loupe = page.get_by_test_id("loupe")
    expect(loupe).to_contain_text("dome_shell")
    expect(loupe).to_contain_text("white enamel")
    expect(loupe).to_contain_text("470, 300")
    page.wait_for_timeout(600)
    data = page.get_by_test_id("stage").screenshot()
    lit = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)[..., ::-1].astype(int)
    box = page.get_by_test_id("stage").bounding_box()
    assert box
    x, y = (int(v) for v in (spot(page, 420, 330)[0] - box["x"], spot(page, 420, 330)[1] - box["y"]))
    assert lit[y, x, 2] > plain[y, x, 2] + 5, "the dome turns lilac"
    page.mouse.move(*spot(page, 200, 60))
    expect(loupe).not_to_contain_text("dome_shell")


def test_values_can_be_pinned_and_follow_the_frames(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    page.mouse.move(*spot(page, *LAMP))
    expect(page.get_by_test_id("loupe")).to_contain_text("depth")
    page.keyboard.press("v")
    page.mouse.move(*spot(page, 300, 600))
    pinned = page.get_by_test_id("pinned loupe")
    expect(pinned).to_contain_text("985, 147")
    expect(pinned).to_contain_text("mast_2_lamp")
    before = pinned.inner_text()
    page.keyboard.press("ArrowRight")
    comes_true(page, "t => document.querySelector('[data-testid=\"pinned loupe\"]').innerText !== t", about=before)
    pinned.get_by_role("button", name="Let the values go").click()
    expect(pinned).to_have_count(0)


def test_the_tray_shows_the_passes_and_mattes(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    tray = page.get_by_role("complementary", name="Tray")

    def shown(name: str) -> np.ndarray:
        data = tray.get_by_role("button", name=name).first.locator("span").first.screenshot()
        return cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)[:54, :96].astype(int)

    full = "[...document.querySelectorAll('aside span')].filter((s) => s.style.backgroundImage).length > 12"
    comes_true(page, full)
    page.get_by_role("slider", name="Frame").press("End")
    expect(tray.get_by_role("alert")).to_contain_text("no frame 1048")
    page.get_by_role("slider", name="Frame").press("Home")
    comes_true(page, full)
    assert shown("beauty").std() > 20
    assert shown("dome").max() > 240
    assert np.abs(shown("beauty") - shown("diffuse")).mean() > 2, "each has its own part of the sheet"


def test_dragging_a_number_for_seconds_makes_one_revision(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card finish").click()
    page.get_by_role("button", name="Bloom").click()
    field = page.get_by_role("textbox", name="Amount", exact=True)
    box = field.bounding_box()
    assert box
    before = seen(page)
    page.mouse.move(box["x"] + 20, box["y"] + 8)
    page.mouse.down()
    start = time.monotonic()
    while (gone := time.monotonic() - start) < 5:
        page.mouse.move(box["x"] + 20 + min(60, 15 * gone), box["y"] + 8)
        page.wait_for_timeout(25)
    page.mouse.move(box["x"] + 80, box["y"] + 8)
    assert revision(page) == 1, "nothing is saved while dragging"
    page.mouse.up()
    page.get_by_text("revision 2").wait_for()
    drawn(page)
    page.wait_for_timeout(600)
    assert revision(page) == 2
    amount = document(database, shot, 2).card("finish").treatments[0].model_dump()["amount"]
    assert amount > 1
    assert float(field.input_value()) == pytest.approx(amount, abs=0.01)
    assert np.abs(seen(page) - before).max() > 8


def test_what_is_wanted_next_does_not_wait_for_a_finer_picture(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card finish").click()
    page.get_by_role("button", name="Bloom").click()
    box = page.get_by_role("textbox", name="Amount", exact=True).bounding_box()
    assert box
    drawn(page)
    asked: list[str] = []

    def hold_the_finer(route: Route) -> None:
        asked.append((route.request.post_data_json or {})["priority"])
        if asked[-1] != "refine":
            route.continue_()

    page.route("**/look", hold_the_finer)
    page.mouse.move(box["x"] + 20, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] + 50, box["y"] + 8)
    wait_until(page, lambda: asked[-1:] == ["refine"], "the finer picture is asked for")
    busy = page.get_by_test_id("picture")
    expect(busy).to_have_attribute("aria-busy", "true")
    page.mouse.move(box["x"] + 70, box["y"] + 8)
    wait_until(page, lambda: asked[-2:] == ["refine", "look"] or asked.count("refine") > 1, "what is wanted next is asked for")
    page.unroute("**/look")
    page.mouse.up()
    drawn(page)
    expect(busy).to_have_attribute("aria-busy", "false")


def test_typing_arrows_keys_and_reset(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card finish").click()
    page.get_by_role("button", name="Bloom").click()
    field = page.get_by_role("textbox", name="Size", exact=True)
    field.fill("50")
    field.press("Enter")
    page.get_by_text("revision 2").wait_for()
    field.press("ArrowUp")
    page.get_by_text("revision 3").wait_for()
    page.get_by_role("button", name="Set a key of Size at this frame").click()
    page.get_by_text("revision 4").wait_for()
    size = document(database, shot, 4).card("finish").treatments[0].model_dump(mode="json")["size"]
    assert size == {"keys": [[1001, 50.5, "smooth"]]}
    page.get_by_role("button", name="Remove the key of Size at this frame").click()
    page.get_by_text("revision 5").wait_for()
    page.get_by_role("button", name="Reset Size").click()
    page.get_by_text("revision 6").wait_for()
    assert "size" not in document(database, shot, 6).card("finish").treatments[0].model_dump(mode="json")


def test_mattes_alone_tinted_and_cut(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    plain = seen(page)
    page.get_by_role("region", name="Mattes").get_by_role("button", name="dome").first.click()
    drawn(page)
    tinted = seen(page)
    assert np.abs(tinted - plain).max() > 20
    page.get_by_role("radio", name="alone").click()
    drawn(page)
    alone = seen(page)
    middle = alone[alone.shape[0] // 2 - 40 : alone.shape[0] // 2 + 40]
    assert {0, 255} <= set(np.unique(middle))
    page.get_by_role("radio", name="cut").click()
    drawn(page)
    assert seen(page)[60, alone.shape[1] // 2].max() == 0
    page.keyboard.press("Escape")
    drawn(page)
    assert np.abs(seen(page) - plain).max() <= 2


def test_before_and_after_standing_and_passes(page: Page, server: str, shot: int) -> None:
    after = with_open_bloom(page, server, shot)
    page.keyboard.press("b")
    expect(page.get_by_role("button", name="before bloom", exact=True)).to_be_visible()
    drawn(page)
    assert np.abs(seen(page) - after).max() > 12
    page.keyboard.press("b")
    page.get_by_role("button", name="Card shadow").dblclick()
    expect(page.get_by_role("button", name="Card shadow, standing here")).to_be_visible()
    drawn(page)
    assert np.abs(seen(page) - after).max() > 60, "the station is not there yet"
    page.keyboard.press("Escape")
    page.get_by_role("button", name="emission").click()
    drawn(page)
    stage = seen(page)
    assert np.median(stage[200:300, 100:600]) == 0, "a light pass on black"


def test_scrubbing_and_playing(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    first = seen(page)
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("slider", name="Frame")).to_have_attribute("aria-valuenow", "1002")
    drawn(page)
    assert np.abs(seen(page) - first).max() > 10, "the dome has turned"
    page.keyboard.press("Space")
    comes_true(page, "document.querySelector('[aria-label=Frame]').getAttribute('aria-valuenow') === '1003'", seconds=20)
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Play")).to_be_visible()


def test_zoom_pan_one_to_one_and_fit(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    fitted = seen(page)
    page.get_by_role("button", name="1:1").click()
    expect(page.get_by_text("100 %")).to_be_visible()
    drawn(page)
    big = seen(page)
    whole = exact(page, server, shot, 1)
    middle = big[big.shape[0] // 2, big.shape[1] // 2]
    assert np.abs(middle - whole[354:367, 634:647]).sum(axis=2).min() < 20
    box = page.get_by_test_id("stage").bounding_box()
    assert box
    page.mouse.move(box["x"] + 300, box["y"] + 200)
    page.mouse.down()
    page.mouse.move(box["x"] + 400, box["y"] + 240, steps=5)
    page.mouse.up()
    drawn(page)
    moved = seen(page)
    assert np.abs(moved[240:440, 200:700] - big[200:400, 100:600]).mean() < 3
    page.keyboard.press("f")
    drawn(page)
    assert np.abs(seen(page) - fitted).max() <= 2


def test_cards_are_added_switched_off_and_removed(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Add a card at the front").click()
    page.get_by_role("menuitem", name="solid").click()
    page.get_by_text("revision 2").wait_for()
    assert [c.id for c in document(database, shot, 2).build] == ["sky", "shadow", "station", "finish", "solid"]
    drawn(page)
    assert seen(page).std() < 60
    page.get_by_role("button", name="Switch the card off").click()
    page.get_by_text("revision 3").wait_for()
    page.get_by_role("button", name="Delete the card").click()
    page.get_by_text("revision 4").wait_for()
    assert [c.id for c in document(database, shot, 4).build] == ["sky", "shadow", "station", "finish"]
    page.get_by_role("button", name="Card sky").or_(page.get_by_role("button", name="Card valley")).first.click()
    page.get_by_role("button", name="Add a treatment").click()
    page.get_by_role("menuitem", name="Grade").click()
    page.get_by_text("revision 5").wait_for()
    expect(page.get_by_role("textbox", name="Exposure", exact=True)).to_be_visible()


def test_two_tabs_follow_each_other_and_ask_before_undoing(page: Page, browser: Browser, server: str, shot: int, session: StorageState) -> None:
    open_bench(page, server, shot)
    other = browser.new_page(viewport={"width": 1280, "height": 800}, storage_state=session)
    open_bench(other, server, shot)
    other.get_by_role("button", name="Card station").click()
    other.get_by_role("button", name="Switch the card off").click()
    other.get_by_text("revision 2").wait_for()
    page.get_by_text("revision 2").wait_for(timeout=8000)
    page.keyboard.press("Control+z")
    asked = page.get_by_text("another tab did this", exact=False)
    asked.wait_for()
    other.get_by_role("button", name="Switch the card on").click()
    other.get_by_text("revision 3").wait_for()
    page.get_by_text("revision 3").wait_for(timeout=8000)
    expect(asked).to_have_count(0)  # it would undo something else by now
    page.keyboard.press("Control+z")
    asked.wait_for()
    page.get_by_role("button", name="Undo it").click()
    page.get_by_text("revision 2").wait_for()
    other.close()


def test_a_frame_that_is_missing_says_so_and_the_rest_shows(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    page.get_by_role("slider", name="Frame").press("End")
    expect(page.get_by_role("alert").filter(has_text="Left out")).to_contain_text("no frame 1048")
    assert seen(page).std() > 10


def test_a_shot_that_is_not_there_leads_back(page: Page, server: str) -> None:
    page.goto(f"{server}/shots/99999")
    expect(page.get_by_role("alert")).to_contain_text("No shot of this number")
    page.get_by_role("link", name="Back to the shots").click()
    expect(page.get_by_role("link", name="Dome at dusk").first).to_be_visible()


def test_a_shot_that_somebody_deletes_meanwhile_leads_back(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    assert page.request.post(f"{server}/api/shots/{shot}/delete").ok
    expect(page.get_by_role("alert")).to_contain_text("where deleted ones can be brought back", timeout=15000)
    page.get_by_role("link", name="Back to the shots").click()
    expect(page.get_by_role("link", name="Dome at dusk").first).to_be_visible()
    assert page.request.post(f"{server}/api/shots/{shot}/restore").ok


def test_keyboard_sheet_and_names_for_everything(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("play and pause")
    page.keyboard.press("Escape")
    nameless = page.evaluate(
        """[...document.querySelectorAll('button, a, input, select')]
           .filter((e) => !(e.getAttribute('aria-label') || e.innerText || e.title || e.labels?.length || e.placeholder).trim())
           .map((e) => e.outerHTML.slice(0, 120))"""
    )
    assert nameless == []
    wide = page.evaluate("document.documentElement.scrollWidth")
    assert wide <= 1280, "no sideways scrolling"


def test_a_page_at_rest_draws_nothing_anew(page: Page, server: str, shot: int) -> None:
    """A loop of drawings shows nowhere but in a warm machine, and keeps links from leading anywhere."""
    open_bench(page, server, shot)
    page.wait_for_timeout(3000)
    watching = "new Promise((done) => { let n = 0; const all = { subtree: true, childList: true, attributes: true, characterData: true };"
    counting = (
        f"{watching} new MutationObserver((seen) => {{ n += seen.length }}).observe(document.body, all); setTimeout(() => done(n), 1200) }})"
    )
    assert page.evaluate(counting) < 10


def test_a_long_shot_that_is_played_frees_the_pictures_it_has_shown(page: Page, server: str, database: Database) -> None:
    number = add_show(database, "Long ones", "/nowhere")
    layout = {"width": 32, "height": 18, "fps": 200, "first": 1, "last": 520}
    solid = {"id": "grey", "picture": {"kind": "solid"}}
    made = add_shot(database, number, read_data({"umbrax": 1, "name": "long", "format": layout, "build": [solid]}))
    page.add_init_script(
        """window.bitmaps = 0; window.most = 0;
        const make = window.createImageBitmap, close = ImageBitmap.prototype.close;
        window.createImageBitmap = async (...given) => {
          const made = await make(...given); window.bitmaps += 1; window.most = Math.max(window.most, window.bitmaps); return made;
        };
        ImageBitmap.prototype.close = function () { window.bitmaps -= 1; return close.call(this); };"""
    )
    page.goto(f"{server}/shots/{made}")
    drawn(page)
    page.keyboard.press("Space")
    comes_true(page, "Number(document.querySelector('[aria-label=Frame]').ariaValueNow) > 300", seconds=60)
    # those that are kept, two on their way, and the last look
    assert 200 < page.evaluate("window.most") <= 240 + 6
    comes_true(page, "Number(document.querySelector('[aria-label=Frame]').ariaValueNow) < 200", seconds=60)
    assert page.evaluate("window.bitmaps") <= 240 + 6
