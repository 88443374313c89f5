"""Light that spreads on the bench: from a touched lamp, from a pass, and from what was spread above; each seen in the picture."""

import numpy as np
from playwright.sync_api import Page, expect
from screen import card, edit, open_bench, saved, seen, touch, value_at

from umbrax.core.treatments.base import CardFeed, MatteFeed, PassFeed, SpreadParams
from umbrax.store.database import Database

LAMP = (985, 147)


def spreading(database: Database, shot: int, page: Page) -> list[SpreadParams]:
    return [one for one in card(database, shot, page, "station").treatments if isinstance(one, SpreadParams)]


def test_a_lamp_has_a_halo_in_two_clicks_and_what_feeds_it_is_chosen(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    before = seen(page)
    touch(page, *LAMP)
    page.get_by_role("button", name="Halo").click()
    saved(page, 2)
    (halo,) = spreading(database, shot, page)
    assert isinstance(halo.feed, MatteFeed)
    assert halo.model_dump()["colour"] == "object"
    glowing = seen(page)
    beside = (LAMP[0] + 16, LAMP[1])
    assert (value_at(page, glowing, *beside) - value_at(page, before, *beside))[0] > 8, "red around the lamp"
    assert np.abs(value_at(page, glowing, 300, 600) - value_at(page, before, 300, 600)).max() <= 2
    # light of the emission pass: the dome's slit glows as well
    page.get_by_role("button", name="From mast").click()
    page.get_by_role("menuitem", name="emission").click()
    saved(page, 3)
    assert spreading(database, shot, page)[0].feed == PassFeed.model_validate({"pass": "emission"})
    slit = (648, 330)
    assert value_at(page, seen(page), *slit).sum() > value_at(page, glowing, *slit).sum() + 8
    page.get_by_role("radio", name="one", exact=True).check()
    saved(page, 4)
    assert "colour" not in spreading(database, shot, page)[0].model_dump(), "the usual one"


def test_a_treatment_is_fed_by_the_one_above_and_says_so_where_there_is_none(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    touch(page, *LAMP)
    page.get_by_role("button", name="Lens reflections").click()
    saved(page, 2)
    page.get_by_role("button", name="From mast").click()
    page.get_by_role("menuitem", name="what the treatment above spread").click()
    saved(page, 3)
    (alone,) = spreading(database, shot, page)
    assert alone.feed == "above"
    expect(page.get_by_text("no treatment above").first).to_be_visible()


def test_a_treat_card_takes_the_light_of_another_card_and_of_what_is_seen(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    slit = (648, 372)  # right below the lit opening
    before = value_at(page, seen(page), *slit)
    page.get_by_role("button", name="Card finish").click()
    page.get_by_role("button", name="Bloom", exact=True).click()
    page.get_by_role("button", name="all light").click()
    expect(page.get_by_text("a pass", exact=True)).to_have_count(0)
    page.get_by_role("menuitem", name="valley", exact=True).click()
    saved(page, 2)
    (bloom,) = (one for one in card(database, shot, page, "finish").treatments if isinstance(one, SpreadParams))
    assert bloom.feed == CardFeed(card="sky")
    assert value_at(page, seen(page), *slit).sum() < before.sum() - 6, "the opening glows no more"
    page.get_by_role("checkbox", name="As seen").check()
    saved(page, 3)
    assert next(one for one in card(database, shot, page, "finish").treatments if isinstance(one, SpreadParams)).hidden


def test_a_plate_without_depth_gets_one_and_is_focused_on(page: Page, server: str, shot: int, database: Database) -> None:
    open_bench(page, server, shot)
    sky = (200, 60)
    touch(page, *sky)
    expect(page.get_by_role("button", name="Make its matte")).to_be_visible()
    expect(page.get_by_role("button", name="Focus here")).to_have_count(0)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Card valley").click()
    page.get_by_role("button", name="set one for all of it").click()
    saved(page, 2)
    depth = card(database, shot, page, "sky").depth
    assert depth == 10
    touch(page, *sky)
    page.get_by_role("button", name="Focus here").click()
    saved(page, 3)
    assert [one.kind for one in card(database, shot, page, "sky").treatments] == ["defocus"]


def test_light_that_shows_twice_is_told_and_taken_out(page: Page, server: str, shot: int, database: Database) -> None:
    lamps = {
        "id": "lamps", "picture": {"kind": "pass", "source": "station", "pass": "emission"}, "join": "plus",
        "treatments": [{"id": "b", "kind": "bloom", "threshold": 0.0, "conserve": True}],
    }  # fmt: skip
    edit(page, server, shot, 1, {"op": "insert", "path": ["build"], "item": lamps, "before": "finish"})
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card lamps").click()
    expect(page.get_by_text("is in station already, and shows twice")).to_be_visible()
    expect(page.get_by_label("Its light is in station already and shows twice; its panel takes it out.")).to_be_visible()
    twice = value_at(page, seen(page), *LAMP)
    page.get_by_role("button", name="Add just what it spreads").click()
    saved(page, 3)
    (bloom,) = card(database, shot, page, "lamps").treatments
    assert isinstance(bloom, SpreadParams)
    assert (bloom.output, bloom.model_dump().get("conserve")) == ("spread_only", None)
    expect(page.get_by_text("shows twice")).to_have_count(0)
    assert value_at(page, seen(page), *LAMP).sum() <= twice.sum()
