"""Joins as a document names them."""

from collections.abc import Callable
from typing import Annotated

from pydantic import BeforeValidator, Field

from ..joins import JOINS, BlendIn
from ..registry import unknown


def _one_of(kinds: list[str]) -> Callable[[str], str]:
    def check(value: str) -> str:
        kind = JOINS.canonical(value)
        if kind not in kinds:
            raise ValueError(unknown("join", value, kinds))
        return kind

    return check


__all__ = ["BlendIn", "JoinKind", "LayingJoin", "LightJoin"]
LAYING = [join.kind for join in JOINS if join.lays]
LIGHT = ["over", "plus", "screen"]
JoinKind = Annotated[str, BeforeValidator(_one_of(JOINS.kinds())), Field(json_schema_extra={"enum": JOINS.kinds()})]
LayingJoin = Annotated[str, BeforeValidator(_one_of(LAYING)), Field(json_schema_extra={"enum": LAYING})]
LightJoin = Annotated[str, BeforeValidator(_one_of(LIGHT)), Field(json_schema_extra={"enum": LIGHT})]  # by which light is laid on
