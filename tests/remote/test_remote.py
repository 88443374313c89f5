"""The command line asks a server: from files on this machine to frames in a folder of it, and one line for what goes wrong."""

import json
import subprocess
import sys
import threading
from collections.abc import Iterator
from dataclasses import dataclass
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest

from own_render import write_plate
from running import command, free_port, launch, stop, token_of, wait_for_server
from umbrax.core.document.text import read_data
from umbrax.core.errors import UmbraxError
from umbrax.media.movies import count_frames
from umbrax.remote import following
from umbrax.remote.fetching import fetch_frames
from umbrax.remote.server import Server
from umbrax.remote.uploading import files_to_bring
from umbrax.store import people
from umbrax.store.database import Database
from umbrax.store.shots import add_shot, list_shots
from umbrax.web.demo_show import bring_in

DOME = "Ridge Observatory/Dome at dusk"


@dataclass
class Office:
    """A server with a worker, and the folders they write into."""

    address: str
    token: str
    state: Path

    def ask(self, *words: str, token: str | None = None) -> subprocess.CompletedProcess[str]:
        return command("remote", "--server", self.address, "--token", self.token if token is None else token, *words, state=self.state)

    def told(self, *words: str) -> list[dict[str, Any]]:
        """What it answers to a machine, line by line."""
        done = self.ask(*words, "--json")
        assert done.returncode == 0, done.stderr
        return [json.loads(line) for line in done.stdout.splitlines()]


@pytest.fixture(scope="module")
def office(database_address: str, database: Database, demo: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Office]:
    bring_in(database, str(demo))
    state, port = tmp_path_factory.mktemp("office"), free_port()
    address = f"http://127.0.0.1:{port}"
    processes = [launch(state, database_address, *words, media=demo) for words in (("serve", "--port", str(port)), ("worker",))]
    wait_for_server(address, state)
    yield Office(address, token_of(database), state)
    for process in processes:
        stop(process)


def test_files_become_a_shot_and_the_shot_frames_in_a_folder(office: Office, demo: Path, tmp_path: Path) -> None:
    renders = tmp_path / "new renders"
    renders.mkdir()
    for frame in (1001, 1002):
        source = next(demo.rglob(f"*station*{frame}.exr"))
        (renders / f"station.{frame}.exr").write_bytes(source.read_bytes())
    (renders / ".hidden").write_text("not sent")
    [made] = office.told("take-in", str(renders), "--show", "Night runs", "--shot", "Station again")
    assert (made["show"], made["name"], made["files"]) == ("Night runs", "Station again", 2)
    listed = next(one for one in office.told("shots") if one["id"] == made["id"])
    assert (listed["first"], listed["last"], listed["role"]) == (1001, 1002, "own")

    frames = tmp_path / "frames"
    lines = office.told("render", "Night runs/Station again", "--type", "float", "--into", str(frames))
    assert lines[0]["frames"] == 2
    assert [line["done"] for line in lines if line.get("state") == "done"] == [2]
    written = sorted(frames.iterdir())
    assert [path.name for path in written] == ["station-again.1001.exr", "station-again.1002.exr"]
    [folder] = office.state.glob(f"renders/*{lines[0]['render']:06d}")
    assert [path.read_bytes() for path in written] == [(folder / path.name).read_bytes() for path in written]

    again = office.told("fetch", str(lines[0]["render"]), str(frames))
    assert [one["fresh"] for one in again] == [False, False]
    written[0].write_bytes(b"touched")
    assert [one["fresh"] for one in office.told("fetch", str(lines[0]["render"]), str(frames))] == [True, False]
    assert written[0].read_bytes() == (folder / written[0].name).read_bytes()

    document = tmp_path / "kept.umbrax.json"
    document.write_text(office.ask("document", str(made["id"])).stdout)
    assert command("validate", str(document), state=tmp_path).returncode == 0


def test_several_folders_become_a_source_each(office: Office, demo: Path) -> None:
    [made] = office.told("take-in", str(demo / "station"), str(demo / "plates"), "--show", "Night runs", "--shot", "Two folders")
    [document] = office.told("document", str(made["id"]))
    assert {Path(source["path"]).parent.name for source in document["sources"].values()} == {"station", "plates"}


def test_links_are_sent_as_the_files_they_lead_to(tmp_path: Path) -> None:
    (tmp_path / "kept.exr").write_text("picture")
    (tmp_path / "renders" / "deep").mkdir(parents=True)
    link = tmp_path / "renders" / "deep" / "latest.exr"
    link.symlink_to(tmp_path / "kept.exr")
    assert files_to_bring([tmp_path / "renders"]) == [(link, "deep")]
    assert files_to_bring([tmp_path / "renders", tmp_path / "kept.exr"]) == [(link, "renders/deep"), (tmp_path / "kept.exr", "")]


def test_more_files_become_sources_of_a_shot_that_is_there(office: Office, demo: Path, tmp_path: Path) -> None:
    station = str(next(demo.rglob("*station*1001.exr")))
    [made] = office.told("take-in", station, "--show", "Night runs", "--shot", "Grows")
    before = office.told("document", "Grows")[0]
    write_plate(tmp_path / "evening sky.png")
    [added] = office.told("add", "Grows", str(tmp_path / "evening sky.png"))
    assert (added["id"], added["revision"], added["files"]) == (made["id"], made["revision"] + 1, 1)
    after = office.told("document", "Grows")[0]
    [new] = added["sources"]
    assert set(after["sources"]) == {*before["sources"], new}
    assert after["build"][0]["picture"]["source"] == new, "a plate lies at the back"
    assert "as revision" in office.ask("add", "Grows", station, "--no-cards").stdout
    assert len(office.told("document", "Grows")[0]["build"]) == len(after["build"])


def test_a_frame_is_looked_at_at_once(office: Office, tmp_path: Path) -> None:
    whole, half, below, matte = (tmp_path / "looks" / f"{name}.png" for name in ("whole", "half", "below", "matte"))
    [document] = office.told("document", DOME)
    office.told("look", DOME, "1002", str(whole))
    office.told("look", DOME, "1002", str(half), "--scale", "1/2")
    office.told("look", DOME, "1002", str(below), "--upto", document["build"][0]["id"])
    office.told("look", DOME, "1002", str(matte), "--matte", next(iter(document["mattes"])))
    pictures = [cv2.imread(str(path), cv2.IMREAD_COLOR).astype(int) for path in (whole, half, below, matte)]
    assert [one.shape for one in pictures] == [(720, 1280, 3), (360, 640, 3), (720, 1280, 3), (720, 1280, 3)]
    in_queue = tmp_path / "rendered"
    office.told("render", DOME, "--frames", "1002", "--format", "png", "--into", str(in_queue))
    rendered = cv2.imread(str(next(in_queue.iterdir())), cv2.IMREAD_COLOR).astype(int)
    assert np.abs(pictures[0] - rendered).max() <= 1, "it is what would be handed off"
    assert np.abs(pictures[2] - rendered).mean() > 5, "only what lies at the back"
    office.told("render", DOME, "--frames", "1002", "--format", "tiff", "--scale", "1/2", "--into", str(tmp_path / "smaller"))
    [smaller] = (tmp_path / "smaller").glob("*.1002.tif")
    assert np.abs(pictures[1] - cv2.imread(str(smaller), cv2.IMREAD_COLOR)).max() <= 1
    assert np.ptp(pictures[3], axis=2).max() == 0, "a matte is grey"
    assert not [path for path in whole.parent.iterdir() if path.suffix != ".png"]
    refused = office.ask("look", DOME, "1002", str(tmp_path / "whole.jpg"))
    assert "ends in .png" in refused.stderr


def test_every_file_of_a_frame_is_fetched(office: Office, tmp_path: Path) -> None:
    [document] = office.told("document", DOME)
    names = list(document["mattes"])[:2]
    chosen = [word for name in names for word in ("--matte", name)]
    office.told("render", DOME, "--frames", "1001", *chosen, "--into", str(tmp_path), "--priority", "3")
    assert len({path.read_bytes() for path in tmp_path.iterdir()}) == len(names) == 2


def test_a_movie_is_ordered_with_the_frames_and_fetched_after_them(office: Office, tmp_path: Path) -> None:
    lines = office.told("render", DOME, "--frames", "1001-1002", "--movie", "prores_422", "--into", str(tmp_path))
    assert lines[-1] == {"movie": str(tmp_path / "dome-at-dusk.mov"), "fresh": True}
    assert count_frames(tmp_path / "dome-at-dusk.mov") == 2
    assert len(list(tmp_path.glob("*.exr"))) == 2
    again = office.told("fetch", str(lines[0]["render"]), str(tmp_path))
    assert [one["fresh"] for one in again] == [False, False, False]
    refused = office.ask("render", DOME, "--movie", "flick")
    assert refused.returncode == 1
    assert "prores_422" in refused.stderr


def test_the_queue_is_seen_and_a_stopped_render_ends_a_wait_with_an_error(office: Office, database: Database) -> None:
    picture = {"kind": "noise", "size": {"keys": [[1, 10, "linear"], [4000, 90, "linear"]]}, "octaves": 6}
    layout = {"width": 800, "height": 600, "fps": 24, "first": 1, "last": 4000}
    long = {"umbrax": 1, "name": "Long clouds", "format": layout, "build": [{"id": "clouds", "picture": picture}]}
    show = next(row.show_id for row in list_shots(database) if row.name == "Dome at dusk")
    assert add_shot(database, show, read_data(long)) is not None
    [ordered] = office.told("render", "Long clouds")
    number = str(ordered["render"])
    assert office.told("pause", number)[0]["state"] in ("paused", "queued", "running")
    assert ordered["render"] in {one["id"] for one in office.told("queue")[0]["renders"]}
    assert "/Long clouds" in office.ask("queue").stdout
    office.told("cancel", number)
    waited = office.ask("follow", number)
    assert waited.returncode == 1
    assert f"render {number} cancelled" in waited.stderr.splitlines()[-1]
    assert office.told("retry", number)[0]["state"] in ("queued", "running")
    office.told("cancel", number)


def test_who_may_only_look_is_refused_what_the_page_refuses_them(office: Office, database: Database) -> None:
    show = next(row.show_id for row in list_shots(database) if row.name == "Dome at dusk")
    people.set_role(database, people.add_person(database, "remote looker"), show, "look")
    refused = office.ask("render", "Dome at dusk", token=token_of(database, "remote looker"))
    assert refused.returncode == 1
    assert "but not hand it off" in refused.stderr


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (("--token", "x" * 43, "shots"), "does not know this token"),
        (("--token", "", "shots"), "UMBRAX_TOKEN"),
        (("--token", "ü\n", "shots"), "characters that no token has"),
        (("render", "No such shot"), "no shot 'No such shot'"),
        (("follow", "999999"), "no render"),
        (("take-in", "/nowhere/at/all", "--show", "X"), "no file or folder '/nowhere/at/all'"),
        (("--server", "127.0.0.1:1", "shots"), "write it as http://name:port"),
        (("--server", "http://127.0.0.1:1", "shots"), "no answer from http://127.0.0.1:1 ([Errno 111] Connection refused)"),
    ],
)
def test_what_goes_wrong_is_one_line(office: Office, words: tuple[str, ...], told: str) -> None:
    before, after = (words, ()) if words[0].startswith("--") else ((), words)
    done = command("remote", "--server", office.address, "--token", office.token, *before, *after, state=office.state)
    assert done.returncode == 1
    assert told in done.stderr
    assert len(done.stderr.splitlines()) == 1


def test_names_that_two_shots_have_ask_for_a_number(office: Office, demo: Path) -> None:
    file = str(next(demo.rglob("*station*1001.exr")))
    made = [office.told("take-in", file, "--show", show, "--shot", "Twice")[0] for show in ("Night runs", "Day runs")]
    refused = office.ask("document", "Twice")
    assert refused.returncode == 1
    assert all(f"{one['id']} ({one['show']}/Twice)" in refused.stderr for one in made)
    assert office.told("document", "Day runs/Twice")[0]["name"] == "Twice"


class Answers(BaseHTTPRequestHandler):
    """Says in turn what a test put into `said`: status, headers and body."""

    said: list[tuple[int, dict[str, str], bytes]] = []

    def do_GET(self) -> None:
        status, headers, body = self.said.pop(0)
        self.send_response(status)
        for name, value in headers.items():
            self.send_header(name, value)
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, *_: Any) -> None:
        pass


@pytest.fixture
def answering() -> Iterator[str]:
    Answers.said = []
    with ThreadingHTTPServer(("127.0.0.1", 0), Answers) as server:
        thread = threading.Thread(target=server.serve_forever, daemon=True)
        thread.start()
        yield f"http://127.0.0.1:{server.server_address[1]}"
        server.shutdown()


def _json(value: object, status: int = 200, **headers: str) -> tuple[int, dict[str, str], bytes]:
    body = json.dumps(value).encode()
    return status, {"Content-Length": str(len(body)), **headers}, body


def test_a_busy_server_is_asked_again(answering: str) -> None:
    busy = _json({"error": {"code": "busy", "message": "busy"}}, 503, **{"Retry-After": "0"})
    Answers.said = [busy, busy, _json({"well": True})]
    assert Server(answering, "x").get("/health") == {"well": True}


@pytest.mark.parametrize("other", [(200, {}, b"<html>"), (302, {"Location": "http://127.0.0.1:1/"}, b""), (500, {}, b"oops")])
def test_what_is_not_umbrax_is_said(answering: str, other: tuple[int, dict[str, str], bytes]) -> None:
    Answers.said = [other]
    with pytest.raises(UmbraxError, match="check the address") as raised:
        Server(answering, "x").get("/shows")
    assert raised.value.code == "no-server"


def test_a_file_that_breaks_off_leaves_nothing(answering: str, tmp_path: Path) -> None:
    headers = {
        "Content-Length": "100", "Last-Modified": "Sat, 28 Nov 2026 10:00:00 GMT", "Content-Disposition": "attachment; filename=a.0001.exr",
    }  # fmt: skip
    Answers.said = [(200, headers, b"half")]
    with pytest.raises(UmbraxError, match="no answer"):
        list(fetch_frames(Server(answering, "x"), {"id": 1, "files": 1}, [1], tmp_path))
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize(("name", "kept"), [("../../up.exr", "up.exr"), ("C:\\\\x\\\\up.exr", "up.exr")])
def test_a_name_with_folders_stays_in_the_folder(answering: str, tmp_path: Path, name: str, kept: str) -> None:
    headers = {
        "Content-Length": "2", "Last-Modified": "Sat, 28 Nov 2026 10:00:00 GMT", "Content-Disposition": f'attachment; filename="{name}"',
    }  # fmt: skip
    Answers.said = [(200, headers, b"ok")]
    inside = tmp_path / "deep" / "folder"
    [one] = fetch_frames(Server(answering, "x"), {"id": 1, "files": 1}, [1], inside)
    assert one.path == inside / kept


def test_a_server_that_is_started_anew_is_waited_for(answering: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(following, "ASK_EVERY", 0.01)
    row = {"id": 1, "state": "running", "done": [1], "failed": []}
    Answers.said = [(200, {"Content-Length": "50"}, b"{"), _json({**row, "done": [1, 2]}), _json({**row, "done": [1, 2, 3], "state": "done"})]
    seen: list[int] = []
    ended = following.follow(Server(answering, "x"), row, lambda now: seen.append(len(now["done"])))
    assert (ended["state"], seen) == ("done", [1, 2, 3])


def test_a_server_that_stays_away_ends_the_wait(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(following, "ASK_EVERY", 0.01)
    monkeypatch.setattr(following, "PATIENCE", 0.1)
    gone = Server("http://127.0.0.1:1", "x")
    with pytest.raises(UmbraxError, match="no answer"):
        following.follow(gone, {"id": 1, "state": "running", "done": [], "failed": []}, lambda _: None)


def test_commands_for_plain_files_load_no_network_library() -> None:
    code = "import sys; import umbrax.commands.main; sys.exit('requests' in sys.modules or 'tusclient' in sys.modules)"
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0
