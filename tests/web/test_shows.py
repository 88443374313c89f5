"""Shows and shots are kept in order over HTTP: renamed, moved, deleted and brought back, found again; and the demo."""

from pathlib import Path
from typing import Any

import pytest
from bench_client import Bench
from flask.testing import FlaskClient

from umbrax.store import checkups
from umbrax.store.database import Database
from umbrax.store.shots import get_revision
from umbrax.web import state as state_of_views
from umbrax.web.demo_show import bring_in


def shows(client: FlaskClient) -> dict[str, Any]:
    return {show["name"]: show for show in client.get("/api/shows").get_json()["shows"]}


def made(client: FlaskClient, name: str) -> int:
    answer = client.post("/api/shows", json={"name": name})
    assert answer.status_code == 200, answer.get_json()
    return shows(client)[name]["id"]


def names(client: FlaskClient, show: str) -> list[str]:
    return [shot["name"] for shot in shows(client)[show]["shots"]]


def test_an_empty_show_is_made_renamed_deleted_and_brought_back(client: FlaskClient) -> None:
    number = made(client, "Winter job")
    assert shows(client)["Winter job"]["shots"] == []
    client.post(f"/api/shows/{number}/name", json={"name": "  Spring job "})
    assert "Spring job" in shows(client)
    taken = client.post("/api/shows", json={"name": "Spring job"})
    assert (taken.status_code, taken.get_json()["error"]["code"]) == (409, "show-exists")
    deleted = client.post(f"/api/shows/{number}/delete").get_json()["deleted"]
    assert (deleted[0]["show"], deleted[0]["shot"]) == ("Spring job", None)
    assert "Spring job" not in shows(client)
    second = made(client, "Spring job")
    refused = client.post(f"/api/shows/{number}/restore")
    assert (refused.status_code, refused.get_json()["error"]["code"]) == (409, "show-exists"), "its name is somebody else's by now"
    client.post(f"/api/shows/{second}/delete")
    client.post(f"/api/shows/{number}/restore")
    assert shows(client)["Spring job"]["id"] == number


@pytest.mark.parametrize("name", ["", "   ", "x" * 200])
def test_a_show_needs_a_name_of_some_length(client: FlaskClient, name: str) -> None:
    assert client.post("/api/shows", json={"name": name}).status_code == 400


def test_a_deleted_shot_is_out_of_sight_everywhere_and_comes_back_as_it_was(bench: Bench) -> None:
    bench.edit(["build", "station", "opacity"], 0.5)
    before = bench.state()
    gone = bench.client.post(f"/api/shots/{bench.shot_id}/delete").get_json()
    assert before["name"] in [one["shot"] for one in gone["deleted"]]
    assert before["name"] not in names(bench.client, "Ridge Observatory")
    refused = bench.client.get(f"/api/shots/{bench.shot_id}")
    assert (refused.status_code, refused.get_json()["error"]["code"]) == (404, "no-shot")
    assert bench.client.post(f"/api/shots/{bench.shot_id}/delete").status_code == 404
    bench.client.post(f"/api/shots/{bench.shot_id}/restore")
    assert bench.state() == before


def test_a_shot_of_a_deleted_show_goes_and_comes_with_it(bench: Bench) -> None:
    number = made(bench.client, f"Show of {bench.shot_id}")
    bench.client.post(f"/api/shots/{bench.shot_id}/move", json={"show_id": number})
    bench.client.post(f"/api/shows/{number}/delete")
    assert bench.client.get(f"/api/shots/{bench.shot_id}").status_code == 404
    bench.client.post(f"/api/shots/{bench.shot_id}/restore")
    assert bench.state()["show"] == f"Show of {bench.shot_id}"


def test_a_moved_shot_reads_its_sources_where_they_are_and_can_be_undone(bench: Bench) -> None:
    bench.edit(["build", "station", "opacity"], 0.5)
    bench.client.post(f"/api/shots/{bench.shot_id}/display-names", json={"id": "dome_shell", "name": "the dome"})
    before = bench.look(scale=8, format="png").data
    number = made(bench.client, f"Other {bench.shot_id}")
    bench.client.post(f"/api/shots/{bench.shot_id}/move", json={"show_id": number})
    assert bench.state()["show"] == f"Other {bench.shot_id}"
    assert bench.look(scale=8, format="png").data == before
    assert "X-Problem" not in bench.look(scale=8).headers
    contents = bench.client.get(f"/api/shots/{bench.shot_id}/contents", query_string={"revision": 2, "frame": 1001}).get_json()
    layer = next(one for one in contents["sources"][0]["ids"] + contents["sources"][1]["ids"] if one["name"] == "object_ids")
    assert layer["display_names"]["dome_shell"] == "the dome", "what people call IDs comes along"
    assert bench.travel("undo").get_json()["revision"] == 1
    assert "X-Problem" not in bench.look(scale=8, revision=1).headers
    assert bench.client.post(f"/api/shots/{bench.shot_id}/move", json={"show_id": 10**6}).status_code == 404


def test_a_shot_cannot_move_where_its_name_is_taken(bench: Bench) -> None:
    number = made(bench.client, f"Taken {bench.shot_id}")
    other = bench.client.post(
        "/api/take-in", json={"show": f"Taken {bench.shot_id}", "shot": bench.state()["name"], "paths": [demo_plate(bench)]}
    )
    assert other.status_code == 200, other.get_json()
    refused = bench.client.post(f"/api/shots/{bench.shot_id}/move", json={"show_id": number})
    assert (refused.status_code, refused.get_json()["error"]["code"]) == (409, "shot-exists")
    assert bench.state()["show"] == "Ridge Observatory"


def demo_plate(bench: Bench) -> str:
    root = next(folder for folder in bench.client.get("/api/media").get_json()["folders"] if folder["name"] == "demo")
    return f"{root['path']}/plates/valley.exr"


def test_a_renamed_shot_is_a_step_that_undo_takes_back(bench: Bench) -> None:
    old = bench.state()["name"]
    bench.edit(["name"], f"Renamed {bench.shot_id}")
    assert f"Renamed {bench.shot_id}" in names(bench.client, "Ridge Observatory")
    bench.travel("undo")
    assert old in names(bench.client, "Ridge Observatory")


def test_frames_rate_and_size_are_edited_and_refused_in_words(bench: Bench) -> None:
    document = bench.state()["document"]["format"]
    changed = bench.edit(["format"], {**document, "first": 1002, "fps": [24000, 1001], "width": 640}).get_json()["document"]["format"]
    assert (changed["first"], changed["fps"], changed["width"]) == (1002, [24000, 1001], 640)
    refused = bench.edit(["format", "last"], 5)
    assert (refused.status_code, "last at or after first" in refused.get_json()["error"]["message"]) == (400, True)


def test_shots_tell_their_sources_to_be_searched(bench: Bench) -> None:
    shot = next(one for one in shows(bench.client)["Ridge Observatory"]["shots"] if one["id"] == bench.shot_id)
    assert {"station", "valley"} <= set(shot["sources"])
    assert any("station.{frame" in text for text in shot["sources"])


def test_a_shot_without_a_name_is_called_after_its_pictures_and_never_by_the_clock(client: FlaskClient, demo: Path) -> None:
    made(client, "Named")
    for _ in range(2):
        client.post("/api/take-in", json={"show": "Named", "paths": [str(demo / "station")]})
    assert names(client, "Named") == ["Station", "Station 2"]


def test_the_demo_is_brought_in_once_and_back_when_it_is_asked_for(client: FlaskClient, database: Database, demo: Path) -> None:
    ridge = shows(client)["Ridge Observatory"]
    dome = next(shot for shot in ridge["shots"] if shot["name"] == "Dome at dusk")
    client.post(f"/api/shots/{dome['id']}/delete")
    assert bring_in(database, str(demo)) == [], "what was deleted stays deleted when the server starts again"
    client.post(f"/api/shows/{ridge['id']}/delete")
    assert bring_in(database, str(demo)) == []
    assert "Ridge Observatory" not in shows(client)
    client.post(f"/api/shots/{dome['id']}/restore")
    assert "Dome at dusk" in names(client, "Ridge Observatory")


def test_without_the_demo_on_disk_it_says_how_to_get_it(client: FlaskClient) -> None:
    refused = client.post("/api/demo")
    assert (refused.status_code, "bin/start" in refused.get_json()["error"]["message"]) == (400, True)


def test_a_list_of_more_shots_than_are_kept_reads_no_document_twice(bench: Bench, database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(state_of_views, "KEPT", 1)
    checkups.order_checkup(database, bench.shot_id, 1)
    found = [{"rule": rule, "source": "station", "severity": severity} for rule, severity in (("nan", "error"), ("sum-residue", "note"))]
    checkups.finish(database, bench.shot_id, 1, "done", found)
    first = shows(bench.client)
    readable = {shot["id"] for show in first.values() for shot in show["shots"] if shot["problem"] is None}
    read: list[int] = []

    def noted(database: Database, shot: int, number: int) -> Any:
        read.append(shot)
        return get_revision(database, shot, number)

    def own() -> dict[str, Any]:
        return next(shot for shot in shows(bench.client)["Ridge Observatory"]["shots"] if shot["id"] == bench.shot_id)

    monkeypatch.setattr(state_of_views, "get_revision", noted)
    assert shows(bench.client) == first
    assert not readable & set(read)
    assert own()["findings"] == 1
    bench.edit(["format", "last"], 1040)
    checkups.finish(database, bench.shot_id, 1, "done", [])
    changed = own()
    assert (changed["last"], changed["findings"]) == (1040, 0)
    assert readable & set(read) <= {bench.shot_id}, "no more than what was changed"
