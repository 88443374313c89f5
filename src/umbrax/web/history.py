"""The history of a shot: its revisions, and going back to one."""

from datetime import datetime

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.store import shots as store

from .shots import ShotPath, ShotState, answered, moved
from .state import state

api = APIBlueprint("history", __name__, url_prefix="/api", abp_tags=[Tag(name="shots")])
MOST = 100


class RevisionsQuery(BaseModel):
    before: int | None = Field(None, ge=1, le=2_147_483_647, description="only those before this one")
    limit: int = Field(50, ge=1, le=MOST)


class RevisionData(BaseModel):
    """One step that somebody made."""

    number: int
    command: str
    created_at: datetime
    made_by: str | None
    kept: bool = Field(description="it led to what the shot is now; the others were undone")


class RevisionList(BaseModel):
    revisions: list[RevisionData]


class BackOrder(BaseModel):
    """Going back to what a shot was, as it is seen at revision `base`."""

    base: int
    number: int
    gesture: str = Field(min_length=1, max_length=100)
    tab: str = Field("", max_length=100)


@api.get("/shots/<int:shot_id>/revisions", responses={200: RevisionList})
def list_revisions(path: ShotPath, query: RevisionsQuery) -> Response:
    """The steps of a shot, newest first."""
    rows = store.list_revisions(state().database, path.shot_id, query.before, query.limit)
    return answered(
        RevisionList(
            revisions=[
                RevisionData(number=row.number, command=row.command, created_at=row.created_at, made_by=row.made_by, kept=row.kept)
                for row in rows
            ]
        )
    )


@api.post("/shots/<int:shot_id>/back", responses={200: ShotState})
def go_back(path: ShotPath, body: BackOrder) -> Response:
    """Make a shot what it was at a revision: a new revision, one undo."""
    return moved(store.go_back(state().database, path.shot_id, body.base, body.number, gesture=body.gesture, tab=body.tab))
