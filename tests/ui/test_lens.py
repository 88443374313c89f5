"""Lens and line on the bench: focused by a touch, a focus pull that is played, an outline that draws itself, and handles that are dragged."""

from typing import Any

import numpy as np
from playwright.sync_api import Page, expect
from screen import card, comes_true, drawn, edit, open_bench, saved, seen, spot, touch, value_at

from umbrax.core.treatments.base import TreatmentParams
from umbrax.store.database import Database
from umbrax.store.shots import get_revision

TELESCOPE, MARKER = (640, 225), (118, 412)


def on_station(database: Database, shot: int, page: Page) -> tuple[TreatmentParams, ...]:
    return card(database, shot, page, "station").treatments


def detail(picture: np.ndarray, page: Page, x: int, y: int) -> float:
    """How much neighbours differ around a pixel of the frame, as seen on the screen."""
    box = page.get_by_test_id("stage").bounding_box()
    assert box
    left, top = (int(a - b) for a, b in zip(spot(page, x, y), (box["x"], box["y"]), strict=True))
    part = picture[top - 14 : top + 15, left - 14 : left + 15].mean(axis=2)
    return float(np.abs(np.diff(part, axis=1)).mean() + np.abs(np.diff(part, axis=0)).mean())


def test_touching_the_telescope_focuses_there_and_shows_what_is_not(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    before = seen(page)
    touch(page, *TELESCOPE)
    page.get_by_role("button", name="Focus here").click()
    saved(page, 2)
    assert [one.kind for one in on_station(database, shot, page)] == ["grade", "defocus"]
    focus = get_revision(database, shot, 2).shot.camera.focus
    assert 12 < focus < 14
    sharp = seen(page)
    assert detail(sharp, page, *TELESCOPE) > 0.85 * detail(before, page, *TELESCOPE)
    assert detail(sharp, page, *MARKER) < 0.6 * detail(before, page, *MARKER)
    # touched again elsewhere: the same camera, focused on the marker
    touch(page, *MARKER)
    page.get_by_role("button", name="Focus here").click()
    saved(page, 3)
    assert get_revision(database, shot, 3).shot.camera.focus > 16
    assert len(on_station(database, shot, page)) == 2
    near = seen(page)
    assert detail(near, page, *MARKER) > 2 * detail(sharp, page, *MARKER)
    assert detail(near, page, *TELESCOPE) < 0.7 * detail(sharp, page, *TELESCOPE)
    # what is nearer is shown warm, what is sharp as it is
    page.get_by_role("button", name="See the focus").click()
    drawn(page)
    looked = seen(page)
    shell, before_it = value_at(page, looked, 480, 400), value_at(page, near, 480, 400)
    assert shell[0] - shell[2] > before_it[0] - before_it[2] + 20
    page.get_by_role("button", name="See the focus").click()


def test_a_focus_pull_is_played(page: Page, server: str, shot: int) -> None:
    pull = {"keys": [[1001, 21.0, "linear"], [1003, 12.6, "linear"]]}
    treatment = {"id": "d", "kind": "defocus", "camera": "shot", "radius": 14}
    edit(
        page, server, shot, 1,
        {"op": "insert", "path": ["build", "station", "treatments"], "item": treatment},
        {"op": "set", "path": ["camera", "focus"], "value": pull},
        {"op": "set", "path": ["format", "last"], "value": 1003},
    )  # fmt: skip
    open_bench(page, server, shot)
    first = seen(page)
    page.keyboard.press("Space")
    at_last = "document.querySelector('[aria-label=Frame]').getAttribute('aria-valuenow') === '1003'"
    comes_true(page, at_last, seconds=30)
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Play")).to_be_visible()
    page.get_by_role("slider", name="Frame").press("End")
    drawn(page)
    last = seen(page)
    assert detail(first, page, *MARKER) > 1.3 * detail(last, page, *MARKER)
    assert detail(last, page, *TELESCOPE) > 1.3 * detail(first, page, *TELESCOPE)


def test_an_outline_is_seen_drawing_itself(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    touch(page, *TELESCOPE)
    page.get_by_role("button", name="Outline").click()
    saved(page, 2)
    (line,) = [one for one in on_station(database, shot, page) if one.kind == "outline"]
    told = line.model_dump(by_alias=True)
    assert told["from"] == TELESCOPE
    assert told["of"] == "telescope_tube"
    path = ["build", "station", "treatments", line.id]
    growing = {"keys": [[1001, 0.05, "linear"], [1025, 1.0, "linear"]]}
    edit(
        page, server, shot, 2,
        {"op": "set", "path": [*path, "end"], "value": growing},
        {"op": "set", "path": [*path, "colour"], "value": [0, 1, 0]},
        {"op": "set", "path": [*path, "width"], "value": 6},
        {"op": "set", "path": ["sources", "station", "missing"], "value": "hold"},
        {"op": "set", "path": ["format", "last"], "value": 1025},
    )  # fmt: skip
    saved(page, 3)
    green = []
    frames = page.get_by_role("slider", name="Frame")
    for frame in (1001, 1013, 1025):
        while int(frames.get_attribute("aria-valuenow") or 0) < frame:
            frames.press("ArrowRight")
        drawn(page)
        picture = seen(page)
        green.append(int((picture[..., 1] - np.maximum(picture[..., 0], picture[..., 2]) > 40).sum()))
    assert 0 < green[0] < 0.25 * green[1] < 0.2 * green[2]
    assert green[1] / green[2] == np.clip(green[1] / green[2], 0.4, 0.65)


def test_what_has_a_size_or_a_place_is_dragged_in_the_picture(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    touch(page, *TELESCOPE)
    page.get_by_role("button", name="Cast a shadow").click()
    saved(page, 2)
    knob = page.get_by_test_id("stage").get_by_role("button", name="Shadow of cast")
    box = knob.bounding_box()
    assert box
    page.mouse.move(box["x"] + 6, box["y"] + 6)
    page.mouse.down()
    page.mouse.move(*spot(page, TELESCOPE[0] + 80, TELESCOPE[1]), steps=6)
    page.mouse.up()
    saved(page, 3)
    cast = on_station(database, shot, page)[-1].model_dump()
    assert cast["distance"] == np.clip(cast["distance"], 72, 88)
    assert abs(cast["angle"]) < 8
    knob.focus()
    page.keyboard.press("ArrowRight")
    saved(page, 4)
    assert on_station(database, shot, page)[-1].model_dump()["distance"] > cast["distance"] + 0.5


def test_a_shadow_is_laid_down_and_its_foot_moved_in_the_picture(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    touch(page, *TELESCOPE)
    page.get_by_role("button", name="Cast a shadow").click()
    saved(page, 2)
    stage = page.get_by_test_id("stage")
    expect(stage.get_by_role("button", name="Foot of cast")).to_have_count(0)
    expect(page.get_by_role("textbox", name="Length")).to_have_count(0)
    number = page.get_by_role("textbox", name="Lay down")
    number.fill("1")
    number.press("Enter")
    saved(page, 3)
    expect(page.get_by_role("button", name="Foot: its lowest place")).to_be_visible()
    expect(page.get_by_role("textbox", name="Distance")).to_have_count(0)
    drawn(page)
    before = seen(page)
    foot = stage.get_by_role("button", name="Foot of cast")
    box = foot.bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(*spot(page, 700, 640), steps=6)
    page.mouse.up()
    saved(page, 4)
    told = on_station(database, shot, page)[-1].model_dump()
    assert np.abs(np.array(told["foot"]) - (700, 640)).max() < 12
    arrow = stage.get_by_role("button", name="Shadow of 100 px of cast")
    arrow.focus()
    page.keyboard.press("Shift+ArrowRight")
    saved(page, 5)
    cast = on_station(database, shot, page)[-1].model_dump()
    assert cast["length"] * np.cos(np.radians(cast["angle"])) == np.clip(cast["length"] * np.cos(np.radians(cast["angle"])), 0.7, 0.78)
    drawn(page)
    # what stood some 400 above the foot falls to the right of it and down: it is darker there than it was
    assert (before.mean(axis=2) - seen(page).mean(axis=2) > 4).sum() > 50
    told = page.get_by_text("falls along the picture's plane")
    expect(told).to_have_count(0)
    angle = page.get_by_role("textbox", name="Angle")
    angle.fill("180")
    angle.press("Enter")
    expect(told).to_be_visible()
    page.get_by_role("button", name="Reset Foot").click()
    expect(page.get_by_role("button", name="Foot: its lowest place")).to_be_visible()


def test_a_number_flickers_and_stops(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card finish").click()
    page.get_by_role("button", name="Bloom", exact=True).click()
    page.get_by_role("button", name="Let Amount flicker").click()
    saved(page, 2)
    amount: Any = get_revision(database, shot, 2).shot.card("finish").treatments[0].amount
    assert amount.flicker == 0.3
    depth = page.get_by_role("textbox", name="Depth of amount")
    depth.fill("0.8")
    depth.press("Enter")
    saved(page, 3)
    page.get_by_role("button", name="Stop amount flickering").click()
    saved(page, 4)
    first, last = (get_revision(database, shot, number).shot.card("finish") for number in (1, 4))
    assert first.treatments == last.treatments
