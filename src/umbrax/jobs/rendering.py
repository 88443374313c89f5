"""The work of a render job: a chunk of frames, one by one; cancellable, and going on where a killed worker stopped."""

from dataclasses import replace
from pathlib import Path
from typing import Any

import structlog

from umbrax.core.document.bakes import link_bake
from umbrax.core.errors import Cancelled, UmbraxError, Where
from umbrax.render.lost import find_lost
from umbrax.store import renders
from umbrax.store.database import Database
from umbrax.store.shots import edit_shot, get_revision, get_shot

from .failing import unexpected
from .hands import Hands
from .joining import join_movie
from .order import Order
from .written import is_whole, left_of, sweep

MOST_TOLD = 1000
HOPELESS = ("disk-full", "cannot-write", "no-permission", "bad-ending", "bad-type")  # no other frame would fare better


def run_render(hands: Hands, render_id: int, frames: list[int] | None = None) -> None:
    """Write those of some frames that are not there yet, all without `frames`. Safe to run again at any time.

    A frame that fails is noted, and the others go on; who finds that nothing is left to do ends the render.
    """
    database = hands.database
    if not renders.start(database, render_id):
        renders.stopped(database, render_id)
        return
    log = structlog.get_logger().bind(render=render_id)
    row = renders.get_render(database, render_id)
    try:
        order = _ordered(hands, row)
        _write_all(order, sorted(set(row.frames if frames is None else frames)))
        without_movie = _joined(order)
    except Cancelled:
        renders.stopped(database, render_id)
        log.info("render stopped")
        return
    finally:
        hands.report.rests()
    ended = renders.end(database, render_id, without_movie)
    if ended:
        sweep(hands.folders.local(row.folder))
        log.info("render ended", state=ended, frames=len(row.frames))
    if ended == "done" and row.pack == "baked":
        _link(database, row)


def _ordered(hands: Hands, row: renders.RenderRow) -> Order:
    return Order(hands, row, hands.shot_of(row.shot_id, row.revision), hands.roots_of(row.shot_id), hands.folders.local(row.folder))


def _joined(order: Order) -> dict[str, Any] | None:
    """Make the movie that the render asks for, where its frames are there; why it could not be made."""
    try:
        join_movie(order)
    except Cancelled:
        raise
    except UmbraxError as error:
        if error.code == "no-database":
            raise
        return error.payload()
    except Exception as error:
        structlog.get_logger().exception("a movie failed unexpectedly", render=order.row.id)
        return unexpected(error, "render").payload()
    return None


def _write_all(order: Order, frames: list[int]) -> None:
    database, number = order.hands.database, order.row.id
    told = _told_of_lost(order) if order.row.note is None and frames[0] == min(order.row.frames) else ""
    for frame in frames:
        # read again for each: another worker may have been faster
        if is_whole(order.row, frame, renders.written_of(database, number, frame), order.folder):
            continue
        order.hands.report.doing(number, frame)
        try:
            with order.hands.processors.one(order.watch):
                done = order.write(frame)
        except UmbraxError as error:
            if error.code == "no-database":
                raise  # nothing can be noted: the frame is taken up again
            renders.frame_failed(database, number, frame, error.at(Where(frame=frame)).payload())
            structlog.get_logger().warning("a frame failed", render=number, frame=frame, error=str(error))
            if error.code in HOPELESS:
                _give_up(order, frames, error)
                return
            continue
        except Cancelled:
            raise
        except Exception as error:
            structlog.get_logger().exception("a frame failed unexpectedly", render=number, frame=frame)
            renders.frame_failed(database, number, frame, unexpected(error, "render").at(Where(frame=frame)).payload())
            continue
        size, names = sum(file.stat().st_size for file in done.files), [file.name for file in done.files]
        stop = renders.frame_done(database, number, frame, done.seconds, size, names, order.hands.report.name)
        order.hands.report.done(done.seconds)
        if done.note and not order.row.note:
            told = "; ".join(part for part in (told, done.note) if part)
            renders.set_note(database, number, told)
            order.row = replace(order.row, note=told)
        if stop:
            raise Cancelled


def _give_up(order: Order, frames: list[int], error: UmbraxError) -> None:
    """What stopped one frame stops the rest of the chunk as well: their failures are noted without trying."""
    for frame in left_of(renders.get_render(order.hands.database, order.row.id), order.folder):
        if frame in frames:
            renders.frame_failed(order.hands.database, order.row.id, frame, error.payload() | {"frame": frame})


def _told_of_lost(order: Order) -> str:
    lost = "; ".join(one.message for one in find_lost(order.shot, order.hands.engine.reader(order.shot, order.roots)))
    told = f"rendered without what is lost: {lost}"[:MOST_TOLD] if lost else ""
    if told:
        renders.set_note(order.hands.database, order.row.id, told)
    return told


def _link(database: Database, row: renders.RenderRow) -> None:
    """Let the mattes that are still there be read from what was written of them."""
    head = get_shot(database, row.shot_id)
    shot = get_revision(database, row.shot_id, head.head).shot
    mattes = tuple(name for name in row.mattes if name in shot.mattes)
    if mattes:
        edits = link_bake(shot, mattes, f"{Path(row.folder).name}/{row.file_name}")
        command = f"bake {', '.join(map(shot.matte_name, mattes))}"[:200]
        edit_shot(database, row.shot_id, head.head, edits, command=command, gesture=f"bake {row.id}", tab="")
