"""Saving: nothing is lost, nothing is overwritten silently, undo and redo."""

from typing import Any

from bench_client import Bench
from flask.testing import FlaskClient

from umbrax.store.shots import get_revision

OPACITY = ["build", "station", "opacity"]
AMOUNT = ["build", "finish", "treatments", "t3", "amount"]


def card(state: dict[str, Any], card_id: str) -> dict[str, Any]:
    return next(c for c in state["document"]["build"] if c["id"] == card_id)


def test_an_edit_is_a_revision_and_undo_brings_the_document_back_exactly(bench: Bench) -> None:
    before = bench.state()
    after = bench.edit(OPACITY, 0.5).get_json()
    assert after["revision"] == before["revision"] + 1
    assert card(after, "station")["opacity"] == 0.5
    undone = bench.travel("undo").get_json()
    assert undone["document"] == before["document"]
    assert undone["can_redo"] is True
    assert bench.travel("redo").get_json()["document"] == after["document"]


def test_a_gesture_sent_twice_is_kept_once(bench: Bench) -> None:
    first = bench.edit(OPACITY, 0.5).get_json()
    bench.count -= 1
    assert bench.edit(OPACITY, 0.25, base=first["revision"]).get_json()["revision"] == first["revision"]


def test_an_edit_that_changes_nothing_makes_no_revision(bench: Bench) -> None:
    assert bench.edit(OPACITY, 0.98).get_json()["revision"] == bench.state()["revision"] == 1


def test_revisions_share_what_an_edit_left_alone(bench: Bench) -> None:
    """Hundreds of them are kept in memory, and what is known of a card is known by the object that it is."""
    before = bench.state()["revision"]
    after = bench.edit(OPACITY, 0.5).get_json()["revision"]
    one, other = (bench.shared.shot(bench.shot_id, revision) for revision in (before, after))
    assert {card.id for card, same in zip(one.build, other.build, strict=True) if card is not same} == {"station"}
    assert all(other.mattes[name] is matte for name, matte in one.mattes.items())
    assert other == get_revision(bench.shared.database, bench.shot_id, after).shot


def test_going_back_and_on_keeps_the_branch(bench: Bench) -> None:
    bench.edit(OPACITY, 0.5)
    bench.travel("undo")
    branch = bench.edit(OPACITY, 0.7).get_json()
    assert branch["revision"] == 3
    assert card(bench.travel("undo").get_json(), "station")["opacity"] == 0.98
    assert card(bench.travel("redo").get_json(), "station")["opacity"] == 0.7


def test_edits_of_two_tabs_are_applied_on_top_where_they_do_not_meet(client: FlaskClient, shot_id: int) -> None:
    one, two = Bench(client, shot_id, "one"), Bench(client, shot_id, "two")
    base = one.state()["revision"]
    one.edit(OPACITY, 0.5, base=base)
    merged = two.edit(AMOUNT, 0.9, base=base).get_json()
    assert card(merged, "station")["opacity"] == 0.5
    assert card(merged, "finish")["treatments"][0]["amount"] == 0.9


def test_edits_of_two_tabs_that_meet_are_refused_with_what_changed(client: FlaskClient, shot_id: int) -> None:
    one, two = Bench(client, shot_id, "one"), Bench(client, shot_id, "two")
    base = one.state()["revision"]
    one.edit(OPACITY, 0.5, base=base)
    refused = two.edit(OPACITY, 0.6, base=base)
    assert refused.status_code == 409
    error = refused.get_json()["error"]
    assert error["code"] == "conflict"
    assert error["detail"]["changed"] == ["build/station/opacity"]
    assert card(two.state(), "station")["opacity"] == 0.5


def test_undoing_what_another_tab_did_asks_first(client: FlaskClient, shot_id: int) -> None:
    one, two = Bench(client, shot_id, "one"), Bench(client, shot_id, "two")
    one.edit(OPACITY, 0.5)
    asked = two.travel("undo")
    assert asked.status_code == 409
    assert asked.get_json()["error"]["detail"] == {"command": "set opacity"}
    assert two.travel("undo", force=True).get_json()["revision"] == 1


def test_bad_requests_are_one_clear_line_and_change_nothing(bench: Bench) -> None:
    for path, value in ((OPACITY, 7), (["build", "nobody", "opacity"], 1), (["build", "station", "opcaity"], 1)):
        answer = bench.edit(path, value)
        assert answer.status_code == 400
        assert "\n" not in answer.get_json()["error"]["message"]
    assert bench.state()["revision"] == 1
    nothing = bench.client.get("/api/shots/99999")
    assert nothing.status_code == 404
    assert "no shot" in nothing.get_json()["error"]["message"]
    assert bench.client.get("/api/nowhere").status_code == 404
    assert bench.client.post(f"/api/shots/{bench.shot_id}/look", json={"frame": "x"}).status_code == 400


def test_shots_and_their_contents_are_listed(bench: Bench) -> None:
    shows = bench.client.get("/api/shows").get_json()["shows"]
    ridge = next(show for show in shows if show["name"] == "Ridge Observatory")
    shot = next(one for one in ridge["shots"] if one["id"] == bench.shot_id)
    assert shot["sources"][::2] == ["station", "valley"]
    # other tests' shots of the show may use others: each file counts once
    assert ridge["sources"] == len({path for one in ridge["shots"] for path in one["sources"][1::2]})
    assert bench.shot_id in [shot["id"] for shot in ridge["shots"]]
    contents = bench.client.get(f"/api/shots/{bench.shot_id}/contents?revision=1&frame=1001").get_json()
    station = next(s for s in contents["sources"] if s["name"] == "station")
    assert {"beauty", "diffuse", "shadow", "depth"} <= {p["kind"] for p in station["passes"]}
    assert contents["missing"][:1] == [1004], "the tests' demo has three frames only"
    assert {"id": "dome", "uses": ["card station, grade"], "baked": None} in contents["mattes"]
