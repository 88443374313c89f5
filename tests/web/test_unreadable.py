"""Documents that must not be stored, shots that cannot be read, and names that are taken: nothing else is lost with them."""

import json
from typing import Any

import pytest
from bench_client import Bench
from flask.testing import FlaskClient

from umbrax.store.database import Database

HUGE = "1e400"  # JSON that every reader takes for infinity
PLACES = {
    "a bezier ease": (["build", "station", "opacity"], '{"keys": [[1001, 0.5, ["bezier", 0.1, 1e400, 0.9, 1]], [1010, 1, "linear"]]}'),
    "a keyed value": (["build", "station", "opacity"], '{"keys": [[1001, 1e400, "linear"]]}'),
    "a keyed slope": (["build", "station", "treatments", "t2", "slope"], '{"keys": [[1001, [1, 1e400, 1], "linear"]]}'),
    "a slope": (["build", "station", "treatments", "t2", "slope"], "[1, -1e400, 1]"),
    "a shape's point": (["mattes", "drawn"], '{"kind": "shape", "form": "polygon", "points": [0, 0, 1e400, 5, 9, 9]}'),
    "a keyed shape": (
        ["mattes", "drawn"],
        '{"kind": "shape", "form": "polygon", "points": {"keys": [[1001, [0, 0, 5, 1e400, 9, 9], "linear"]]}}',
    ),
    "a refinement": (["mattes", "dome", "refine"], '{"gamma": 1e400}'),
    "a keyed refinement": (["mattes", "dome", "refine"], '{"grow": {"keys": [[1001, 1e400, "hold"]]}}'),
    "a rate": (["format", "fps"], "[24, 0]"),
    "a rate of nothing": (["format", "fps"], "0"),
    "a rate without end": (["format", "fps"], "1e400"),
}


@pytest.mark.parametrize("place", PLACES)
def test_refused_and_not_stored(place: str, bench: Bench, database: Database) -> None:
    """What is not finite, at any depth."""
    path, value = PLACES[place]
    body = f'{{"base": 1, "edits": [{{"op": "set", "path": {json.dumps(path)}, "value": {value}}}], "command": "set", "gesture": "{place}"}}'
    answer = bench.client.post(f"/api/shots/{bench.shot_id}/edits", data=body, content_type="application/json")
    assert answer.status_code == 400, answer.data
    assert path[-1] in answer.get_json()["error"]["message"]
    assert bench.state()["revision"] == 1
    with database.transaction() as connection:
        assert connection.execute("select count(*) from revisions where shot_id = %s", (bench.shot_id,)).fetchone() == (1,)
    assert bench.client.get("/api/shows").status_code == 200


def spoiled(database: Database, shot_id: int) -> None:
    """A revision as an older program could store it."""
    with database.transaction() as connection:
        connection.execute(
            "insert into revisions (shot_id, number, parent, document, digest, command, gesture, tab) "
            "select shot_id, 2, 1, replace(document::text, '\"fps\":24.0', '\"fps\":null')::json, 'x', 'spoil', 'spoil', '' "
            "from revisions where shot_id = %s and number = 1",
            (shot_id,),
        )
        connection.execute("update shots set head = 2, last = 2 where id = %s", (shot_id,))


def listed(client: FlaskClient) -> dict[int, dict[str, Any]]:
    return {shot["id"]: shot for show in client.get("/api/shows").get_json()["shows"] for shot in show["shots"]}


def test_a_shot_that_cannot_be_read_is_one_broken_tile_with_a_way_back(bench: Bench, database: Database) -> None:
    spoiled(database, bench.shot_id)
    told = listed(bench.client)
    assert "cannot be read" in told[bench.shot_id]["problem"]
    assert "fps" in told[bench.shot_id]["problem"]
    assert all(shot["problem"] is None for number, shot in told.items() if number != bench.shot_id)
    assert bench.client.get(f"/api/shots/{bench.shot_id}").status_code == 400
    assert bench.travel("undo", force=True).status_code == 200
    assert listed(bench.client)[bench.shot_id]["problem"] is None


def test_a_taken_name_is_refused_in_words_also_on_the_way_back(client: FlaskClient, bench: Bench, database: Database) -> None:
    first = bench.state()["name"]
    taken = bench.edit(["name"], "Dome at dusk")
    assert taken.status_code == 409
    assert "another shot 'Dome at dusk' already" in taken.get_json()["error"]["message"]
    assert bench.state()["name"] == first
    assert bench.edit(["name"], "free name").status_code == 200
    with database.transaction() as connection:
        connection.execute(
            "with made as (insert into shots (show_id, name) select show_id, %s from shots where id = %s returning id) "
            "insert into revisions (shot_id, number, document, digest, command, gesture) select id, 1, '{}', 'x', 'x', 'x' from made",
            (first, bench.shot_id),
        )
        connection.execute("update shots set head = 1, last = 1 where name = %s and head is null", (first,))
    back = bench.travel("undo")
    assert back.status_code == 409
    assert "give one of them another name first" in back.get_json()["error"]["message"]
    assert bench.state()["name"] == "free name"
    with database.transaction() as connection:
        connection.execute("delete from shots where name = %s", (first,))
    assert bench.travel("undo").status_code == 200
