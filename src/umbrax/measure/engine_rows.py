"""Rows measured through the engine: whole shots, from the document to the picture."""

import multiprocessing
import tempfile
import threading
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import OpenImageIO as oiio

from umbrax.core.document.edits import SetValue, apply
from umbrax.core.document.shot import Shot
from umbrax.core.document.text import canonical, read_text
from umbrax.core.picture import Window
from umbrax.core.plan.planner import ShotPlanner
from umbrax.media.fastcopies import FastCopies
from umbrax.render.engine import Engine, Want

from .row import Row, Work
from .ten_cards import files, renders, sixty_cards, softened, ten_cards

HD, CINEMA = (1920, 1080), (4096, 2160)


def new_engine(folder: Path, cache_bytes: int = 2 << 30) -> Engine:
    return Engine(FastCopies(folder / "fast"), cache_bytes)


def whole_shot(size: tuple[int, int], shot: Shot, scale: int) -> Work:
    """The shot made from its fast copies, nothing of it in the cache."""
    folder = renders(*size)
    engine = new_engine(folder)

    def work() -> object:
        engine.cache.clear()
        return engine.make(shot, [folder], 1001, Want(), scale=scale)

    work()
    return work


def _final(blooms: int) -> Callable[[], tuple[Work, Work]]:
    def prepare() -> tuple[Work, Work]:
        folder = renders(*HD)
        ours = whole_shot(HD, ten_cards(*HD, blooms), 1)
        result = np.random.default_rng(1).random((HD[1], HD[0], 4), np.float32).astype(np.float16)
        target = str(Path(tempfile.mkdtemp(dir=folder)) / "out.exr")

        def decode_and_encode() -> None:
            for path in files(folder):
                source: Any = oiio.ImageInput.open(str(path))
                source.read_image(0, 0, 0, source.spec().nchannels, "half")
                source.close()
            spec = oiio.ImageSpec(*HD, 4, "half")
            spec.attribute("compression", "zip")
            written: Any = oiio.ImageOutput.create(target)
            written.open(target, spec)
            written.write_image(result)
            written.close()

        return ours, decode_and_encode

    return prepare


def _preview(blooms: int) -> Callable[[], tuple[Work, Work]]:
    return lambda: (whole_shot(HD, ten_cards(*HD, blooms), 8), whole_shot(HD, ten_cards(*HD), 8))


def _softened(size: float) -> Callable[[], tuple[Work, Work]]:
    """Each time by a hair more, so that all but the blur and its join is there."""

    def prepare() -> tuple[Work, Work]:
        folder = renders(*HD)
        engine, number = new_engine(folder), [0]
        picture = np.random.default_rng(2).random((HD[1], HD[0], 4), np.float32)

        def ours() -> object:
            number[0] += 1
            return engine.make(softened(*HD, size + number[0] * 1e-5), [folder], 1001, Want())

        return ours, lambda: cv2.GaussianBlur(picture, (0, 0), size)

    return prepare


def _planning() -> tuple[Work, Work]:
    """After an edit of one card, as a drag does it; reading the document is what the edit itself takes."""
    folder = renders(*HD)
    shot, engine, number = sixty_cards(*HD), new_engine(folder), [0]
    text = canonical(shot)
    edited = [apply(shot, [SetValue(op="set", path=("build", "card 30", "opacity"), value=0.5 + n / 200)]) for n in range(50)]

    def plan() -> object:
        number[0] += 1
        document = edited[number[0] % 50]
        return ShotPlanner(document, 1001, engine.reader(document, [folder]), plans=engine.plans).picture(None, 4)

    return plan, lambda: read_text(text)


def _memory(blooms: int) -> Callable[[], tuple[float, float]]:
    """Megabytes at the peak of a process of its own, against ten pictures of the frame: what is alive at the most."""

    def amounts() -> tuple[float, float]:
        with ProcessPoolExecutor(1, mp_context=multiprocessing.get_context("spawn")) as pool:
            return pool.submit(_peak, renders(*CINEMA), blooms).result(), 10 * CINEMA[0] * CINEMA[1] * 16 / 1e6

    return amounts


def _peak(folder: Path, blooms: int) -> float:
    engine = new_engine(folder, 1)
    reader = engine.reader(ten_cards(*CINEMA), [folder])
    for source in ("station", "balloon", "valley"):  # the fast copies
        for name in reader.describe(source, 1001).passes:
            reader.pixels(source, 1001, name, Window(0, 0, 1, 1))
    before, done = _held(), threading.Event()
    peak = [before]

    def watch() -> None:
        while not done.is_set():
            peak[0] = max(peak[0], _held())
            time.sleep(0.005)

    watcher = threading.Thread(target=watch)
    watcher.start()
    engine.make(ten_cards(*CINEMA, blooms), [folder], 1001, Want())
    done.set()
    watcher.join()
    return peak[0] - before


def _held() -> float:
    """Megabytes of this process that are no file's."""
    for line in Path("/proc/self/status").read_text().splitlines():
        if line.startswith("RssAnon"):
            return int(line.split()[1]) / 1e3
    raise RuntimeError("this system does not tell what memory a process holds")


FINALS, RESULT = ((0, 1.0), (1, 1.0), (2, 1.2)), "decoding their EXRs and encoding the result"
BLUR, PICTURES = "cv2.GaussianBlur of a frame", "ten pictures of its frame"
ENGINE_ROWS = (
    Row("soften 25 on a card, 1920x1080", BLUR, 20, _softened(25.0), True, True),
    Row("soften 100 on a card, 1920x1080", BLUR, 200, _softened(100.0), True, True),
    *(Row(f"ten cards, {blooms} blooms, 1920x1080", RESULT, reach, _final(blooms)) for blooms, reach in FINALS),
    *(Row(f"ten cards, {blooms} blooms, at 1/8", "without a bloom", 1.5, _preview(blooms)) for blooms in (1, 2)),
    Row("planning 60 cards after an edit", "reading the document", 1.5, _planning),
    *(Row(f"memory, ten cards, {blooms} blooms, 4096x2160", PICTURES, 1.5, amounts=_memory(blooms)) for blooms in (0, 2)),
)
