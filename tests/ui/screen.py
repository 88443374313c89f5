"""Finding things on the bench and reading its pixels."""

from collections.abc import Callable
from typing import Any
from weakref import WeakKeyDictionary

import cv2
import numpy as np
from playwright.sync_api import Browser, Page, Request, StorageState

from umbrax.core.document.cards import Card
from umbrax.core.document.edits import plain_data
from umbrax.core.document.text import read_data
from umbrax.store import people
from umbrax.store.database import Database
from umbrax.store.shots import add_shot, get_revision, get_shot
from umbrax.web.people.addresses import entry_path

WIDTH, HEIGHT, MARGIN = 1280, 720, 12


BACKGROUND = ("/areas?", "/card-facts?", "/pops?", "/cards/seat?")  # measured while nothing else is going on; nobody waits for it
pending: WeakKeyDictionary[Page, set[Request]] = WeakKeyDictionary()


def watch(page: Page) -> None:
    """Remember what a page is still waiting for."""
    waiting = pending[page] = set[Request]()
    page.on("request", lambda request: None if any(one in request.url for one in BACKGROUND) else waiting.add(request))
    page.on("requestfinished", lambda request: waiting.discard(request))
    page.on("requestfailed", lambda request: waiting.discard(request))


def quiet(page: Page, rest_ms: int = 200) -> None:
    """Wait until a page has waited for nothing for so long."""
    still = 0
    for _ in range(300):
        page.wait_for_timeout(100)
        still = 0 if pending[page] else still + 100
        if still >= rest_ms:
            return
    raise AssertionError(f"still waiting for {[request.url for request in pending[page]]}")


def entered(browser: Browser, server: str, database: Database, name: str = "") -> StorageState:
    """What a browser keeps after somebody, by default the first administrator, came in by the address that is printed for them."""
    person = people.find_person(database, name) if name else people.first_admin(database)
    assert person is not None
    context = browser.new_context()
    page = context.new_page()
    page.goto(server + entry_path(database, person.id))
    assert page.url.rstrip("/") == server, page.url
    state = context.storage_state()
    context.close()
    return state


def wait_until(page: Page, so: Callable[[], object], told: str, seconds: float = 20) -> None:
    """Wait until something is so, while the page goes on."""
    for _ in range(int(seconds * 20)):
        if so():
            return
        page.wait_for_timeout(50)
    raise AssertionError(f"still not so: {told}")


def comes_true(page: Page, expression: str, about: object = None, seconds: float = 20) -> None:
    """Wait until something is so in the page. It is asked for from outside: the page itself runs no text as a script."""
    wait_until(page, lambda: page.evaluate(expression, about), expression, seconds)


def edit(page: Page, server: str, shot: int, base: int, *edits: dict[str, Any]) -> None:
    """Changes of a shot that are not made in the page, after the revision `base`."""
    body = {"base": base, "edits": list(edits), "command": "test", "gesture": f"test {base}"}
    assert page.request.post(f"{server}/api/shots/{shot}/edits", data=body).ok


def open_bench(page: Page, server: str, shot: int) -> None:
    if page not in pending:
        watch(page)
    page.goto(f"{server}/shots/{shot}")
    drawn(page)


def drawn(page: Page) -> None:
    """Wait until nothing is being saved, and what is wanted has been drawn as fine as it comes (also after the server said "later")."""
    page.locator('[data-testid=picture]:not([data-drawn=""])').wait_for()
    quiet(page)
    page.get_by_test_id("saved").filter(has_not_text="saving").wait_for()
    flushed(page)
    page.locator("[data-testid=picture][aria-busy=false]").wait_for(timeout=60_000)
    flushed(page)


def flushed(page: Page) -> None:
    """Wait until what the page was told is drawn."""
    page.evaluate("() => new Promise((done) => requestAnimationFrame(() => setTimeout(done)))")


def spot(page: Page, x: float, y: float) -> tuple[float, float]:
    """Where a pixel of the fitted picture lies on the screen."""
    box = page.get_by_test_id("stage").bounding_box()
    assert box
    zoom = min((box["width"] - 2 * MARGIN) / WIDTH, (box["height"] - 2 * MARGIN) / HEIGHT)
    left, top = round((box["width"] - WIDTH * zoom) / 2), round((box["height"] - HEIGHT * zoom) / 2)
    return box["x"] + left + (x + 0.5) * zoom, box["y"] + top + (y + 0.5) * zoom


def seen(page: Page) -> np.ndarray:
    """The stage as it is on the screen, with the cursor away from it: `int[h, w, 3]`."""
    page.mouse.move(5, 5)
    page.wait_for_timeout(250)
    data = page.get_by_test_id("stage").screenshot()
    return cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)[..., ::-1].astype(int)


def with_open_bloom(page: Page, server: str, shot: int) -> np.ndarray:
    """The picture with the bloom of the card at the front, which is open."""
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card finish").click()
    page.get_by_role("button", name="Bloom").click()
    drawn(page)
    return seen(page)


def touch(page: Page, x: float, y: float) -> None:
    touch_at(page, spot(page, x, y))


def touch_at(page: Page, place: tuple[float, float]) -> None:
    page.mouse.move(*place)
    page.get_by_test_id("loupe").wait_for()
    page.wait_for_timeout(300)
    page.mouse.click(*place)
    page.get_by_role("dialog").wait_for()


def revision(page: Page) -> int:
    text = page.get_by_test_id("saved").inner_text()
    return int(text.rsplit(" ", 1)[1])


def card(database: Database, shot: int, page: Page, name: str) -> Card:
    """A card as it is in the revision that is shown."""
    return get_revision(database, shot, revision(page)).shot.card(name)


def beside(database: Database, shot: int, **changes: Any) -> int:
    """Another shot of the show, as the first revision of one with some parts of its document changed."""
    data = plain_data(get_revision(database, shot, 1).shot) | {"name": f"beside {shot}"} | changes
    made = add_shot(database, get_shot(database, shot).show_id, read_data(data))
    assert made is not None
    return made


def saved(page: Page, number: int) -> None:
    """Wait until a revision is the one that is shown, and drawn."""
    page.get_by_text(f"revision {number}", exact=False).first.wait_for()
    drawn(page)
    assert revision(page) == number


def value_at(page: Page, picture: np.ndarray, x: int, y: int) -> np.ndarray:
    """The mean of a few screen pixels at a pixel of the picture."""
    box = page.get_by_test_id("stage").bounding_box()
    assert box
    left, top = (int(a - b) for a, b in zip(spot(page, x, y), (box["x"], box["y"]), strict=True))
    return picture[top - 1 : top + 2, left - 1 : left + 2].reshape(-1, 3).mean(axis=0)


def add_designed(page: Page, kind: str) -> None:
    """A new card at the front that shows something designed; the next revision is there when it is."""
    number = revision(page) + 1
    page.get_by_role("button", name="Add a card at the front").click()
    page.get_by_role("menuitem", name=kind, exact=True).click()
    saved(page, number)
