"""The door of the page: invited, choosing a password, roles that open what they name, and signed out in the middle of work."""

from collections.abc import Iterator
from urllib.parse import urlsplit

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect
from screen import drawn, entered, open_bench, revision

from umbrax.store import credentials, people
from umbrax.store.database import Database
from umbrax.store.shots import get_shot

PASSWORD = "lamps along the mast"


@pytest.fixture
def elsewhere(browser: Browser, server: str) -> Iterator[BrowserContext]:
    """Another browser, in which nobody was ever signed in."""
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    yield context
    context.close()


def person(database: Database, name: str, shot: int, role: people.Role) -> str:
    number = people.add_person(database, name)
    people.set_role(database, number, get_shot(database, shot).show_id, role)
    return name


def test_an_outsider_sees_the_door_and_nothing_else(elsewhere: BrowserContext, server: str, shot: int) -> None:
    page = elsewhere.new_page()
    refused: list[int] = []
    page.on("response", lambda answer: refused.append(answer.status) if "/api/" in answer.url else None)
    for path in ("", f"/shots/{shot}", f"/shots/{shot}/hand-off", "/queue", "/people", "/take-in"):
        page.goto(server + path)
        expect(page.get_by_role("heading", name="Sign in")).to_be_visible()
        assert page.locator("img").count() == 0
    assert set(refused) == {401}


def test_somebody_is_invited_chooses_a_password_and_works(page: Page, elsewhere: BrowserContext, server: str, shot: int) -> None:
    page.goto(server)
    page.get_by_role("button", name="Signed in as").click()
    page.get_by_role("menuitem", name="People and roles").click()
    page.get_by_label("Name of somebody new").fill("Mira Holt")
    page.get_by_role("button", name="Invite", exact=True).click()
    row = page.get_by_role("listitem", name="Mira Holt")
    expect(row).to_contain_text("sees no show yet")
    address = page.get_by_label("Address for Mira Holt").input_value()
    theirs = elsewhere.new_page()
    theirs.goto(address)
    expect(theirs.get_by_role("heading", name="Welcome, Mira Holt")).to_be_visible()
    theirs.get_by_label("Password", exact=True).fill("short")
    theirs.get_by_label("The same again").fill("short")
    theirs.get_by_role("button", name="Come in").click()
    expect(theirs.get_by_role("alert")).to_contain_text("Expected a password of 10 to 200 characters")
    theirs.get_by_label("Password", exact=True).fill(PASSWORD)
    theirs.get_by_label("The same again").fill(PASSWORD)
    theirs.get_by_role("button", name="Come in").click()
    expect(theirs.get_by_text("No show is open to you yet")).to_be_visible()
    expect(theirs.get_by_role("link", name="Take in")).to_have_count(0)
    row.get_by_role("button", name="Let Mira Holt into a show").click()
    page.get_by_role("menuitem", name="Ridge Observatory").click()
    expect(row.get_by_label("Role of Mira Holt in Ridge Observatory")).to_have_value("look")
    row.get_by_label("Role of Mira Holt in Ridge Observatory").select_option("work")
    expect(page.get_by_role("region", name="Changes")).to_contain_text("lets Mira Holt work in Ridge Observatory")
    open_bench(theirs, server, shot)
    theirs.get_by_role("button", name="Card station").click()
    theirs.get_by_role("button", name="Switch the card off").click()
    theirs.get_by_text("revision 2").wait_for()
    open_bench(page, server, shot)
    expect(page.get_by_role("button", name="by Mira Holt")).to_be_visible()
    theirs.goto(f"{server}/shots/{shot}/hand-off")
    expect(theirs.get_by_text("but not hand off")).to_be_visible()
    page.goto(f"{server}/people")
    row.get_by_role("button", name="More about Mira Holt").click()
    page.get_by_role("menuitem", name="Let them in no more").click()
    expect(row).to_have_count(0)
    expect(theirs.get_by_role("heading", name="You were signed out")).to_be_visible()


def test_who_only_looks_changes_nothing_and_is_told(browser: Browser, server: str, shot: int, database: Database) -> None:
    name = person(database, "Only Looks", shot, "look")
    context = browser.new_context(viewport={"width": 1280, "height": 800}, storage_state=entered(browser, server, database, name))
    page = context.new_page()
    open_bench(page, server, shot)
    expect(page.get_by_test_id("saved")).to_contain_text("look only")
    page.get_by_role("button", name="Card station").click()
    page.get_by_role("button", name="Switch the card off").click()
    expect(page.get_by_text("you may look, but not change anything", exact=False)).to_be_visible()
    assert revision(page) == 1
    assert get_shot(database, shot).head == 1
    context.close()


def test_signed_out_in_the_middle_of_work_one_goes_on_where_one_was(browser: Browser, server: str, shot: int, database: Database) -> None:
    from umbrax.web.people.passwords import hashed

    name = person(database, "Goes On", shot, "work")
    found = people.find_person(database, name)
    assert found is not None
    people.set_password(database, found.id, hashed(PASSWORD, name))
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    page = context.new_page()
    page.goto(f"{server}/shots/{shot}")
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password").fill("not this one")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("do not belong together")
    page.get_by_label("Password").fill(PASSWORD)
    page.keyboard.press("Enter")
    page.get_by_test_id("stage").wait_for()
    open_bench(page, server, shot)
    page.get_by_role("button", name="Card station").click()
    credentials.end_sessions(database, found.id)
    expect(page.get_by_role("heading", name="You were signed out")).to_be_visible()
    expect(page.get_by_label("Name", exact=True)).to_have_value(name)
    page.get_by_label("Password").fill(PASSWORD)
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="You were signed out")).to_have_count(0)
    page.get_by_role("button", name="Switch the card off").click()
    page.get_by_text("revision 2").wait_for()
    drawn(page)
    page.get_by_role("button", name=f"Signed in as {name}").click()
    page.get_by_role("menuitem", name="Sign out").click()
    expect(page.get_by_role("heading", name="Sign in")).to_be_visible()
    assert urlsplit(page.url).path == "/"
    context.close()
