"""Drives the page of a running demo and writes one picture of each main view."""

import re
import shutil
import sys
import uuid
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

SIZE = {"width": 1280, "height": 800}
LOST = re.compile("^[0-9]+ lost$")


def settle(page: Page) -> None:
    page.wait_for_load_state("networkidle", timeout=300000)
    page.wait_for_timeout(800)  # small pictures are asked for when the hand rests
    # asked for from outside: the page runs no text as a script
    while not page.evaluate("[...document.images].every((i) => i.complete) && document.querySelector('[aria-busy=true]') === null"):
        page.wait_for_timeout(50)
    page.get_by_text("computing…").wait_for(state="detached", timeout=60000)
    page.wait_for_timeout(600)


def spot(page: Page, x: float, y: float) -> tuple[float, float]:
    """Where a pixel of the 1280x720 picture is on the screen while the picture is fitted."""
    box = page.get_by_test_id("stage").bounding_box()
    assert box
    zoom = min((box["width"] - 24) / 1280, (box["height"] - 24) / 720)
    left, top = (box["width"] - 1280 * zoom) / 2, (box["height"] - 720 * zoom) / 2
    return box["x"] + left + x * zoom, box["y"] + top + y * zoom


def passes(page: Page, folder: Path) -> None:
    """The contact sheet after its check-up, and back to the bench."""
    page.get_by_role("link", name="Passes").click()
    page.get_by_role("button", name="Stop").or_(page.get_by_role("button", name="Again")).or_(
        page.get_by_role("button", name="Examine")
    ).wait_for()
    if page.get_by_role("button", name="Examine").count():
        page.get_by_role("button", name="Examine").click()
    page.get_by_role("button", name="Again").wait_for(timeout=400000)
    settle(page)
    page.wait_for_timeout(1500)
    page.screenshot(path=folder / "passes.png")
    page.get_by_role("button", name="Look at depth", exact=True).last.click()
    page.get_by_role("textbox", name="Value shown white").wait_for()
    settle(page)
    page.wait_for_timeout(1200)
    page.screenshot(path=folder / "pass.png")
    page.keyboard.press("Escape")
    page.get_by_role("link", name="To the bench").click()
    page.get_by_test_id("stage").wait_for()
    settle(page)


def sources(page: Page, folder: Path) -> None:
    """Adding a source, replacing one by a version that lost things, what is marked then; and back to how it was."""
    _two_mattes(page)
    page.get_by_role("button", name="Add a source", exact=True).click()
    page.get_by_role("button", name="plates", exact=True).click()
    page.get_by_role("article", name="paper").wait_for()
    settle(page)
    page.screenshot(path=folder / "sources.png")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Source station").click()
    page.get_by_role("menuitem", name="Replace it…").click()
    page.get_by_role("button", name="station_v002", exact=True).click()
    page.get_by_role("button", name="Choose…").click()
    page.get_by_text("this pass is gone").or_(page.get_by_text("gone:")).first.wait_for(timeout=60000)
    settle(page)
    page.screenshot(path=folder / "replacing.png")
    page.get_by_role("button", name="Replace", exact=True).click()
    page.get_by_role("button", name=LOST).wait_for(timeout=60000)
    settle(page)
    page.get_by_role("button", name=LOST).click()
    page.wait_for_timeout(600)
    page.screenshot(path=folder / "lost.png")
    page.keyboard.press("Escape")
    for _ in range(2):
        page.keyboard.press("Control+z")
        settle(page)
    page.get_by_role("button", name=LOST).wait_for(state="detached")


def _two_mattes(page: Page) -> None:
    """Mattes of two objects that the second version of the render lost and renamed."""
    shot = page.url.rstrip("/").rsplit("/", 1)[1]
    address = f"{page.url.split('/shots/')[0]}/api/shots/{shot}"
    layer = {"kind": "id", "source": "station", "layer": "object_ids"}
    edits = [{"op": "insert", "path": ["mattes"], "item": {"id": name, "names": [name], **layer}} for name in ("dome_cap", "door_knob")]
    head = page.request.get(address).json()["revision"]
    order = {"base": head, "edits": edits, "command": "two mattes", "gesture": uuid.uuid4().hex}
    assert page.request.post(f"{address}/edits", data=order).ok
    page.get_by_role("region", name="Mattes").get_by_role("button", name="door_knob").first.wait_for()
    settle(page)


def other_shots(page: Page, address: str, folder: Path) -> None:
    """The demo's other shots, each with the card open that it is made for."""
    for shot, card, name in (("Field guide page", "caption", "field-guide"), ("Instrument call-out", "label", "call-out")):
        page.goto(address)
        page.get_by_role("link", name=shot).click()
        page.get_by_test_id("stage").wait_for()
        settle(page)
        page.get_by_role("button", name=f"Card {card}").click()
        page.get_by_role("slider", name="Frame").focus()
        page.keyboard.press("End")
        page.mouse.move(5, 5)
        settle(page)
        page.screenshot(path=folder / f"{name}.png")


def queue(page: Page, address: str, folder: Path) -> None:
    """Renders of all shots, the first of them being done."""
    shots = [shot["id"] for show in page.request.get(f"{address}/api/shows").json()["shows"] for shot in show["shots"]]
    for shot in shots[:3]:
        page.request.post(f"{address}/api/shots/{shot}/renders", data={"revision": 1})
    page.goto(f"{address}/queue")
    page.locator("article[data-state=running] img").first.wait_for(timeout=120000)
    settle(page)
    page.wait_for_timeout(4000)
    page.screenshot(path=folder / "queue.png")
    for render in page.request.get(f"{address}/api/queue").json()["renders"]:
        page.request.post(f"{address}/api/renders/{render['id']}/cancel")


def door(page: Page, entry: str, address: str, folder: Path) -> None:
    """What an outsider sees, and then the page of whoever was let in."""
    page.goto(address)
    page.get_by_role("heading", name="Sign in").wait_for()
    page.screenshot(path=folder / "sign-in.png")
    page.goto(entry)
    settle(page)


def comments(page: Page, folder: Path) -> None:
    """Two comments, one of a point, with its answer."""
    page.get_by_role("button", name="Comments").click()
    words = page.get_by_role("textbox", name="New comment")
    if not page.get_by_role("listitem", name="Comment 2").count():
        page.get_by_role("radio", name="shot", exact=True).click()
        words.fill("Calmer and warmer towards the end, please.")
        words.press("Control+Enter")
        page.get_by_role("listitem", name="Comment 1").wait_for()
        page.get_by_role("radio", name="a point").click()
        page.mouse.click(*spot(page, 470, 300))
        words.fill("The dome is a little bright on this side.")
        words.press("Control+Enter")
        row = page.get_by_role("listitem", name="Comment 2")
        row.get_by_role("button", name="Answer").click()
        page.get_by_role("textbox", name="Answer to comment 2").fill("Half a stop less from now on?")
        page.get_by_role("textbox", name="Answer to comment 2").press("Control+Enter")
    page.get_by_role("button", name="Comment 2: The dome").click()
    page.mouse.move(5, 5)
    settle(page)
    page.screenshot(path=folder / "comments.png")
    page.get_by_role("button", name="Back to the card").click()


def history(page: Page, address: str, folder: Path) -> None:
    """A few steps, one of them undone, and the first wiped beside what the shot is now."""
    page.goto(address)
    page.get_by_role("link", name="Dome at dusk").click()
    settle(page)
    grade = ["build", "station", "treatments", "t2"]
    steps = [
        ([*grade, "exposure"], -1.4, "exposure of Grade"), ([*grade, "slope"], [1.06, 0.95, 0.82], "slope of Grade"),
        (["build", "balloon", "enabled"], False, "switch off balloon"), (["build", "finish", "treatments", "t3", "size"], 70, "size of Bloom"),
    ]  # fmt: skip
    shot = page.url.rsplit("/", 1)[1]
    for path, value, command in steps:
        base = page.request.get(f"{address}/api/shots/{shot}").json()["revision"]
        body = {"base": base, "edits": [{"op": "set", "path": path, "value": value}], "command": command, "gesture": f"{command} {base}"}
        page.request.post(f"{address}/api/shots/{shot}/edits", data=body)
        if command.startswith("switch"):
            page.request.post(f"{address}/api/shots/{shot}/undo", data={})
    page.reload()
    settle(page)
    page.keyboard.press("h")
    page.get_by_role("listitem", name="Revision 1", exact=True).hover()
    page.get_by_role("button", name="Wipe revision 1", exact=True).click()
    settle(page)
    page.screenshot(path=folder / "history.png")
    page.get_by_role("button", name="Go back to revision 1:").click()
    settle(page)


def people(page: Page, address: str, folder: Path) -> None:
    """Three people with a role each."""
    page.goto(f"{address}/people")
    page.get_by_role("listitem", name="Owner").wait_for()
    for name, role in (("Asha Lin", "look"), ("Ines Varga", "hand off"), ("Tomek Brand", "work")):
        if page.get_by_role("listitem", name=name).count():
            continue
        page.get_by_label("Name of somebody new").fill(name)
        page.get_by_role("button", name="Invite", exact=True).click()
        page.get_by_role("button", name=f"Let {name} into a show").click()
        page.get_by_role("menuitem", name="Ridge Observatory").click()
        page.get_by_label(f"Role of {name} in Ridge Observatory").select_option(role)
    page.reload()
    settle(page)
    page.screenshot(path=folder / "people.png")


def main(entry: str, folder: Path) -> None:
    address = entry.split("/enter/")[0]
    folder.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium-headless-shell") or shutil.which("chromium"),
            args=["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
        )
        page = browser.new_page(viewport=SIZE)
        door(page, entry, address, folder)
        page.screenshot(path=folder / "shots.png")
        page.goto(f"{address}/take-in")
        page.get_by_role("button", name="demo", exact=True).click()
        page.get_by_role("button", name="plates", exact=True).wait_for()
        page.get_by_role("button", name="station", exact=True).click()
        page.get_by_role("checkbox", name="Take in station").wait_for()
        settle(page)
        page.screenshot(path=folder / "take-in.png")
        page.goto(address)
        page.get_by_role("link", name="Dome at dusk").click()
        page.get_by_test_id("stage").wait_for()
        settle(page)
        page.get_by_role("button", name="Card station").click()
        page.get_by_role("button", name="Grade", exact=False).first.click()
        settle(page)
        page.screenshot(path=folder / "bench.png")
        comments(page, folder)
        sources(page, folder)
        passes(page, folder)
        page.mouse.move(*spot(page, 470, 300))
        page.wait_for_timeout(900)
        page.mouse.click(*spot(page, 470, 300))
        page.get_by_role("button", name="other ways").click()
        page.get_by_role("list", name="Other ways").wait_for(timeout=60000)
        page.wait_for_timeout(700)
        page.screenshot(path=folder / "touching.png")
        page.keyboard.press("Escape")
        page.get_by_role("region", name="Mattes").get_by_role("button", name="dome", exact=False).first.click()
        page.get_by_role("searchbox", name="Add a name").fill("mast")
        page.mouse.move(5, 5)
        settle(page)
        page.screenshot(path=folder / "matte.png")
        page.get_by_role("searchbox", name="Add a name").fill("")
        page.get_by_role("region", name="Mattes").get_by_role("button", name="mast lamps", exact=False).first.click()
        page.get_by_role("radio", name="leaks").click()
        settle(page)
        page.mouse.click(*spot(page, 985, 147))
        page.mouse.move(5, 5)
        settle(page)
        page.screenshot(path=folder / "leaks.png")
        page.get_by_role("button", name="Back to the card").click()
        page.get_by_role("link", name="Hand off").click()
        settle(page)
        if not page.get_by_role("article").count():
            page.get_by_placeholder("1001-1048").fill("1001-1003")
            page.get_by_label("Movie of the frames").select_option("h264")
            page.get_by_role("button", name="Render", exact=True).click()
            page.locator("article[data-state=done]").first.wait_for(timeout=120000)
        settle(page)
        page.screenshot(path=folder / "hand-off.png")
        queue(page, address, folder)
        people(page, address, folder)
        other_shots(page, address, folder)
        history(page, address, folder)
        browser.close()
    print(*sorted(str(path) for path in folder.glob("*.png")), sep="\n")


if __name__ == "__main__":
    main(sys.argv[1], Path(sys.argv[2]))
