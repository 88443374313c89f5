"""Taking in over HTTP: looking into media folders, making a shot, its check-up, and uploads."""

import base64
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from threading import Barrier
from typing import Any

import cv2
import numpy as np
import OpenEXR
import pytest
from flask.testing import FlaskClient

from running import let_in, token_of
from umbrax.core.checkup import Finding
from umbrax.core.colour import srgb_from_linear
from umbrax.core.errors import UmbraxError
from umbrax.jobs.checking import run_checkup
from umbrax.jobs.hands import Hands
from umbrax.media import decoding, previews
from umbrax.media.fastcopies import FastCopies
from umbrax.media.previews import preview
from umbrax.media.roots import Roots
from umbrax.render.engine import Engine
from umbrax.settings import Settings
from umbrax.store import checkups
from umbrax.store.database import Database

# as a check-up of before kept it
FINDING = Finding("frames", "station", None, (1002,), "error", "frame 1002 is missing").payload()


def take_in(client: FlaskClient, *paths: Path | str, show: str = "A show", shot: str) -> Any:
    return client.post("/api/take-in", json={"show": show, "shot": shot, "paths": [str(path) for path in paths]})


def test_a_media_folder_is_listed_with_what_its_sequences_hold(client: FlaskClient, demo: Path) -> None:
    top = client.get("/api/media").get_json()
    assert str(demo.resolve()) in [folder["path"] for folder in top["folders"]]
    inside = client.get("/api/media", query_string={"path": str(demo)}).get_json()
    assert {folder["name"] for folder in inside["folders"]} >= {"station", "balloon", "ink", "plates"}
    (station,) = client.get("/api/media", query_string={"path": str(demo / "station")}).get_json()["found"]
    assert (station["first"], station["last"], station["frames"], station["missing"]) == (1001, 1003, 3, [])
    assert station["kinds"]["ids"] == 3
    assert station["kinds"]["diffuse"] == 1


def small(client: FlaskClient, path: Path | str, **query: str) -> Any:
    return client.get("/api/media/thumb", query_string={"path": str(path), **query})


def test_what_is_found_shows_its_first_frame_before_it_is_taken_in(client: FlaskClient, demo: Path) -> None:
    """The beauty of a render of many passes, as it is seen."""
    inside = client.get("/api/media", query_string={"path": str(demo / "station")}).get_json()
    (station,) = inside["found"]
    answer = small(client, station["path"], key=station["key"])
    assert answer.mimetype == "image/jpeg"
    assert answer.cache_control.max_age == 86400
    shown = cv2.imdecode(np.frombuffer(answer.data, np.uint8), cv2.IMREAD_COLOR)[..., ::-1].astype(float)
    beauty = OpenEXR.File(str(demo / "station" / "station.1001.exr")).channels()["RGBA"].pixels[..., :3].astype(np.float32)
    assert shown.shape[:2] == (135, 240)
    wanted = srgb_from_linear(cv2.resize(beauty, (240, 135), interpolation=cv2.INTER_AREA).astype(np.float64)) * 255
    assert np.abs(shown - np.clip(wanted, 0, 255)).mean() < 3
    again = client.get("/api/media/thumb", query_string={"path": station["path"]})
    assert again.cache_control.max_age is None, "without its key it may be of another state of the file"


def test_a_preview_has_the_shape_of_its_pixels_and_keeps_nothing(tmp_path: Path) -> None:
    path = tmp_path / "wide.exr"
    OpenEXR.File({"pixelAspectRatio": 2.0}, {"RGBA": np.full((60, 40, 4), 0.5, np.float16)}).write(str(path))
    copies = FastCopies(tmp_path / "fast")
    picture, shown = preview(path, copies, Roots([tmp_path]))
    assert (picture.window.width, picture.window.height, shown.kind) == (80, 60, "beauty")
    assert np.allclose(picture.pixels, 0.5, atol=1e-3)
    assert not (tmp_path / "fast").exists()


def test_of_a_file_of_many_passes_only_what_is_shown_counts(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path, rng = tmp_path / "many.exr", np.random.default_rng(5)
    beauty = rng.random((200, 30, 4)).astype(np.float16)
    lights = {f"light{n}.{letter}": rng.random((200, 30)).astype(np.float32) for n in range(6) for letter in "RGB"}
    OpenEXR.File({}, {"RGBA": beauty, **lights}).write(str(path))
    copies, roots = FastCopies(tmp_path / "fast"), Roots([tmp_path])
    for part in (previews, decoding):
        monkeypatch.setattr(part, "WHOLE_BYTES", beauty.nbytes)
    picture, _ = preview(path, copies, roots)
    assert np.array_equal(picture.pixels, beauty.astype(np.float32)), "no larger than a preview, it is as it was written"
    monkeypatch.setattr(previews, "WHOLE_BYTES", beauty.nbytes - 1)
    with pytest.raises(UmbraxError, match="too large to be shown"):
        preview(path, copies, roots)


def test_what_cannot_be_shown_says_why(client: FlaskClient, settings: Settings) -> None:
    folder = settings.uploads / "no pictures"
    folder.mkdir(parents=True)
    (folder / "bad.exr").write_bytes(b"no picture at all")
    assert small(client, folder / "bad.exr").status_code == 400
    gone = small(client, folder / "gone.{frame:04d}.exr")
    assert (gone.status_code, gone.get_json()["error"]["code"]) == (400, "missing-file")
    assert "in none of the media folders" in small(client, "/etc/passwd").get_json()["error"]["message"]


@pytest.mark.parametrize("path", ["/etc", "/", "{demo}/..", "{demo}/../../etc"])
def test_nothing_outside_the_media_folders_is_shown(path: str, client: FlaskClient, demo: Path) -> None:
    answer = client.get("/api/media", query_string={"path": path.replace("{demo}", str(demo))})
    assert answer.status_code == 400
    assert "in none of the media folders" in answer.get_json()["error"]["message"]


def test_taking_in_makes_a_shot_that_shows_every_source(client: FlaskClient, demo: Path) -> None:
    made = take_in(client, demo / "station", demo / "plates" / "valley.exr", demo / "ink", shot="All of it").get_json()
    document = made["document"]
    assert (document["format"]["first"], document["format"]["last"], document["format"]["width"]) == (1001, 1003, 1280)
    kinds = [(card["id"], card["picture"]["kind"]) for card in document["build"]]
    assert kinds[0] == ("valley", "plate")
    assert {kind for name, kind in kinds if name.startswith("station")} == {"shadow", "rebuild"}
    look = client.post(f"/api/shots/{made['id']}/look", json={"revision": 1, "frame": 1001, "scale": 8})
    assert "X-Problem" not in look.headers
    assert take_in(client, demo / "ink", shot="All of it").get_json()["error"]["code"] == "shot-exists"


def test_a_shot_has_pixels_of_the_shape_that_its_main_source_says(client: FlaskClient, settings: Settings) -> None:
    folder = settings.uploads / "squeezed"
    folder.mkdir(parents=True)
    for name, aspect in (("render", 2.0), ("plain", 1.0)):
        header = {"pixelAspectRatio": aspect}
        OpenEXR.File(header, {"RGBA": np.ones((8, 8, 4), np.float16)}).write(str(folder / f"{name}.exr"))
    made = take_in(client, folder / "render.exr", shot="Squeezed").get_json()
    assert made["document"]["format"]["pixel_aspect"] == 2
    assert "pixel_aspect" not in take_in(client, folder / "plain.exr", shot="Plain").get_json()["document"]["format"]


def test_two_take_ins_into_one_new_show_at_once_are_both_readable(client: FlaskClient, demo: Path, database: Database) -> None:
    """The show has the folder of one of them; both write their paths from that one."""
    plates = demo / "plates"
    places = {"station": demo / "station" / "station.{frame:04d}.exr", "valley": plates / "valley.exr", "paper": plates / "paper.png"}
    waiting, token = Barrier(len(places)), token_of(database)

    def taken(name: str) -> Any:
        with let_in(client.application.test_client(), token) as own:
            waiting.wait()
            return take_in(own, places[name], show="At once", shot=name)

    with ThreadPoolExecutor(len(places)) as pool:
        answers = list(pool.map(taken, places))
    assert [answer.status_code for answer in answers] == [200] * len(places)
    for answer in answers:
        made = answer.get_json()
        look = {"kind": "picture", "revision": made["revision"], "frame": 1001, "scale": 8}
        seen = client.post(f"/api/shots/{made['id']}/look", json=look)
        assert seen.status_code == 200
        assert "X-Problem" not in seen.headers, made["name"]


def test_a_kind_given_by_hand_is_remembered_for_the_show(client: FlaskClient, demo: Path) -> None:
    made = take_in(client, demo / "station", show="Kinds", shot="One").get_json()["id"]
    edit = {"op": "set", "path": ["sources", "station", "passes"], "value": {"ambient": {"kind": "sheen"}}}
    client.post(f"/api/shots/{made}/edits", json={"base": 1, "edits": [edit], "command": "c", "gesture": "kind by hand"})
    again = take_in(client, demo / "station", show="Kinds", shot="Two").get_json()
    assert again["document"]["sources"]["station"]["passes"] == {"ambient": {"kind": "sheen"}}
    elsewhere = take_in(client, demo / "station", show="Other kinds", shot="One").get_json()
    assert "passes" not in elsewhere["document"]["sources"]["station"] or not elsewhere["document"]["sources"]["station"]["passes"]


def test_what_cannot_be_taken_in_says_why_and_makes_nothing(client: FlaskClient, settings: Settings) -> None:
    broken = settings.uploads / "broken"
    broken.mkdir(parents=True)
    (broken / "x.exr").write_bytes(b"text")
    before = client.get("/api/shows").get_json()
    assert "cannot read 'x.exr'" in take_in(client, broken, show="New", shot="x").get_json()["error"]["message"]
    assert "no picture 'none.exr'" in take_in(client, broken / "none.exr", show="New", shot="x").get_json()["error"]["message"]
    assert client.get("/api/shows").get_json() == before


def test_the_check_up_runs_as_a_job_and_its_findings_are_shown(
    client: FlaskClient, settings: Settings, database: Database, demo: Path, tmp_path: Path
) -> None:
    folder = settings.uploads / "grey"
    folder.mkdir(parents=True)
    shadow = np.ones((40, 60), np.float16)
    light = np.random.default_rng(1).uniform(0, 1, (40, 60)).astype(np.float16)
    channels = {**dict.fromkeys("RGBA", light), "shadow.Y": shadow}
    with OpenEXR.File({"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}, channels) as file:
        file.write(str(folder / "grey.exr"))
    shot = take_in(client, folder, shot="Grey").get_json()["id"]
    address = f"/api/shots/{shot}/checkup"
    assert client.get(address).get_json()["state"] == "queued"
    run_checkup(Hands(database, Engine(FastCopies(tmp_path)), settings), shot)
    found = client.get(address).get_json()
    assert (found["state"], found["done"], found["total"], found["outdated"]) == ("done", 1, 1, False)
    assert [(f["rule"], f["pass"]) for f in found["findings"]] == [("constant-pass", "shadow")]
    shows = client.get("/api/shows").get_json()["shows"]
    assert [s["findings"] for show in shows for s in show["shots"] if s["id"] == shot] == [1]


def test_a_check_up_that_is_stopped_keeps_what_was_found_before(
    client: FlaskClient, settings: Settings, database: Database, demo: Path, tmp_path: Path
) -> None:
    shot = take_in(client, demo / "ink", shot="Stopped").get_json()["id"]
    checkups.finish(database, shot, 1, "running", [FINDING])
    client.post(f"/api/shots/{shot}/checkup/cancel")
    run_checkup(Hands(database, Engine(FastCopies(tmp_path)), replace(settings)), shot)
    row = checkups.get_checkup(database, shot)
    assert row is not None
    assert (row.state, row.findings) == ("cancelled", [FINDING])


def test_changed_sources_are_examined_anew_and_an_overtaken_check_up_leaves_nothing(
    client: FlaskClient, settings: Settings, database: Database, demo: Path, tmp_path: Path
) -> None:
    shot = take_in(client, demo / "ink", shot="Overtaken").get_json()["id"]
    address = f"/api/shots/{shot}"
    engine = Engine(FastCopies(tmp_path))
    run_checkup(Hands(database, engine, settings), shot)
    assert client.get(f"{address}/checkup").get_json()["state"] == "done"
    held = {"op": "set", "path": ["sources", "ink", "missing"], "value": "hold"}
    edits = {"base": 1, "edits": [held], "command": "hold", "gesture": "a", "tab": "t"}
    client.post(f"{address}/edits", json=edits)
    waiting = client.get(f"{address}/checkup").get_json()
    assert (waiting["state"], waiting["outdated"]) == ("queued", False)
    # the one of revision 1 comes to its end after that of revision 2 was ordered
    assert checkups.set_progress(database, shot, 1, 1, 3), "it is told to stop"
    checkups.finish(database, shot, 1, "done", [FINDING])
    assert client.get(f"{address}/checkup").get_json()["state"] == "queued"
    run_checkup(Hands(database, engine, settings), shot)
    done = client.get(f"{address}/checkup").get_json()
    assert (done["state"], done["findings"], done["outdated"]) == ("done", [], False)
    dimmed = {"op": "set", "path": ["build", "ink", "opacity"], "value": 0.5}
    client.post(f"{address}/edits", json=edits | {"base": 2, "edits": [dimmed], "gesture": "b"})
    again = client.get(f"{address}/checkup").get_json()
    assert (again["state"], again["outdated"]) == ("done", False), "a card is not a source"
    for _ in range(2):
        client.post(f"{address}/undo", json={"tab": "t"})
    assert client.get(f"{address}/checkup").get_json()["state"] == "queued"


def test_a_source_that_is_gone_is_a_finding_not_a_failure(client: FlaskClient, settings: Settings, database: Database, tmp_path: Path) -> None:
    folder = settings.uploads / "gone"
    folder.mkdir(parents=True)
    with OpenEXR.File({"type": OpenEXR.scanlineimage}, {c: np.ones((4, 4), np.float16) for c in "RGB"}) as file:
        file.write(str(folder / "gone.exr"))
    shot = take_in(client, folder, shot="Gone").get_json()["id"]
    (folder / "gone.exr").unlink()
    run_checkup(Hands(database, Engine(FastCopies(tmp_path)), settings), shot)
    (finding,) = client.get(f"/api/shots/{shot}/checkup").get_json()["findings"]
    assert (finding["rule"], finding["severity"]) == ("frames", "error")


def metadata(**told: str) -> str:
    return ",".join(f"{key} {base64.b64encode(value.encode()).decode()}" for key, value in told.items())


def test_an_upload_speaks_tus_and_goes_on_after_a_break(client: FlaskClient, settings: Settings) -> None:
    tus = {"Tus-Resumable": "1.0.0"}
    data = np.random.default_rng(2).bytes(5_000_000)
    begun = client.post(
        "/api/uploads", headers=tus | {"Upload-Length": str(len(data)), "Upload-Metadata": metadata(filename="a.exr", batch="one")}
    )
    assert begun.status_code == 201
    place = begun.headers["Location"]

    def send(offset: int, piece: bytes) -> Any:
        kind = "application/offset+octet-stream"
        return client.patch(place, headers=tus | {"Upload-Offset": str(offset)}, data=piece, content_type=kind)

    assert send(0, data[:2_000_000]).headers["Upload-Offset"] == "2000000"
    assert send(0, data).status_code == 409
    assert client.head(place, headers=tus).headers["Upload-Offset"] == "2000000"
    assert send(2_000_000, data[2_000_000:]).status_code == 204
    assert (settings.uploads / "one" / "a.exr").read_bytes() == data
    assert client.head("/api/uploads/" + "0" * 32).status_code == 404
    options = client.options("/api/uploads").headers
    assert (options["Tus-Version"], options["Tus-Extension"]) == ("1.0.0", "creation")
