"""People, and what each may do: for whoever looks after the server, and for the owners of shows."""

from datetime import datetime
from typing import Any

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.store import changes, shows
from umbrax.store import people as store
from umbrax.store.people import Role

from ..shots import answered
from ..shows import Name, ShowPath
from ..state import state
from .addresses import invitation_path
from .identity import who

api = APIBlueprint("people", __name__, url_prefix="/api", abp_tags=[Tag(name="people")])


class PersonPath(BaseModel):
    person_id: int


class RolePath(ShowPath):
    person_id: int


class PersonOrder(BaseModel):
    name: Name


class AdminOrder(BaseModel):
    admin: bool


class RoleOrder(BaseModel):
    role: Role | None = Field(description="null: none any more")


class PersonData(BaseModel):
    """Somebody, and their roles in the shows that whoever asks owns."""

    id: int
    name: str
    admin: bool
    has_password: bool
    roles: dict[int, Role]
    seen_at: datetime | None


class ShowName(BaseModel):
    id: int
    name: str


class PeopleList(BaseModel):
    """`invitation`: the path at which the person who was just invited comes in, told this once."""

    people: list[PersonData]
    shows: list[ShowName]
    invitation: str | None = None
    invited: str | None = None


class ChangeData(BaseModel):
    """One thing that somebody changed; `person` null: at the server itself."""

    id: int
    made_at: datetime
    person: str | None
    subject: str
    way: str
    of: dict[str, Any]
    detail: dict[str, Any]
    about: str | None
    show: str | None


class ChangeList(BaseModel):
    changes: list[ChangeData]


class ChangesQuery(BaseModel):
    before: int | None = Field(None, description="older than the change of this number")


def _listed(invited: str | None = None, invitation: str | None = None) -> Response:
    asking, database = who(), state().database
    owned = [ShowName(id=row.id, name=row.name) for row in shows.list_shows(database) if asking.may("own", row.id)]
    seen = {show.id for show in owned}
    people = [
        PersonData(
            id=row.id, name=row.name, admin=row.admin, has_password=row.has_password, seen_at=row.seen_at if asking.admin else None,
            roles={show: role for show, role in row.roles.items() if show in seen},
        )
        for row in store.list_people(database)
    ]  # fmt: skip
    return answered(PeopleList(people=people, shows=owned, invited=invited, invitation=invitation))


@api.get("/people", responses={200: PeopleList})
def list_people() -> Response:
    """Everybody, and the shows in which whoever asks gives roles."""
    return _listed()


@api.post("/people", responses={200: PeopleList})
def add_person(body: PersonOrder) -> Response:
    """Add somebody, and invite them."""
    return _invited(store.add_person(state().database, body.name), body.name)


@api.post("/people/<int:person_id>/invitation", responses={200: PeopleList})
def invite(path: PersonPath) -> Response:
    """Invite somebody anew, as where they forgot their password: until it is taken, the old one holds."""
    return _invited(path.person_id, store.get_person(state().database, path.person_id).name)


def _invited(person_id: int, name: str) -> Response:
    return _listed(name, invitation_path(state().database, person_id))


@api.post("/people/<int:person_id>/name", responses={200: PeopleList})
def rename_person(path: PersonPath, body: PersonOrder) -> Response:
    """Give somebody another name, by which they sign in."""
    store.rename_person(state().database, path.person_id, body.name)
    return _listed()


@api.post("/people/<int:person_id>/admin", responses={200: PeopleList})
def set_admin(path: PersonPath, body: AdminOrder) -> Response:
    """Let somebody look after the server, or no more; one always does."""
    store.set_admin(state().database, path.person_id, body.admin)
    return _listed()


@api.delete("/people/<int:person_id>", responses={200: PeopleList})
def remove_person(path: PersonPath) -> Response:
    """Let somebody in no more, at once; what they did stays, with their name."""
    store.remove_person(state().database, path.person_id)
    return _listed()


@api.post("/shows/<int:show_id>/people/<int:person_id>", responses={200: PeopleList})
def set_role(path: RolePath, body: RoleOrder) -> Response:
    """Let somebody look at a show, work on it, hand it off, or own it; each holds what is before it."""
    store.set_role(state().database, path.person_id, path.show_id, body.role)
    return _listed()


@api.get("/changes", responses={200: ChangeList})
def list_changes(query: ChangesQuery) -> Response:
    """Who changed what beside the pictures, newest first."""
    rows = changes.list_changes(state().database, query.before)
    return answered(ChangeList(changes=[ChangeData(**vars(row)) for row in rows]))
