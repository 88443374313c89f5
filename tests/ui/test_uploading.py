"""Bringing in 64 MB with the real page: a dropped connection, a server killed and started again, a page closed half-way."""

import os
import signal
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from uuid import uuid4

import numpy as np
import OpenEXR
import pytest
from playwright.sync_api import Browser, Page, Route, expect
from screen import comes_true, entered

from running import free_port, launch, stop, wait_for_server
from umbrax.store.database import Database

PIECES = 4  # of 16 MB


class Server:
    """A server of its own that can be killed and started again at the same address."""

    def __init__(self, state: Path, database: str):
        self.state, self.database, self.port = state, database, free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        self.process: Any = None
        self.start()

    def start(self) -> None:
        self.process = launch(self.state, self.database, "serve", "--port", str(self.port))
        wait_for_server(self.address, self.state)

    def kill(self) -> None:
        os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait(10)


@pytest.fixture
def own(database_address: str, tmp_path: Path) -> Iterator[Server]:
    server = Server(tmp_path, database_address)
    yield server
    stop(server.process)


@pytest.fixture(scope="module")
def large(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A real EXR of 64 MB: noise, uncompressed."""
    random = np.random.default_rng(1)
    channels = {c: random.random((2048, 2048), np.float32) for c in "RGBA"}
    path = tmp_path_factory.mktemp("large") / "noise.exr"
    with OpenEXR.File({"compression": OpenEXR.NO_COMPRESSION, "type": OpenEXR.scanlineimage}, channels) as file:
        file.write(str(path))
    assert path.stat().st_size > 64 << 20
    return path


def bring(page: Page, server: Server, file: Path) -> None:
    page.goto(f"{server.address}/take-in")
    page.get_by_label("Files to bring in").set_input_files(file)


def take_in(page: Page) -> None:
    """Under a name of its own: other tests bring in the same file."""
    page.get_by_label("Shot", exact=True).fill(f"Noise {uuid4().hex[:8]}", timeout=90000)
    page.get_by_role("button", name="Take in", exact=True).click()


def arrived(server: Server, file: Path) -> bool:
    """Whether exactly one whole file came, the same in every byte."""
    found = list((server.state / "uploads").glob(f"drop-*/{file.name}"))
    return len(found) == 1 and found[0].read_bytes() == file.read_bytes()


def test_a_dropped_connection_and_a_killed_server_lose_nothing(browser: Browser, own: Server, large: Path, database: Database) -> None:
    page = browser.new_page(storage_state=entered(browser, own.address, database))
    sent: list[str] = []

    def piece(route: Route) -> None:
        if route.request.method == "PATCH":
            sent.append(route.request.headers["upload-offset"])
            if len(sent) == 2:
                route.abort("connectionreset")
                return
            if len(sent) == 4:
                own.kill()
                route.abort("connectionrefused")
                own.start()
                return
        route.continue_()

    page.route("**/api/uploads/*", piece)
    bring(page, own, large)
    expect(page.get_by_role("status")).to_contain_text("of 67.1 MB")
    take_in(page)
    page.wait_for_url("**/passes", timeout=90000)
    assert arrived(own, large)
    # a piece that was lost was sent again from where it began, and no other one was
    assert len(sent) == PIECES + 1 + 2
    assert len(set(sent)) == PIECES + 1
    page.close()


def test_a_page_that_was_closed_half_way_is_gone_on_with(browser: Browser, own: Server, large: Path, database: Database) -> None:
    context = browser.new_context(storage_state=entered(browser, own.address, database))
    page = context.new_page()
    offsets: list[int] = []

    def half(route: Route) -> None:
        if route.request.method == "PATCH" and int(route.request.headers["upload-offset"]) >= 32 << 20:
            route.abort("connectionreset")
        else:
            route.continue_()

    def watch(route: Route) -> None:
        if route.request.method == "PATCH":
            offsets.append(int(route.request.headers["upload-offset"]))
        route.continue_()

    page.route("**/api/uploads/*", half)
    bring(page, own, large)
    comes_true(page, "document.querySelector('[role=status]')?.textContent.includes('33.6 MB of')", seconds=30)
    page.close()
    page = context.new_page()
    page.route("**/api/uploads/*", watch)
    bring(page, own, large)
    take_in(page)
    page.wait_for_url("**/passes", timeout=90000)
    assert offsets[0] >= 32 << 20, "what had come was not sent again"
    assert arrived(own, large)
    context.close()
