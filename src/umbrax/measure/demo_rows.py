"""Rows measured on a frame of the demo: fast copies, a changed front card, and a touch."""

import json
import shutil
import tempfile
from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
import OpenImageIO as oiio

from umbrax.core.document.edits import SetValue, apply
from umbrax.core.document.shot import Shot
from umbrax.core.document.sources import Source
from umbrax.core.document.text import read_data, read_text
from umbrax.core.picture import Window
from umbrax.core.touch import touch
from umbrax.media.examining import check_up, sequence_of
from umbrax.media.fastcopies import FastCopies
from umbrax.media.files import inspect
from umbrax.media.reader import MediaReader
from umbrax.render.engine import Engine, Want
from umbrax.standin.demo import write_demo
from umbrax.standin.exr import PACKED
from umbrax.standin.shots import WIDTH
from umbrax.web.encoding import as_eight_bits, jpeg

from .folders import passing_folder

Work = Callable[[], object]
STATION = "station/station.1001.exr"


@cache
def _place() -> Path:
    folder = passing_folder()
    write_demo(folder, frames=[1001])
    return folder


def _fast_copies() -> tuple[Work, Work]:
    folder = _place()
    shot = read_text((folder / "dome-at-dusk.umbrax.json").read_text())
    engine = Engine(FastCopies(folder / "fast"))
    reader = engine.reader(shot, [folder])
    whole = Window(0, 0, WIDTH, 720)
    info = inspect(folder / STATION).find("diffuse")

    def decode() -> object:
        source: Any = oiio.ImageInput.open(str(folder / STATION))
        pixels = source.read_image(0, 0, min(info.indices), max(info.indices) + 1, "float")
        source.close()
        return pixels

    return (lambda: reader.pixels("station", 1001, "diffuse", whole)), decode


SCRUBBED = 48


def _scrub() -> tuple[Work, Work]:
    """Four channels of every frame of a sequence, each frame another picture; 640x360, as many channels as the demo has."""
    folder = Path(tempfile.mkdtemp(dir=_place()))
    with OpenEXR.File(str(_place() / STATION), separate_channels=True) as file:
        header = {name: value for name, value in file.header().items() if name not in ("channels", "dataWindow", "displayWindow")}
        planes = {name: channel.pixels[::2, ::2] for name, channel in file.channels().items()}
    for number in range(SCRUBBED):
        moved = {name: np.ascontiguousarray(np.roll(plane, 5 * number, axis=1)) for name, plane in planes.items()}
        with OpenEXR.File(dict(header), moved) as file:
            file.write(str(folder / f"x.{number:04d}.exr"))
    reader = MediaReader({"x": Source(path="x.{frame:04d}.exr")}, [folder], FastCopies(folder / "fast"))
    whole = Window(0, 0, WIDTH // 2, 360)
    found = inspect(folder / "x.0000.exr").find("diffuse")

    def scrub() -> object:
        return [reader.pixels("x", number, "diffuse", whole) for number in range(SCRUBBED)]

    def decode() -> object:
        for number in range(SCRUBBED):
            source: Any = oiio.ImageInput.open(str(folder / f"x.{number:04d}.exr"))
            source.read_image(0, 0, min(found.indices), max(found.indices) + 1, "float")
            source.close()
        return None

    return scrub, decode


def _front_card() -> tuple[Work, Work]:
    folder = _place()
    shot = read_text((folder / "dome-at-dusk.umbrax.json").read_text())
    engine = Engine(FastCopies(folder / "fast"))
    number = [0]

    def look(document: Any) -> bytes:
        return jpeg(as_eight_bits(engine.make(document, [folder], 1001, Want(), scale=2).picture, "colour", 0.0))

    def changed() -> object:
        number[0] += 1
        edit = SetValue(op="set", path=("build", "finish", "treatments", "t3", "amount"), value=0.2 + number[0] / 1000)
        return look(apply(shot, [edit]))

    def uncached() -> object:
        engine.cache.clear()
        return look(shot)

    look(shot)
    return changed, uncached


def _matte_kinds() -> tuple[Work, Work]:
    """The whole shot anew, its element graded through three mattes: by IDs, and by the channels that hold the same."""
    folder = _place()
    engine = Engine(FastCopies(folder / "fast"))
    layer, packed = {"source": "station", "layer": "material_ids"}, {"source": "station", "pass": "rgb_matte"}
    colours = ("red", "green", "blue")
    by_id = {colour: {"kind": "id", **layer, "names": list(names)} for colour, names in zip(colours, PACKED, strict=True)}
    by_channel = {colour: {"kind": "channel", **packed, "channel": colour} for colour in colours}

    def shot_through(mattes: dict[str, Any]) -> Shot:
        data = json.loads((folder / "dome-at-dusk.umbrax.json").read_text())
        data["mattes"] |= mattes
        station = next(card for card in data["build"] if card["id"] == "station")
        station["treatments"] = [{"id": name, "kind": "grade", "through": name, "exposure": 0.5} for name in mattes]
        return read_data(data)

    def look(shot: Shot) -> Callable[[], object]:
        def work() -> object:
            engine.cache.clear()
            return engine.make(shot, [folder], 1001, Want(), scale=2)

        return work

    return look(shot_through(by_id)), look(shot_through(by_channel))


def _touch() -> tuple[Work, Work]:
    """The reference is five milliseconds, which the touch may add to a round trip."""
    import time

    folder = _place()
    shot = read_text((folder / "dome-at-dusk.umbrax.json").read_text())
    reader = Engine(FastCopies(folder / "fast")).reader(shot, [folder])
    return (lambda: touch(shot, reader, 1001, 985, 147, 6)), (lambda: time.sleep(0.005))


def _decode_whole() -> object:
    source: Any = oiio.ImageInput.open(str(_place() / STATION))
    pixels = source.read_image(0, 0, 0, source.spec().nchannels, "float")
    source.close()
    return pixels


def _making_copies() -> tuple[Work, Work]:
    info = inspect(_place() / STATION)

    def make() -> object:
        folder = Path(tempfile.mkdtemp(dir=_place()))
        FastCopies(folder).open(info)
        shutil.rmtree(folder)
        return None

    return make, _decode_whole


def _checkup() -> tuple[Work, Work]:
    """One frame through every rule, its copies made; the check-up of a sequence does that frame by frame."""
    copies = FastCopies(_place() / "fast")
    sequence = sequence_of(str(_place() / STATION))
    check_up(sequence, copies)
    return (lambda: check_up(sequence, copies)), _decode_whole


DEMO_ROWS = (
    ("making the fast copies of a frame", "OpenImageIO decoding it once", 1.5, _making_copies),
    ("check-up of one frame", "OpenImageIO decoding it once", 1, _checkup),
    ("four channels of one layer, second look", "OpenImageIO decoding them", 50, _fast_copies, True),
    ("scrubbing 48 frames of four channels", "OpenImageIO decoding them", 50, _scrub, True),
    ("preview after a front-card change, 640x360", "the whole shot uncached", 0.1, _front_card),
    ("ID mattes in a live shot, 640x360", "RGB mattes of the same", 1.5, _matte_kinds),
    ("touch: what is under the cursor", "5 ms", 1, _touch),
)
