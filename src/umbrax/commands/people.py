"""The command line's part about people: for whoever looks after the server, at the server, so that nobody is ever shut out of it."""

import sys
from contextlib import closing, contextmanager
from typing import TYPE_CHECKING, Annotated

import typer

from umbrax.core.errors import UmbraxError

if TYPE_CHECKING:
    from collections.abc import Iterator

    from umbrax.store.database import Database
    from umbrax.store.people import PersonRow

app = typer.Typer(no_args_is_help=True, help="People of this server: who may come in, and how.")
Name = Annotated[str, typer.Argument(help="The person's name; the first administrator by default.")]


@contextmanager
def _database() -> "Iterator[Database]":
    from umbrax.settings import read_settings
    from umbrax.store.database import Database

    with closing(Database(read_settings().database, most=1, patience=5)) as database:
        yield database


def _person(database: "Database", name: str) -> "PersonRow":
    from umbrax.store import people

    found = people.find_person(database, name) if name else people.first_admin(database)
    if found is None:
        raise UmbraxError("no-person", f"there is nobody called {name!r}; 'umbrax people list' tells who there is")
    return found


@app.command("list")
def list_() -> None:
    """Everybody, whether they have a password, and their roles by show."""
    from umbrax.store import people, shows

    with _database() as database:
        names = {row.id: row.name for row in shows.list_shows(database)}
        for one in people.list_people(database):
            roles = ", ".join(f"{names[show]}: {role}" for show, role in one.roles.items() if show in names)
            told = [*(["looks after the server"] if one.admin else []), *([] if one.has_password else ["no password"]), roles]
            typer.echo(f"{one.name}  {'; '.join(part for part in told if part)}")


@app.command()
def add(name: str, admin: Annotated[bool, typer.Option(help="Let them look after the server.")] = False) -> None:
    """Add somebody; prints the path of the address at which they choose a password."""
    from umbrax.store import people
    from umbrax.web.people.addresses import invitation_path

    with _database() as database:
        typer.echo(invitation_path(database, people.add_person(database, name, admin=admin)))


@app.command()
def password(name: Name = "") -> None:
    """Set somebody's password, asked for twice, or read from standard input where that is no terminal."""
    from umbrax.store import people
    from umbrax.web.people.passwords import hashed

    with _database() as database:
        one = _person(database, name)
        if sys.stdin.isatty():
            typed = str(typer.prompt(f"New password of {one.name}", hide_input=True, confirmation_prompt=True))
        else:
            typed = sys.stdin.readline().rstrip("\n")
        people.set_password(database, one.id, hashed(typed, one.name))
        typer.echo(f"{one.name} signs in with this password from now on")


@app.command()
def entry(name: Name = "") -> None:
    """The path of an address that signs somebody in once, within a day, from this computer."""
    from umbrax.web.people.addresses import entry_path

    with _database() as database:
        typer.echo(entry_path(database, _person(database, name).id))


@app.command()
def token(what_for: str, name: Name = "") -> None:
    """Make a token, to be sent as 'Authorization: Bearer TOKEN'; it may do what its person may."""
    from umbrax.store import credentials

    with _database() as database:
        typer.echo(credentials.issue(database, _person(database, name).id, "token", lasts=None, name=what_for))


@app.command()
def remove(name: str) -> None:
    """Let somebody in no more."""
    from umbrax.store import people

    with _database() as database:
        people.remove_person(database, _person(database, name).id)
