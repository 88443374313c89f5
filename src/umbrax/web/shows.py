"""Shows, and keeping their shots in order: new shows, names, moving, deleting and bringing back, and the demo."""

from datetime import datetime
from typing import Annotated

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field, StringConstraints

from umbrax.core.errors import UmbraxError
from umbrax.standin.demo import SHOW
from umbrax.store import checkups, comments
from umbrax.store import shots as shots_store
from umbrax.store import shows as store
from umbrax.store.people import Role

from .demo_show import bring_back
from .people.identity import know_again, who
from .people.rights import require
from .shots import ShotPath, ShotSummary, answered, summary_of
from .state import state

api = APIBlueprint("shows", __name__, url_prefix="/api", abp_tags=[Tag(name="shows")])
Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=120)]


class ShowPath(BaseModel):
    show_id: int = Field(description="number of the show")


class ShowSummary(BaseModel):
    id: int
    name: str
    role: Role = Field(description="what whoever asks may do in it")
    sources: int = Field(description="different files and sequences that its shots use")
    shots: list[ShotSummary]


class DeletedData(BaseModel):
    """A show, or a shot where it has a number, that can be brought back."""

    show_id: int
    show: str
    shot_id: int | None
    shot: str | None
    deleted_at: datetime


class ShowList(BaseModel):
    shows: list[ShowSummary]
    deleted: list[DeletedData]
    demo: str = Field(description="the name of the demo's show")


class NameOrder(BaseModel):
    name: Name


class MoveShotOrder(BaseModel):
    show_id: int


def _list() -> Response:
    shared, asking = state(), who()
    rows = shots_store.list_shots(shared.database)
    checked, said = checkups.list_checkups(shared.database), comments.count_open(shared.database)
    shows = []
    for show in store.list_shows(shared.database):
        role = asking.role(show.id)
        if role is None:
            continue
        shots = [summary_of(row, checked.get(row.id), said.get(row.id, 0)) for row in rows if row.show_id == show.id]
        files = {text for shot in shots for text in shot.sources[1::2]}
        shows.append(ShowSummary(id=show.id, name=show.name, role=role, sources=len(files), shots=shots))
    deleted = [DeletedData(**vars(row)) for row in store.list_deleted(shared.database) if asking.may("own", row.show_id)]
    return answered(ShowList(shows=shows, deleted=deleted, demo=SHOW))


@api.get("/shows", responses={200: ShowList})
def list_shows() -> Response:
    """The shows that whoever asks may look at, with their shots, and what they may bring back."""
    return _list()


@api.post("/shows", responses={200: ShowList})
def add_show(body: NameOrder) -> Response:
    """Make an empty show, owned by whoever makes it; what is dropped into it lies with the uploads."""
    uploads = state().settings.uploads
    uploads.mkdir(parents=True, exist_ok=True)
    store.add_show(state().database, body.name, str(uploads.resolve()))
    know_again()
    return _list()


@api.post("/shows/<int:show_id>/name", responses={200: ShowList})
def rename_show(path: ShowPath, body: NameOrder) -> Response:
    """Give a show another name."""
    store.rename_show(state().database, path.show_id, body.name)
    return _list()


@api.post("/shows/<int:show_id>/delete", responses={200: ShowList})
def delete_show(path: ShowPath) -> Response:
    """Take a show with its shots out of sight; it can be brought back."""
    store.delete_show(state().database, path.show_id)
    return _list()


@api.post("/shows/<int:show_id>/restore", responses={200: ShowList})
def restore_show(path: ShowPath) -> Response:
    """Bring a deleted show back."""
    store.restore_show(state().database, path.show_id)
    return _list()


@api.post("/shots/<int:shot_id>/delete", responses={200: ShowList})
def delete_shot(path: ShotPath) -> Response:
    """Take a shot out of sight; it can be brought back as it was."""
    store.delete_shot(state().database, path.shot_id)
    return _list()


@api.post("/shots/<int:shot_id>/restore", responses={200: ShowList})
def restore_shot(path: ShotPath) -> Response:
    """Bring a deleted shot back."""
    store.restore_shot(state().database, path.shot_id)
    return _list()


@api.post("/shots/<int:shot_id>/move", responses={200: ShowList})
def move_shot(path: ShotPath, body: MoveShotOrder) -> Response:
    """Put a shot into another show; it takes an owner of both."""
    require(who(), body.show_id, "own")
    store.move_shot(state().database, path.shot_id, body.show_id)
    return _list()


@api.post("/demo", responses={200: ShowList})
def bring_in_demo() -> Response:
    """Bring the demo show in, or back."""
    demo = state().settings.demo
    if not (demo / "station").is_dir():
        raise UmbraxError("no-demo", "the demo is not on this computer; run bin/start once, which prepares it")
    bring_back(state().database, str(demo.resolve()))
    return _list()
