"""Shots, and edits on them."""

from datetime import datetime
from typing import Any

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.core.document.bakes import bake_sources
from umbrax.core.document.edits import Edit, plain_data
from umbrax.core.document.open_findings import open_findings
from umbrax.core.document.shot import Shot
from umbrax.core.document.timing import keyed_frames
from umbrax.core.errors import UmbraxError
from umbrax.store import checkups
from umbrax.store import shots as store
from umbrax.store.people import Role

from .ordering import order_if_changed
from .people.identity import who
from .state import state

api = APIBlueprint("shots", __name__, url_prefix="/api", abp_tags=[Tag(name="shots")])


class ShotPath(BaseModel):
    shot_id: int = Field(description="number of the shot")


class ShotSummary(BaseModel):
    """A shot on the home screen."""

    id: int
    name: str
    show: str
    revision: int
    first: int
    last: int
    fps: float
    width: int
    height: int
    cards: int
    changed_at: datetime
    changed_by: str | None
    poster: int
    problem: str | None = None
    findings: int = Field(description="warnings and errors of the last check-up")
    comments: int = Field(description="how many are open")
    sources: list[str] = Field(description="names and files of its sources, to be searched")


class ShotState(BaseModel):
    """A shot at its head: what the bench shows."""

    id: int
    show: str
    show_id: int
    role: Role = Field(description="what whoever asks may do in its show")
    name: str
    revision: int
    changed_by: str | None = Field(description="who made the revision at the head")
    can_undo: bool
    can_redo: bool
    command: str
    undo_command: str | None
    document: dict[str, Any]
    keyed: dict[str, list[int]] = Field(description="frames with keys, by card")
    keyed_mattes: dict[str, list[int]] = Field(description="frames with keys, by matte")


class Gesture(BaseModel):
    """One thing that somebody did to a shot as they saw it at revision `base`."""

    base: int
    command: str = Field("", max_length=200, description="what was done, in words")
    gesture: str = Field(min_length=1, max_length=100)
    tab: str = Field("", max_length=100)


class EditOrder(Gesture):
    """Edits made against revision `base`, as one gesture."""

    edits: list[Edit] = Field(min_length=1, max_length=500)
    command: str = Field(min_length=1, max_length=200, description="what was done, in words")


class MoveOrder(BaseModel):
    tab: str = ""
    force: bool = False


class Head(BaseModel):
    revision: int


def answered(model: BaseModel) -> Response:
    return Response(model.model_dump_json(by_alias=True), mimetype="application/json")


def shot_state(row: store.ShotRow) -> ShotState:
    shot = state().shot(row.id, row.head)
    cards = {card.id: sorted(keyed_frames(card)) for card in shot.cards()}
    mattes = {name: sorted(keyed_frames(matte)) for name, matte in shot.mattes.items()}
    return ShotState(
        id=row.id, show=row.show, show_id=row.show_id, role=who().role(row.show_id) or "look", name=row.name, revision=row.head,
        changed_by=row.changed_by, can_undo=row.parent is not None,
        can_redo=row.redo is not None, command=row.command, undo_command=row.command if row.parent is not None else None,
        document=plain_data(shot), keyed={card: frames for card, frames in cards.items() if frames},
        keyed_mattes={matte: frames for matte, frames in mattes.items() if frames},
    )  # fmt: skip


class Health(BaseModel):
    """That the server and its database answer."""

    well: bool = True


@api.get("/health", responses={200: Health})
def health() -> Response:
    """Whether the server and its database answer; says no more, to anybody."""
    with state().database.transaction() as connection:
        connection.execute("select 1")
    return answered(Health())


def summary_of(row: store.ShotRow, checked: checkups.CheckupRow | None, comments: int) -> ShotSummary:
    """A shot that cannot be read is told of in its place, and takes no other with it."""
    try:
        facts = state().facts(row.id, row.head, "layout", _facts)
        found = state().facts(row.id, row.head, checked.changed_at, lambda shot: _found(shot, checked)) if checked else 0
    except UmbraxError as error:
        if error.code == "no-database":
            raise
        facts, found = _unread(f"this shot cannot be read: {error.message}"), 0
    return ShotSummary(
        **facts, id=row.id, name=row.name, show=row.show, revision=row.head, changed_at=row.changed_at, changed_by=row.changed_by,
        comments=comments, findings=found,
    )  # fmt: skip


def _facts(shot: Shot) -> dict[str, Any]:
    """What the home screen shows of a document."""
    layout, baked = shot.format, bake_sources(shot)
    return {
        "first": layout.first, "last": layout.last, "width": layout.width, "height": layout.height, "poster": layout.first,
        "fps": layout.rate, "cards": len(shot.build),
        "sources": [text for name, source in shot.sources.items() if name not in baked for text in (name, source.path)],
    }  # fmt: skip


def _found(shot: Shot, checked: checkups.CheckupRow) -> int:
    """How many warnings and errors of a check-up are open."""
    return sum(finding.get("severity") != "note" for finding in open_findings(shot, checked.findings))


def _unread(problem: str) -> dict[str, Any]:
    return dict.fromkeys(("first", "last", "width", "height", "poster", "fps", "cards"), 0) | {"sources": [], "problem": problem}


@api.get("/shots/<int:shot_id>", responses={200: ShotState})
def get_shot(path: ShotPath) -> Response:
    """A shot at its head."""
    return answered(shot_state(store.get_shot(state().database, path.shot_id)))


@api.get("/shots/<int:shot_id>/head", responses={200: Head})
def get_head(path: ShotPath) -> Response:
    """The number of the head only: asked often, to notice what other tabs do."""
    return answered(Head(revision=store.get_shot(state().database, path.shot_id).head))


@api.post("/shots/<int:shot_id>/edits", responses={200: ShotState})
def edit_shot(path: ShotPath, body: EditOrder) -> Response:
    """Apply edits on top of the head; 409 with what changed where they meet another tab's."""
    return edited(path.shot_id, body, body.edits)


def edited(shot_id: int, body: Gesture, changes: list[Edit]) -> Response:
    """The shot after a gesture."""
    row = store.edit_shot(state().database, shot_id, body.base, changes, command=body.command, gesture=body.gesture, tab=body.tab)
    return moved(row)


def moved(row: store.ShotRow) -> Response:
    """The shot at its new head; what changed of its sources is looked through."""
    order_if_changed(row.id, row.head)
    return answered(shot_state(row))


@api.post("/shots/<int:shot_id>/undo", responses={200: ShotState})
def undo(path: ShotPath, body: MoveOrder) -> Response:
    """Go back one gesture."""
    return moved(store.move_head(state().database, path.shot_id, "undo", tab=body.tab, force=body.force))


@api.post("/shots/<int:shot_id>/redo", responses={200: ShotState})
def redo(path: ShotPath, body: MoveOrder) -> Response:
    """Go forward again on the newest branch."""
    return moved(store.move_head(state().database, path.shot_id, "redo", tab=body.tab, force=body.force))
