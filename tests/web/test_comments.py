"""Comments over HTTP: what they are about, who may do what with them, and that none is lost."""

from typing import Any

import pytest
from flask.testing import FlaskClient

from running import let_in, token_of
from umbrax.store import people
from umbrax.store.database import Database
from umbrax.store.shots import get_shot


@pytest.fixture
def crew(client: FlaskClient, database: Database, shot_id: int) -> dict[str, FlaskClient]:
    """A client each for somebody who looks, works and owns."""
    show, found = get_shot(database, shot_id).show_id, {}
    for role in ("look", "work", "own"):
        name = f"comments {role} {shot_id}"
        people.set_role(database, people.add_person(database, name), show, role)  # type: ignore[arg-type]
        found[role] = let_in(client.application.test_client(), token_of(database, name))
    return found


def say(client: FlaskClient, shot: int, text: str, **about: Any) -> Any:
    return client.post(f"/api/shots/{shot}/comments", json={"text": text, "revision": 1, **about})


def act(client: FlaskClient, shot: int, comment: int, what: str, **body: Any) -> Any:
    return client.post(f"/api/shots/{shot}/comments/{comment}/{what}", json=body)


def test_a_note_of_a_client_is_answered_and_resolved(crew: dict[str, FlaskClient], shot_id: int, database: Database) -> None:
    looks, works = crew["look"], crew["work"]
    say(looks, shot_id, "  a warmer dome, please ", frame=1002, point={"x": 470.5, "y": 300})
    made = say(looks, shot_id, "and all of it slower").get_json()["comments"]
    assert [(one["text"], one["frame"], one["point"]) for one in made] == [
        ("a warmer dome, please", 1002, {"x": 470.5, "y": 300.0}), ("and all of it slower", None, None),
    ]  # fmt: skip
    first = made[0]
    assert (first["person"], first["mine"], first["resolved_at"]) == (f"comments look {shot_id}", True, None)
    edit = {"op": "set", "path": ["build", "station", "opacity"], "value": 0.9}
    works.post(f"/api/shots/{shot_id}/edits", json={"base": 1, "edits": [edit], "command": "less", "gesture": f"c{shot_id}"})
    answered = act(works, shot_id, first["id"], "answers", text="like this?", revision=2).get_json()["comments"][0]["answers"]
    assert [(one["text"], one["person"], one["revision"]) for one in answered] == [("like this?", f"comments work {shot_id}", 2)]
    deeper = act(looks, shot_id, answered[0]["id"], "answers", text="yes", revision=2).get_json()["comments"][0]["answers"]
    assert [one["text"] for one in deeper] == ["like this?", "yes"], "an answer to an answer is one to the comment"
    done = act(works, shot_id, first["id"], "resolved", resolved=True).get_json()["comments"][0]
    assert (done["resolved_by"], done["resolved_in"]) == (f"comments work {shot_id}", 2)
    again = act(looks, shot_id, first["id"], "resolved", resolved=True).get_json()["comments"][0]
    assert again["resolved_by"] == f"comments work {shot_id}", "who resolved it first did"
    summary = next(shot for show in looks.get("/api/shows").get_json()["shows"] for shot in show["shots"] if shot["id"] == shot_id)
    assert summary["comments"] == 1
    assert act(looks, shot_id, first["id"], "resolved", resolved=False).get_json()["comments"][0]["resolved_at"] is None


def test_nobody_puts_words_into_the_mouth_of_another(crew: dict[str, FlaskClient], shot_id: int) -> None:
    number = say(crew["work"], shot_id, "mine").get_json()["comments"][0]["id"]
    path = f"/api/shots/{shot_id}/comments/{number}"
    for role in ("look", "own"):
        assert act(crew[role], shot_id, number, "text", text="theirs").status_code == 403
    assert act(crew["look"], shot_id, number, "resolved", resolved=True).status_code == 403
    assert crew["look"].delete(path).status_code == 403
    changed = act(crew["work"], shot_id, number, "text", text="mine, said better").get_json()["comments"][0]
    assert (changed["text"], changed["changed_at"] is not None) == ("mine, said better", True)
    listed = crew["look"].get(f"/api/shots/{shot_id}/comments").get_json()
    assert (listed["comments"][0]["mine"], listed["may_resolve"], listed["may_delete"]) == (False, False, False)
    act(crew["look"], shot_id, number, "answers", text="goes with it", revision=1)
    assert crew["own"].delete(path).get_json()["comments"] == []
    assert crew["own"].delete(path).status_code == 404


@pytest.mark.parametrize(
    "order",
    [
        {"text": ""}, {"text": "   "}, {"text": "x" * 4001}, {"text": "x", "frame": 9}, {"text": "x", "point": {"x": 1, "y": 1}},
        {"text": "x", "frame": 1001, "point": {"x": -1, "y": 0}}, {"text": "x", "frame": 1001, "point": {"x": 9e9, "y": 0}},
        {"text": "x", "revision": 77}, {"text": "a\0b"}, {"text": "x", "frame": 1001, "point": {"x": "NaN", "y": 0}},
    ],
)  # fmt: skip
def test_what_makes_no_sense_is_refused_in_one_line(client: FlaskClient, shot_id: int, order: dict[str, Any]) -> None:
    refused = client.post(f"/api/shots/{shot_id}/comments", json={"revision": 1, **order})
    assert refused.status_code == 400
    assert "\n" not in refused.get_json()["error"]["message"]
    assert client.get(f"/api/shots/{shot_id}/comments").get_json()["comments"] == []


def test_a_comment_belongs_to_its_shot(client: FlaskClient, crew: dict[str, FlaskClient], shot_id: int, database: Database) -> None:
    """By the number of another shot, in which somebody may more, nothing of it is reached."""
    number = say(client, shot_id, "here").get_json()["comments"][0]["id"]
    other = next(shot for show in client.get("/api/shows").get_json()["shows"] for shot in show["shots"] if shot["id"] != shot_id)["id"]
    assert act(crew["own"], other, number, "resolved", resolved=True).status_code == 404
    assert crew["own"].delete(f"/api/shots/{other}/comments/{number}").status_code == 404
