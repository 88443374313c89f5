"""Pictures that are one pass of a source: any pass, and plates."""

from typing import Literal

from pydantic import Field

from ..picture import Edge
from ..plan.steps import Planner, Step
from .base import PICTURES, PictureKind, PictureParams, as_rgba

RAW_MULTIPLIERS = ("shadow", "line", "occlusion")


class PassPicture(PictureParams):
    """One pass as it is."""

    kind: Literal["pass"]
    source: str
    pass_: str = Field("beauty", alias="pass", title="Pass")


class PlatePicture(PictureParams):
    """A background that was filmed or photographed: it fills the frame, and its border goes on outside."""

    kind: Literal["plate"]
    source: str


def _pass(planner: Planner, params: PassPicture, scale: int, join: str) -> Step:
    info = planner.source(params.source).find(params.pass_)
    edge: Edge = "one" if info.kind in RAW_MULTIPLIERS and join == "multiply" else "empty"
    return as_rgba(planner, params.source, info.name, scale, edge)


def _plate(planner: Planner, params: PlatePicture, scale: int, join: str) -> Step:
    info = planner.source(params.source)
    name = info.find("beauty").name if info.has("beauty") else next(iter(info.passes))
    return as_rgba(planner, params.source, name, scale, "empty" if info.find(name).has_alpha else "extend")


PICTURES.register(PictureKind("pass", "Pass", PassPicture, _pass, lambda params: (params.source,)))
PICTURES.register(PictureKind("plate", "Plate", PlatePicture, _plate, lambda params: (params.source,)))
