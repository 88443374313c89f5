"""The seat check of the demo's cards over HTTP: measured, mended by its own remedies, measured again."""

from typing import Any

import pytest
from bench_client import Bench


def asked(bench: Bench, card: str, frame: int = 1001) -> Any:
    query = {"revision": bench.state()["revision"], "frame": frame, "card": card}
    return bench.client.get(f"/api/shots/{bench.shot_id}/cards/seat", query_string=query)


def told(bench: Bench, card: str) -> dict[str, Any]:
    answer = asked(bench, card)
    assert answer.status_code == 200, answer.text
    return {one["kind"]: one for one in answer.get_json()["answers"]}


def treated(bench: Bench, card: str, number: int, treatment: dict[str, Any], before: str | None = None) -> None:
    path = ["build", card, "treatments"]
    edits = [{"op": "insert", "path": path, "item": {"id": f"t{number}", **treatment}, "before": before}]
    body = {"base": bench.state()["revision"], "edits": edits, "command": "treat", "gesture": f"{bench.shot_id} {number}", "tab": "one"}
    answer = bench.client.post(f"/api/shots/{bench.shot_id}/edits", json=body)
    assert answer.status_code == 200, answer.text


def test_what_does_not_sit_is_mended_by_its_remedies(bench: Bench) -> None:
    """The demo's station is rendered without the haze of its plate, and here without its lens."""
    treated(bench, "sky", 90, {"kind": "soften", "size": 2})
    before = told(bench, "station")
    off = {kind: one for kind, one in before.items() if one["sits"] is False}
    assert {"blacks", "sharpness"} <= set(off)
    assert before["fringe"]["sits"] is True
    for number, kind in ((91, "blacks"), (92, "sharpness")):
        treated(bench, "station", number, off[kind]["remedy"]["treatment"])
    after = told(bench, "station")
    assert (after["blacks"]["sits"], after["sharpness"]["sits"]) == (True, True)
    assert after["blacks"]["own"] == pytest.approx(after["blacks"]["behind"], rel=0.15)
    bench.travel("undo")
    bench.travel("undo")
    assert told(bench, "station")["blacks"] == before["blacks"]


@pytest.mark.parametrize(
    ("card", "words"), [("sky", "nothing behind this card"), ("shadow", "is nothing that was rendered"), ("finish", "no picture")]
)
def test_what_has_no_seat_is_refused_by_name(bench: Bench, card: str, words: str) -> None:
    answer = asked(bench, card)
    assert answer.status_code == 400
    assert words in answer.get_json()["error"]["message"]


def test_what_is_off_or_not_there_says_so(bench: Bench) -> None:
    bench.edit(["build", "station", "enabled"], False)
    assert "is off; switch it on" in asked(bench, "station").get_json()["error"]["message"]
    assert asked(bench, "none").status_code == 400
    assert asked(bench, "balloon", 4711).get_json()["error"]["code"] != "internal"
