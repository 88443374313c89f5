"""Isolating what has no name, and trusting what was isolated: other ways, boxes, leaks, sums, depth by touching, drawn shapes, names."""

import json
import re
from pathlib import Path

import numpy as np
import OpenEXR
import pytest
from playwright.sync_api import Locator, Page, expect
from screen import beside, drawn, edit, open_bench, seen, spot
from test_mattes import box, document, named, only_this

from umbrax.core.mattes.hashing import id_of_name
from umbrax.store.database import Database


def panel_of(page: Page) -> Locator:
    return page.get_by_role("complementary", name="Matte")


def open_matte(page: Page, name: str) -> Locator:
    page.get_by_role("region", name="Mattes").get_by_role("button", name=name, exact=False).first.click()
    panel = panel_of(page)
    panel.wait_for()
    drawn(page)
    return panel


def touched_in(page: Page, look: str, lights: str) -> Locator:
    """The menu of a touch on the dome while a pass of the tray is looked at, after the loupe told what it lights."""
    page.get_by_role("button", name=look).click()
    drawn(page)
    page.mouse.move(*spot(page, 560, 320))
    expect(page.get_by_test_id("loupe")).to_contain_text(lights)
    page.mouse.click(*spot(page, 560, 320))
    return page.get_by_role("dialog")


def test_a_packed_pass_gives_the_channel_that_is_touched(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    dialog = touched_in(page, "rgb matte", "rgb_matte red")
    expect(dialog.get_by_role("radio", name="rgb_matte red")).to_be_checked()
    dialog.get_by_role("button", name="Matte").click()
    expect(panel_of(page).get_by_label("Name of the matte")).to_have_value("rgb_matte red")
    drawn(page)
    made = document(database, shot)["mattes"]["rgb_matte red"]
    assert made == {"kind": "channel", "source": "station", "pass": "rgb_matte", "channel": "red"}


def test_where_nothing_has_a_name_other_ways_are_offered_with_pictures(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.mouse.click(*spot(page, 200, 80))
    dialog = page.get_by_role("dialog")
    way = dialog.get_by_role("list", name="Other ways").get_by_role("button").first
    expect(way).to_contain_text("colour of valley")
    expect(way).to_have_attribute("aria-pressed", "true")
    dialog.get_by_role("button", name="Grade").click()
    drawn(page)
    after = document(database, shot)
    assert after["mattes"]["colour of valley"]["kind"] == "key"
    sky = next(card for card in after["build"] if card["id"] == "sky")
    assert sky["treatments"][0]["through"] == "colour of valley"
    # a named object has other ways as well, asked for
    page.mouse.click(*spot(page, 560, 320))
    dialog.get_by_role("button", name="other ways").click()
    expect(dialog.get_by_role("list", name="Other ways").get_by_role("button")).to_have_count(3)
    page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)


def test_what_lies_under_that_is_lit_and_a_box_gathers(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.mouse.move(*spot(page, 560, 320))
    loupe = page.get_by_test_id("loupe")
    expect(loupe).to_contain_text("dome_shell")
    page.keyboard.press("u")
    expect(loupe).to_contain_text("white_enamel")
    expect(loupe).not_to_contain_text("dome_shell")
    page.keyboard.down("Shift")
    page.keyboard.down("Alt")
    page.mouse.move(*spot(page, 950, 110))
    page.mouse.down()
    page.mouse.move(*spot(page, 1060, 300), steps=4)
    page.mouse.up()
    page.keyboard.up("Alt")
    page.keyboard.up("Shift")
    panel = panel_of(page)
    panel.wait_for()
    drawn(page)
    names = named(panel)
    assert "mast_2_lamp" in names
    assert not any(name.startswith(("mast_1", "mast_3", "dome")) for name in names), names


def test_leaks_are_shown_about_the_part_that_is_clicked_and_edges_pixel_by_pixel(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    open_matte(page, "mast lamps")
    page.get_by_role("radio", name="leaks").click()
    page.mouse.click(*spot(page, 985, 147))
    told = page.get_by_role("status", name="What leaks")
    expect(told).to_contain_text("elsewhere")
    drawn(page)
    assert float(told.inner_text().split(" %")[0]) > 50
    picture = seen(page)
    here, other = box(picture, page, 982, 144, 988, 150), box(picture, page, 905, 210, 912, 216)
    assert here[..., 2].mean() > here[..., 0].mean() + 20, "lilac where it was clicked"
    assert other[..., 0].mean() > other[..., 2].mean() + 40, "coral elsewhere"
    page.get_by_role("radio", name="edges").click()
    drawn(page)
    expect(page.get_by_text("100 %", exact=True)).to_be_visible()


def test_two_mattes_are_chosen_summed_and_one_is_dropped_on_another(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    region = page.get_by_role("region", name="Mattes")
    expect(region.get_by_role("button", name="dome")).to_contain_text("4.5 %")
    for name in ("dome", "mast lamps"):
        page.get_by_role("checkbox", name=f"Choose {name}").click()
    page.get_by_role("button", name="Sum").click()
    told = page.get_by_role("status", name="What the sum covers")
    expect(told).to_contain_text("0.0 % more than once")
    page.get_by_role("button", name="Choose none").click()
    expect(told).to_have_count(0)
    brass, dome = (region.get_by_role("button", name=name).first.bounding_box() for name in ("brass", "dome"))
    assert brass
    assert dome
    page.mouse.move(brass["x"] + 60, brass["y"] + 12)
    page.mouse.down()
    page.mouse.move(dome["x"] + 60, dome["y"] + 20, steps=6)
    page.mouse.up()
    expect(page.get_by_role("group", name="Combine dome and brass")).to_be_visible()
    page.wait_for_timeout(150)  # the end of a drag swallows clicks for a moment that no hand is quick enough for
    page.get_by_role("group", name="Combine dome and brass").get_by_role("button", name="together").click()
    expect(panel_of(page).get_by_label("Name of the matte")).to_have_value("dome + brass")
    drawn(page)
    assert document(database, shot)["mattes"]["dome + brass"]["mattes"] == ["dome", "brass"]


def test_a_depth_matte_is_set_by_touching_the_near_and_the_far_thing(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Make a matte").click()
    page.get_by_role("menuitem", name="Depth depth").click()
    panel = panel_of(page)
    panel.get_by_role("button", name="Touch near, then far").click()
    hint = page.get_by_text("touch the nearest thing that belongs to it")
    expect(hint).to_be_visible()
    page.mouse.click(*spot(page, 560, 580))
    expect(page.get_by_text("touch the farthest thing")).to_be_visible()
    page.mouse.click(*spot(page, 985, 300))
    expect(page.get_by_text("touch the farthest thing")).to_have_count(0)
    drawn(page)
    made = document(database, shot)["mattes"]["near"]
    depths = []
    for x, y in ((560, 580), (985, 300)):
        body = {"revision": 1, "frame": 1001, "kind": "pass", "source": "station", "name": "depth", "x": x, "y": y}
        depths.append(page.request.post(f"{server}/api/shots/{shot}/probe", data=body).json()["value"][0])
    assert np.allclose([made["near"], made["far"]], sorted(depths), rtol=1e-4)


def test_a_shape_is_drawn_moved_and_keyed(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Make a matte").click()
    page.get_by_role("menuitem", name="Outline").click()
    corners = [(300, 200), (700, 200), (700, 500), (300, 500)]
    for corner in corners:
        page.mouse.click(*spot(page, *corner))
    page.mouse.click(*spot(page, *corners[0]))
    panel = panel_of(page)
    panel.wait_for()
    drawn(page)
    drawn_points = document(database, shot)["mattes"]["fence"]["points"]
    assert np.allclose(np.reshape(drawn_points, (4, 2)), np.array(corners) + 0.5, atol=1.5)
    panel.get_by_role("button", name="Set a key here").click()
    expect(panel.get_by_role("button", name="Key here")).to_be_visible()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    drawn(page)
    place = page.get_by_role("button", name="Point 3").bounding_box()
    assert place
    page.mouse.move(place["x"] + 5, place["y"] + 5)
    page.mouse.down()
    page.mouse.move(place["x"] + 65, place["y"] + 35, steps=5)
    page.mouse.up()
    drawn(page)
    points = document(database, shot)["mattes"]["fence"]["points"]
    assert [key[0] for key in points["keys"]] == [1001, 1003]
    moved = np.subtract(points["keys"][1][1], points["keys"][0][1]).reshape(4, 2)
    assert (moved[2] > 40).all()
    assert not moved[[0, 1, 3]].any()
    page.get_by_role("button", name="New point after 1").click()
    expect(page.get_by_role("button", name="Point 5")).to_be_visible()
    drawn(page)
    lengths = {len(key[1]) for key in document(database, shot)["mattes"]["fence"]["points"]["keys"]}
    assert lengths == {10}, "every key has the new point"
    page.get_by_role("radio", name="alone").click()
    drawn(page)
    picture = seen(page)
    assert box(picture, page, 400, 300, 500, 400).mean() > 150
    assert box(picture, page, 100, 300, 200, 400).mean() < 30


def test_an_id_is_called_something_else_and_found_by_that(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    panel = open_matte(page, "dome")
    chip = panel.get_by_role("listitem").filter(has_text="dome_shell")
    chip.hover()
    chip.get_by_role("button", name="Call dome_shell something else").click()
    field = panel.get_by_label("What to call dome_shell")
    field.fill("white dome")
    field.press("Enter")
    expect(panel.get_by_role("listitem").first).to_have_text("white dome")
    panel.get_by_role("button", name="Take dome_shell out").click()
    drawn(page)
    panel.get_by_role("searchbox", name="Add a name").fill("white d")
    found = panel.get_by_role("button", name="white dome dome_shell")
    expect(found).to_contain_text("4.2 %")
    before = seen(page)
    found.hover()
    page.wait_for_timeout(900)
    shown = page.get_by_test_id("stage").screenshot()
    assert shown, "the name is shown in the picture before it is taken"
    found.click()
    drawn(page)
    assert document(database, shot)["mattes"]["dome"]["names"] == ["dome_rib_*", "dome_shell"], "the document keeps the file's name"
    assert np.abs(seen(page) - before).max() > 40
    chip = panel.get_by_role("listitem").filter(has_text="white dome")
    chip.hover()
    chip.get_by_role("button", name="Call dome_shell something else").click()
    panel.get_by_label("What to call dome_shell").fill("")
    panel.get_by_label("What to call dome_shell").press("Enter")
    expect(panel.get_by_role("listitem").filter(has_text="dome_shell")).to_have_count(1)


def test_a_used_matte_is_deleted_with_what_uses_it_after_asking(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    panel = open_matte(page, "dome")
    expect(panel.get_by_role("status")).to_contain_text("there on 1001–1003")
    panel.get_by_role("button", name="Delete the matte with what uses it").click()
    asked = page.get_by_role("dialog", name="Delete dome")
    expect(asked).to_contain_text("grade of card station")
    asked.get_by_role("button", name="Delete all of it").click()
    drawn(page)
    after = document(database, shot)
    assert "dome" not in after["mattes"]
    assert not next(card for card in after["build"] if card["id"] == "station").get("treatments")
    page.keyboard.press("Control+z")
    drawn(page)
    assert "dome" in document(database, shot)["mattes"], "one gesture, one undo"


def test_a_matte_that_is_there_on_the_first_frame_only_says_so(page: Page, server: str, shot: int) -> None:
    points = [[1001, [100, 100, 300, 100, 300, 300], "hold"], [1002, [-900, -900, -800, -900, -800, -800], "hold"]]
    edit(page, server, shot, 1, {"op": "insert", "path": ["mattes"], "item": {"id": "flash", "kind": "shape", "points": {"keys": points}}})
    open_bench(page, server, shot)
    flash = page.get_by_role("region", name="Mattes").get_by_role("button", name=re.compile("^flash "))
    expect(flash).to_contain_text("· 1001", timeout=20000)
    expect(flash).to_have_attribute("title", re.compile("there on 1001$"))


def test_chosen_mattes_are_written_out_three_a_file(page: Page, server: str, shot: int) -> None:
    open_bench(page, server, shot)
    for name in ("brass", "dome", "mast lamps"):
        page.get_by_role("checkbox", name=f"Choose {name}").click()
    page.get_by_role("button", name="Write them out").click()
    expect(page.get_by_role("combobox", name="What")).to_have_value("mattes:chosen")
    page.get_by_role("radio", name="three a file").click()
    page.get_by_role("textbox").fill("1001")
    page.get_by_role("button", name="Render", exact=True).click()
    row = page.get_by_role("article").first
    expect(row).to_have_attribute("data-state", "done", timeout=60000)
    expect(row).to_contain_text("3 mattes, three a file")
    with page.expect_download() as fetched:
        row.get_by_role("link", name="Fetch").click()
    assert fetched.value.suggested_filename.endswith("-mattes-1.1001.exr")


def test_false_colour_is_touched_as_the_picture_is(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    dialog = touched_in(page, "object ids", "dome_shell")
    dialog.get_by_role("radio", name="material", exact=True).click()
    dialog.get_by_role("button", name="Matte").click()
    expect(panel_of(page).get_by_label("Name of the matte")).to_have_value("white_enamel")
    drawn(page)
    assert document(database, shot)["mattes"]["white_enamel"]["layer"] == "material_ids"


def crates(folder: Path) -> None:
    """Two halves of a picture: named by their parts in one layer, by nothing in the other."""
    names = ("yard/crates/left", "yard/crates/right", "yard/floor")
    hashes = [id_of_name(name) for name in names]
    ids = np.full((720, 1280), hashes[2], np.uint32)
    ids[100:500, 100:600], ids[100:500, 700:1200] = hashes[0], hashes[1]
    one, none = np.ones(ids.shape, np.float32), np.zeros(ids.shape, np.float32)
    layers = {"object_ids": "aaaaaaa", "asset_ids": "bbbbbbb"}
    channels = {letter: (one * 0.3).astype(np.float16) for letter in "RGB"} | {"A": one.astype(np.float16)}
    header: dict[str, object] = {"compression": OpenEXR.RLE_COMPRESSION, "type": OpenEXR.scanlineimage}
    for layer, key in layers.items():
        channels |= {f"{layer}00.R": ids.view(np.float32), f"{layer}00.G": one, f"{layer}00.B": none, f"{layer}00.A": none}
        header[f"cryptomatte/{key}/name"] = layer
    header["cryptomatte/aaaaaaa/manifest"] = json.dumps({name: f"{value:08x}" for name, value in zip(names, hashes, strict=True)})
    with OpenEXR.File(header, channels) as file:
        file.write(str(folder / "crates.exr"))


def test_names_with_parts_are_browsed_and_ids_without_names_are_listed(
    page: Page, server: str, shot: int, database: Database, demo: Path
) -> None:
    crates(demo)
    mattes = {
        "lid": {"kind": "id", "source": "crates", "layer": "object_ids", "names": ["yard/floor"]},
        "raw": {"kind": "id", "source": "crates", "layer": "asset_ids", "names": ["#00000001"]},
    }
    build = [{"id": "crates", "picture": {"kind": "pass", "source": "crates", "pass": "rgba"}}]
    made = beside(database, shot, sources={"crates": {"path": "crates.exr"}}, mattes=mattes, build=build)
    open_bench(page, server, made)
    panel = open_matte(page, "lid")
    panel.get_by_role("button", name="Browse the names by their parts").click()
    panel.get_by_role("button", name="Open yard").click()
    panel.get_by_role("button", name="crates", exact=True).click()
    drawn(page)
    assert document(database, made)["mattes"]["lid"]["names"] == ["yard/floor", "yard/crates/*"]
    panel.get_by_role("button", name="Take yard/floor out").click()
    page.get_by_role("radio", name="alone").click()
    drawn(page)
    picture = seen(page)
    assert box(picture, page, 200, 200, 500, 400).min() > 240
    assert box(picture, page, 620, 200, 680, 400).max() < 15
    panel = open_matte(page, "raw")
    expect(panel.get_by_text("The file names nothing")).to_be_visible()
    first = panel.get_by_role("button", name=re.compile("^#.*%$")).first
    first.click()
    drawn(page)
    names = document(database, made)["mattes"]["raw"]["names"]
    assert names[1] == f"#{id_of_name('yard/floor'):08x}", "the largest comes first"
    page.keyboard.press("Escape")
    page.keyboard.press("p")
    drawn(page)
    page.mouse.move(*spot(page, 900, 300))
    expect(page.get_by_test_id("loupe")).to_contain_text("rightyard/crates")
    page.mouse.click(*spot(page, 900, 300))
    expect(page.get_by_role("dialog")).to_contain_text("rightyard/crates")
    page.keyboard.press("m")
    expect(panel_of(page).get_by_label("Name of the matte")).to_have_value("right")
    drawn(page)
    assert document(database, made)["mattes"]["right"]["names"] == ["yard/crates/right"], "called by what tells it from the others"


def stones(folder: Path) -> list[str]:
    """A picture of seventy-two things, whose names say where they stand."""
    names = [f"/yard/heap_{number // 12}/stone_{number:02d}_of_the_old_wall" for number in range(72)]
    ids = np.array([id_of_name(name) for name in names], np.uint32).reshape(6, 12).repeat(120, 0).repeat(107, 1)[:, :1280]
    ids = np.ascontiguousarray(np.pad(ids, ((0, 0), (0, 1280 - ids.shape[1])), mode="edge"))
    one, none = np.ones(ids.shape, np.float32), np.zeros(ids.shape, np.float32)
    header: dict[str, object] = {
        "compression": OpenEXR.RLE_COMPRESSION, "type": OpenEXR.scanlineimage, "cryptomatte/aaaaaaa/name": "object_ids",
        "cryptomatte/aaaaaaa/manifest": json.dumps({name: f"{id_of_name(name):08x}" for name in names}),
    }  # fmt: skip
    channels = {letter: (one * 0.3).astype(np.float16) for letter in "RGB"} | {"A": one.astype(np.float16)}
    channels |= {"object_ids00.R": ids.view(np.float32), "object_ids00.G": one, "object_ids00.B": none, "object_ids00.A": none}
    with OpenEXR.File(header, channels) as file:
        file.write(str(folder / "stones.exr"))
    return names


WAYS = {
    "a stroke": [(50, 60), *((x, 120 * row + 60) for row in range(6) for x in ((50, 1230) if row % 2 == 0 else (1230, 50)))],
    "a box that is drawn in no hurry": [(-6, -6), (1270, 30), (20, 600), (1200, 700), (1286, 726)],
}


@pytest.mark.parametrize("way", WAYS)
def test_many_things_with_long_names_are_gathered(way: str, page: Page, server: str, shot: int, database: Database, demo: Path) -> None:
    names = stones(demo)
    build = [{"id": "stones", "picture": {"kind": "pass", "source": "stones", "pass": "rgba"}}]
    made = beside(database, shot, sources={"stones": {"path": "stones.exr"}}, mattes={}, build=build)
    open_bench(page, server, made)
    keys = ("Shift", "Alt") if "box" in way else ("Shift",)
    for key in keys:
        page.keyboard.down(key)
    page.mouse.move(*spot(page, *WAYS[way][0]))
    page.mouse.down()
    for place in WAYS[way][1:]:
        page.mouse.move(*spot(page, *place), steps=4)
    page.mouse.up()
    for key in keys:
        page.keyboard.up(key)
    panel = panel_of(page)
    expect(panel).to_contain_text("of stones, 72 names")
    drawn(page)
    matte = next(iter(document(database, made)["mattes"].values()))
    assert sorted(matte["names"]) == names
    expect(panel.get_by_label("Name of the matte")).to_have_value(re.compile(r"^stone_\d\d_of_the_old_wall and others$"))
    chips = panel.get_by_role("button", name=re.compile(r"^Take .* out$"))
    assert chips.count() == 60
    panel.get_by_role("button", name="12 more").click()
    expect(chips).to_have_count(72)
    (demo / "stones.exr").unlink()


def test_a_matte_that_is_pointed_to_another_object_offers_its_new_name(page: Page, server: str, shot: int, database: Database) -> None:
    made = {"id": "door", "kind": "id", "source": "station", "layer": "object_ids", "names": ["door"]}
    base = page.request.get(f"{server}/api/shots/{shot}").json()["revision"]
    body = {"base": base, "edits": [{"op": "insert", "path": ["mattes"], "item": made}], "command": "door", "gesture": "door"}
    assert page.request.post(f"{server}/api/shots/{shot}/edits", data=body).ok
    open_bench(page, server, shot)
    panel = open_matte(page, "door")
    panel.get_by_role("searchbox", name="Add a name").fill("drum")
    only_this(panel, "drum")
    offer = panel.get_by_role("status").filter(has_text="It is drum now")
    offer.get_by_role("button", name="Call it so").click()
    drawn(page)
    assert (document(database, shot)["mattes"]["door"]["names"], document(database, shot)["mattes"]["door"]["name"]) == (["drum"], "drum")
    expect(panel.get_by_role("textbox", name="Name of the matte")).to_have_value("drum")
    expect(offer).to_have_count(0)
    # one that somebody named stays as it is called
    dome = open_matte(page, "dome")
    dome.get_by_role("searchbox", name="Add a name").fill("drum_hoop")
    only_this(dome, "drum_hoop")
    drawn(page)
    expect(dome.get_by_role("button", name="Call it so")).to_have_count(0)


def test_what_is_crossed_along_shared_borders_only_says_so(page: Page, server: str, shot: int) -> None:
    """The dome of enamel crossed with the wood that it stands on: a rim, and nothing else."""
    item = {"kind": "id", "source": "station"}
    edits = [
        {"op": "insert", "path": ["mattes"], "item": {"id": "wood", **item, "layer": "material_ids", "names": ["wood"]}},
        {"op": "insert", "path": ["mattes"], "item": {"id": "rim", "kind": "combined", "how": "all_of", "mattes": ["dome", "brass"]}},
    ]
    base = page.request.get(f"{server}/api/shots/{shot}").json()["revision"]
    body = {"base": base, "edits": edits, "command": "rim", "gesture": "rim"}
    assert page.request.post(f"{server}/api/shots/{shot}/edits", data=body).ok
    open_bench(page, server, shot)
    expect(open_matte(page, "rim").get_by_role("status").filter(has_text="only rims")).to_be_visible()
