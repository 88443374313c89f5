"""The work of a render job: frame by frame, cancellable, and going on where a killed worker stopped."""

import time
from pathlib import Path

import structlog

from umbrax.core.errors import Cancelled, UmbraxError
from umbrax.render.engine import Engine
from umbrax.render.output import RenderOrder, render_frames
from umbrax.settings import Settings
from umbrax.store import renders
from umbrax.store.database import Database
from umbrax.store.shots import get_revision, get_shot

LOOK_EVERY = 0.5


def run_render(database: Database, engine: Engine, settings: Settings, render_id: int) -> None:
    """Write the frames that are not there yet; the row says how it ended. Safe to run again at any time."""
    row = renders.get_render(database, render_id)
    if row.state not in ("queued", "running"):
        return
    renders.set_state(database, render_id, "running")
    log = structlog.get_logger().bind(render=render_id)
    looked = [0.0]

    def watch() -> None:
        if time.monotonic() - looked[0] > LOOK_EVERY:
            looked[0] = time.monotonic()
            if renders.cancel_asked(database, render_id):
                raise Cancelled

    try:
        shot = get_revision(database, row.shot_id, row.revision).shot
        roots = settings.roots_of(get_shot(database, row.shot_id).folder)
        order = RenderOrder(tuple(_left(row)), str(Path(row.folder) / row.file_name), row.upto, row.matte, row.pixel_type)
        if order.frames:
            for done in render_frames(engine, shot, roots, order, watch=watch):
                if renders.frame_done(database, render_id, done.frame, done.seconds, done.file.stat().st_size):
                    raise Cancelled
        renders.set_state(database, render_id, "done")
        log.info("render done", frames=len(row.frames))
    except Cancelled:
        renders.set_state(database, render_id, "cancelled")
        log.info("render cancelled")
    except UmbraxError as error:
        renders.set_state(database, render_id, "failed", error.payload())
        log.warning("render failed", error=str(error))
    except Exception:
        unexpected = UmbraxError("unexpected", "the render stopped for a reason it does not know; look into the worker's log and try again")
        renders.set_state(database, render_id, "failed", unexpected.payload())
        log.exception("render failed unexpectedly")


def file_of(row: renders.RenderRow, frame: int) -> Path:
    from umbrax.media.sequences import path_of_frame

    return Path(path_of_frame(str(Path(row.folder) / row.file_name), frame))


def _left(row: renders.RenderRow) -> list[int]:
    """The frames still to do: a frame counts as done when it is noted and its file is there."""
    return [frame for frame in row.frames if frame not in row.done or not file_of(row, frame).exists()]
