"""The light of single lamps in the real page: found out, read so, and a beauty rebuilt from it."""

from pathlib import Path

import numpy as np
from playwright.sync_api import Page, expect
from screen import open_bench, saved, seen, value_at

from umbrax.standin.exr import write_exr
from umbrax.store.database import Database
from umbrax.store.shots import get_revision

LEFT, RIGHT = (320, 360), (960, 360)


def taken_in(page: Page, server: str, folder: Path, *names: str) -> int:
    """A shot of one frame that the first lamp lights on the left, the second on the right; what is more is dark."""
    light = np.zeros((len(names), 180, 320), np.float16)
    light[0, :, :160], light[1, :, 160:] = 0.5, 0.25
    channels = {letter: light.sum(axis=0) for letter in "RGB"} | {"A": np.ones((180, 320), np.float16)}
    channels |= {f"{name}.{letter}": lamp for name, lamp in zip(names, light, strict=True) for letter in "RGB"}
    write_exr(folder / "quay.exr", channels, {})
    order = {"show": f"Lamps {folder.name}"[-100:], "shot": "quay", "paths": [str(folder / "quay.exr")]}
    answer = page.request.post(f"{server}/api/take-in", data=order)
    assert answer.ok, answer.text()
    return int(answer.json()["id"])


def picture_open(page: Page) -> None:
    page.get_by_role("button", name="Card quay").click()
    page.get_by_role("region", name="Picture").get_by_role("button").first.click()


def test_a_beauty_is_rebuilt_from_its_lamps_and_whole_again(page: Page, server: str, database: Database, own_media: Path) -> None:
    shot = taken_in(page, server, own_media, "RGBA_key", "RGBA_fill")
    open_bench(page, server, shot)
    before = seen(page)
    picture_open(page)
    field = page.get_by_role("textbox", name="RGBA_key", exact=True)
    field.fill("0")
    field.press("Enter")
    saved(page, 2)
    without = seen(page)
    assert value_at(page, without, *LEFT).max() < 8, "the key is off"
    assert np.abs(value_at(page, without, *RIGHT) - value_at(page, before, *RIGHT)).max() < 3
    page.get_by_role("button", name="light", exact=True).click()
    page.get_by_role("menuitem", name="the beauty instead").click()
    saved(page, 3)
    assert np.abs(seen(page) - before).max() < 3
    page.get_by_role("button", name="rebuild it from its 2 light groups").click()
    saved(page, 4)
    picture = get_revision(database, shot, 4).shot.card("quay").picture
    assert picture.kind == "rebuild"
    assert set(picture.lights) == {"RGBA_key", "RGBA_fill"}
    assert np.abs(seen(page) - before).max() < 3


def test_passes_that_add_up_to_the_beauty_are_read_as_its_lamps_by_one_click(
    page: Page, server: str, database: Database, own_media: Path
) -> None:
    shot = taken_in(page, server, own_media, "morning", "windows")
    page.goto(f"{server}/shots/{shot}/passes")
    page.get_by_role("button", name="Read all 2 as light groups").click(timeout=60000)
    page.get_by_test_id("saved").filter(has_text="revision 2").wait_for()
    source = get_revision(database, shot, 2).shot.sources["quay"]
    assert {name: setting.kind for name, setting in source.passes.items()} == {"morning": "light_group", "windows": "light_group"}
    open_bench(page, server, shot)
    expect(page.get_by_role("heading", name="light groups")).to_be_visible()
    page.get_by_role("button", name="Add a card at the front").click()
    page.get_by_role("menuitem", name="rebuilt from its 2 light groups").click()
    saved(page, 3)
    assert set(get_revision(database, shot, 3).shot.build[-1].picture.lights) == {"morning", "windows"}  # type: ignore[union-attr]


def test_a_part_of_a_light_is_added_by_hand_and_not_by_itself(page: Page, server: str, database: Database, own_media: Path) -> None:
    shot = taken_in(page, server, own_media, "diffuse", "emission", "diffuse_key")
    open_bench(page, server, shot)
    page.get_by_role("button", name="Add a card at the front").click()
    page.get_by_role("menuitem", name="rebuilt from its 2 light passes").click()
    saved(page, 2)
    page.get_by_role("region", name="Picture").get_by_role("button").first.click()
    page.get_by_role("button", name="light", exact=True).click()
    page.get_by_role("menuitem", name="diffuse_key").click()
    saved(page, 3)
    lights = [set(get_revision(database, shot, number).shot.build[-1].picture.lights) for number in (2, 3)]  # type: ignore[union-attr]
    assert lights == [{"diffuse", "emission"}, {"diffuse", "emission", "diffuse_key"}]
