"""The work of a render job: frame by frame, cancellable, and going on where a killed worker stopped."""

import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import structlog

from umbrax.core.document.bakes import link_bake
from umbrax.core.document.shot import Shot
from umbrax.core.errors import Cancelled, UmbraxError
from umbrax.media.roots import roots_of_show
from umbrax.media.sequences import path_of_frame
from umbrax.render.engine import Engine
from umbrax.render.lost import find_lost
from umbrax.render.matte_files import MatteOrder, write_frames
from umbrax.render.output import RenderOrder, render_frames
from umbrax.settings import Settings
from umbrax.store import renders
from umbrax.store.database import Database
from umbrax.store.media_folders import list_folders
from umbrax.store.shots import edit_shot, get_revision, get_shot

from .failing import unexpected

LOOK_EVERY = 0.5
MOST_TOLD = 1000


def run_render(database: Database, engine: Engine, settings: Settings, render_id: int) -> None:
    """Write the frames that are not there yet; the row says how it ended. Safe to run again at any time."""
    row = renders.get_render(database, render_id)
    if row.state not in ("queued", "running"):
        return
    renders.set_state(database, render_id, "running")
    log = structlog.get_logger().bind(render=render_id)
    looked = [0.0]
    noted = row.note is not None

    def watch() -> None:
        if time.monotonic() - looked[0] > LOOK_EVERY:
            looked[0] = time.monotonic()
            if renders.cancel_asked(database, render_id):
                raise Cancelled

    try:
        shot = get_revision(database, row.shot_id, row.revision).shot
        roots = roots_of_show(settings, get_shot(database, row.shot_id).folder, list_folders(database))
        lost = "; ".join(one.message for one in find_lost(shot, engine.reader(shot, roots)))
        told = [f"rendered without what is lost: {lost}"[:MOST_TOLD]] if lost else []
        if told and not noted:
            renders.set_note(database, render_id, told[0])
        for done in _written(engine, shot, roots, row, watch):
            size = sum(file.stat().st_size for file in done.files)
            if renders.frame_done(database, render_id, done.frame, done.seconds, size, [file.name for file in done.files]):
                raise Cancelled
            if done.note and not noted:
                noted = True
                renders.set_note(database, render_id, "; ".join([*told, done.note]))
        if row.pack == "baked":
            _link(database, row)
        renders.set_state(database, render_id, "done")
        log.info("render done", frames=len(row.frames))
    except Cancelled:
        renders.set_state(database, render_id, "cancelled")
        log.info("render cancelled")
    except UmbraxError as error:
        if error.code == "no-database":
            raise  # its row cannot be written either: it stays as it is, and is taken up again
        renders.set_state(database, render_id, "failed", error.payload())
        log.warning("render failed", error=str(error))
    except Exception as error:
        renders.set_state(database, render_id, "failed", unexpected(error, "render").payload())
        log.exception("render failed unexpectedly")


@dataclass(frozen=True)
class Done:
    """A frame that was written, in one file or several."""

    frame: int
    files: tuple[Path, ...]
    seconds: float
    note: str = ""


def _written(engine: Engine, shot: Shot, roots: list[Path], row: renders.RenderRow, watch: Callable[[], None]) -> Iterator[Done]:
    frames, out = tuple(_left(row)), str(Path(row.folder) / row.file_name)
    if not frames:
        return
    if row.pack is not None:
        mattes = MatteOrder(frames, out, tuple(row.mattes), row.pack, row.pixel_type)  # type: ignore[arg-type]
        for written in write_frames(engine, shot, roots, mattes, watch=watch):
            yield Done(written.frame, tuple(file.path for file in written.files), written.seconds)
    else:
        order = RenderOrder(frames, out, row.upto, None, row.pixel_type, raise_alpha=row.raise_alpha)
        for rendered in render_frames(engine, shot, roots, order, watch=watch):
            yield Done(rendered.frame, (rendered.file,), rendered.seconds, order.glow_note if rendered.glow else "")


def _link(database: Database, row: renders.RenderRow) -> None:
    """Let the mattes that are still there be read from what was written of them."""
    head = get_shot(database, row.shot_id)
    shot = get_revision(database, row.shot_id, head.head).shot
    mattes = tuple(name for name in row.mattes if name in shot.mattes)
    if mattes:
        edits = link_bake(shot, mattes, f"{Path(row.folder).name}/{row.file_name}")
        command = f"bake {', '.join(map(shot.matte_name, mattes))}"[:200]
        edit_shot(database, row.shot_id, head.head, edits, command=command, gesture=f"bake {row.id}", tab="")


def files_of(row: renders.RenderRow, frame: int) -> list[Path]:
    """The files of a frame that was noted as done."""
    names = row.written[row.done.index(frame)] if frame in row.done else []
    folder = Path(row.folder)
    return [folder / name for name in names] or [Path(path_of_frame(str(folder / row.file_name), frame))]


def _left(row: renders.RenderRow) -> list[int]:
    """The frames still to do: a frame counts as done when it is noted and all its files are there."""
    return [frame for frame in row.frames if frame not in row.done or not all(file.exists() for file in files_of(row, frame))]
