"""Coming in: by name and password, once by the printed address, by an invitation; and being kept out."""

import subprocess
import time
from collections.abc import Iterator
from dataclasses import replace
from datetime import timedelta
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient

from running import command, free_port, in_process, launch, let_in, token_of
from umbrax.core.errors import UmbraxError
from umbrax.settings import Settings
from umbrax.store import credentials, people
from umbrax.store.database import Database
from umbrax.web.people import attempts, passwords
from umbrax.web.people.addresses import entry_path
from umbrax.web.people.attempts import Attempts
from umbrax.web.serving import _from_here_alone
from umbrax.web.state import State

GOOD = "quiet dome over ridge"


@pytest.fixture
def browser(settings: Settings) -> Iterator[FlaskClient]:
    """A browser that was never here, on a server that was just started."""
    with in_process(settings) as client:
        yield client


@pytest.fixture
def person(database: Database, request: pytest.FixtureRequest) -> str:
    """Somebody with a password."""
    name = request.node.name[:60]
    people.set_password(database, people.add_person(database, name), passwords.hashed(GOOD, name))
    return name


@pytest.fixture
def still(browser: FlaskClient) -> State:
    """Time stands still for whoever counts wrong passwords."""
    shared: State = browser.application.extensions["umbrax"]
    shared.names_tried = Attempts(clock=lambda: 1.0)
    shared.places_tried = Attempts(attempts.FREE_OF_PLACE, clock=lambda: 1.0)
    return shared


def sign_in(browser: FlaskClient, name: str, password: str = GOOD) -> Any:
    return browser.post("/api/sign-in", json={"name": name, "password": password})


def entry(database: Database) -> str:
    return entry_path(database, people.first_admin(database).id)


def test_a_password_lets_in_until_signing_out(browser: FlaskClient, person: str) -> None:
    assert browser.get("/api/me").status_code == 401
    assert sign_in(browser, person.upper()).get_json()["name"] == person
    assert browser.get("/api/me").get_json()["name"] == person
    cookie = browser.get_cookie(browser.application.config["SESSION_COOKIE_NAME"])
    assert cookie is not None
    assert (cookie.http_only, cookie.same_site, cookie.path) == (True, "Strict", "/")
    copied = browser.application.test_client()
    copied.set_cookie(cookie.key, cookie.value)
    assert copied.get("/api/me").status_code == 200
    assert browser.post("/api/sign-out").status_code == 204
    assert browser.get("/api/me").status_code == copied.get("/api/me").status_code == 401, "a copy of the cookie opens nothing any more"


def test_a_cookie_that_was_changed_lets_nobody_in(browser: FlaskClient, person: str) -> None:
    sign_in(browser, person)
    cookie = browser.get_cookie(browser.application.config["SESSION_COOKIE_NAME"])
    assert cookie is not None
    for at in range(0, len(cookie.value), 7):
        other = cookie.value[:at] + ("A" if cookie.value[at] != "A" else "B") + cookie.value[at + 1 :]
        changed = browser.application.test_client()
        changed.set_cookie(cookie.key, other)
        assert changed.get("/api/me").status_code == 401, at


def test_what_is_kept_tells_no_password_and_no_credential(browser: FlaskClient, person: str, database: Database) -> None:
    sign_in(browser, person)
    token = browser.post("/api/tokens", json={"name": "script"}).get_json()["made"]
    with database.transaction() as connection:
        tables = [row[0] for row in connection.execute("select tablename from pg_tables where schemaname = 'public'")]
        text = " ".join(str(row[0]) for name in tables for row in connection.execute(f"select t::text from {name} t"))
        kept = connection.execute("select password from people where name = %s", (person,)).fetchone()
    assert kept is not None
    assert kept[0].startswith("$argon2id$")
    assert GOOD not in text
    assert token not in text


def test_wrong_names_and_wrong_passwords_look_alike(browser: FlaskClient, person: str) -> None:
    answers = [sign_in(browser, person, "not the password"), sign_in(browser, "nobody at all", "not the password")]
    assert {answer.status_code for answer in answers} == {401}
    assert answers[0].data == answers[1].data
    with pytest.MonkeyPatch.context() as patch:
        hashes: list[str] = []
        real = passwords._hasher.verify

        class Counting:
            def verify(self, kept: str, password: str) -> bool:
                hashes.append(kept)
                return real(kept, password)

        patch.setattr(passwords, "_hasher", Counting())
        sign_in(browser, "nobody at all", "not the password")
        assert len(hashes) == 1, "as much is computed for a name that nobody has"


@pytest.mark.usefixtures("still")
def test_many_wrong_passwords_are_waited_for(browser: FlaskClient, person: str) -> None:
    codes = [sign_in(browser, person, f"wrong {n}").status_code for n in range(8)]
    assert codes[:5] == [401] * 5
    assert set(codes[5:]) == {429}
    assert sign_in(browser, person).status_code == 429, "also where it would be right now"


def test_attempts_double_their_wait_and_are_forgotten() -> None:
    now = [0.0]
    counted = Attempts(clock=lambda: now[0])
    waits = []
    for _ in range(16):
        start = now[0]
        while True:
            try:
                counted.begin("a")
                break
            except UmbraxError:
                now[0] += 0.5
        waits.append(now[0] - start)
    assert waits[: attempts.FREE] == [0] * attempts.FREE
    assert waits[attempts.FREE : attempts.FREE + 5] == [1, 2, 4, 8, 16]
    assert max(waits) == attempts.LONGEST
    counted.begin("b")
    now[0] += attempts.FORGOTTEN
    for _ in range(attempts.FREE):
        counted.begin("a")
    counted.right("a")
    counted.begin("a")


@pytest.mark.usefixtures("still")
def test_from_one_address_more_may_be_wrong_than_of_one_name(browser: FlaskClient, person: str) -> None:
    codes = [sign_in(browser, f"somebody {n}", "wrong").status_code for n in range(attempts.FREE_OF_PLACE + 1)]
    assert codes == [401] * attempts.FREE_OF_PLACE + [429]
    from_elsewhere = {"REMOTE_ADDR": "192.0.2.9"}
    other = browser.post("/api/sign-in", json={"name": person, "password": GOOD}, environ_base=from_elsewhere)
    assert other.status_code == 200


def test_a_token_in_other_hands_becomes_neither_a_password_nor_another_token(browser: FlaskClient, person: str) -> None:
    sign_in(browser, person)
    token = browser.post("/api/tokens", json={"name": "lost"}).get_json()["made"]
    thief = let_in(browser.application.test_client(), token)
    asked = [
        thief.post("/api/tokens", json={"name": "mine"}), thief.get("/api/tokens"), thief.delete("/api/tokens/1"),
        thief.post("/api/password", json={"old": GOOD, "new": "now it is mine"}), thief.post("/api/sign-out-everywhere"),
    ]  # fmt: skip
    assert [answer.status_code for answer in asked] == [403] * 5
    assert thief.get_cookie(browser.application.config["SESSION_COOKIE_NAME"]) is None
    assert browser.get("/api/me").status_code == 200


def test_the_printed_address_opens_once_from_this_computer_alone(browser: FlaskClient, database: Database) -> None:
    address = entry(database)
    assert browser.head(address).status_code == 303
    far = browser.get(address, environ_base={"REMOTE_ADDR": "192.0.2.7"})
    assert (far.status_code, far.headers["Location"]) == (303, "/?entry=used")
    opened = browser.get(address)
    assert (opened.status_code, opened.headers["Location"]) == (303, "/")
    assert browser.get("/api/me").get_json()["admin"] is True
    again = browser.application.test_client()
    assert again.get(address).headers["Location"] == "/?entry=used"
    assert again.get("/api/me").status_code == 401


def test_an_entry_is_neither_a_token_nor_an_invitation(browser: FlaskClient, database: Database) -> None:
    secret = entry(database).removeprefix("/enter/")
    assert browser.get("/api/me", headers={"Authorization": f"Bearer {secret}"}).status_code == 401
    assert browser.post("/api/join", json={"invitation": secret, "password": GOOD}).status_code == 404


def test_an_invitation_is_taken_once_and_lets_its_person_choose_a_password(client: FlaskClient, browser: FlaskClient) -> None:
    told = client.post("/api/people", json={"name": "Invited One"}).get_json()
    secret = told["invitation"].removeprefix("/join/")
    assert browser.get("/api/invitation", query_string={"invitation": secret}).get_json() == {"name": "Invited One"}
    weak = [
        browser.post("/api/join", json={"invitation": secret, "password": one}) for one in ("short", "aaaaaaaaaaaaaa", "invited one", "x" * 300)
    ]
    assert {answer.get_json()["error"]["code"] for answer in weak} == {"weak-password"}
    assert browser.post("/api/join", json={"invitation": secret, "password": GOOD}).get_json()["name"] == "Invited One"
    assert browser.get("/api/me").status_code == 200
    assert browser.post("/api/join", json={"invitation": secret, "password": GOOD}).status_code == 404
    assert sign_in(browser.application.test_client(), "invited one").status_code == 200


def test_a_new_password_ends_other_sessions(browser: FlaskClient, person: str) -> None:
    other = browser.application.test_client()
    sign_in(browser, person)
    sign_in(other, person)
    assert browser.post("/api/password", json={"old": "wrong", "new": "another one, longer"}).status_code == 403
    assert browser.post("/api/password", json={"old": GOOD, "new": "another one, longer"}).status_code == 200
    assert (browser.get("/api/me").status_code, other.get("/api/me").status_code) == (200, 401)
    assert sign_in(other, person, "another one, longer").status_code == 200
    assert other.post("/api/sign-out-everywhere").status_code == 204
    assert browser.get("/api/me").status_code == 401


def test_a_token_does_what_its_person_may_until_it_is_taken_back(browser: FlaskClient, person: str) -> None:
    sign_in(browser, person)
    made = browser.post("/api/tokens", json={"name": "nightly"}).get_json()
    script = browser.application.test_client()
    bearer = {"Authorization": f"Bearer {made['made']}"}
    assert script.get("/api/me", headers=bearer).get_json()["name"] == person
    assert script.get("/api/shows", headers=bearer).get_json()["shows"] == []
    listed = browser.get("/api/tokens").get_json()
    assert (listed["made"], [one["name"] for one in listed["tokens"]]) == (None, ["nightly"])
    assert browser.delete(f"/api/tokens/{listed['tokens'][0]['id']}").get_json()["tokens"] == []
    assert script.get("/api/me", headers=bearer).status_code == 401


def test_somebody_always_looks_after_the_server(client: FlaskClient, database: Database) -> None:
    admins = [one for one in people.list_people(database) if one.admin]
    assert len(admins) == 1
    for answer in (client.delete(f"/api/people/{admins[0].id}"), client.post(f"/api/people/{admins[0].id}/admin", json={"admin": False})):
        assert (answer.status_code, answer.get_json()["error"]["code"]) == (409, "last-admin")
    assert client.get("/api/me").get_json()["admin"] is True


def test_beyond_this_computer_it_listens_only_with_a_password(database_address: str, database: Database, tmp_path: Path) -> None:
    with database.transaction() as connection:
        connection.execute("update people set password = null where admin")
    process = launch(tmp_path, database_address, "serve", "--host", "0.0.0.0", "--port", str(free_port()))
    assert process.wait(60) == 1
    assert "set a password with 'bin/umbrax people password'" in (tmp_path / "log").read_text()


@pytest.mark.parametrize(
    ("host", "hosts", "alone"),
    [
        ("127.0.0.1", "", True), ("127.0.0.2", "", True), ("::1", "", True), ("localhost", "", True), ("::", "", False),
        ("192.0.2.1", "", False), ("farm.example", "", False), ("127.0.0.1", "farm.example", False),
    ],
)  # fmt: skip
def test_who_may_reach_it_is_told_by_its_address_and_the_names_it_answers_by(host: str, hosts: str, alone: bool, settings: Settings) -> None:
    assert _from_here_alone(host, replace(settings, hosts=frozenset(filter(None, [hosts])))) is alone


def test_people_are_looked_after_at_the_server(database_address: str, database: Database, tmp_path: Path, browser: FlaskClient) -> None:
    def run(*words: str, typed: str = "") -> subprocess.CompletedProcess[str]:
        return command("people", *words, state=tmp_path, database=database_address, typed=typed)

    path = run("add", "At The Server").stdout.strip()
    assert path.startswith("/join/")
    assert (
        run("add", "at the server").stderr.strip()
        == "umbrax: there is another person 'at the server' already; give one of them another name first"
    )
    assert "weak" not in run("password", "At The Server", typed="no\n").stdout
    assert run("password", "At The Server", typed=f"{GOOD}\n").returncode == 0
    assert sign_in(browser, "At The Server").status_code == 200
    token = run("token", "nightly", "At The Server").stdout.strip()
    assert browser.application.test_client().get("/api/me", headers={"Authorization": f"Bearer {token}"}).status_code == 200
    opened = browser.application.test_client()
    opened.get(run("entry", "At The Server").stdout.strip())
    assert opened.get("/api/me").get_json()["name"] == "At The Server"
    assert run("remove", "At The Server").returncode == 0
    assert opened.get("/api/me").status_code == 401
    assert run("token", "x", "At The Server").stderr.startswith("umbrax: there is nobody called")


def test_on_a_full_disk_of_the_database_people_still_look(client: FlaskClient, database: Database) -> None:
    """That somebody was here cannot be noted; SQLSTATE 53100 is PostgreSQL's for a full disk."""
    fresh = let_in(client.application.test_client(), token_of(database))
    with database.transaction() as connection:
        connection.execute(
            "create function full_disk() returns trigger language plpgsql as $$ begin raise 'no space' using errcode = '53100'; end $$"
        )
        connection.execute("create trigger full_disk before update on credentials for each row execute function full_disk()")
    try:
        assert fresh.get("/api/shows").status_code == 200
    finally:
        with database.transaction() as connection:
            connection.execute("drop function full_disk cascade")
    assert fresh.get("/api/shows").status_code == 200


def test_expired_credentials_open_nothing(browser: FlaskClient, database: Database) -> None:
    admin = people.first_admin(database).id
    for kind, path in (("entry", "/enter/"), ("invitation", "")):
        secret = credentials.issue(database, admin, kind, lasts=timedelta(seconds=0.01))  # type: ignore[arg-type]
        time.sleep(0.05)
        answer = browser.get(path + secret) if path else browser.post("/api/join", json={"invitation": secret, "password": GOOD})
        assert answer.status_code in (303, 404)
        assert browser.get("/api/me").status_code == 401
