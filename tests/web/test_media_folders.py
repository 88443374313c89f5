"""Media folders that are added in the page: looked into at once, kept, left out again, and nothing beside them is shown."""

from pathlib import Path

import pytest
from flask.testing import FlaskClient

from own_render import write_plate
from umbrax.settings import Settings
from umbrax.store.database import Database
from umbrax.store.media_folders import list_folders, roots_of


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
    assert jobs.resolve() in roots_of(database, settings, "/nowhere"), "the worker reads from it as well"
    taken = client.post("/api/take-in", json={"show": "Added", "shot": "Sky", "paths": [str(jobs / "plates")]}).get_json()
    top = client.get("/api/media").get_json()
    assert [folder["added"] for folder in top["folders"] if folder["path"] == str(jobs.resolve())] == [True]
    client.post("/api/media/folders/remove", json={"path": str(jobs.resolve())})
    assert client.get("/api/media", query_string={"path": str(jobs)}).status_code == 400
    assert (jobs / "plates" / "evening.png").exists()
    # the folder of a show is its own: what was taken in stays readable
    look = {"kind": "picture", "revision": taken["revision"], "frame": 1, "scale": 8}
    assert "X-Problem" not in client.post(f"/api/shots/{taken['id']}/look", json=look).headers


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
