"""Mattes as files: one by one, packed into the channels of a picture, as named channels of one file, or baked."""

import re
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import numpy as np

from umbrax.core.document.bakes import layer_of
from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError, Where
from umbrax.core.plan.evaluate import evaluate, never_cancelled
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.plan.steps import Step
from umbrax.media.files import NOTE
from umbrax.media.sequences import is_pattern, path_of_frame
from umbrax.media.writing import CHANNELS, holds_alpha, holds_light, pixel_type, write_mattes

from .engine import Engine, coverage_step, side_by_side
from .output import told_of

Pack = Literal["single", "rgb", "rgba", "named", "baked"]
WAYS: tuple[Pack, ...] = ("single", "rgb", "rgba", "named")  # that are handed over; a bake is for the product itself
IN_NAME = re.compile(r"\{(matte|part)\}")
PLANES = ("R", "G", "B")  # of a baked matte: coverage, share and sum


@dataclass(frozen=True)
class MatteOrder:
    """Mattes to write, by id or shown name. In `out`, `{matte}` is the name of each for single ones, `{part}` counts packs."""

    frames: tuple[int, ...]
    out: str
    mattes: tuple[str, ...]
    pack: Pack = "single"
    type: str | None = None
    scale: int = 1


@dataclass(frozen=True)
class MatteFile:
    """A file of a frame: which matte is in which channel."""

    path: Path
    mattes: tuple[str, ...]
    channels: tuple[str, ...]


@dataclass(frozen=True)
class Written:
    """What was written of one frame."""

    frame: int
    files: tuple[MatteFile, ...]
    seconds: float


def files_of(shot: Shot, order: MatteOrder, frame: int) -> list[MatteFile]:
    """The files of a frame and what is in them; refused where names would meet."""
    mattes = [shot.matte(name) for name in order.mattes]
    names = [layer_of(shot.mattes[matte].name or matte) for matte in mattes]
    if len(set(names)) < len(names):
        raise UmbraxError("doubled-name", f"two of the mattes are called {next(n for n in names if names.count(n) > 1)!r}; rename one")

    def path(matte: str = "", part: int = 1) -> Path:
        filled = IN_NAME.sub(lambda found: _in_file_name(matte) if found[1] == "matte" else str(part), order.out)
        return Path(path_of_frame(filled, frame))

    if order.pack == "single":
        return [MatteFile(path(name), (matte,), ("Y",)) for matte, name in zip(mattes, names, strict=True)]
    if order.pack in ("named", "baked"):
        return [MatteFile(path(), tuple(mattes), tuple(names))]
    size = len(order.pack)
    packs = [mattes[start : start + size] for start in range(0, len(mattes), size)]
    return [MatteFile(path(part=number), tuple(pack), CHANNELS[: len(pack)]) for number, pack in enumerate(packs, 1)]


def _in_file_name(name: str) -> str:
    return re.sub(r"[^\w-]+", "-", name).strip("-") or "matte"


def checked_mattes(shot: Shot, order: MatteOrder) -> None:
    """Refuse an order that cannot work before anything is computed."""
    if not order.frames:
        raise UmbraxError("no-frames", "no frames to write; name at least one")
    if not order.mattes:
        raise UmbraxError("no-mattes", "no mattes to write; make one first, or name those that are there")
    if len(order.frames) > 1 and not is_pattern(order.out):
        raise UmbraxError("bad-pattern", f"{len(order.frames)} frames need {{frame:04d}} in the output name, got {order.out!r}")
    pixel_type(Path(order.out), order.type)
    if order.pack in ("named", "baked") and not holds_light(Path(order.out)):
        raise UmbraxError("bad-ending", f"only .exr holds channels of any name; write {order.pack} mattes as .exr")
    if order.pack == "rgba" and not holds_alpha(Path(order.out)):
        raise UmbraxError("bad-ending", "JPEG has no alpha for a fourth matte; write three a file, or PNG, TIFF or EXR")
    if order.pack == "baked" and order.scale != 1:
        raise UmbraxError("bad-scale", "mattes are baked at full size; leave the scale at 1")
    files = [file.path for file in files_of(shot, order, order.frames[0])]
    if len(set(files)) < len(files):
        wanted = "{matte}" if order.pack == "single" else "{part}"
        raise UmbraxError("bad-pattern", f"{len(files)} files a frame need {wanted} in the output name, got {order.out!r}")


def write_frames(
    engine: Engine, shot: Shot, roots: list[Path], order: MatteOrder, *, watch: Callable[[], None] = never_cancelled
) -> Iterator[Written]:
    """Write frame by frame, cropped to the display window; the mattes of a frame are pulled at once. Errors name frame and file."""
    checked_mattes(shot, order)
    for frame in order.frames:
        start = time.perf_counter()
        planner = ShotPlanner(shot, frame, engine.reader(shot, roots))
        files = files_of(shot, order, frame)
        try:
            steps = [_steps(planner, file, order) for file in files]
            if len(files) > 1:
                engine.pull([step for of_file in steps for step in of_file], shot.format.display.scaled(order.scale), watch)
            for file, of_file in zip(files, steps, strict=True):
                _write(engine, planner, file, of_file, order, watch)
        except UmbraxError as error:
            error.at(Where(frame=frame))
            raise
        yield Written(frame, tuple(files), time.perf_counter() - start)


def _steps(planner: ShotPlanner, file: MatteFile, order: MatteOrder) -> list[Step]:
    if order.pack == "baked":
        return [planner.live_planes(matte) for matte in file.mattes]
    return [coverage_step(planner, matte, order.scale) for matte in file.mattes]


def _write(engine: Engine, planner: ShotPlanner, file: MatteFile, steps: list[Step], order: MatteOrder, watch: Callable[[], None]) -> None:
    notes = told_of(planner.shot)
    if order.pack == "baked":
        notes |= {f"{NOTE}{layer}": step.key for layer, step in zip(file.channels, steps, strict=True)}
    else:
        names = [planner.shot.mattes[matte].name or matte for matte in file.mattes]
        notes["Mattes"] = "; ".join(f"{channel} {name}" for channel, name in zip(file.channels, names, strict=True))
    display = planner.shot.format.display.scaled(order.scale)
    pixels = evaluate(side_by_side(steps, display), display, engine.cache, watch=watch, timer=time.perf_counter).pixels
    channels = _channels_written(file, order.pack)
    if len(channels) > pixels.shape[2]:
        pixels = np.pad(pixels, ((0, 0), (0, 0), (0, len(channels) - pixels.shape[2])))
    write_mattes(file.path, np.ascontiguousarray(pixels), channels, pixel_type(file.path, order.type), attributes=notes)


def _channels_written(file: MatteFile, pack: Pack) -> tuple[str, ...]:
    """The channels of a file. A pack is never less than red, green and blue: two channels would be read as grey and alpha, one as grey."""
    if pack == "baked":
        return tuple(f"{layer}.{plane}" for layer in file.channels for plane in PLANES)
    if pack == "named":
        return tuple(f"{name}.Y" for name in file.channels)
    return file.channels if pack == "single" else CHANNELS[: max(3, len(file.channels))]
