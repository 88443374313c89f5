"""The view of a shot, chosen in its settings."""

from pathlib import Path

import colour
import numpy as np
import pytest
from playwright.sync_api import Page, expect
from screen import add_designed, drawn, edit, open_bench, saved, seen, value_at

from own_render import write_plate
from umbrax.media.writing import write_picture
from umbrax.store.database import Database
from umbrax.store.shots import get_revision

SLIT, SKY = (628, 320), (300, 90)  # what is brighter than white, and what is not


# by colour-science: sRGB codes to light, and that to AP1 with the whites adapted by Bradford
OF_C06020 = colour.RGB_to_RGB(
    colour.models.eotf_sRGB(np.array([0xC0, 0x60, 0x20]) / 255), "ITU-R BT.709", "ACEScg", chromatic_adaptation_transform="Bradford"
)


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


def test_a_shot_works_in_the_primaries_of_acescg(page: Page, server: str, shot: int, database: Database) -> None:
    """The picture looks as it did but for what mixes channels; colours are chosen as they look, and EXR is written in what is worked in."""
    others = [one.id for one in get_revision(database, shot, 1).shot.build if one.id != "station"]
    bare = {"op": "set", "path": ["build", "station", "treatments"], "value": []}
    edit(page, server, shot, 1, bare, *({"op": "set", "path": ["build", name, "enabled"], "value": False} for name in others))
    open_bench(page, server, shot)
    before = seen(page)
    page.get_by_role("button", name="name, frames, rate").click()
    page.get_by_role("combobox", name="Worked in").select_option(label="ACEScg: linear, AP1")
    page.get_by_role("button", name="Save").click()
    saved(page, 3)
    expect(page.get_by_role("button", name="24 fps · ACEScg")).to_be_visible()
    assert get_revision(database, shot, 3).shot.colour.working == "lin_ap1"
    assert np.abs(seen(page) - before).mean() < 1.5
    add_designed(page, "solid")
    page.get_by_role("button", name="choose it").first.click()
    by_eye = page.get_by_label("by eye")
    by_eye.fill("#c06020")
    by_eye.dispatch_event("change")
    page.keyboard.press("Escape")
    saved(page, 5)
    assert value_at(page, seen(page), *SKY) == pytest.approx((0xC0, 0x60, 0x20), abs=2)
    red, green, blue = get_revision(database, shot, 5).shot.build[-1].picture.colour  # type: ignore[union-attr]
    assert (red, green, blue) == pytest.approx(OF_C06020, abs=2e-3)
    page.goto(f"{server}/shots/{shot}/hand-off")
    expect(page.get_by_label("Colours of EXR")).to_have_value("lin_ap1")


def test_a_shot_of_renders_in_acescg_works_in_it_by_one_click(page: Page, server: str, database: Database, own_media: Path) -> None:
    write_picture(own_media / "quay.exr", np.full((90, 160, 4), (0.8, 0.3, 0.1, 1), np.float32), "float", space="lin_ap1", working="lin_ap1")
    order = {"show": f"Acescg {own_media.name}"[-100:], "shot": "quay", "paths": [str(own_media / "quay.exr")]}
    made = page.request.post(f"{server}/api/take-in", data=order).json()["id"]
    page.goto(f"{server}/shots/{made}/passes")
    page.get_by_role("button", name="Work in ACEScg").click(timeout=60000)
    page.get_by_test_id("saved").filter(has_text="revision 2").wait_for()
    assert get_revision(database, made, 2).shot.colour.working == "lin_ap1"
    expect(page.get_by_role("button", name="Work in ACEScg", exact=True)).to_have_count(0, timeout=60000)
    here = {"kind": "picture", "revision": 2, "frame": 1, "x": 80, "y": 45, "radius": 1}
    probe = page.request.post(f"{server}/api/shots/{made}/probe", data=here).json()
    assert probe["value"] == pytest.approx((0.8, 0.3, 0.1, 1), abs=1e-6), "the light of the file as it lies"
