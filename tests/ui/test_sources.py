"""Sources come and go with the real page: a forgotten plate, a later version that lost things, drops on every page."""

import re
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest
from dropping import drop
from playwright.sync_api import Page, expect
from screen import drawn, open_bench, seen, wait_until, watch

from own_render import write_hut, write_plate
from umbrax.standin.exr import write_exr


@pytest.fixture(scope="module")
def jobs(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("jobs")
    write_hut(folder)
    return folder


def api(page: Page, server: str, address: str, **body: Any) -> Any:
    whole = f"{server}/api{address}"
    answer = page.request.post(whole, data=body) if body else page.request.get(whole)
    assert answer.ok, answer.text()
    return answer.json()


def state(page: Page, server: str, shot: int) -> Any:
    return api(page, server, f"/shots/{shot}")["document"]


def edit(page: Page, server: str, shot: int, *edits: dict[str, Any]) -> None:
    head = api(page, server, f"/shots/{shot}")["revision"]
    api(page, server, f"/shots/{shot}/edits", base=head, edits=list(edits), command="set up", gesture=f"set up {head}")


@pytest.fixture
def hut(page: Page, server: str, jobs: Path, request: pytest.FixtureRequest) -> int:
    """A shot of the first version, without the plate."""
    api(page, server, "/media/folders", path=str(jobs))
    made = api(page, server, "/take-in", show="Huts", shot=request.node.name[-60:], paths=[str(jobs / "hut_v001")])
    number: int = made["id"]
    return number


def test_a_forgotten_plate_comes_from_a_folder_in_three_gestures_and_goes_with_what_uses_it(page: Page, server: str, hut: int) -> None:
    open_bench(page, server, hut)
    before = state(page, server, hut)
    empty = seen(page)
    page.get_by_role("button", name="Add a source", exact=True).click()
    page.get_by_role("button", name="plates", exact=True).click()
    page.get_by_role("button", name="Add evening").click()
    expect(page.get_by_role("button", name=re.compile("^Card ")).first).to_have_accessible_name(re.compile("^Card evening"))
    drawn(page)
    assert seen(page).mean() > empty.mean() + 20, "the picture has a background"

    page.get_by_role("region", name="evening").get_by_role("button", name="Source evening").click()
    page.get_by_role("menuitem", name="Remove it…").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("card evening")
    dialog.get_by_role("button", name="Remove all of it").click()
    expect(page.get_by_test_id("saved")).to_contain_text("saved · revision 3")
    expect(page.get_by_role("button", name=re.compile("^Card evening"))).to_have_count(0)
    assert state(page, server, hut) == before
    page.get_by_role("button", name=re.compile("^Undo: remove source evening")).click()
    expect(page.get_by_role("button", name=re.compile("^Card evening"))).to_have_count(1)


def test_a_forgotten_plate_is_dropped_on_the_bench(page: Page, server: str, hut: int, jobs: Path) -> None:
    open_bench(page, server, hut)
    drop(page, [jobs / "plates" / "evening.png"], "[data-testid=stage]")
    page.get_by_role("button", name="Add evening").click()
    expect(page.get_by_role("button", name=re.compile("^Card evening"))).to_have_count(1)
    expect(page.get_by_text("Added evening, behind everything")).to_be_visible()
    page.get_by_role("button", name="Undo", exact=True).last.click()
    expect(page.get_by_role("button", name=re.compile("^Card evening"))).to_have_count(0)


def test_a_later_version_that_lost_things_is_dropped_marked_and_mended(page: Page, server: str, hut: int, jobs: Path) -> None:
    layer = {"kind": "id", "source": "hut", "layer": "object_ids"}
    edit(
        page, server, hut,
        {"op": "insert", "path": ["mattes"], "item": {"id": "dome_shell", "names": ["dome_shell"], **layer}},
        {"op": "insert", "path": ["mattes"], "item": {"id": "door", "names": ["door"], **layer}},
        {"op": "insert", "path": ["build", "hut", "treatments"], "item": {"id": "t1", "kind": "grade", "through": "door", "exposure": 1}},
    )  # fmt: skip
    open_bench(page, server, hut)
    drop(page, sorted((jobs / "late").glob("*.exr")), "[data-testid=stage]")
    page.get_by_role("button", name="Replace hut…").click()
    comparison = page.get_by_role("dialog")
    expect(comparison).to_contain_text("this pass is gone: ambient")
    expect(comparison).to_contain_text("matte dome_shell follows dome_shell to dome_skin")
    comparison.get_by_role("checkbox", name="matte dome_shell follows").uncheck()
    comparison.get_by_role("button", name="Replace", exact=True).click()
    expect(comparison).to_have_count(0)
    drawn(page)
    assert seen(page).max() > 150, "the picture stays"
    expect(page.get_by_role("alert")).to_have_count(0)

    # three things are marked, where they are used, and hand-off tells of them before anything is rendered
    lost = page.get_by_role("button", name="3 lost")
    expect(lost).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Card hut")).last.get_by_label(re.compile("^Lost"))).to_be_visible()
    page.goto(f"{server}/shots/{hut}/hand-off")
    expect(page.get_by_role("region", name="Lost")).to_contain_text("the light 'ambient' is not in 'hut'")
    expect(page.get_by_role("button", name="Render all the same")).to_be_visible()
    assert api(page, server, f"/shots/{hut}/renders")["renders"] == []

    # and all are mended in five gestures
    page.get_by_role("link", name="Mend it on the bench").click()
    drawn(page)
    page.get_by_role("button", name="3 lost").click()
    page.get_by_role("article", name="Lost light ambient").last.get_by_role("button", name="Take the beauty's rest").click()
    page.get_by_role("button", name="Take dome_skin, and call the matte so").click()
    expect(page.get_by_role("article", name="Lost name dome_shell")).to_have_count(0)
    page.get_by_role("button", name="Delete the matte and what uses it").click()
    expect(page.get_by_role("button", name=re.compile("lost$"))).to_have_count(0)
    document = state(page, server, hut)
    assert (document["mattes"]["dome_shell"]["name"], set(document["mattes"])) == ("dome_skin", {"dome_shell"})
    card = next(one for one in document["build"] if one["id"] == "hut")
    assert ("rest" in card["picture"], "ambient" in card["picture"]["lights"]) == (True, False)


def test_lights_have_a_switch_a_tint_and_a_rest_and_say_what_they_leave(page: Page, server: str, hut: int) -> None:
    open_bench(page, server, hut)
    page.get_by_role("region", name="Picture").get_by_role("button", name=re.compile("^Picture")).click()
    lights = page.get_by_role("region", name="Light passes")
    expect(lights.get_by_test_id("residue")).to_have_text("residue none")
    before = seen(page)
    lights.get_by_role("switch", name="Light emission").click()
    drawn(page)
    assert seen(page).max() <= before.max()
    assert np.abs(seen(page) - before).max() > 60, "the lamps are out"
    lights.get_by_role("button", name="Tint, matte and factor of diffuse").click()
    green = lights.get_by_role("textbox", name="tint G")
    green.fill("1/2")
    green.press("Enter")
    lights.get_by_role("switch", name="Light rest").click()
    expect(page.get_by_test_id("saved")).to_contain_text("revision 4")
    picture = next(one for one in state(page, server, hut)["build"] if one["id"] == "hut")["picture"]
    assert (picture["lights"]["emission"], picture["lights"]["diffuse"], picture["rest"]) == ({"enabled": False}, {"tint": [1.0, 0.5, 1.0]}, {})


def test_a_shadow_has_a_panel_and_says_what_hides_it(page: Page, server: str, hut: int, jobs: Path) -> None:
    head = api(page, server, f"/shots/{hut}")["revision"]
    api(page, server, f"/shots/{hut}/sources", base=head, paths=[str(jobs / "plates" / "evening.png")], gesture="plate", command="plate")
    edit(page, server, hut, {"op": "move", "path": ["build", "evening"], "before": "hut"})
    open_bench(page, server, hut)
    page.get_by_role("button", name=re.compile("^Card hut shadow")).click()
    part = page.get_by_role("region", name="Picture")
    part.get_by_role("button", name=re.compile("^Picture")).click()
    expect(part.get_by_label("White means")).to_have_value("light")
    expect(part.get_by_role("status")).to_contain_text("evening hides all of it")
    part.get_by_role("button", name="Put it in front of evening").click()
    expect(part).to_contain_text("of the frame here")
    assert [card["id"] for card in state(page, server, hut)["build"]] == ["evening", "hut shadow", "hut"]


@pytest.mark.parametrize("place", ["", "/take-in", "/shots/{hut}", "/shots/{hut}/passes", "/shots/{hut}/hand-off"])
def test_a_file_dropped_on_any_page_is_taken_in_and_the_page_stays(page: Page, server: str, hut: int, jobs: Path, place: str) -> None:
    address = server + place.format(hut=hut)
    page.goto(address)
    page.get_by_role("banner").wait_for()
    page.wait_for_timeout(600)
    drop(page, [jobs / "plates" / "evening.png"], "body")
    if place == "":
        expect(page.get_by_role("dialog")).to_contain_text("Show")
    elif place == "/take-in":
        expect(page.get_by_role("button", name="Take in", exact=True)).to_be_enabled()
    else:
        expect(page.get_by_role("button", name="Add evening")).to_be_visible()
    expect(page).to_have_url(re.compile(re.escape(address)))


def test_a_drop_without_a_file_or_where_nothing_is_taken_in_is_refused_in_words(page: Page, server: str, hut: int) -> None:
    open_bench(page, server, hut)
    drop(page, [], "[data-testid=stage]")
    told = page.get_by_text("There is no file in what was dropped")
    expect(told).to_be_visible()
    page.wait_for_timeout(7000)
    expect(told).to_be_visible()
    page.get_by_role("button", name="Close toast").click()
    expect(told).to_have_count(0)


def test_a_shot_without_sources_teaches_what_to_do(page: Page, server: str, hut: int, tmp_path: Path) -> None:
    edits = api(page, server, f"/shots/{hut}/sources/removal?revision=1&source=hut")["edits"]
    edit(page, server, hut, *edits)
    page.goto(f"{server}/shots/{hut}")
    tray = page.get_by_role("complementary", name="Tray")
    expect(tray).to_contain_text("A source is one imported still, sequence or movie")
    expect(page.get_by_role("region", name="Build line")).to_contain_text("No cards yet")
    write_plate(tmp_path / "sky.png")
    drop(page, [tmp_path / "sky.png"], "main")
    page.get_by_role("button", name="Add sky").click()
    expect(page.get_by_role("button", name=re.compile("^Card sky"))).to_have_count(1)


def test_a_frame_that_was_still_being_written_is_there_once_it_is_whole(page: Page, server: str, own_media: Path) -> None:
    """Nobody has to do anything for it: neither for the picture nor for the small ones."""
    file = own_media / "quay.0001.exr"
    colour = {"R": 0.9, "G": 0.05, "B": 0.05, "A": 1.0}
    noise = np.random.default_rng(0).normal(0, 0.01, (90, 160))
    write_exr(file, {name: (value + noise * (name != "A")).astype(np.float16) for name, value in colour.items()}, {})
    whole = file.read_bytes()
    file.write_bytes(whole[: len(whole) // 3])
    made = api(page, server, "/take-in", show="Quays", shot=own_media.name, paths=[str(own_media / "quay.{frame:04d}.exr")])
    page.goto(f"{server}/shots/{made['id']}")
    alert = page.get_by_text(re.compile("cannot read 'quay.0001.exr'")).first
    expect(alert).to_be_visible(timeout=60000)
    looks: list[Any] = []
    page.on("request", lambda request: looks.append(request.post_data_json) if request.url.endswith("/look") else None)
    slider = page.get_by_role("textbox", name="Opacity").bounding_box()
    assert slider
    page.mouse.move(slider["x"] - 20, slider["y"] + slider["height"] / 2)
    page.mouse.down()
    page.mouse.move(slider["x"] - 50, slider["y"] + slider["height"] / 2, steps=4)
    page.wait_for_timeout(1500)
    dragged = len(looks)
    page.wait_for_timeout(4500)
    assert looks[dragged:], "it is looked for again"
    assert all(one["overrides"] for one in looks[dragged:]), "as it is dragged to, not as it was before"
    page.keyboard.press("Escape")
    page.mouse.move(slider["x"] - 20, slider["y"] + slider["height"] / 2)
    page.mouse.up()
    file.write_bytes(whole)
    expect(alert).to_have_count(0, timeout=60000)
    watch(page)
    drawn(page)
    middle = seen(page)[seen(page).shape[0] // 2, seen(page).shape[1] // 2].astype(int)
    assert max(middle) - min(middle) > 100, middle
    card = page.get_by_role("button", name="Card quay").first

    def is_red() -> bool:
        b, g, r = cv2.imdecode(np.frombuffer(card.screenshot(), np.uint8), cv2.IMREAD_COLOR)[30, 60].astype(int)
        return bool(r > 150 > max(b, g))

    wait_until(page, is_red, "the picture of the card follows")
