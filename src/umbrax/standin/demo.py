"""The demo show as plain files: the renders, plates, faulty files for the check-up, and the shot documents.

Everything is written once and kept; `VERSION` says what the stand-in writes, so that a newer one writes anew.
"""

import json
import os
import shutil
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from functools import partial
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from umbrax.core.document.text import canonical, read_data
from umbrax.media.sequences import path_of_frame

from .exr import balloon_channels, channels_of, picture_channels, write_exr, write_frame
from .faulty import FAULTS
from .frames import render
from .ink import ink_lines
from .papers import banded_page, paper
from .plate import valley
from .scene import balloon, observatory, renamed, without
from .shots import BALLOON, FIRST, HEIGHT, INK, LAST, PAPER, SHOTS, STATION, VALLEY, WIDTH

SHOW = "Ridge Observatory"
VERSION = "3"
PAGE = "plates/page.png"
NEXT, NEXT_FRAMES = "station_v002/station.{frame:04d}.exr", range(FIRST, FIRST + 4)
FAULTY, FAULTY_SIZE = "faulty/{name}.exr", (480, 270)
Progress = Callable[[int, int], None]
Write = Callable[[], None]


def write_demo(folder: Path, *, frames: Sequence[int] | None = None, progress: Progress = lambda done, total: None) -> list[Path]:
    """Write what is missing of the demo and return the shot documents; what is complete is kept.

    Frames are rendered one after the other and the first is there first, so that work can start on it at once. With
    `frames` only these are written, and neither the next version of the render nor the faulty files.
    """
    folder.mkdir(parents=True, exist_ok=True)
    _start_anew_if_older(folder)
    shots = [_write_shot(folder / f"{name}.umbrax.json", make()) for name, make in SHOTS.items()]
    _write_stills(folder)
    wanted = list(range(FIRST, LAST + 1) if frames is None else frames)
    total = len(wanted) + (0 if frames is not None else len(NEXT_FRAMES) + 1)
    # one frame is compressed and written while the next is cast
    with ThreadPoolExecutor(max_workers=1) as writer:
        pending: list[Future[None]] = []
        for done, writes in enumerate(_renders(folder, wanted, whole=frames is None)):
            progress(done, total)
            pending += [writer.submit(write) for write in writes]
            for earlier in pending[:-4]:
                earlier.result()
            pending = pending[-4:]
        for last in pending:
            last.result()
    progress(total, total)
    return shots


def _renders(folder: Path, frames: Sequence[int], *, whole: bool) -> Iterator[list[Write]]:
    """What is to be written, rendered when it is asked for."""
    for frame in frames:
        yield _frame(folder, frame)
    if not whole:
        return
    for frame in NEXT_FRAMES:
        path = folder / path_of_frame(NEXT, frame)
        yield [] if path.exists() else [partial(write_frame, path, _next_version(frame))]
    yield _faulty(folder)


def _frame(folder: Path, frame: int) -> list[Write]:
    station, ink, drifting = (folder / path_of_frame(pattern, frame) for pattern in (STATION, INK, BALLOON))
    writes: list[Write] = []
    if not (station.exists() and ink.exists()):
        picture = render(observatory(frame), WIDTH, HEIGHT, after=observatory(frame + 1))
        writes += [partial(write_frame, station, picture), lambda: write_exr(ink, picture_channels(ink_lines(picture)))]
    if not drifting.exists():
        alone = render(balloon(frame), WIDTH, HEIGHT, after=balloon(frame + 1))
        writes.append(partial(write_exr, drifting, *balloon_channels(alone)))
    return writes


def _next_version(frame: int) -> Any:
    """The render as it comes back a day later: the door knob is gone, the dome's cap has another name."""
    scenes = [renamed(without(observatory(f), "door_knob"), {"dome_cap": "dome_finial"}) for f in (frame, frame + 1)]
    return render(scenes[0], WIDTH, HEIGHT, after=scenes[1])


def _faulty(folder: Path) -> list[Write]:
    paths = {name: folder / FAULTY.format(name=name) for name, _, _ in FAULTS}
    if all(path.exists() for path in paths.values()):
        return []
    good, metadata = channels_of(render(observatory(FIRST), *FAULTY_SIZE, after=observatory(FIRST + 1)))
    return [partial(write_exr, paths[name], spoil(good), metadata) for name, spoil, _ in FAULTS]


def _write_stills(folder: Path) -> None:
    if not (folder / VALLEY).exists():
        plate = valley(observatory(FIRST), WIDTH, HEIGHT).astype(np.float16)
        write_exr(folder / VALLEY, {letter: np.ascontiguousarray(plate[..., i]) for i, letter in enumerate("RGB")})
    for name, make in ((PAPER, paper), (PAGE, banded_page)):
        path = folder / name
        if not path.exists():
            temporary = path.with_name(f".{path.name}")
            temporary.write_bytes(cv2.imencode(".png", make(WIDTH, HEIGHT)[..., ::-1])[1].tobytes())
            os.replace(temporary, path)


def _write_shot(path: Path, document: dict[str, Any]) -> Path:
    text = json.dumps(json.loads(canonical(read_data(document))), indent=2, ensure_ascii=False) + "\n"
    if not path.exists() or path.read_text() != text:
        temporary = path.with_name(f".{path.name}")
        temporary.write_text(text)
        os.replace(temporary, path)
    return path


def _start_anew_if_older(folder: Path) -> None:
    """Remove what another version of the stand-in wrote, and nothing else."""
    mark = folder / ".version"
    if mark.exists() and mark.read_text() == VERSION:
        return
    for name in (STATION, BALLOON, INK, NEXT, VALLEY, FAULTY):
        shutil.rmtree(folder / name.split("/")[0], ignore_errors=True)
    mark.write_text(VERSION)
