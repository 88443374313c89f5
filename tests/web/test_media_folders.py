"""Media folders that are added in the page: looked into at once, kept, left out again, and nothing beside them is shown."""

from pathlib import Path

import pytest
from flask.testing import FlaskClient

from own_render import write_plate
from umbrax.media.roots import roots_of_show
from umbrax.settings import Settings
from umbrax.store.database import Database
from umbrax.store.media_folders import list_folders


@pytest.fixture
def jobs(tmp_path: Path) -> Path:
    write_plate(tmp_path / "jobs" / "plates" / "evening.png")
    return tmp_path / "jobs"


def test_a_folder_is_added_looked_into_and_left_out_again(client: FlaskClient, database: Database, settings: Settings, jobs: Path) -> None:
    assert client.get("/api/media", query_string={"path": str(jobs)}).status_code == 400
    added = client.post("/api/media/folders", json={"path": f"{jobs}/"}).get_json()
    assert (added["path"], [folder["name"] for folder in added["folders"]]) == (str(jobs.resolve()), ["plates"])
    assert [one["name"] for one in client.get("/api/media", query_string={"path": str(jobs / "plates")}).get_json()["found"]] == ["evening"]
    assert jobs.resolve() in list_folders(database)
    assert jobs.resolve() in roots_of_show(settings, "/nowhere", list_folders(database)), "the worker reads from it as well"
    taken = client.post("/api/take-in", json={"show": "Added", "shot": "Sky", "paths": [str(jobs / "plates")]}).get_json()
    top = client.get("/api/media").get_json()
    assert [folder["added"] for folder in top["folders"] if folder["path"] == str(jobs.resolve())] == [True]
    client.post("/api/media/folders/remove", json={"path": str(jobs.resolve())})
    assert client.get("/api/media", query_string={"path": str(jobs)}).status_code == 400
    assert (jobs / "plates" / "evening.png").exists()
    # that a show was made of it gives no right to it
    look = {"kind": "picture", "revision": taken["revision"], "frame": 1, "scale": 8}
    assert "X-Problem" in client.post(f"/api/shots/{taken['id']}/look", json=look).headers
    client.post("/api/media/folders", json={"path": str(jobs)})
    assert "X-Problem" not in client.post(f"/api/shots/{taken['id']}/look", json=look).headers


def test_links_that_lead_out_of_the_media_folders_are_not_there(client: FlaskClient, jobs: Path, tmp_path: Path) -> None:
    """Neither shown, nor looked into, nor taken in under a new show, and a folder that becomes one later is not read any more."""
    write_plate(tmp_path / "private" / "secret.png")
    (jobs / "linked").symlink_to(tmp_path / "private")
    (jobs / "plates" / "one.png").symlink_to(tmp_path / "private" / "secret.png")
    (jobs / "inside").symlink_to(jobs / "plates")
    client.post("/api/media/folders", json={"path": str(jobs)})
    told = client.get("/api/media", query_string={"path": str(jobs)}).get_json()
    assert [one["name"] for one in told["folders"]] == ["inside", "plates"]
    assert [one["name"] for one in client.get("/api/media", query_string={"path": str(jobs / "plates")}).get_json()["found"]] == ["evening"]
    for path in (jobs / "linked", jobs / "linked" / "secret.png", jobs / "plates" / "one.png"):
        order = {"show": f"Out {path.name}", "shot": "Sky", "paths": [str(path)]}
        assert client.post("/api/take-in", json=order).get_json()["error"]["code"] == "outside", path
    taken = client.post("/api/take-in", json={"show": "Whole", "shot": "Sky", "paths": [str(jobs)]}).get_json()
    assert {Path(one["path"]).name for one in taken["document"]["sources"].values()} == {"evening.png"}
    (jobs / "plates").rename(jobs / "before")
    (jobs / "plates").symlink_to(tmp_path / "private")
    write_plate(tmp_path / "private" / "evening.png")
    look = {"kind": "picture", "revision": taken["revision"], "frame": 1, "scale": 4}
    assert "X-Problem" in client.post(f"/api/shots/{taken['id']}/look", json=look).headers


@pytest.mark.parametrize("path", ["x" * 300, "/".join(["y" * 200] * 30), "ring", "half\ud800"])
def test_paths_that_are_none_are_refused(client: FlaskClient, jobs: Path, path: str) -> None:
    client.post("/api/media/folders", json={"path": str(jobs)})
    (jobs / "ring").symlink_to(jobs / "ring")
    for answer in (
        client.get("/api/media", query_string={"path": f"{jobs}/{path.encode('utf-8', 'replace').decode()}"}),
        client.post("/api/take-in", json={"show": "Odd", "shot": "Odd", "paths": [f"{jobs}/{path}"]}),
    ):
        assert answer.status_code == 400
        assert len(answer.get_json()["error"]["message"]) < 500


@pytest.mark.parametrize(
    ("path", "told"),
    [
        ("relative/folder", "whole path"),
        ("/no/such/folder", "there is no folder"),
        ("/", "whole computer"),
        ("/etc/hostname", "there is no folder"),
    ],
)
def test_what_is_no_folder_is_refused_in_words(client: FlaskClient, path: str, told: str) -> None:
    refused = client.post("/api/media/folders", json={"path": path})
    assert (refused.status_code, told in refused.get_json()["error"]["message"]) == (400, True)


def test_folders_are_proposed_while_a_path_is_typed(client: FlaskClient, jobs: Path) -> None:
    def proposed(path: str) -> list[str]:
        return client.get("/api/media/suggested", query_string={"path": path}).get_json()["folders"]

    assert proposed(f"{jobs}/pl") == [str(jobs / "plates")]
    assert proposed(f"{jobs}/") == [str(jobs / "plates")]
    assert proposed("/no/such/thing") == []
