"""History: the steps of a shot, what led to it and what was undone, and going back; and comparing with what it was."""

import cv2
import numpy as np
from bench_client import Bench

from umbrax.core.colour import exact_codes
from umbrax.render.engine import Want
from umbrax.store.shots import get_revision


def listed(bench: Bench, **query: int) -> list[dict[str, object]]:
    answer = bench.client.get(f"/api/shots/{bench.shot_id}/revisions", query_string=query)
    assert answer.status_code == 200
    return answer.get_json()["revisions"]


def back(bench: Bench, number: int, base: int | None = None, gesture: str = "g") -> object:
    body = {
        "base": bench.state()["revision"] if base is None else base,
        "number": number,
        "gesture": f"{gesture} {bench.shot_id}",
        "tab": "one",
    }
    return bench.client.post(f"/api/shots/{bench.shot_id}/back", json=body)


def test_steps_are_listed_newest_first_with_what_was_undone(bench: Bench) -> None:
    for value in (0.9, 0.8, 0.7):
        assert bench.edit(["build", "station", "opacity"], value).status_code == 200
    assert bench.travel("undo").status_code == 200
    assert bench.travel("undo").status_code == 200
    assert bench.edit(["build", "shadow", "opacity"], 0.5).status_code == 200
    steps = listed(bench)
    assert [one["number"] for one in steps] == [5, 4, 3, 2, 1]
    assert [one["kept"] for one in steps] == [True, False, False, True, True], "3 and 4 were undone before 5 was made"
    assert [one["command"] for one in steps[:4]] == ["set opacity"] * 4
    assert all(one["made_by"] for one in steps[:4])
    assert [one["number"] for one in listed(bench, before=4, limit=2)] == [3, 2]
    beyond = bench.client.get(f"/api/shots/{bench.shot_id}/revisions?before={1 << 40}")
    assert (beyond.status_code, beyond.get_json()["error"]["code"]) == (400, "bad-request")


def test_going_back_is_a_step_that_can_be_undone(bench: Bench) -> None:
    first = bench.state()["document"]
    bench.edit(["build", "station", "opacity"], 0.9)
    bench.edit(["build", "shadow", "opacity"], 0.5)
    changed = bench.state()["document"]
    answer = back(bench, 1)
    assert answer.status_code == 200
    now = answer.get_json()
    assert (now["revision"], now["document"], now["command"]) == (4, first, "back to revision 1")
    assert back(bench, 2).get_json()["revision"] == 4, "a gesture that is sent twice is kept once"
    assert back(bench, 1, gesture="same").get_json()["revision"] == 4, "it is that already"
    assert bench.travel("undo").get_json()["document"] == changed
    assert bench.travel("redo").get_json()["document"] == first
    assert [one["kept"] for one in listed(bench)] == [True] * 4


def test_going_back_over_what_others_did_is_refused_and_so_is_what_never_was(bench: Bench) -> None:
    bench.edit(["build", "station", "opacity"], 0.9)
    late = back(bench, 1, base=1)
    assert (late.status_code, late.get_json()["error"]["code"]) == (409, "conflict")
    assert back(bench, 99, gesture="none").status_code == 400
    assert bench.state()["revision"] == 2


def codes(answer: object) -> np.ndarray:
    return cv2.imdecode(np.frombuffer(answer.data, np.uint8), cv2.IMREAD_COLOR)[..., ::-1].astype(int)


def test_a_difference_is_that_of_light_between_any_two_looks(bench: Bench) -> None:
    shared = bench.shared
    shot, roots = get_revision(shared.database, bench.shot_id, 1).shot, shared.roots(bench.shot_id)

    def light(want: Want, of: object = shot) -> np.ndarray:
        return shared.engine.make(of, roots, 1001, want, scale=4).picture.pixels

    bench.edit(["build", "station", "opacity"], 0.5)
    after = get_revision(shared.database, bench.shot_id, 2).shot
    now = light(Want(), after)
    others = {
        "another revision": ({"revision": 1}, light(Want())),
        "without a treatment": ({"without": "t3"}, light(Want(without="t3"), after)),
        "a card switched off": ({"off": "shadow"}, light(Want(off="shadow"), after)),
        "a pass": ({"kind": "pass", "source": "station", "name": "beauty"}, light(Want("pass", source="station", name="beauty"))),
        "unsaved edits on both": ({}, now),
    }
    for name, (less, other) in others.items():
        overrides = [{"op": "set", "path": ["build", "station", "opacity"], "value": 0.2}] if name.startswith("unsaved") else []
        shown = codes(bench.look(less=less, exposure=2.0, format="png", overrides=overrides))
        expected = exact_codes(np.abs(now - other)[..., :3] * 4, 255)
        assert np.abs(shown - expected).max() <= 1, name
        assert name.startswith("unsaved") or shown.max() > 20, name


def test_a_card_is_off_as_if_it_were_switched_off(bench: Bench) -> None:
    without = codes(bench.look(off="shadow", format="png"))
    nobody = codes(bench.look(off="nobody", format="png"))
    assert np.array_equal(nobody, codes(bench.look(format="png")))
    bench.edit(["build", "shadow", "enabled"], False)
    assert np.array_equal(codes(bench.look(format="png")), without)
    assert np.abs(nobody - without).max() > 20
