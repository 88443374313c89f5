"""Comments on a shot: whoever may look may say something, and whoever works on it resolves it."""

from datetime import datetime
from typing import Annotated

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field, StringConstraints, model_validator

from umbrax.core.errors import UmbraxError
from umbrax.store import comments as store
from umbrax.store.shots import get_shot

from .people.identity import who
from .people.rights import forbidden, may_here
from .shots import ShotPath, answered
from .state import state

api = APIBlueprint("comments", __name__, url_prefix="/api", abp_tags=[Tag(name="comments")])
Text = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=4000)]


class CommentPath(ShotPath):
    comment_id: int


class PointData(BaseModel):
    """A point in pixels of the shot at full size, from its top left corner."""

    x: float
    y: float


class TextOrder(BaseModel):
    text: Text


class CommentOrder(TextOrder):
    """Something said of the shot, of a frame, or of a point of a frame, as of the revision that was looked at."""

    revision: int
    frame: int | None = None
    point: PointData | None = None

    @model_validator(mode="after")
    def _a_point_lies_on_a_frame(self) -> "CommentOrder":
        if self.point is not None and self.frame is None:
            raise ValueError("a point is one of a frame; name the frame as well")
        return self


class AnswerOrder(TextOrder):
    revision: int


class ResolveOrder(BaseModel):
    resolved: bool


class AnswerData(BaseModel):
    id: int
    person: str | None
    mine: bool
    text: str
    revision: int
    created_at: datetime
    changed_at: datetime | None


class CommentData(AnswerData):
    """A comment with its answers; open until it is resolved."""

    frame: int | None
    point: PointData | None
    resolved_at: datetime | None
    resolved_by: str | None
    resolved_in: int | None = Field(description="the revision at the head when it was resolved")
    answers: list[AnswerData]


class CommentList(BaseModel):
    """Oldest first. `may_resolve`: whether whoever asks may resolve those of others."""

    comments: list[CommentData]
    may_resolve: bool
    may_delete: bool


def _listed(shot_id: int) -> Response:
    rows = store.list_comments(state().database, shot_id)
    answers: dict[int, list[AnswerData]] = {}
    for row in rows:
        if row.answers is not None:
            answers.setdefault(row.answers, []).append(AnswerData(**_common(row)))
    found = [
        CommentData(
            **_common(row), frame=row.frame, point=PointData(x=row.x, y=row.y) if row.x is not None and row.y is not None else None,
            resolved_at=row.resolved_at, resolved_by=row.resolved_by, resolved_in=row.resolved_in, answers=answers.get(row.id, []),
        )
        for row in rows if row.answers is None
    ]  # fmt: skip
    return answered(CommentList(comments=found, may_resolve=may_here("work"), may_delete=may_here("own")))


def _common(row: store.CommentRow) -> dict[str, object]:
    told = {key: getattr(row, key) for key in ("id", "person", "text", "revision", "created_at", "changed_at")}
    return told | {"mine": row.person_id == who().id}


@api.get("/shots/<int:shot_id>/comments", responses={200: CommentList})
def list_comments(path: ShotPath) -> Response:
    """The comments on a shot with their answers."""
    get_shot(state().database, path.shot_id)
    return _listed(path.shot_id)


@api.post("/shots/<int:shot_id>/comments", responses={200: CommentList})
def add_comment(path: ShotPath, body: CommentOrder) -> Response:
    """Say something of the shot, of a frame, or of a point of a frame."""
    layout = state().shot(path.shot_id, body.revision).format
    if body.frame is not None and not layout.first <= body.frame <= layout.last:
        raise UmbraxError("bad-frame", f"expected a frame from {layout.first} to {layout.last}, got {body.frame}")
    point = None if body.point is None else (body.point.x, body.point.y)
    if point is not None and not (0 <= point[0] <= layout.width and 0 <= point[1] <= layout.height):
        raise UmbraxError("bad-point", f"expected a point inside the picture of {layout.width} x {layout.height} pixels, got {point}")
    store.add_comment(state().database, path.shot_id, body.text, body.revision, frame=body.frame, point=point)
    return _listed(path.shot_id)


@api.post("/shots/<int:shot_id>/comments/<int:comment_id>/answers", responses={200: CommentList})
def answer_comment(path: CommentPath, body: AnswerOrder) -> Response:
    """Answer a comment."""
    state().shot(path.shot_id, body.revision)
    store.add_answer(state().database, path.shot_id, path.comment_id, body.text, body.revision)
    return _listed(path.shot_id)


@api.post("/shots/<int:shot_id>/comments/<int:comment_id>/resolved", responses={200: CommentList})
def resolve_comment(path: CommentPath, body: ResolveOrder) -> Response:
    """Resolve a comment, or open it again: whoever works on the shot, or wrote it."""
    if not _mine(path) and not may_here("work"):
        raise forbidden("only those who work on the shot, or wrote the comment, resolve it")
    store.set_resolved(state().database, path.shot_id, path.comment_id, body.resolved)
    return _listed(path.shot_id)


@api.post("/shots/<int:shot_id>/comments/<int:comment_id>/text", responses={200: CommentList})
def change_comment(path: CommentPath, body: TextOrder) -> Response:
    """Say it in other words: only whoever said it."""
    if not _mine(path):
        raise forbidden("only whoever wrote a comment changes its words; answer it instead")
    store.set_text(state().database, path.shot_id, path.comment_id, body.text)
    return _listed(path.shot_id)


@api.delete("/shots/<int:shot_id>/comments/<int:comment_id>", responses={200: CommentList})
def delete_comment(path: CommentPath) -> Response:
    """Take a comment away with its answers: whoever wrote it, or owns the show."""
    if not _mine(path) and not may_here("own"):
        raise forbidden("only whoever wrote a comment, or owns the show, deletes it; resolve it instead")
    store.delete_comment(state().database, path.shot_id, path.comment_id)
    return _listed(path.shot_id)


def _mine(path: CommentPath) -> bool:
    return store.get_comment(state().database, path.shot_id, path.comment_id).person_id == who().id
