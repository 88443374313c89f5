"""Whole trays as one picture: every pass of a frame, or every matte, side by side in the order of the contents."""

import hashlib
import json
from contextlib import suppress
from typing import Literal

import numpy as np
from flask import request
from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from numpy.typing import NDArray
from pydantic import BaseModel

from umbrax.core.errors import UmbraxError
from umbrax.core.plan import ShotPlanner
from umbrax.core.shot import Shot
from umbrax.media.reader import MediaReader
from umbrax.render.engine import coverage_step

from . import encoding
from .looks import LookedAt, codes_of, compute
from .shots import ShotPath
from .state import state

api = APIBlueprint("sheets", __name__, url_prefix="/api", abp_tags=[Tag(name="looks")])
COLUMNS = 6
WIDEST = 200
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
            info = reader.describe(source, frame)
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
            identities.append([source, reader.describe(source, frame).identity])
        except UmbraxError as error:
            identities.append([source, error.code])
    mattes = {name: matte.model_dump(mode="json") for name, matte in shot.mattes.items()} if part == "mattes" else None
    # numbers of a matte may be keyed
    told = [identities, mattes, frame if part == "mattes" else None, shot.format.width, shot.format.height]
    return hashlib.sha256(json.dumps(told, sort_keys=True).encode()).hexdigest()[:24]


def tile_scale(shot: Shot) -> int:
    return next((n for n in (1, 2, 4) if shot.format.width <= n * WIDEST), 8)


@api.get("/shots/<int:shot_id>/sheet")
def sheet(path: ShotPath, query: SheetQuery) -> Response:
    """One JPEG with six tiles a row; a tile that cannot be made stays black."""
    if query.key in request.if_none_match:
        return Response(status=304)
    shared = state()
    shot = shared.shot(path.shot_id, query.revision)
    reader = shared.reader(path.shot_id, shot)
    wanted, scale = tiles(shot, reader, query.frame, query.part), tile_scale(shot)
    window = shot.format.display.scaled(scale)
    if query.part == "mattes":
        # one that cannot be pulled keeps the others from being pulled at once, not from being shown
        with shared.gate.enter("", 0, "thumbnail") as ticket, suppress(UmbraxError):
            planner = ShotPlanner(shot, query.frame, reader)
            shared.engine.pull([coverage_step(planner, matte, scale) for matte in shot.mattes], window, ticket.watch)
    rows = max(1, -(-len(wanted) // COLUMNS))
    whole: NDArray[np.uint8] = np.zeros((rows * window.height, COLUMNS * window.width, 3), np.uint8)
    for number, look in enumerate(wanted):
        row, column = divmod(number, COLUMNS)
        place = whole[row * window.height : (row + 1) * window.height, column * window.width : (column + 1) * window.width]
        # looks may pass between two tiles
        with shared.gate.enter("", 0, "thumbnail") as ticket:
            try:
                looked = compute(path.shot_id, shot, look, query.frame, window, scale, ticket)
                place[:] = codes_of(path.shot_id, shot, look, query.frame, looked.picture)
            except UmbraxError:
                continue
    response = Response(encoding.jpeg(whole, 88), mimetype="image/jpeg", headers={"X-Columns": str(COLUMNS), "X-Rows": str(rows)})
    response.set_etag(query.key)
    response.cache_control.max_age = 86400
    response.cache_control.private = True
    return response
