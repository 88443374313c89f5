"""Hand-off: renders through the queue, with progress, cancel, retry and recovery after a kill."""

import io
import json
import os
import signal
import subprocess
import time
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import OpenEXR
import pytest
from bench_client import Bench

from running import launch, stop
from umbrax.core.colour import exact_codes
from umbrax.media.movies import count_frames
from umbrax.media.writing import raised_alpha
from umbrax.render.engine import Want
from umbrax.settings import Settings
from umbrax.store.shots import get_revision


@pytest.fixture
def worker(settings: Settings) -> Iterator[subprocess.Popen[bytes]]:
    process = launch(settings.state, settings.database, "worker", media=settings.media[0])
    yield process
    stop(process)


def order(bench: Bench, **body: Any) -> dict[str, Any]:
    answer = bench.client.post(f"/api/shots/{bench.shot_id}/renders", json={"revision": 1, **body})
    assert answer.status_code == 200, answer.data
    return answer.get_json()


def render(bench: Bench, number: int) -> dict[str, Any]:
    rows = bench.client.get(f"/api/shots/{bench.shot_id}/renders").get_json()["renders"]
    return next(row for row in rows if row["id"] == number)


def wait_for(bench: Bench, number: int, *states: str, done: int = 0, seconds: float = 90) -> dict[str, Any]:
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        row = render(bench, number)
        if row["state"] in states or (done and len(row["done"]) >= done):
            return row
        time.sleep(0.1)
    raise AssertionError(f"still {row['state']} with {row['done']}")


def fetched(bench: Bench, address: str) -> bytes:
    with bench.client.get(address) as answer:
        assert answer.status_code == 200
        return answer.data


def test_frames_are_rendered_and_fetched(bench: Bench, worker: object) -> None:
    made = order(bench, frames="1001-1002", type="float")
    row = wait_for(bench, made["id"], "done", "failed")
    assert row["state"] == "done", row["message"]
    assert row["done"] == [1001, 1002]
    data = fetched(bench, f"/api/renders/{made['id']}/download")
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        names = archive.namelist()
        assert len(names) == 2
        assert names[0].endswith(".1001.exr")
    still = cv2.imdecode(np.frombuffer(fetched(bench, f"/api/renders/{made['id']}/stills/1002"), np.uint8), cv2.IMREAD_COLOR)
    frame = fetched(bench, f"/api/renders/{made['id']}/frames/1002")
    path = worker_path(bench, frame)
    shared = bench.client.application.extensions["umbrax"]
    shot = get_revision(shared.database, bench.shot_id, 1).shot
    expected = shared.engine.make(shot, shared.roots(bench.shot_id), 1002, Want()).picture.pixels
    with OpenEXR.File(path, separate_channels=True) as file:
        for index, letter in enumerate("RGBA"):
            assert np.array_equal(file.channels()[letter].pixels, expected[..., index])
    assert np.abs(still[..., ::-1].astype(int) - exact_codes(expected[..., :3], 255).astype(int)).mean() < 2
    assert bench.client.get(f"/api/renders/{made['id']}/stills/1003").status_code == 404
    beyond = bench.client.get(f"/api/renders/{made['id']}/frames/1002?file=1")
    assert (beyond.status_code, beyond.get_json()["error"]["code"]) == (404, "no-file"), "a frame has files by number, as a render has frames"


def test_frames_are_written_in_other_primaries_and_looked_at_in_the_same_view(bench: Bench, worker: object) -> None:
    stills, headers = [], []
    for space in ("lin_rec709", "lin_ap1"):
        made = order(bench, frames="1001", type="float", space=space)
        assert made["space"] == space
        assert wait_for(bench, made["id"], "done", "failed")["state"] == "done"
        path = worker_path(bench, fetched(bench, f"/api/renders/{made['id']}/frames/1001"))
        with OpenEXR.File(path, separate_channels=True) as file:
            headers.append(file.header()["chromaticities"][:2])
        stills.append(cv2.imdecode(np.frombuffer(fetched(bench, f"/api/renders/{made['id']}/stills/1001"), np.uint8), cv2.IMREAD_COLOR))
    assert np.allclose(headers, [(0.64, 0.33), (0.713, 0.293)], atol=1e-6)
    apart = np.abs(stills[0].astype(int) - stills[1])
    assert (apart.mean() < 0.1, apart.max() <= 6) == (True, True), "but for what JPEG makes of the last digit"
    refused = bench.client.post(f"/api/shots/{bench.shot_id}/renders", json={"revision": 1, "format": "png", "space": "lin_ap1"})
    assert (refused.status_code, refused.get_json()["error"]["code"]) == (400, "bad-space")


def test_a_shot_that_works_in_acescg_is_written_so_where_nothing_else_is_asked_for(bench: Bench) -> None:
    body = {"base": 1, "edits": [{"op": "set", "path": ["colour", "working"], "value": "lin_ap1"}], "gesture": "space", "command": "space"}
    assert bench.client.post(f"/api/shots/{bench.shot_id}/edits", json=body).status_code == 200
    orders = [{"format": "exr"}, {"format": "exr", "space": "lin_rec709"}, {"format": "png"}, {"movie": "h264"}]
    assert [order(bench, revision=2, frames="1001", **one)["space"] for one in orders] == ["lin_ap1", "lin_rec709", "lin_rec709", "lin_ap1"]


def test_a_png_is_looked_at_as_it_was_written(bench: Bench, worker: object) -> None:
    made = order(bench, frames="1001", format="png", type="16")
    wait_for(bench, made["id"], "done", "failed")
    with bench.client.get(f"/api/renders/{made['id']}/stills/1001") as still:
        assert still.mimetype == "image/png"
        assert still.data == fetched(bench, f"/api/renders/{made['id']}/frames/1001")


@pytest.mark.parametrize(("format", "ending", "kind", "most"), [("tiff", ".tif", "16", 2 / 65535), ("jpeg", ".jpg", "8", 0.02)])
def test_half_size_in_other_formats_and_its_movie(
    format: str, ending: str, kind: str, most: float, bench: Bench, worker: object, tmp_path: Path
) -> None:
    made = order(bench, frames="1001", format=format, type=kind, scale=2, movie="h264", caption=True)
    assert (made["file_name"][-4:], made["width"], made["height"]) == (ending, 640, 360)
    row = wait_for(bench, made["id"], "done", "failed")
    assert row["state"] == "done", row["message"]
    shared = bench.client.application.extensions["umbrax"]
    shot = get_revision(shared.database, bench.shot_id, 1).shot
    light = shared.engine.make(shot, shared.roots(bench.shot_id), 1001, Want(), scale=2).picture.pixels
    alpha = raised_alpha(light) if format == "tiff" else np.ones_like(light[..., :1])
    shown = exact_codes(np.where(alpha > 0, light[..., :3] / np.where(alpha > 0, alpha, 1), 0), 65535) / np.float32(65535)
    (tmp_path / f"frame{ending}").write_bytes(fetched(bench, f"/api/renders/{made['id']}/frames/1001"))
    read = cv2.imread(str(tmp_path / f"frame{ending}"), cv2.IMREAD_UNCHANGED)
    assert read.shape == (360, 640, 4 if format == "tiff" else 3)
    read = read / np.float32(np.iinfo(read.dtype).max)
    assert np.abs(read[..., 2::-1] - shown).mean() <= most
    if format == "tiff":
        assert np.abs(read[..., :3][..., ::-1] - shown).max() <= most, "to the last code"
        assert np.abs(read[..., 3] - alpha[..., 0]).max() <= 1 / 65535
    still = cv2.imdecode(np.frombuffer(fetched(bench, f"/api/renders/{made['id']}/stills/1001"), np.uint8), cv2.IMREAD_COLOR)
    seen = exact_codes(light[..., :3], 255)
    assert np.abs(still[..., ::-1].astype(int) - seen).mean() < 2, "looked at over black, in the view it was written in"
    (tmp_path / "m.mp4").write_bytes(fetched(bench, f"/api/renders/{made['id']}/download-movie"))
    reel = cv2.VideoCapture(str(tmp_path / "m.mp4"))
    picture = reel.read()[1][..., ::-1]
    assert picture.shape == (360, 640, 3)
    apart = np.abs(picture.astype(int) - seen).mean(axis=2)
    assert apart[:300].mean() < 3
    assert apart[330:350, 14:200].mean() > 10, "what is written into it is of its size"


@pytest.mark.parametrize("format", ["png", "exr"])
def test_a_still_has_the_shape_of_its_pixels(format: str, bench: Bench, worker: object) -> None:
    stills = []
    for aspect in (1.0, 2.0):
        bench.edit(["format", "pixel_aspect"], aspect)
        made = order(bench, revision=bench.state()["revision"], frames="1001", format=format)
        assert wait_for(bench, made["id"], "done", "failed")["state"] == "done"
        stills.append(cv2.imdecode(np.frombuffer(fetched(bench, f"/api/renders/{made['id']}/stills/1001"), np.uint8), cv2.IMREAD_COLOR))
    (height, width), wide = stills[0].shape[:2], stills[1]
    assert wide.shape[:2] == (height, 2 * width)
    assert np.abs(wide.reshape(height, width, 2, 3).mean(axis=2) - stills[0]).mean() < 2, "the same picture, stretched"


def test_a_movie_is_made_of_the_frames_watched_and_fetched(bench: Bench, worker: object, tmp_path: Path) -> None:
    made = order(bench, frames="1001-1003", movie="h264")
    stem = made["file_name"].split(".")[0]
    assert made["movie"] == {"kind": "h264", "words": "H.264", "file_name": f"{stem}.mp4", "fps": 24.0, "joined": 0, "bytes": None}
    row = wait_for(bench, made["id"], "done", "failed")
    assert row["state"] == "done", row["message"]
    data = fetched(bench, f"/api/renders/{made['id']}/download-movie")
    assert (row["movie"]["joined"], row["movie"]["bytes"]) == (3, len(data))
    (tmp_path / "m.mp4").write_bytes(data)
    assert count_frames(tmp_path / "m.mp4") == 3
    with bench.client.get(f"/api/renders/{made['id']}/watch", headers={"Range": "bytes=100-299"}) as part:
        assert (part.status_code, part.mimetype, part.data) == (206, "video/mp4", data[100:300]), "a page asks for parts of it"
        assert "attachment" not in part.headers.get("Content-Disposition", "")
    with bench.client.get(f"/api/renders/{made['id']}/download-movie") as whole:
        assert f"{stem}.mp4" in whole.headers["Content-Disposition"]
    frames = fetched(bench, f"/api/renders/{made['id']}/download")
    with zipfile.ZipFile(io.BytesIO(frames)) as archive:
        assert len(archive.namelist()) == 3, "frames are fetched as they were"
    again = bench.client.post(f"/api/renders/{made['id']}/movie", json={"movie": "prores_4444"}).get_json()
    assert again["movie"]["bytes"] is None
    row = wait_for(bench, made["id"], "done", "failed")
    assert (row["state"], row["movie"]["file_name"], row["movie"]["joined"]) == ("done", f"{stem}.mov", 3)


def test_a_movie_of_several_mattes_or_before_its_frames_is_refused(bench: Bench) -> None:
    several = bench.client.post(f"/api/shots/{bench.shot_id}/renders", json={"revision": 1, "mattes": ["dome", "brass"], "movie": "h264"})
    assert (several.status_code, several.get_json()["error"]["code"]) == (400, "bad-movie")
    packed = order(bench, frames="1001", mattes=["dome", "brass"], pack="rgb")
    assert packed["joinable"] is False
    waiting = order(bench, frames="1001", mattes=["dome"])
    assert waiting["joinable"] is True
    early = bench.client.post(f"/api/renders/{waiting['id']}/movie", json={"movie": "h264"})
    assert (early.status_code, early.get_json()["error"]["code"]) == (409, "not-done")
    none = bench.client.get(f"/api/renders/{waiting['id']}/watch")
    assert (none.status_code, none.get_json()["error"]["code"]) == (404, "no-file")
    for number in (packed["id"], waiting["id"]):
        bench.client.post(f"/api/renders/{number}/cancel")
    assert bench.client.post(f"/api/renders/{packed['id']}/movie", json={"movie": "h264"}).get_json()["error"]["code"] == "bad-movie"


def worker_path(bench: Bench, data: bytes) -> str:
    path = bench.client.application.extensions["umbrax"].settings.state / "fetched.exr"
    path.write_bytes(data)
    return str(path)


def test_a_failure_names_card_frame_and_remedy(bench: Bench, worker: object) -> None:
    row = wait_for(bench, order(bench, frames="1003-1005")["id"], "failed", "done")
    assert row["state"] == "failed"
    assert row["done"] == [1003]
    assert "no frame 1004" in row["message"]
    assert "card shadow, frame 1004" in row["message"]


def test_bad_orders_are_refused_at_once(bench: Bench) -> None:
    for body, says in (
        ({"frames": "x"}, "cannot read frames"),
        ({"type": "8"}, "cannot hold"),
        ({"upto": "nobody"}, "unknown card"),
    ):
        answer = bench.client.post(f"/api/shots/{bench.shot_id}/renders", json={"revision": 1, **body})
        assert answer.status_code == 400
        assert says in answer.get_json()["error"]["message"]
    assert bench.client.get(f"/api/shots/{bench.shot_id}/renders").get_json()["renders"] == []


def test_waiting_and_running_renders_can_be_cancelled_and_gone_on_with(bench: Bench, settings: Settings) -> None:
    waiting = order(bench, frames="1001-1003")
    bench.client.post(f"/api/renders/{waiting['id']}/cancel")
    assert render(bench, waiting["id"])["state"] == "cancelled"
    process = launch(settings.state, settings.database, "worker", media=settings.media[0])
    try:
        again = bench.client.post(f"/api/renders/{waiting['id']}/retry").get_json()
        assert again["state"] == "queued"
        row = wait_for(bench, waiting["id"], "done", "failed")
        assert row["done"] == [1001, 1002, 1003]
    finally:
        stop(process)


def test_after_the_worker_is_killed_the_render_goes_on_and_finishes(bench: Bench, settings: Settings) -> None:
    first = launch(settings.state, settings.database, "worker", media=settings.media[0])
    made = order(bench, frames="1001-1003x1,1001-1003", type="float")
    wait_for(bench, made["id"], "done", done=1)
    os.kill(first.pid, signal.SIGKILL)
    first.wait(10)
    left = render(bench, made["id"])
    second = launch(settings.state, settings.database, "worker", media=settings.media[0])
    try:
        row = wait_for(bench, made["id"], "done", "failed")
        assert row["state"] == "done", row["message"]
        assert set(left["done"]) <= set(row["done"])
        files = list((settings.renders / f"{made['id']:06d}").iterdir())
        assert all(not file.name.startswith(".") for file in files if file.suffix == ".exr") or len(files) >= 3
        for frame in row["done"]:
            assert fetched(bench, f"/api/renders/{made['id']}/frames/{frame}")
    finally:
        stop(second)


def test_the_types_of_the_page_are_those_of_the_server() -> None:
    from umbrax.settings import PROJECT
    from umbrax.web.api_description import description

    kept = (PROJECT / "frontend" / "src" / "api" / "openapi.json").read_text()
    assert json.loads(kept) == json.loads(description()), "run: npm --prefix frontend run types"
