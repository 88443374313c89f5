"""What keeps other sites out: foreign hosts, writes that other pages send, frames, and where files lie."""

import http.server
import re
import shutil
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest
from flask.testing import FlaskClient
from playwright.sync_api import Browser, Playwright, sync_playwright

from running import in_process, let_in, token_of
from umbrax.settings import Settings
from umbrax.store import people
from umbrax.store.database import Database
from umbrax.web.people.addresses import entry_path

FOREIGN = [
    "evil.example", "127.0.0.1.evil.example", "localhost.evil.example:80", "evil.example:8460", "", "127.0.0.1@evil.example", "[::2]",
    "127.0.0.2",
]  # fmt: skip


@pytest.mark.parametrize("host", FOREIGN)
@pytest.mark.parametrize("path", ["/", "/api/shows", "/assets/none.js"])
def test_other_hosts_are_not_answered(client: FlaskClient, host: str, path: str) -> None:
    answer = client.get(path, headers={"Host": host})
    assert (answer.status_code, answer.get_json()["error"]["code"]) == (421, "foreign")
    assert "Ridge" not in answer.text


@pytest.mark.parametrize("host", ["127.0.0.1", "127.0.0.1:8460", "localhost:99", "[::1]:8460"])
def test_this_computer_is(client: FlaskClient, host: str) -> None:
    assert client.get("/api/shows", headers={"Host": host}).status_code == 200


def test_a_host_can_be_named(settings: Settings, database: Database, database_address: str) -> None:
    named = Settings(settings.state, settings.media, database_address, 1 << 28, 1 << 30, hosts=frozenset({"comp.studio"}))
    with in_process(named) as client:
        other = let_in(client, token_of(database))
        assert other.get("/api/shows", headers={"Host": "comp.studio:8460"}).status_code == 200
        assert other.get("/api/shows", headers={"Host": "comp.studio.evil.example"}).status_code == 421


def writes(client: FlaskClient) -> list[tuple[str, str]]:
    """Every address that changes anything, with 1 for what it is about."""
    rules = client.application.url_map.iter_rules()
    return [(method, re.sub(r"<[^>]+>", "1", str(rule))) for rule in rules for method in (rule.methods or set()) - {"GET", "HEAD", "OPTIONS"}]


def test_every_write_of_another_site_is_refused(client: FlaskClient) -> None:
    """Whatever the browser tells: its origin, or only that it is another site's."""
    table = writes(client)
    assert len(table) > 30
    for method, path in table:
        for headers in (
            {"Origin": "https://evil.example"}, {"Origin": "null"}, {"Origin": "http://localhost:1"}, {"Origin": "https://localhost"},
            {"Sec-Fetch-Site": "cross-site"}, {"Sec-Fetch-Site": "same-site"},
        ):  # fmt: skip
            answer = client.open(path, method=method, json={}, headers=headers)
            assert answer.status_code == 403, (method, path, headers, answer.status_code)
    same = {"Origin": "http://localhost", "Sec-Fetch-Site": "same-origin"}
    assert client.post("/api/shows", json={"name": "Own origin"}, headers=same).status_code == 200


@pytest.mark.parametrize("path", ["/", "/api/shows", "/api/shots/999999", "/api/none", "/assets/none.js", "/shots/1"])
def test_browsers_are_told_on_every_answer(client: FlaskClient, path: str) -> None:
    with client.get(path) as answer:
        headers = answer.headers
    policy = dict(part.split(" ", 1) for part in headers["Content-Security-Policy"].split("; "))
    assert policy["script-src"] == "'self'", "no script in the page, none from elsewhere"
    assert policy["frame-ancestors"] == policy["object-src"] == policy["base-uri"] == "'none'"
    assert (headers["X-Content-Type-Options"], headers["X-Frame-Options"]) == ("nosniff", "DENY")
    assert headers["Cross-Origin-Resource-Policy"] == "same-origin"


def test_answers_do_not_say_where_files_lie(client: FlaskClient, settings: Settings, tmp_path: Path) -> None:
    inside = settings.uploads / "told"
    inside.mkdir(parents=True, exist_ok=True)
    (inside / "bad.exr").write_bytes(b"nothing")
    for order in ({"paths": [str(inside / "bad.exr")]}, {"paths": [str(inside / "none.exr")]}, {"paths": [str(inside / "no" / "none.exr")]}):
        error = client.post("/api/take-in", json={"show": "Told", "shot": "x"} | order).get_json()["error"]
        assert str(settings.state) not in str(error), error
    told = client.get("/api/media", query_string={"path": str(inside)}).get_json()["found"][0]["problem"]
    assert "bad.exr" in told
    assert str(settings.state) not in told


@pytest.fixture(scope="module")
def playing() -> Iterator[Playwright]:
    with sync_playwright() as playwright:
        yield playwright


def test_a_browser_refuses_frames_and_writes_of_another_page(playing: Playwright, served: str, database: Database, tmp_path: Path) -> None:
    """Chromium, with a page of another origin that frames ours, reads from it and writes to it."""
    page_of_theirs = f"""<iframe src="{served}/"></iframe><img id="p" src="{served}/mark.svg"><script>
        window.told = {{}};
        p.onerror = () => (told.picture = "refused"); p.onload = () => (told.picture = "shown");
        fetch("{served}/api/shows").then(() => (told.read = "read"), () => (told.read = "refused"));
        fetch("{served}/api/shows", {{method: "POST", mode: "no-cors", headers: {{"Content-Type": "text/plain"}},
          body: JSON.stringify({{name: "Planted"}})}}).finally(() => (told.written = "sent"));
        </script>"""
    (tmp_path / "index.html").write_text(page_of_theirs)

    class Theirs(http.server.SimpleHTTPRequestHandler):
        def __init__(self, *arguments: object) -> None:
            super().__init__(*arguments, directory=str(tmp_path))  # type: ignore[arg-type]

        def log_message(self, *_: object) -> None: ...

    with http.server.ThreadingHTTPServer(("127.0.0.1", 0), Theirs) as theirs:
        threading.Thread(target=theirs.serve_forever, daemon=True).start()
        chromium = shutil.which("chromium-headless-shell") or shutil.which("chromium")
        browser: Browser = playing.chromium.launch(executable_path=chromium, args=["--no-sandbox", "--disable-gpu"])
        page = browser.new_page()
        page.goto(served + entry_path(database, people.first_admin(database).id))
        page.locator('a[href="/queue"]').wait_for()
        page.goto(f"http://127.0.0.1:{theirs.server_address[1]}/")
        page.wait_for_function("told.picture && told.read && told.written")
        assert page.evaluate("told") == {"picture": "refused", "read": "refused", "written": "sent"}
        assert all("Umbrax" not in frame.content() for frame in page.frames[1:])
        page.goto(served)
        page.locator('a[href="/queue"]').wait_for()
        shows = page.evaluate("fetch('/api/shows').then((answer) => answer.text())")
        assert "Planted" not in shows
        theirs.shutdown()
        browser.close()
