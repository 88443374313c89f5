"""Scopes of what is looked at, and the gestures that measure a place: make this like that, grain of a patch."""

from typing import Any, Literal

import numpy as np
from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from numpy.typing import NDArray
from pydantic import BaseModel, Field

from umbrax.core.colour import luma_of
from umbrax.core.document.edits import Edit
from umbrax.core.measuring.grain import grain_of
from umbrax.core.measuring.matching import average, matching_slope
from umbrax.core.measuring.scopes import scopes
from umbrax.core.picture import Window
from umbrax.render.engine import Want

from .looks import LookOrder, compute, tried
from .shots import ShotPath, answered
from .state import state

api = APIBlueprint("scopes", __name__, url_prefix="/api", abp_tags=[Tag(name="looks")])


class ScopeOrder(LookOrder):
    """What is looked at; `matte` counts only what that holds of it."""

    matte: str | None = None


class ScopeData(BaseModel):
    """Counts as parts of the largest of their kind, 0 to 255. `waveform` is row after row from the top, red, green, blue; `chroma` from
    the top, over CIE 1931 x 0 to 0.8 and y 0 to 0.9."""

    histogram: list[list[int]]
    waveform: list[list[list[int]]]
    chroma: list[list[int]]
    mean: tuple[float, float, float]
    below: float
    above: float


@api.post("/shots/<int:shot_id>/scopes", responses={200: ScopeData})
def scopes_of(path: ShotPath, body: ScopeOrder) -> Response:
    """Histogram, waveform and chromaticity of the visible region of what is looked at."""
    shared = state()
    shot = tried(path.shot_id, body.revision, body.overrides)
    whole = shot.format.display
    window = (whole if body.window is None else Window(*body.window).intersect(whole)).scaled(body.scale)
    if window.empty:
        return Response(status=204)
    with shared.gate.enter(body.viewer, body.sequence, "thumbnail") as ticket:
        pixels = compute(path.shot_id, shot, body, body.frame, window, body.scale, ticket).picture.pixels
        weight = None
        if body.matte is not None:
            want = Want("matte", name=shot.matte(body.matte))
            made = shared.engine.make(shot, shared.roots(path.shot_id), body.frame, want, window=window, scale=body.scale, keep_going=True)
            weight = made.picture.pixels[..., :1]
    if pixels.shape[2] < 4:
        pixels = np.concatenate([np.repeat(pixels[..., :1], 3, axis=2), np.ones_like(pixels[..., :1])], axis=2)
    found = scopes(np.nan_to_num(pixels, nan=0.0, posinf=0.0, neginf=0.0), weight, working=shot.colour.working)
    return answered(
        ScopeData(
            histogram=_parts(np.sqrt(found.histogram)), waveform=_parts(np.sqrt(found.waveform)[:, ::-1]),
            chroma=_parts(np.sqrt(found.chroma)[::-1]), mean=found.mean, below=found.below, above=found.above,
        )
    )  # fmt: skip


def _parts(counts: NDArray[np.float32]) -> Any:
    return np.rint(counts / max(float(counts.max(initial=0)), 1e-12) * 255).astype(int).tolist()


class PatchOrder(BaseModel):
    """What is measured of the picture so far after a card."""

    revision: int
    frame: int
    card: str | None = None
    overrides: list[Edit] = Field(default_factory=list)


class MatchOrder(PatchOrder):
    """Two places; what makes the first like the second is a slope for a grade of the card."""

    here: tuple[int, int]
    there: tuple[int, int]
    radius: int = Field(6, ge=0, le=200)
    how: Literal["neutral", "whole"] = "neutral"


class MatchData(BaseModel):
    here: tuple[float, float, float]
    there: tuple[float, float, float]
    slope: tuple[float, float, float]


@api.post("/shots/<int:shot_id>/match", responses={200: MatchData})
def match(path: ShotPath, body: MatchOrder) -> Response:
    """The slope that takes the average of one place to that of another."""
    working = state().shot(path.shot_id, body.revision).colour.working
    here, there = (average(_patch(path.shot_id, body, place, body.radius)) for place in (body.here, body.there))
    return answered(MatchData(here=here, there=there, slope=matching_slope(here, there, body.how, luma_of(working))))


class GrainOrder(PatchOrder):
    at: tuple[int, int]
    radius: int = Field(32, ge=12, le=200)


class GrainData(BaseModel):
    size: float
    strength: float


@api.post("/shots/<int:shot_id>/grain", responses={200: GrainData})
def grain(path: ShotPath, body: GrainOrder) -> Response:
    """Size and strength of the grain of a patch."""
    size, strength = grain_of(_patch(path.shot_id, body, body.at, body.radius))
    return answered(GrainData(size=size, strength=strength))


def _patch(shot_id: int, body: PatchOrder, place: tuple[int, int], radius: int) -> NDArray[np.float32]:
    """The pixels around a place of the picture so far after a card."""
    shared = state()
    shot = shared.shot(shot_id, body.revision, body.overrides)
    x, y = place
    around = Window(x - radius, y - radius, x + radius + 1, y + radius + 1).intersect(shot.format.display)
    with shared.gate.enter("", 0, "look") as ticket:
        want = Want("picture", card=body.card)
        return shared.engine.make(shot, shared.roots(shot_id), body.frame, want, window=around, watch=ticket.watch).picture.pixels
