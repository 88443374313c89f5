"""Looking: the preview protocol, thumbnails, frames for play, and exact values."""

import hashlib
import json
from dataclasses import replace
from typing import Any, Literal

import numpy as np
from flask import request
from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from numpy.typing import NDArray
from pydantic import BaseModel, Field

from umbrax.core.colour import WORKING, in_space
from umbrax.core.document.edits import Edit
from umbrax.core.document.shot import Shot
from umbrax.core.document.words import named
from umbrax.core.errors import UmbraxError, Where
from umbrax.core.measuring.difference import difference
from umbrax.core.picture import Picture, Window
from umbrax.core.pictures.data_values import usual_span
from umbrax.core.plan.reader import PICTURE_KINDS
from umbrax.core.plan.times import shown_at
from umbrax.core.views import View
from umbrax.render.engine import SCALES, Kind, Looked, Want, statistics
from umbrax.render.grounds import Ground

from . import encoding
from .gate import Ticket
from .people.rights import require_here
from .shots import ShotPath, answered
from .state import state
from .telling import without_folders

SHOWN_AS_THEY_ARE = ("rgb_matte", "single_matte", "coverage")  # kinds of passes that are neither light nor data
NO_LIGHT = ("ids", "matte", "edges", "leaks", "sum")  # looks that are made for the eye, and through no view
api = APIBlueprint("looks", __name__, url_prefix="/api", abp_tags=[Tag(name="looks")])


class LookedAt(BaseModel):
    """What is looked at."""

    kind: Kind = "picture"
    card: str | None = None
    source: str | None = None
    name: str | None = None
    names: list[str] = Field(default_factory=list, max_length=64, description="the mattes of a sum")
    at: tuple[int, int] | None = Field(None, description="a point of the part whose leaks are shown")
    without: str | None = Field(None, description="a treatment that is left out")
    off: str | None = Field(None, description="a card that is switched off")
    ground: Ground = "black"

    def want(self) -> Want:
        told = self.model_dump(include={"kind", "card", "source", "name", "at", "without", "off", "ground"})
        return Want(**told, names=tuple(self.names))


class Other(LookedAt):
    """What a picture is compared with: of another revision, or of the same one with its unsaved edits."""

    revision: int | None = None


class LookOrder(LookedAt):
    """One look of a viewer; a newer sequence number overtakes an older one."""

    revision: int
    frame: int
    scale: Literal[1, 2, 4, 8] = 1
    window: tuple[int, int, int, int] | None = Field(None, description="x0, y0, x1, y1 at full size")
    viewer: str = ""
    sequence: int = 0
    priority: Literal["look", "refine", "thumbnail", "prefetch"] = "look"
    exposure: float = Field(0.0, ge=-20, le=20)
    channel: encoding.Channel = "colour"
    format: Literal["jpeg", "png"] = "jpeg"
    overrides: list[Edit] = Field(default_factory=list)
    less: Other | None = Field(None, description="show how far this is from it: the difference of light, of each channel")


class ThumbQuery(LookedAt):
    """A small picture at an address that never changes its meaning."""

    revision: int
    frame: int
    scale: int = Field(8, description="1, 2, 4 or 8")
    exposure: float = Field(0.0, ge=-20, le=20)
    channel: encoding.Channel = "colour"
    priority: Literal["thumbnail", "prefetch"] = "thumbnail"
    low: float | None = Field(None, description="of data: the value shown black")
    high: float | None = Field(None, description="of data: the value shown white")


class SpanQuery(BaseModel):
    revision: int
    frame: int
    source: str
    name: str


class SpanData(BaseModel):
    """Which values a pass holds: `low` to `high` nearly all, `least` to `most` all, `counts` how many in each part of that."""

    low: float
    high: float
    least: float
    most: float
    nothing: float = Field(description="the share of pixels without a value, such as depth where nothing stands")
    counts: list[int]


class ProbeOrder(LookedAt):
    """Values around a full-size pixel of what is looked at."""

    revision: int
    frame: int
    x: int
    y: int
    radius: int = Field(4, ge=0, le=16)
    exposure: float = Field(0.0, ge=-20, le=20)


class Probe(BaseModel):
    """`value` are true floats; `pixels` sRGB codes of the surroundings, row by row, for the enlarged look."""

    x: int
    y: int
    inside: bool
    value: list[float | None]
    channels: list[str]
    size: int
    pixels: list[list[int]]


def compute(shot_id: int, shot: Shot, order: LookedAt, frame: int, window: Window | None, scale: int, ticket: Ticket | None) -> Looked:
    extra: dict[str, Any] = {} if ticket is None else {"watch": ticket.watch}
    return state().engine.make(shot, state().roots(shot_id), frame, order.want(), window=window, scale=scale, keep_going=True, **extra)


def _scaled_window(shot: Shot, window: tuple[int, int, int, int] | None, scale: int) -> Window:
    if scale not in SCALES:
        raise UmbraxError("bad-scale", f"cannot look at scale 1/{scale}; use 1, 2, 4 or 8")
    whole = shot.format.display
    wanted = whole if window is None else Window(*window).intersect(whole)
    return wanted.scaled(scale)


def _kind_of_pass(shot_id: int, shot: Shot, order: LookedAt, frame: int) -> str | None:
    """Of a pass that is looked at; None for any other look."""
    if order.kind != "pass" or order.source is None or order.name is None:
        return None
    info = state().reader(shot_id, shot).describe(order.source, shown_at(shot, order.source, frame))
    return info.find(order.name).kind


def codes_of(
    shot_id: int, shot: Shot, look: LookedAt, frame: int, picture: Picture, *,
    channel: encoding.Channel = "colour", exposure: float = 0.0, exact: bool = False, span: tuple[float, float] | None = None,
    plain: bool = False,
) -> NDArray[np.uint8]:  # fmt: skip
    """The 8-bit picture of a look, `uint8[h, w, 3]`, through the view of the shot; `plain`: by the sRGB curve, whatever that is."""
    kind = _kind_of_pass(shot_id, shot, look, frame)
    data = span is not None or not (kind is None or kind in SHOWN_AS_THEY_ARE or kind in PICTURE_KINDS)
    no_light = look.kind in NO_LIGHT or kind in SHOWN_AS_THEY_ARE
    view: View = "srgb" if plain or no_light else shot.colour.view
    working = WORKING if no_light else shot.colour.working
    return encoding.as_eight_bits(
        picture, channel, exposure, data=data, raw=look.kind == "matte", exact=exact, span=span, view=view, working=working
    )


def _headers(shot: Shot, looked: Looked, window: Window, scale: int) -> dict[str, str]:
    headers = {"X-Window": f"{window.x0},{window.y0},{window.x1},{window.y1}", "X-Scale": str(scale)}
    if looked.problems:
        card, error = next(iter(looked.problems.items()))
        more = f" (and {len(looked.problems) - 1} more)" if len(looked.problems) > 1 else ""
        text = f"{named(shot, Where(card=card)).card}: {without_folders(error.message)}{more}"
        headers["X-Problem"] = text.encode("ascii", "replace").decode()
    return headers


def tried(shot_id: int, revision: int, overrides: list[Edit]) -> Shot:
    """A revision with unsaved edits on top, which only those who work on the shot may try: an edit can name other files."""
    if overrides:
        require_here("work")
    return state().shot(shot_id, revision, overrides)


@api.post("/shots/<int:shot_id>/look")
def look(path: ShotPath, body: LookOrder) -> Response:
    """A window of a picture. 204 without work where a newer request of the same viewer has come."""
    shared = state()
    shot = tried(path.shot_id, body.revision, body.overrides)
    window = _scaled_window(shot, body.window, body.scale)
    if window.empty:
        return Response(status=204)
    with shared.gate.enter(body.viewer, body.sequence, body.priority) as ticket:
        looked = compute(path.shot_id, shot, body, body.frame, window, body.scale, ticket)
        shown = looked.picture
        if body.less is not None:
            than = shot if body.less.revision is None else shared.shot(path.shot_id, body.less.revision)
            other = compute(path.shot_id, than, body.less, body.frame, window, body.scale, ticket).picture
            pixels = in_space(other.pixels, than.colour.working, shot.colour.working)
            shown = difference(shown, replace(other, pixels=pixels))
        codes = codes_of(
            path.shot_id, shot, body, body.frame, shown,
            channel=body.channel, exposure=body.exposure, exact=body.format == "png", plain=body.less is not None,
        )  # fmt: skip
    data = encoding.png(codes) if body.format == "png" else encoding.jpeg(codes)
    return Response(data, mimetype=f"image/{body.format}", headers=_headers(shot, looked, window, body.scale))


@api.get("/shots/<int:shot_id>/thumb")
def thumb(path: ShotPath, query: ThumbQuery) -> Response:
    """A whole small picture, in the shape it has; a revision never changes, so browsers keep it."""
    tag = hashlib.sha256(request.full_path.encode()).hexdigest()[:32]
    if tag in request.if_none_match:
        return Response(status=304)
    shared = state()
    shot = shared.shot(path.shot_id, query.revision)
    window = _scaled_window(shot, None, query.scale)
    with shared.gate.enter("", 0, query.priority) as ticket:
        looked = compute(path.shot_id, shot, query, query.frame, window, query.scale, ticket)
        span = None if query.low is None or query.high is None else (query.low, query.high)
        codes = codes_of(path.shot_id, shot, query, query.frame, looked.picture, channel=query.channel, exposure=query.exposure, span=span)
    data = encoding.jpeg(encoding.in_shape(codes, shot.format.pixel_aspect), 88)
    response = Response(data, mimetype="image/jpeg", headers=_headers(shot, looked, window, query.scale))
    if not looked.problems:  # a missing file may come; what was computed whole stays true
        response.set_etag(tag)
        response.cache_control.max_age = 86400
        response.cache_control.private = True
    else:
        response.cache_control.no_store = True
    return response


@api.get("/shots/<int:shot_id>/span", responses={200: SpanData})
def span(path: ShotPath, query: SpanQuery) -> Response:
    """Which values a pass holds on a frame, for showing it over a sensible span."""
    shared = state()
    shot = shared.shot(path.shot_id, query.revision)
    look = LookedAt(kind="pass", source=query.source, name=query.name)
    with shared.gate.enter("", 0, "thumbnail") as ticket:
        picture = compute(path.shot_id, shot, look, query.frame, shot.format.display, 1, ticket).picture
        found = usual_span(picture.pixels[..., :3], bins=96)
    return answered(SpanData(**vars(found) | {"counts": list(found.counts)}))


@api.post("/shots/<int:shot_id>/probe", responses={200: Probe})
def probe(path: ShotPath, body: ProbeOrder) -> Response:
    """True values under the cursor and the pixels around it."""
    shared = state()
    shot = shared.shot(path.shot_id, body.revision)
    around = Window(body.x - body.radius, body.y - body.radius, body.x + body.radius + 1, body.y + body.radius + 1)
    inside = shot.format.display.contains(Window(body.x, body.y, body.x + 1, body.y + 1))
    with shared.gate.enter("", 0, "look") as ticket:
        picture = compute(path.shot_id, shot, body, body.frame, around, 1, ticket).picture
    here = picture.pixels[body.radius, body.radius]
    names = ["matte"] if body.kind == "matte" else ["red", "green", "blue", "alpha"][: picture.channels]
    codes = codes_of(path.shot_id, shot, body, body.frame, picture, exposure=body.exposure)
    return answered(
        Probe(
            x=body.x,
            y=body.y,
            inside=inside,
            value=[float(v) if np.isfinite(v) else None for v in here],
            channels=names,
            size=2 * body.radius + 1,
            pixels=codes.reshape(-1, 3).tolist(),
        )
    )


@api.get("/debug/engine")
def debug_engine() -> Response:
    """Counters of the cache and of computed steps, for people who look into speed."""
    return Response(json.dumps(statistics(state().engine)), mimetype="application/json")
