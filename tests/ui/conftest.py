"""The real page in Chromium against a real server, worker and database."""

import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, StorageState, expect, sync_playwright
from screen import entered, watch

from demo_shot import plain_shot
from running import free_port, launch, stop, wait_for_server
from umbrax.store.database import Database
from umbrax.store.shots import add_shot, get_revision, list_shots
from umbrax.web.demo_show import bring_in

# how long something takes says nothing about whether it comes, least of all beside other tests
expect.set_options(timeout=20_000)


@pytest.fixture(scope="package")
def server(database_address: str, database: Database, demo: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """The address of a running server with a worker beside it."""
    bring_in(database, str(demo), only=("dome-at-dusk",))
    state = tmp_path_factory.mktemp("server")
    port = free_port()
    processes = [launch(state, database_address, *command, media=demo) for command in (("serve", "--port", str(port)), ("worker",))]
    address = f"http://127.0.0.1:{port}"
    wait_for_server(address, state)
    yield address
    for process in processes:
        stop(process)


@pytest.fixture(scope="package")
def browser() -> Iterator[Browser]:
    chromium = shutil.which("chromium-headless-shell") or shutil.which("chromium")
    assert chromium, "Debian's Chromium is missing; run bin/setup --dev"
    flags = [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
    ]
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=chromium, args=flags)
        yield browser
        browser.close()


@pytest.fixture(scope="package")
def session(browser: Browser, server: str, database: Database) -> StorageState:
    """What a browser keeps of whoever looks after the server, once they have opened the address that is printed for them."""
    return entered(browser, server, database)


@pytest.fixture
def page(browser: Browser, session: StorageState) -> Iterator[Page]:
    """A page of the administrator, which is nowhere yet; errors in it fail the test."""
    page = browser.new_page(viewport={"width": 1280, "height": 800}, storage_state=session)
    problems: list[str] = []
    watch(page)
    page.on("pageerror", lambda error: problems.append(str(error)))
    yield page
    page.close()
    assert problems == []


@pytest.fixture
def shot(database: Database, server: str, request: pytest.FixtureRequest) -> int:
    """A fresh copy of the demo shot for one test."""
    row = next(s for s in list_shots(database) if s.name == "Dome at dusk")
    first = plain_shot(get_revision(database, row.id, 1).shot)
    made = add_shot(database, row.show_id, first.model_copy(update={"name": request.node.name[-50:]}))
    assert made is not None
    return made


@pytest.fixture
def own_media(page: Page, server: str, tmp_path: Path) -> Iterator[Path]:
    """A media folder of one test, which others that share its database do not find anything in."""
    assert page.request.post(f"{server}/api/media/folders", data={"path": str(tmp_path)}).ok
    yield tmp_path
    assert page.request.post(f"{server}/api/media/folders/remove", data={"path": str(tmp_path.resolve())}).ok
