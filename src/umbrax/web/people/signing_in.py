"""Signing in and out: by name and password, by the address that `bin/start` prints, and by an invitation."""

from ipaddress import ip_address
from urllib.parse import urlsplit

from flask import redirect, request
from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.core.errors import UmbraxError
from umbrax.store import credentials
from umbrax.store import people as store
from umbrax.store.people import Role
from umbrax.store.refusals import gone

from ..outsiders import LOOPBACK, without_port
from ..shots import answered
from ..state import state
from .identity import begin_session, end_session, prolong_session, who
from .passwords import LONGEST, hashed, matches, outdated, rehashed
from .rights import forbidden

api = APIBlueprint("signing_in", __name__, url_prefix="/api", abp_tags=[Tag(name="people")])
NAME = 120


class SignInOrder(BaseModel):
    name: str = Field(min_length=1, max_length=NAME)
    password: str = Field(min_length=1, max_length=LONGEST)


class JoinOrder(BaseModel):
    """An invitation and the password that its person chooses."""

    invitation: str = Field(min_length=1, max_length=100)
    password: str = Field(min_length=1, max_length=1000)


class Invited(BaseModel):
    name: str


class InvitationQuery(BaseModel):
    invitation: str = Field(min_length=1, max_length=100)


class PasswordOrder(BaseModel):
    """`old` is needed where there is a password already."""

    old: str = Field("", max_length=LONGEST)
    new: str = Field(min_length=1, max_length=1000)


class Me(BaseModel):
    """Who is signed in; `roles` by the numbers of shows, of an administrator none are told: all shows are theirs."""

    id: int
    name: str
    admin: bool
    has_password: bool
    roles: dict[int, Role]


def me_data() -> Me:
    found = who().holder
    return Me(id=found.id, name=found.name, admin=found.admin, has_password=found.has_password, roles=found.roles)


@api.get("/me", responses={200: Me})
def me() -> Response:
    """Who is signed in. A session that is in use does not end."""
    prolong_session()
    return answered(me_data())


@api.post("/sign-in", responses={200: Me})
def sign_in(body: SignInOrder) -> Response:
    """Sign in by name and password; 429 after too many wrong ones."""
    database, name, place = state().database, body.name.strip().lower(), request.remote_addr or ""
    state().places_tried.begin(place)
    state().names_tried.begin(name)
    found = store.password_of(database, name)
    if not matches(found[1] if found else None, body.password) or found is None:
        message = "this name and password do not belong together; check both, or ask for a new invitation"
        raise UmbraxError("wrong", message, status=401)
    state().names_tried.right(name)
    state().places_tried.right(place)
    if outdated(found[1]):
        store.rehash(database, found[0], found[1], rehashed(body.password))
    return _signed_in(found[0])


def _signed_in(person_id: int) -> Response:
    begin_session(person_id)
    return answered(me_data())


@api.post("/sign-out")
def sign_out() -> Response:
    """End this session; what the browser kept of pictures goes with it."""
    return _signed_out()


@api.post("/sign-out-everywhere")
def sign_out_everywhere() -> Response:
    """End all sessions of whoever asks, in every browser; tokens stay."""
    credentials.end_sessions(state().database, who().id)
    return _signed_out()


def _signed_out() -> Response:
    end_session()
    return Response(status=204, headers={"Clear-Site-Data": '"cache"'})


@api.post("/password", responses={200: Me})
def change_password(body: PasswordOrder) -> Response:
    """Choose a password, or another one; other sessions end."""
    asking, database = who(), state().database
    if asking.holder.has_password:
        kept, name = store.password_of(database, asking.name), asking.name.lower()
        state().names_tried.begin(name)
        if not matches(kept[1] if kept else None, body.old):
            raise forbidden("this is not the password that you have now; type it again")
        state().names_tried.right(name)
    store.set_password(database, asking.id, hashed(body.new, asking.name), keep=asking.holder.credential)
    return _signed_in(asking.id)


@api.get("/invitation", responses={200: Invited})
def read_invitation(query: InvitationQuery) -> Response:
    """Whom an invitation is for."""
    found = credentials.holder_of(state().database, query.invitation, "invitation")
    if found is None:
        raise _no_invitation()
    return answered(Invited(name=found.name))


@api.post("/join", responses={200: Me})
def join(body: JoinOrder) -> Response:
    """Take an invitation: choose a password and be signed in. An invitation is taken once."""
    database = state().database
    found = credentials.holder_of(database, body.invitation, "invitation")
    if found is None:
        raise _no_invitation()
    kept = hashed(body.password, found.name)
    if credentials.spend(database, body.invitation, "invitation") is None:
        raise _no_invitation()
    store.set_password(database, found.id, kept)
    return _signed_in(found.id)


def _no_invitation() -> UmbraxError:
    return gone("no-invitation", "this invitation was used, or is older than a week; ask for a new one")


def enter(secret: str) -> Response:
    """The address that `bin/start` prints: signs whoever looks after the server in, once, and from this computer alone."""
    if request.method != "HEAD" and _from_here():
        person = credentials.spend(state().database, secret, "entry")
        if person is not None:
            begin_session(person)
            return _to("/")
    return _to("/?entry=used")


def _to(path: str) -> Response:
    answer: Response = redirect(path, 303)  # type: ignore[assignment]
    answer.headers["Cache-Control"] = "no-store"
    return answer


def _from_here() -> bool:
    """Whether the request comes from this computer, and asked for it by such a name: a proxy in front would also come from here."""
    try:
        return ip_address(request.remote_addr or "").is_loopback and without_port(urlsplit(f"//{request.host}").netloc) in LOOPBACK
    except ValueError:
        return False
