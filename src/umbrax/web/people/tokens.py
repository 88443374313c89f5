"""Tokens: what lets a program in as somebody, until they take it back."""

from datetime import datetime

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.store import credentials

from ..shots import answered
from ..shows import Name
from ..state import state
from .identity import who

api = APIBlueprint("tokens", __name__, url_prefix="/api", abp_tags=[Tag(name="people")])


class TokenPath(BaseModel):
    token_id: int


class TokenOrder(BaseModel):
    name: Name = Field(description="what it is for")


class TokenData(BaseModel):
    id: int
    name: str
    created_at: datetime
    used_at: datetime | None


class TokenList(BaseModel):
    """The tokens of whoever asks; `made`: the new one, told this once."""

    tokens: list[TokenData]
    made: str | None = None


def _listed(made: str | None = None) -> Response:
    rows = credentials.list_tokens(state().database, who().id)
    return answered(TokenList(tokens=[TokenData(**vars(row)) for row in rows], made=made))


@api.get("/tokens", responses={200: TokenList})
def list_tokens() -> Response:
    """The tokens of whoever asks."""
    return _listed()


@api.post("/tokens", responses={200: TokenList})
def make_token(body: TokenOrder) -> Response:
    """Make a token: sent as `Authorization: Bearer`, it may do what its person may."""
    return _listed(credentials.issue(state().database, who().id, "token", lasts=None, name=body.name))


@api.delete("/tokens/<int:token_id>", responses={200: TokenList})
def end_token(path: TokenPath) -> Response:
    """Take a token back."""
    credentials.end_token(state().database, who().id, path.token_id)
    return _listed()
