"""Requests that mean harm or nothing: one clear line each, and never an answer of the 5xx."""

import json
from typing import Any

import psycopg
import pytest
from bench_client import Bench
from flask.testing import FlaskClient

from umbrax.store.database import Database

DEEP = "[" * 100_000 + "]" * 100_000


def told(answer: Any) -> str:
    """The line that a refusal says."""
    assert 400 <= answer.status_code < 500, (answer.status_code, answer.data[:300])
    return str(answer.json["error"]["message"])


def edits(bench: Bench, *made: dict[str, Any]) -> Any:
    bench.count += 1
    body = {"base": bench.state()["revision"], "edits": list(made), "command": "edit", "gesture": f"bad {bench.count}", "tab": ""}
    return bench.client.post(f"/api/shots/{bench.shot_id}/edits", json=body)


def under(bench: Bench, **query: Any) -> Any:
    asked = {"revision": bench.state()["revision"], "frame": 1001, "x": 5, "y": 5, **query}
    return bench.client.get(f"/api/shots/{bench.shot_id}/under", query_string=asked)


@pytest.mark.parametrize("name", ["a\0b", "\0"], ids=["within", "alone"])
def test_a_nul_is_refused_wherever_it_stands(bench: Bench, name: str) -> None:
    assert "NUL" in told(edits(bench, {"op": "set", "path": ["name"], "value": name}))
    assert "NUL" in told(under(bench, source=name))
    # written out as text it is none
    assert edits(bench, {"op": "set", "path": ["name"], "value": f"a\\u0000b {bench.shot_id}"}).status_code == 200


def test_what_is_nested_without_end_is_refused(bench: Bench) -> None:
    for body in (DEEP, json.dumps({"edits": "x"})[:-1] + f', "deep": {DEEP}' + "}"):
        told(bench.client.post(f"/api/shots/{bench.shot_id}/edits", data=body, content_type="application/json"))


@pytest.mark.parametrize("path", [["name", "x"], ["format", "width", "x"], ["format", "fps", "0", "x"], ["build", "sky", "id", "x", "y"]])
def test_a_path_through_a_scalar_is_refused(bench: Bench, path: list[str]) -> None:
    for made in ({"op": "set", "path": path, "value": 1}, {"op": "insert", "path": path, "item": {"id": "a"}}, {"op": "remove", "path": path}):
        assert "there is no" in told(edits(bench, made))


@pytest.mark.parametrize("length", ["²", "-1", "1e9", "", "9" * 5000, "0x10"])
def test_the_length_of_an_upload_is_a_plain_number(client: FlaskClient, length: str) -> None:
    headers = {"Tus-Resumable": "1.0.0", "Upload-Length": length.encode().decode("latin-1")}
    assert "expected a number in Upload-Length" in told(client.post("/api/uploads", headers=headers))


def test_numbers_that_would_fill_the_memory_are_refused(bench: Bench) -> None:
    for last in (10**10, 10**22, 5_000_000):
        assert told(edits(bench, {"op": "set", "path": ["format", "last"], "value": last}))
    path = "x.{frame:0300000000d}.exr"
    answer = edits(bench, {"op": "insert", "path": ["sources"], "item": {"id": "far", "path": path}})
    assert answer.status_code < 500
    asked = {"revision": bench.state()["revision"], "frame": 1001}
    assert bench.client.get(f"/api/shots/{bench.shot_id}/contents", query_string=asked).status_code < 500


@pytest.mark.parametrize(
    "query",
    [{"source": "nobody"}, {"source": "nobody", "name": "depth"}, {"x": 10**12}, {"frame": 10**15}, {"revision": 10**12}, {"revision": 0}],
)
def test_unknown_under_the_cursor(bench: Bench, query: dict[str, Any]) -> None:
    assert under(bench, **query).status_code < 500


@pytest.mark.parametrize(("method", "again"), [("GET", True), ("POST", False)])
def test_what_only_reads_may_be_asked_again_however_far_it_came(
    client: FlaskClient, monkeypatch: pytest.MonkeyPatch, method: str, again: bool
) -> None:
    """The database goes away once it has told who asks: what changes something may have been done."""
    taken, given = Database._connection, []

    def connection(database: Database) -> Any:
        given.append(database)
        if len(given) > 1:
            raise psycopg.OperationalError("gone")
        return taken(database)

    monkeypatch.setattr(Database, "_connection", connection)
    answer = client.open("/api/shows", method=method, json={"name": "Never"} if method == "POST" else None)
    assert (answer.status_code, answer.get_json()["error"]["code"]) == (503, "no-database")
    assert ("Retry-After" in answer.headers) == again
