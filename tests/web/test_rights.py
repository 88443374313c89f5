"""Every address of the API against each role and none, written down a second time: the table in the code must say the same."""

import re
from collections.abc import Iterator
from dataclasses import dataclass

import pytest
from bench_client import Bench, patiently
from flask.testing import FlaskClient

from running import in_process, let_in, token_of
from umbrax.settings import Settings
from umbrax.store import people, renders, shows
from umbrax.store.database import Database
from umbrax.store.shots import list_shots

ANYBODY, SIGNED_IN, IN_PERSON, ADMIN = "anybody", "signed in", "in person", "admin"
STRANGER_WORK, STRANGER_OWN = "works somewhere", "owns somewhere"
TABLE = {
    ANYBODY: "GET /health, POST /sign-in, GET /invitation, POST /join",
    SIGNED_IN: """
        GET /me, POST /sign-out, GET /shows, GET /queue, GET /models""",
    IN_PERSON: "POST /sign-out-everywhere, POST /password, GET /tokens, POST /tokens, DELETE /tokens/1",
    STRANGER_WORK: "GET /media, GET /media/thumb, POST /take-in, OPTIONS /uploads, POST /uploads, HEAD /uploads/1, PATCH /uploads/1",
    STRANGER_OWN: "POST /shows, GET /people",
    ADMIN: """
        POST /media/folders, POST /media/folders/remove, GET /media/suggested, POST /demo, GET /debug/engine, POST /people, GET /changes,
        POST /people/1/name, POST /people/1/admin, POST /people/1/invitation, DELETE /people/1""",
    "look": """
        GET /shots/S, GET /shots/S/head, GET /shots/S/revisions,
        POST /shots/S/look, GET /shots/S/thumb, GET /shots/S/span, POST /shots/S/probe, POST /shots/S/scopes,
        GET /shots/S/sheet, GET /shots/S/contents, GET /shots/S/cards/standing, GET /shots/S/cards/pops, GET /shots/S/cards/tuck-frames,
        GET /shots/S/cards/tuck-depths, GET /shots/S/cards/seat,
        GET /shots/S/card-facts, GET /shots/S/under, GET /shots/S/proposals, GET /shots/S/lit,
        GET /shots/S/areas, GET /shots/S/trust, GET /shots/S/borders, GET /shots/S/ids,
        GET /shots/S/id-names, GET /shots/S/checkup, GET /shots/S/where,
        GET /shots/S/lost, GET /shots/S/recipes, GET /shots/S/renders, GET /renders/R, GET /renders/R/stills/1, GET /renders/R/watch,
        GET /shots/S/comments,
        POST /shots/S/comments, POST /shots/S/comments/1/answers, POST /shots/S/comments/1/resolved, POST /shots/S/comments/1/text,
        DELETE /shots/S/comments/1""",
    "work": """
        POST /shots/S/edits, POST /shots/S/back,
        POST /shots/S/undo, POST /shots/S/redo, GET /shots/S/cards/removal, GET /shots/S/cards/gathering,
        GET /shots/S/cards/dissolving, POST /shots/S/cards/bringing, POST /shots/S/gather, POST /shots/S/touch, POST /shots/S/match,
        POST /shots/S/grain, POST /shots/S/arrived, POST /shots/S/sources, GET /shots/S/sources/removal, GET /shots/S/versions,
        GET /shots/S/versions/compare, POST /shots/S/recipes, DELETE /shots/S/recipes/1, POST /shots/S/recipes/1/laying,
        POST /shots/S/checkup, POST /shots/S/checkup/cancel, GET /shots/S/removal, GET /shots/S/unbaking, POST /shots/S/display-names,
        POST /shots/S/attachable, POST /shots/S/bakes""",
    "hand off": """
        POST /shots/S/renders, POST /renders/R/cancel, POST /renders/R/retry, POST /renders/R/pause, POST /renders/R/priority,
        GET /renders/R/frames/1, GET /renders/R/download, POST /renders/R/movie, GET /renders/R/download-movie""",
    "own": """
        POST /shows/W/name, POST /shows/W/delete, POST /shows/W/restore, POST /shots/S/delete, POST /shots/S/restore, POST /shots/S/move,
        POST /shows/W/people/1""",
}  # fmt: skip
ROWS = [(need, *row.split()) for need, rows in TABLE.items() for row in re.split(r",\s*", rows.strip())]
ROLES = ("look", "work", "hand off", "own")
REACHED = 299


@dataclass
class Place:
    """A show with a shot and a render of it, and somebody of every role in it."""

    client: FlaskClient
    show: int
    shot: int
    render: int
    tokens: dict[str, str]

    def ask(self, who: str, method: str, path: str, **about: object) -> int:
        place = path.replace("/S", f"/{self.shot}").replace("/W", f"/{self.show}").replace("/R", f"/{self.render}")
        return self.answer(who, method, f"/api{place}", **about).status_code

    def answer(self, who: str, method: str, path: str, **about: object):  # type: ignore[no-untyped-def]
        headers = {"Authorization": f"Bearer {self.tokens[who]}"} if who in self.tokens else {}
        return patiently(lambda: self.client.open(path, method=method, headers=headers, **about))


@pytest.fixture(scope="module")
def place(settings: Settings, database: Database, client: FlaskClient) -> Iterator[Place]:
    """`client` has brought the demo in."""
    demo = next(row for row in list_shots(database) if row.name == "Dome at dusk")
    tokens = {"admin": token_of(database)}
    for role in (*ROLES, "stranger"):
        person = people.add_person(database, f"rights {role}")
        if role in ROLES:
            people.set_role(database, person, demo.show_id, role)  # type: ignore[arg-type]
        tokens[role] = token_of(database, f"rights {role}")
    render = renders.add_render(database, demo.id, 1, [1001], "/nowhere", "x.{frame:04d}.exr", "half")
    with in_process(settings) as anybody:
        yield Place(anybody, demo.show_id, demo.id, render, tokens)


@pytest.fixture
def stubbed(place: Place) -> Iterator[Place]:
    """Views that only say that they were reached."""
    views = place.client.application.view_functions
    kept = dict(views)
    views.update({name: lambda **_: ("", REACHED) for name in views})
    yield place
    views.update(kept)


def test_the_table_names_every_address(client: FlaskClient) -> None:
    rules = [rule for rule in client.application.url_map.iter_rules() if str(rule).startswith("/api")]
    there = set()
    for rule in rules:
        automatic = {"HEAD", "OPTIONS"} if rule.methods and "GET" in rule.methods else {"OPTIONS"}
        plain = str(rule)
        for noun, letter in (("shots", "S"), ("renders", "R"), ("shows", "W")):
            plain = re.sub(f"/{noun}/<[^>]+>", f"/{noun}/{letter}", plain)
        methods = rule.methods if rule.methods == {"OPTIONS"} else (rule.methods or set()) - automatic
        there |= {f"{method} {re.sub('<[^>]+>', '1', plain).removeprefix('/api')}" for method in methods or set()}
    assert there == {f"{method} {path}" for _, method, path in ROWS}


@pytest.mark.parametrize(("need", "method", "path"), ROWS, ids=[f"{row[1]} {row[2]}" for row in ROWS])
def test_each_role_reaches_what_it_may_and_nothing_else(stubbed: Place, need: str, method: str, path: str) -> None:
    ask = stubbed.ask
    assert ask("nobody", method, path) == (REACHED if need == ANYBODY else 401)
    assert ask("admin", method, path) == (403 if need == IN_PERSON else REACHED), "all come by tokens here"
    if need in ROLES:
        assert ask("stranger", method, path) == 404, "as if it were not there"
        assert [ask(role, method, path) for role in ROLES] == [REACHED if ROLES.index(role) >= ROLES.index(need) else 403 for role in ROLES]
        gone = path.replace("/S", "/999999").replace("/W", "/999999").replace("/R", "/999999")
        assert ask("own", method, gone) == 404
        return
    least = {STRANGER_WORK: 1, STRANGER_OWN: 3, ADMIN: 9, IN_PERSON: 9}.get(need, 0)
    assert ask("stranger", method, path) == (REACHED if need in (ANYBODY, SIGNED_IN) else 403)
    assert [ask(role, method, path) for role in ROLES] == [REACHED if n >= least else 403 for n in range(len(ROLES))]


@pytest.mark.parametrize("path", ["/api", "/api/", "/api/none", "/api/shots/x", "/api/shots/1/thumb", "/api/../api/shows", "/api//shows"])
@pytest.mark.parametrize("method", ["GET", "HEAD", "POST", "DELETE", "OPTIONS", "TRACE"])
def test_an_outsider_learns_nothing(place: Place, path: str, method: str) -> None:
    """Not even what there is: an address that does not exist is refused as the others are, or is the page itself."""
    answer = place.answer("nobody", method, path)
    assert answer.status_code in (401, 404, 405, 308) or b"<div id=" in answer.data or method == "OPTIONS"
    assert b"Ridge" not in answer.data
    assert "Dome" not in answer.text


@pytest.mark.parametrize("header", ["", "Bearer", "Bearer ", "Bearer x", "bearer \udcff", "Basic YTpi", "Bearer " + "a" * 9000])
def test_made_up_credentials_let_nobody_in(place: Place, header: str) -> None:
    sent = header.encode("utf-8", "surrogateescape").decode("latin-1")
    assert place.client.get("/api/shows", headers={"Authorization": sent}).status_code == 401
    name = place.client.application.config["SESSION_COOKIE_NAME"]
    own = place.client.application.test_client()
    for value in ("x", "eyJrZXkiOiJ4In0.aaaa.bbbb", "." * 50, "a" * 4000):
        own.set_cookie(name, value)
        assert own.get("/api/shows").status_code == 401


def test_lists_hold_only_what_one_may_see(place: Place, database: Database) -> None:
    other = shows.add_show(database, "Rights elsewhere", "/nowhere")
    names = {who: {show["name"]: show["role"] for show in place.answer(who, "GET", "/api/shows").get_json()["shows"]} for who in place.tokens}
    assert names["admin"]["Rights elsewhere"] == "own"
    assert names["stranger"] == {}
    assert names["work"] == {"Ridge Observatory": "work"}
    queued = {who: {row["id"] for row in place.answer(who, "GET", "/api/queue").get_json()["renders"]} for who in place.tokens}
    assert place.render in queued["look"]
    assert queued["stranger"] == set()
    shows.delete_show(database, other)
    deleted = {who: {row["show"] for row in place.answer(who, "GET", "/api/shows").get_json()["deleted"]} for who in place.tokens}
    assert "Rights elsewhere" in deleted["admin"]
    assert deleted["look"] == deleted["stranger"] == set()
    assert deleted["own"] <= {"Ridge Observatory"}, "what one owns: a shot of it may have been deleted by whoever shares this database"


def test_who_only_looks_cannot_try_edits_that_name_other_files(place: Place, settings: Settings) -> None:
    """A look may carry unsaved edits; one of them could make a source of any file of the media folders."""
    edit = {"op": "set", "path": ["sources", "station", "path"], "value": "plates/valley.exr"}
    for address in ("look", "scopes"):
        body = {"revision": 1, "frame": 1001, "scale": 8, "overrides": [edit]}
        path = f"/api/shots/{place.shot}/{address}"
        assert place.answer("look", "POST", path, json=body).status_code == 403
        assert place.answer("work", "POST", path, json=body).status_code == 200
        assert place.answer("look", "POST", path, json={**body, "overrides": []}).status_code == 200


def test_a_bake_belongs_to_working_and_other_renders_to_handing_off(place: Place, database: Database) -> None:
    bake = renders.add_render(database, place.shot, 1, [1001], "/nowhere", "x.{frame:04d}.exr", "half", None, ["m"], "baked")
    assert place.answer("work", "POST", f"/api/renders/{place.render}/pause").status_code == 403
    assert place.answer("work", "POST", f"/api/renders/{bake}/cancel").status_code != 403
    assert place.answer("look", "POST", f"/api/renders/{bake}/cancel").status_code == 403


def test_a_shot_moves_only_between_shows_of_ones_own(place: Place, database: Database) -> None:
    other = shows.add_show(database, "Rights target", "/nowhere")
    assert place.answer("own", "POST", f"/api/shots/{place.shot}/move", json={"show_id": other}).status_code == 403
    shows.delete_show(database, other)


def test_taking_in_takes_a_show_that_one_works_on_or_may_make(place: Place, database: Database, settings: Settings) -> None:
    shows.add_show(database, "Rights foreign", "/nowhere")
    plate = str(settings.media[0] / "plates" / "valley.exr")

    def taken(who: str, show: str) -> int:
        return place.answer(who, "POST", "/api/take-in", json={"show": show, "shot": f"by {who}", "paths": [plate]}).status_code

    assert (taken("work", "Rights new"), taken("work", "Rights foreign"), taken("own", "Rights foreign")) == (403, 403, 403)
    assert taken("own", "Rights new") == 200
    made = next(row for row in shows.list_shows(database) if row.name == "Rights new")
    assert people.find_person(database, "rights own").roles[made.id] == "own", "whoever makes a show is its owner"  # type: ignore[union-attr]
    assert taken("work", "Ridge Observatory") == 200


def test_a_role_that_is_taken_back_ends_at_once(place: Place, database: Database) -> None:
    person = people.add_person(database, "Rights brief")
    place.tokens["brief"] = token_of(database, "Rights brief")
    head = f"/api/shots/{place.shot}/head"
    assert place.answer("brief", "GET", head).status_code == 404
    role = f"/api/shows/{place.show}/people/{person}"
    assert place.answer("own", "POST", role, json={"role": "look"}).status_code == 200
    assert place.answer("brief", "GET", head).status_code == 200
    assert place.answer("own", "POST", role, json={"role": None}).status_code == 200
    assert place.answer("brief", "GET", head).status_code == 404
    assert place.answer("admin", "DELETE", f"/api/people/{person}").status_code == 200
    assert place.answer("brief", "GET", "/api/me").status_code == 401
    del place.tokens["brief"]


def test_every_change_knows_who(client: FlaskClient, place: Place, shot_id: int, database: Database) -> None:
    own = Bench(let_in(client.application.test_client(), place.tokens["own"]), shot_id)
    assert own.edit(["build", "station", "opacity"], 0.5).get_json()["changed_by"] == "rights own"
    assert own.travel("undo").status_code == 200
    client.post(f"/api/shots/{shot_id}/delete")
    told = client.get("/api/changes").get_json()["changes"]
    of_shot = [one for one in told if one["subject"] == "shots" and one["of"]["id"] == shot_id]
    assert [(one["person"], next(iter(one["detail"]))) for one in of_shot[:2]] == [
        (client.get("/api/me").get_json()["name"], "deleted_at"),
        ("rights own", "head"),
    ]
    person = people.find_person(database, "rights look")
    assert person is not None
    for role in ("own", "look"):
        assert own.client.post(f"/api/shows/{place.show}/people/{person.id}", json={"role": role}).status_code == 200
    given = client.get("/api/changes").get_json()["changes"][0]
    assert (given["person"], given["about"], given["show"]) == ("rights own", "rights look", "Ridge Observatory")
    assert given["detail"] == {"role": "look"}
    ordered = own.client.post(f"/api/shots/{place.shot}/renders", json={"revision": 1, "frames": "1001"}).get_json()
    assert ordered["ordered_by"] == "rights own"


def test_who_was_in_the_way_is_named(client: FlaskClient, place: Place, shot_id: int) -> None:
    own, admin = (Bench(let_in(client.application.test_client(), place.tokens[who]), shot_id, tab=who) for who in ("own", "admin"))
    own.edit(["build", "station", "opacity"], 0.5, base=1)
    refused = admin.edit(["build", "station", "opacity"], 0.7, base=1)
    assert refused.status_code == 409
    assert "changed by rights own meanwhile" in refused.get_json()["error"]["message"]
    assert "rights own did this" in admin.travel("undo").get_json()["error"]["message"]
