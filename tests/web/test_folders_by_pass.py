"""Renders with a folder for each pass: what a listing puts together is what is taken in, added, or put in place of another version."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from flask.testing import FlaskClient
from foreign import write

from umbrax.settings import Settings

PASSES = ("beauty", "depth", "diffuse", "shadow")


def render(folder: Path, name: str, deep: str = "") -> Path:
    """One file per pass and frame, each pass in its folder, or in one below that."""
    for one in PASSES:
        place = folder / one / deep
        place.mkdir(parents=True, exist_ok=True)
        for frame in (1, 2):
            grey = {"Y": np.full((6, 8), 0.4, np.float32)} if one == "depth" else {c: np.full((6, 8), 0.4, np.float16) for c in "RGB"}
            write(place / f"{name}{frame:04d}.exr".replace("PASS", one), grey)
    return folder


@pytest.fixture(params=[("PASS.", ""), ("quay.", ""), ("quay_PASS.", ""), ("quay_PASS.", "v002")], ids=" ".join)
def quay(request: pytest.FixtureRequest, settings: Settings, tmp_path: Path) -> Path:
    name, deep = request.param
    return render(settings.uploads / tmp_path.name / "quay", name, deep)


def listed(client: FlaskClient, folder: Path) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = client.get("/api/media", query_string={"path": str(folder)}).get_json()["found"]
    return found


def take_in(client: FlaskClient, place: Path, shot: str, **more: Any) -> dict[str, Any]:
    paths = [one["path"] for one in listed(client, place)]
    answer = client.post("/api/take-in", json={"show": f"Show {place}"[-100:], "shot": shot, "paths": paths, **more})
    assert answer.status_code == 200, answer.get_json()
    document: dict[str, Any] = answer.get_json()["document"]
    return document


def test_what_is_listed_together_is_taken_in_together(client: FlaskClient, quay: Path) -> None:
    (row,) = listed(client, quay)
    assert row["passes"] == len(PASSES)
    for shot, more in {"as listed": {"folder": str(quay)}, "by its path": {}}.items():
        (source,) = take_in(client, quay, shot, **more)["sources"].values()
        assert sorted(source["attached"]) == ["depth", "diffuse", "shadow"]
        assert not [one["path"] for one in (source, *source["attached"].values()) if one["path"].startswith("/")], "from the show's folder"


def test_it_is_added_to_a_shot_together_as_it_is_shown(client: FlaskClient, quay: Path, demo: Path) -> None:
    shot = client.post("/api/take-in", json={"show": f"Adding {quay}"[-100:], "shot": "s", "paths": [str(demo / "plates")]}).get_json()
    paths = [row["path"] for row in listed(client, quay)]
    (arrived,) = client.post(f"/api/shots/{shot['id']}/arrived", json={"revision": 1, "paths": paths}).get_json()["arrived"]
    assert arrived["found"]["passes"] == len(PASSES)
    order = {"base": 1, "paths": paths, "build": True, "command": "", "gesture": "g", "tab": "t"}
    added = client.post(f"/api/shots/{shot['id']}/sources", json=order).get_json()["document"]
    (source,) = [one for name, one in added["sources"].items() if name not in shot["document"]["sources"]]
    assert sorted(source["attached"]) == ["depth", "diffuse", "shadow"]


def test_of_a_folder_that_holds_one_pass_that_one_is_taken_in(client: FlaskClient, quay: Path) -> None:
    folder = next(iter(sorted((quay / "beauty").rglob("*.exr")))).parent
    (row,) = listed(client, folder)
    assert row["passes"] == 1
    (source,) = take_in(client, folder, "alone", folder=str(folder))["sources"].values()
    assert "attached" not in source


def test_of_several_versions_all_but_the_newest_that_can_be_read_are_told_to_be_older(
    client: FlaskClient, settings: Settings, tmp_path: Path
) -> None:
    folder = settings.uploads / tmp_path.name / "several"
    folder.mkdir(parents=True)
    for name in ("hill_v001", "hill_v002", "hill_v010", "dune_v001", "paper"):
        write(folder / f"{name}.exr", {c: np.full((6, 8), 0.4, np.float16) for c in "RGB"})
    (folder / "hill_v011.exr").write_bytes(b"no picture")
    assert {row["name"]: row["older"] for row in listed(client, folder)} == {
        "dune_v001": False, "hill_v001": True, "hill_v002": True, "hill_v010": False, "hill_v011": False, "paper": False,
    }  # fmt: skip


def test_another_version_of_it_has_all_its_passes(client: FlaskClient, settings: Settings, tmp_path: Path) -> None:
    old, new = (render(settings.uploads / tmp_path.name / version, "quay_PASS.") for version in ("quay_v001", "quay_v002"))
    (path,) = [row["path"] for row in listed(client, old)]
    shot = client.post("/api/take-in", json={"show": f"Versions {tmp_path}"[-100:], "shot": "s", "paths": [path]}).get_json()
    (name,) = shot["document"]["sources"]
    (other,) = listed(client, new)
    query = {"revision": 1, "source": name, "path": other["path"]}
    compared = client.get(f"/api/shots/{shot['id']}/versions/compare", query_string=query).get_json()
    attached = [edit["value"] for edit in compared["edits"] if edit["path"][-1] == "attached"]
    assert [sorted(one) for one in attached] == [["depth", "diffuse", "shadow"]]
    assert not compared["lost"]
