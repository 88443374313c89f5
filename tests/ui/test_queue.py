"""The page of the queue: renders of all shots, letting one rest and go on, changing their order, and who works."""

import json
import time
from typing import Any

from playwright.sync_api import Page, expect

from umbrax.core.document.text import read_data
from umbrax.store import renders
from umbrax.store.database import Database
from umbrax.store.shots import add_shot
from umbrax.store.shows import put_show


def order(page: Page, server: str, shot: int, frames: str) -> int:
    made: dict[str, Any] = page.request.post(f"{server}/api/shots/{shot}/renders", data={"revision": 1, "frames": frames}).json()
    return int(made["id"])


def slow_shot(database: Database) -> int:
    """Forty-eight frames that take their time and need no file."""
    picture = {"kind": "noise", "size": {"keys": [[1, 10, "linear"], [48, 60, "linear"]]}, "octaves": 8}
    layout = {"width": 1600, "height": 1200, "fps": 24, "first": 1, "last": 48}
    document = {"umbrax": 1, "name": "slow", "format": layout, "build": [{"id": "page", "picture": picture}]}
    made = add_shot(database, put_show(database, "Slow ones", "/nowhere"), read_data(document))
    assert made is not None
    return made


def test_a_render_rests_goes_on_and_is_done(page: Page, server: str, shot: int, database: Database) -> None:
    long, short = order(page, server, slow_shot(database), "1-48"), order(page, server, shot, "1002")
    page.goto(server)
    page.get_by_role("link", name="Queue", exact=True).click()
    first, second = page.get_by_label(f"Render {long}", exact=True), page.get_by_label(f"Render {short}", exact=True)
    expect(first).to_have_attribute("data-state", "running")
    expect(second).to_have_attribute("data-state", "queued")
    workers = page.get_by_role("complementary", name="Workers").get_by_role("listitem")
    expect(workers.first).to_contain_text("of slow")
    second.get_by_role("button", name="Before all others").click()
    expect(page.get_by_role("article").first).to_have_attribute("aria-label", f"Render {short}")
    assert renders.get_render(database, short).priority == 1
    first.get_by_role("button", name="Let it rest").click()
    expect(first).to_have_attribute("data-state", "paused")
    expect(second).to_have_attribute("data-state", "done")
    rested = renders.get_render(database, long)
    assert (rested.state, len(rested.done) < 48) == ("paused", True)
    first.get_by_role("button", name="Go on").click()
    expect(first).to_have_attribute("data-state", "running")
    first.get_by_role("button", name="Cancel").click()
    expect(first).to_have_attribute("data-state", "cancelled")
    assert set(rested.done) <= set(renders.get_render(database, long).done), "whole frames stay"


def test_frames_that_failed_are_tried_again_alone(page: Page, server: str, shot: int, database: Database) -> None:
    """The demo of the tests has three frames: the fourth cannot be made, and the others are."""
    number = order(page, server, shot, "1002-1004")
    page.goto(f"{server}/queue")
    row = page.get_by_label(f"Render {number}", exact=True)
    expect(row).to_have_attribute("data-state", "failed", timeout=60_000)
    expect(row).to_contain_text("1 frame failed")
    expect(row.get_by_role("alert")).to_contain_text("1004")
    with page.expect_response(lambda answer: answer.url.endswith(f"/renders/{number}/retry")) as asked:
        row.get_by_role("button", name="Go on").click()
    assert json.loads(asked.value.text())["state"] in ("queued", "running")
    end = time.monotonic() + 60
    while (again := renders.get_render(database, number)).state != "failed":
        assert time.monotonic() < end
        time.sleep(0.1)
    assert (again.done, again.failed) == ([1002, 1003], [1004])
