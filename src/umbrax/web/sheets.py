"""Whole trays as one picture: every pass of a frame, or every matte, side by side in the order of the contents."""

import hashlib
import json
from contextlib import suppress
from typing import Literal

import cv2
import numpy as np
from flask import request
from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from numpy.typing import NDArray
from pydantic import BaseModel

from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Window
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.plan.times import shown_at
from umbrax.media.reader import MediaReader
from umbrax.render.engine import coverage_step

from . import encoding
from .gate import Ticket
from .looks import LookedAt, codes_of, compute
from .shots import ShotPath
from .state import state

api = APIBlueprint("sheets", __name__, url_prefix="/api", abp_tags=[Tag(name="looks")])
COLUMNS = 6
WIDEST = 200
CLOSEST = 4  # times, for mattes of something small
SEEN = 24  # of 255: what shows in a small picture
NOTHING_THERE = (30, 92)  # codes of a crossed out tile and of its lines
Part = Literal["passes", "mattes"]


class SheetQuery(BaseModel):
    """`key` is what the contents gave: the picture at an address never changes."""

    revision: int
    frame: int
    part: Part
    key: str


def tiles(shot: Shot, reader: MediaReader, frame: int, part: Part) -> list[LookedAt]:
    """What each tile looks at, row by row."""
    if part == "mattes":
        return [LookedAt(kind="matte", name=name) for name in shot.mattes]
    found = []
    for source in shot.sources:
        try:
            info = reader.describe(source, shown_at(shot, source, frame))
        except UmbraxError:
            continue
        found += [LookedAt(kind="pass", source=source, name=name) for name in info.passes]
        found += [LookedAt(kind="ids", source=source, name=name) for name in info.ids]
    return found


def sheet_key(shot: Shot, reader: MediaReader, frame: int, part: Part) -> str:
    """What the sheet's pixels depend on; it stays the same over edits that do not touch it."""
    identities = []
    for source in shot.sources:
        try:
            identities.append([source, reader.describe(source, shown_at(shot, source, frame)).identity])
        except UmbraxError as error:
            identities.append([source, error.code])
    mattes = {name: matte.model_dump(mode="json") for name, matte in shot.mattes.items()} if part == "mattes" else None
    # numbers of a matte may be keyed; CLOSEST says how tiles are drawn
    told = [
        CLOSEST, identities, mattes, frame if part == "mattes" else None, shot.colour.view, shot.colour.working,
        shot.format.width, shot.format.height,
    ]  # fmt: skip
    return hashlib.sha256(json.dumps(told, sort_keys=True).encode()).hexdigest()[:24]


def tile_scale(shot: Shot) -> int:
    return next((n for n in (1, 2, 4) if shot.format.width <= n * WIDEST), 8)


def close_up(codes: NDArray[np.uint8], window: Window, scale: int, whole: Window) -> tuple[Window, int] | None:
    """Where to look instead at a tile with something small in it, and at which finer scale; None if it is seen well as it is.

    The new window has as many pixels as the old one and lies within the frame; `whole` is the frame at full size.
    """
    lit = codes.max(axis=2) > SEEN
    ys, xs = np.flatnonzero(lit.any(axis=1)), np.flatnonzero(lit.any(axis=0))
    if not len(ys):
        return None
    box = Window(int(xs[0]), int(ys[0]), int(xs[-1]) + 1, int(ys[-1]) + 1).grown(1)
    room = min(window.width / box.width, window.height / box.height, CLOSEST, scale)
    times = 4 if room >= 4 else 2 if room >= 2 else 1
    if times == 1:
        return None
    frame = whole.scaled(scale // times)
    x0, y0 = (
        min(max(round((first + (low + high) / 2) * times - size / 2), least), most - size)
        for first, low, high, size, least, most in (
            (window.x0, box.x0, box.x1, window.width, frame.x0, frame.x1),
            (window.y0, box.y0, box.y1, window.height, frame.y0, frame.y1),
        )
    )
    return Window(x0, y0, x0 + window.width, y0 + window.height), scale // times


def _seen(shot_id: int, shot: Shot, look: LookedAt, frame: int, window: Window, scale: int, ticket: Ticket) -> NDArray[np.uint8]:
    return codes_of(shot_id, shot, look, frame, compute(shot_id, shot, look, frame, window, scale, ticket).picture)


def _crossed_out(window: Window) -> NDArray[np.uint8]:
    """A tile of which there is no picture."""
    tile = np.full((window.height, window.width, 3), NOTHING_THERE[0], np.uint8)
    right, bottom = window.width - 1, window.height - 1
    for ends in (((0, 0), (right, bottom)), ((0, bottom), (right, 0))):
        cv2.line(tile, *ends, (NOTHING_THERE[1],) * 3, 1, cv2.LINE_AA)
    return tile


@api.get("/shots/<int:shot_id>/sheet")
def sheet(path: ShotPath, query: SheetQuery) -> Response:
    """One JPEG with six tiles a row; a tile that cannot be made is crossed out, and its sheet is not kept."""
    if query.key in request.if_none_match:
        return Response(status=304)
    shared = state()
    shot = shared.shot(path.shot_id, query.revision)
    reader = shared.reader(path.shot_id, shot)
    wanted, scale = tiles(shot, reader, query.frame, query.part), tile_scale(shot)
    window = shot.format.display.scaled(scale)
    ticket = shared.gate.ticket("", 0, "thumbnail")
    if query.part == "mattes":
        # one that cannot be pulled keeps the others from being pulled at once, not from being shown
        with shared.gate.turn(ticket), suppress(UmbraxError):
            planner = ShotPlanner(shot, query.frame, reader)
            shared.engine.pull([coverage_step(planner, matte, scale) for matte in shot.mattes], window, ticket.watch)
    rows = max(1, -(-len(wanted) // COLUMNS))
    whole: NDArray[np.uint8] = np.zeros((rows * window.height, COLUMNS * window.width, 3), np.uint8)
    lacking = False
    for number, look in enumerate(wanted):
        row, column = divmod(number, COLUMNS)
        place = whole[row * window.height : (row + 1) * window.height, column * window.width : (column + 1) * window.width]
        # looks may pass between two tiles
        with shared.gate.turn(ticket):
            try:
                place[:] = _seen(path.shot_id, shot, look, query.frame, window, scale, ticket)
                if query.part == "mattes" and (closer := close_up(place, window, scale, shot.format.display)):
                    place[:] = _seen(path.shot_id, shot, look, query.frame, *closer, ticket)
            except UmbraxError:
                place[:] = _crossed_out(window)
                lacking = True
    response = Response(encoding.jpeg(whole, 88), mimetype="image/jpeg", headers={"X-Columns": str(COLUMNS), "X-Rows": str(rows)})
    if lacking:
        response.cache_control.no_store = True
    else:
        response.set_etag(query.key)
        response.cache_control.max_age = 86400
        response.cache_control.private = True
    return response
