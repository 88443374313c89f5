"""Attaching late passes and mattes over HTTP; ranges of values, and pictures of findings."""

from pathlib import Path
from typing import Any

import cv2
import numpy as np
import OpenEXR
import pytest
from flask.testing import FlaskClient

from movies import write_movie
from umbrax.settings import Settings

SIZE = (48, 64)


def write(path: Path, **channels: np.ndarray) -> Path:
    path.parent.mkdir(parents=True, exist_ok=True)
    with OpenEXR.File({"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}, dict(channels)) as file:
        file.write(str(path))
    return path


def grey(value: float, channels: str = "RGB") -> dict[str, np.ndarray]:
    return {c: np.full(SIZE, value, np.float16) for c in channels}


def square() -> np.ndarray:
    mask = np.zeros(SIZE, np.uint8)
    mask[10:30, 20:40] = 255
    return mask


@pytest.fixture
def shot(client: FlaskClient, settings: Settings, tmp_path: Path) -> dict[str, Any]:
    """A beauty of three frames, and beside it what came late."""
    folder = settings.uploads / tmp_path.name
    for frame in (1, 2, 3):
        write(folder / "main" / f"hut.{frame:04d}.exr", **grey(0.5, "RGBA"), **{"depth.Z": np.full(SIZE, frame, np.float32)})
        write(folder / "late" / f"hut_specular.{frame + 100:04d}.exr", **grey(0.25))
    cv2.imwrite(str(folder / "late" / "window.png"), square())
    cv2.imwrite(str(folder / "late" / "photo.png"), np.random.default_rng(1).integers(0, 255, (*SIZE, 3), np.uint8))
    cv2.imwrite(str(folder / "late" / "small_matte.png"), square()[::2, ::2])
    order = {"show": "Late", "shot": tmp_path.name, "paths": [str(folder / "main")]}
    return client.post("/api/take-in", json=order).get_json() | {"folder": folder}


def proposals(client: FlaskClient, shot: dict[str, Any]) -> dict[str, Any]:
    question = {"revision": 1, "source": "hut", "paths": [str(shot["folder"] / "late")]}
    return {one["file"]: one for one in client.post(f"/api/shots/{shot['id']}/attachable", json=question).get_json()["proposals"]}


def test_late_files_are_proposed_with_names_kinds_and_what_does_not_fit(client: FlaskClient, shot: dict[str, Any]) -> None:
    found = proposals(client, shot)
    specular = found["hut_specular.{frame:04d}.exr"]
    assert (specular["name"], specular["kind"], specular["offset"], specular["frames"]) == ("specular", "specular", -100, 3)
    assert "101 to 103" in specular["doubt"]
    assert (found["window.png"]["kind"], found["window.png"]["by_value"], found["window.png"]["doubt"]) == ("single_matte", True, None)
    assert found["photo.png"]["kind"] == "other"
    assert "it is 32 x 24, the source 64 x 48" in found["small_matte.png"]["doubt"]


def test_attached_files_are_passes_of_the_source_and_undo_takes_them_off(client: FlaskClient, shot: dict[str, Any]) -> None:
    found = proposals(client, shot)
    specular, window = found["hut_specular.{frame:04d}.exr"], found["window.png"]
    attached = {"specular": {"path": specular["path"], "offset": specular["offset"]}, "window": {"path": window["path"]}}
    edits = [
        {"op": "set", "path": ["sources", "hut", "attached"], "value": attached},
        {"op": "set", "path": ["sources", "hut", "passes"], "value": {"window": {"kind": "single_matte"}}},
    ]
    address = f"/api/shots/{shot['id']}"
    client.post(f"{address}/edits", json={"base": 1, "edits": edits, "command": "attach", "gesture": "g", "tab": "t"})

    def kinds(revision: int) -> dict[str, str]:
        told = client.get(f"{address}/contents", query_string={"revision": revision, "frame": 2}).get_json()["sources"][0]
        return {one["name"]: one["kind"] for one in told["passes"]}

    assert kinds(2) == {"rgba": "beauty", "depth": "depth", "specular": "specular", "window": "single_matte"}
    probe = {"kind": "pass", "source": "hut", "revision": 2, "frame": 2, "x": 25, "y": 15}
    assert client.post(f"{address}/probe", json=probe | {"name": "specular"}).get_json()["value"][:3] == [0.25] * 3
    assert client.post(f"{address}/probe", json=probe | {"name": "window"}).get_json()["value"][0] == 1
    undone = client.post(f"{address}/undo", json={"tab": "t"}).get_json()
    assert not undone["document"]["sources"]["hut"].get("attached")


def test_nothing_to_attach_says_why(client: FlaskClient, shot: dict[str, Any], settings: Settings) -> None:
    (shot["folder"] / "broken").mkdir()
    (shot["folder"] / "broken" / "x.exr").write_bytes(b"text")
    question = {"revision": 1, "source": "hut", "paths": [str(shot["folder"] / "broken")]}
    answer = client.post(f"/api/shots/{shot['id']}/attachable", json=question)
    assert "nothing can be attached: cannot read 'x.exr'" in answer.get_json()["error"]["message"]


def test_one_file_per_pass_is_taken_in_as_one_source_or_kept_apart(client: FlaskClient, settings: Settings, tmp_path: Path) -> None:
    folder = settings.uploads / f"{tmp_path.name} passes"
    for name in ("beauty", "diffuse", "shadow"):
        for frame in (1, 2):
            write(folder / f"hut_{name}.{frame:04d}.exr", **grey(0.5, "RGBA" if name == "beauty" else "RGB"))
    (found,) = client.get("/api/media", query_string={"path": str(folder)}).get_json()["found"]
    assert (found["name"], found["attached"], found["passes"], found["frames"]) == ("hut", ["diffuse", "shadow"], 3, 2)
    order = {"show": "By pass", "paths": [found["path"]]}
    one = client.post("/api/take-in", json=order | {"shot": "one"}).get_json()["document"]["sources"]
    assert {name: sorted(source["attached"]) for name, source in one.items()} == {"hut": ["diffuse", "shadow"]}
    apart = client.post("/api/take-in", json=order | {"shot": "apart", "apart": [found["path"]]}).get_json()["document"]["sources"]
    assert len(apart) == 3


def test_a_range_of_values_shows_what_black_and_white_stand_for(client: FlaskClient, shot: dict[str, Any]) -> None:
    address = f"/api/shots/{shot['id']}"
    told = client.get(f"{address}/span", query_string={"revision": 1, "frame": 3, "source": "hut", "name": "depth"}).get_json()
    assert (told["least"], told["most"], told["nothing"]) == (3, 3, 0)
    query = {"kind": "pass", "source": "hut", "name": "depth", "revision": 1, "frame": 3, "scale": 1}

    def mean(**more: float) -> float:
        data = client.get(f"{address}/thumb", query_string=query | more).data
        return float(cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR).mean())

    assert mean(low=2, high=4) == pytest.approx(127.5, abs=2)
    assert mean(low=3, high=9) < 2
    assert mean(low=0, high=3) > 253


def test_a_movie_is_taken_in_as_a_plate_that_begins_with_the_render(client: FlaskClient, settings: Settings, tmp_path: Path) -> None:
    folder = settings.uploads / f"{tmp_path.name} movie"
    for frame in (1001, 1002, 1003):
        write(folder / f"hut.{frame}.exr", **grey(0.5, "RGBA"))
    write_movie(folder / "sky.mkv")
    made = client.post("/api/take-in", json={"show": "Movie", "shot": tmp_path.name, "paths": [str(folder)]}).get_json()
    document = made["document"]
    assert (document["format"]["first"], document["format"]["last"]) == (1001, 1003)
    assert document["sources"]["sky"]["offset"] == 1000
    assert next(card for card in document["build"] if card["id"] == "sky")["picture"]["kind"] == "plate"
    look = client.post(f"/api/shots/{made['id']}/look", json={"revision": 1, "frame": 1002, "scale": 1})
    assert "X-Problem" not in look.headers


def test_places_of_a_finding_are_marked_in_the_picture(client: FlaskClient, settings: Settings, tmp_path: Path) -> None:
    diffuse = np.full(SIZE, 0.1, np.float16)
    diffuse[20, 30] = np.nan
    channels = grey(0.5, "RGBA") | {"diffuse.R": diffuse, "diffuse.G": diffuse, "diffuse.B": diffuse}
    write(settings.uploads / f"{tmp_path.name} nan" / "hut.exr", **channels)
    order = {"show": "Where", "shot": tmp_path.name, "paths": [str(settings.uploads / f"{tmp_path.name} nan")]}
    shot = client.post("/api/take-in", json=order).get_json()["id"]
    query = {"revision": 1, "frame": 1, "rule": "bad-pixels", "source": "hut", "name": "diffuse"}
    answer = client.get(f"/api/shots/{shot}/where", query_string=query)
    assert float(answer.headers["X-Share"]) == pytest.approx(1 / (SIZE[0] * SIZE[1]), rel=1e-2)
    picture = cv2.imdecode(np.frombuffer(answer.data, np.uint8), cv2.IMREAD_COLOR).astype(int)
    assert picture[20, 30, 2] > 150, "coral where it lies"
    assert picture[20, 30, 2] > picture[20, 30, 0] + 60
    assert picture[5, 5].max() < 120
