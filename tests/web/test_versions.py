"""Replacing a source by its next version: what is lost, gained and renamed, what that touches, and undoing it."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient

from running import in_process, let_in, token_of
from umbrax.media.roots import Roots
from umbrax.media.versions import number_of, versions_beside
from umbrax.settings import Settings
from umbrax.standin.exr import channels_of, write_exr
from umbrax.standin.frames import render
from umbrax.standin.scene import observatory, renamed, without
from umbrax.store.database import Database


@pytest.fixture(scope="module")
def media(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A render of two frames, and a version with one object gone, one renamed, a pass and a frame less."""
    media = tmp_path_factory.mktemp("media")
    for frame in (1001, 1002):
        scene, after = observatory(frame), observatory(frame + 1)
        write_exr(media / f"hill_v001/hill.{frame}.exr", *channels_of(render(scene, 480, 270, after=after)))
    scenes = [renamed(without(observatory(f), "door"), {"dome_shell": "dome_skin"}) for f in (1001, 1002)]
    channels, metadata = channels_of(render(scenes[0], 480, 270, after=scenes[1]))
    kept = {name: plane for name, plane in channels.items() if not name.startswith("ambient.")}
    write_exr(media / "hill_v002/hill.1001.exr", kept, metadata)
    return media


@pytest.fixture(scope="module")
def client(database: Database, database_address: str, media: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[FlaskClient]:
    settings = Settings(tmp_path_factory.mktemp("state"), (media,), database_address, 1 << 30, 4 << 30)
    with in_process(settings) as client:
        yield let_in(client, token_of(database))


def edit(client: FlaskClient, shot: int, revision: int, path: list[str], value: Any) -> Any:
    body = {"base": revision, "edits": [{"op": "set", "path": path, "value": value}], "command": "c", "gesture": f"{shot} {path}"}
    return client.post(f"/api/shots/{shot}/edits", json=body).get_json()


def test_a_new_version_says_what_it_changes_and_which_mattes_and_cards(client: FlaskClient, media: Path) -> None:
    made = client.post("/api/take-in", json={"show": "Versions", "shot": "Hill", "paths": [str(media / "hill_v001")]}).get_json()
    shot = made["id"]
    matte = {"kind": "id", "source": "hill", "layer": "object_ids", "names": ["dome_*"]}
    door = {"kind": "id", "source": "hill", "layer": "object_ids", "names": ["door"]}
    edit(client, shot, 1, ["mattes"], {"dome": matte, "door": door})
    listed = client.get(f"/api/shots/{shot}/versions", query_string={"revision": 2, "source": "hill"}).get_json()
    assert (listed["number"], [(v["number"], v["frames"]) for v in listed["versions"]]) == (1, [(2, 1)])
    query = {"revision": 2, "source": "hill", "path": listed["versions"][0]["path"]}
    told = client.get(f"/api/shots/{shot}/versions/compare", query_string=query).get_json()
    measures = [(f["pass"], f["measure"]) for f in told["findings"]]
    assert (None, {"lost": ["ambient"]}) in measures
    assert ("object_ids", {"lost": ["door"]}) in measures
    assert ("object_ids", {"renamed": {"dome_shell": "dome_skin"}}) in measures
    assert (None, {"lost_frames": 1}) in measures
    lost = {(one["card"] or one["matte"], one["name"]) for one in told["lost"]}
    assert lost == {("hill", "ambient"), ("door", "door")}, "the pattern of the dome finds the new name as well"

    (change,) = told["edits"]
    replaced = edit(client, shot, 2, change["path"], change["value"])
    assert "hill_v002" in replaced["document"]["sources"]["hill"]["path"]
    answer = client.get(f"/api/shots/{shot}/contents", query_string={"revision": replaced["revision"], "frame": 1001}).get_json()
    assert "ambient" not in [found["name"] for found in answer["sources"][0]["passes"]]
    back = client.post(f"/api/shots/{shot}/undo", json={"tab": ""}).get_json()
    assert "hill_v001" in back["document"]["sources"]["hill"]["path"] or back["document"]["sources"]["hill"]["path"].startswith("hill.")


def test_versions_are_found_beside_and_in_the_same_folder(media: Path, tmp_path: Path) -> None:
    assert versions_beside(media / "hill_v001" / "hill.{frame:04d}.exr", Roots([media])) == [media / "hill_v002" / "hill.{frame:04d}.exr"]
    for name in ("plate_v1.png", "plate_v3.png", "other_v2.png"):
        (tmp_path / name).touch()
    assert versions_beside(tmp_path / "plate_v1.png", Roots([tmp_path])) == [tmp_path / "plate_v3.png"]
    assert [number_of(Path(p)) for p in ("a/b.exr", "x_v007/b.exr", "x_v2/b_v3.exr")] == [1, 7, 3]


@pytest.mark.parametrize(
    "under",
    [
        "v{0}/a.{{frame:04d}}.exr", "v{0}/a_v{0}.{{frame:04d}}.exr", "x_v{0}/a_beauty_v{0}.{{frame:04d}}.exr",
        "beauty/v{0}/a_v{0}.{{frame:04d}}.exr", "x_v{0}/beauty/a_beauty.{{frame:04d}}.exr", "v{0}/beauty/a_v{0}.{{frame:04d}}.exr",
        "v{0}/beauty/{{frame:04d}}.exr",
    ],
)  # fmt: skip
def test_versions_are_found_wherever_they_are_named(under: str, tmp_path: Path) -> None:
    places = [tmp_path / under.format(f"00{number}") for number in (1, 2, 3)]
    for place in places:
        for frame in (1, 2):
            file = Path(str(place).format(frame=frame))
            file.parent.mkdir(parents=True, exist_ok=True)
            file.write_bytes(b"")
            (file.parent / f"other.{frame:04d}.exr").write_bytes(b"")
    for place in places:
        assert versions_beside(place, Roots([tmp_path])) == [other for other in places if other != place]
    assert [number_of(place) for place in places] == [1, 2, 3]


def test_a_version_outside_the_folders_is_refused(client: FlaskClient, media: Path) -> None:
    made = client.post("/api/take-in", json={"show": "Versions", "shot": "Other", "paths": [str(media / "hill_v001")]}).get_json()
    query = {"revision": 1, "source": "hill", "path": "/etc/passwd"}
    answer = client.get(f"/api/shots/{made['id']}/versions/compare", query_string=query)
    assert "in none of the media folders" in answer.get_json()["error"]["message"]
