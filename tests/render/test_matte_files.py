"""Mattes as files: single, packed, by name, baked; read back by the OpenEXR package and OpenImageIO, and by the product itself."""

import json
import os
import shutil
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
import OpenImageIO as oiio
import pytest

from running import command
from umbrax.core.errors import UmbraxError
from umbrax.core.plan import ShotPlanner
from umbrax.core.shot import read_text
from umbrax.media.fastcopies import FastCopies
from umbrax.render.engine import Engine, Want
from umbrax.render.matte_files import MatteOrder, checked_mattes

HALF_STEP = 2.0**-11
NAMES = ("brass", "dome", "mast lamps")


@pytest.fixture
def place(demo: Path, tmp_path: Path) -> Path:
    """The demo in a folder of its own, as links: a test may write beside it."""
    shutil.copytree(demo, tmp_path / "demo", copy_function=os.link)
    (tmp_path / "demo/shot.json").write_text((demo / "dome-at-dusk.umbrax.json").read_text())
    return tmp_path / "demo"


def umbrax(place: Path, *words: str) -> list[str]:
    done = command(*words, state=place.parent / "state")
    assert done.returncode == 0, done.stderr
    return done.stdout.splitlines()


def engine_of(place: Path) -> Engine:
    return Engine(FastCopies(place.parent / "state/fast"))


def matte(place: Path, name: str, frame: int = 1001) -> np.ndarray:
    shot = read_text((place / "shot.json").read_text())
    return engine_of(place).make(shot, [place], frame, Want("matte", name=name)).picture.pixels[..., 0]


def channels(file: Path) -> dict[str, np.ndarray]:
    with OpenEXR.File(str(file), separate_channels=True) as opened:
        return {name: channel.pixels.astype(np.float32) for name, channel in opened.channels().items()}


def test_single_packed_and_named_hold_each_matte_in_its_channel(place: Path) -> None:
    shot = str(place / "shot.json")
    told = umbrax(place, "mattes", shot, "--out", str(place / "m/{matte}.{frame:04d}.exr"), "--frames", "1001-1002", "--json")
    assert [json.loads(line).get("frame") for line in told] == [1001] * 3 + [1002] * 3 + [None]
    lamps = channels(place / "m/mast-lamps.1002.exr")
    assert set(lamps) == {"Y"}
    assert lamps["Y"] == pytest.approx(matte(place, "mast lamps", 1002), abs=HALF_STEP)
    umbrax(place, "mattes", shot, "--out", str(place / "p/{part}.{frame:04d}.exr"), "--pack", "rgb", "--frames", "1001", "--type", "float")
    packed = channels(place / "p/1.1001.exr")
    for channel, name in zip("RGB", NAMES, strict=True):
        assert np.array_equal(packed[channel], matte(place, name))
    umbrax(place, "mattes", shot, "--out", str(place / "n.{frame:04d}.exr"), "--pack", "named", "--frames", "1001")
    assert set(channels(place / "n.1001.exr")) == {f"{name}.Y" for name in NAMES}
    note = oiio.ImageInput.open(str(place / "n.1001.exr")).spec().getattribute("Mattes")
    assert note == "brass brass; dome dome; mast lamps mast lamps"


def test_a_packed_png_is_not_divided_by_its_last_matte(place: Path) -> None:
    out = str(place / "p.{frame:04d}.png")
    chosen = [part for name in ("dome", "brass", "mast lamps") for part in ("--matte", name)]
    umbrax(place, "mattes", str(place / "shot.json"), "--out", out, "--pack", "rgba", "--frames", "1001", "--type", "16", *chosen)
    config = oiio.ImageSpec()
    config.attribute("oiio:UnassociatedAlpha", 1)
    source: Any = oiio.ImageInput.open(str(place / "p.1001.png"), config)
    pixels = source.read_image("float")
    for channel, name in enumerate(("dome", "brass", "mast lamps")):
        assert pixels[..., channel] == pytest.approx(matte(place, name), abs=1 / 65535)


@pytest.mark.parametrize(
    ("change", "told"),
    [
        ({"out": "m.{frame:04d}.exr"}, "need {matte} in the output name"),
        ({"out": "m.{frame:04d}.exr", "pack": "rgb", "mattes": ("brass", "dome", "mast lamps", "more")}, "need {part}"),
        ({"out": "{matte}.exr"}, "need {frame:04d}"),
        ({"out": "x.{frame:04d}.png", "pack": "named"}, "only .exr holds channels of any name"),
        ({"mattes": ()}, "no mattes to write"),
        ({"mattes": ("doom",)}, "did you mean 'dome'"),
        ({"mattes": ("dome", "dome")}, "two of the mattes are called 'dome'"),
    ],
)
def test_orders_that_cannot_work_are_refused_with_the_remedy(demo: Path, change: dict[str, Any], told: str) -> None:
    data = json.loads((demo / "dome-at-dusk.umbrax.json").read_text())
    data["mattes"]["more"] = {"kind": "combined", "how": "any_of", "mattes": ["dome", "brass"]}
    order = MatteOrder(**{"frames": (1001, 1002), "out": "{matte}.{frame:04d}.exr", "mattes": NAMES} | change)
    with pytest.raises(UmbraxError, match=told.replace("{", r"\{")):
        checked_mattes(read_text(json.dumps(data)), order)


def baked_shot(place: Path) -> dict[str, Any]:
    data = json.loads((place / "shot.json").read_text())
    data["mattes"]["dome"]["refine"] = {"grow": {"keys": [[1001, -2.0, "linear"], [1003, 2.0, "linear"]]}, "feather": 3.0}
    data["mattes"]["shine"] = {"kind": "combined", "how": "all_of", "mattes": ["dome", "brass"]}
    (place / "shot.json").write_text(json.dumps(data))
    umbrax(place, "bake", str(place / "shot.json"), "--folder", str(place / "baked"), "--frames", "1001-1002")
    found: dict[str, Any] = json.loads((place / "shot.json").read_text())
    return found


def reads_of(place: Path, data: dict[str, Any], name: str, frame: int) -> tuple[bool, Any]:
    """Whether a matte is read from its bake, and the finished picture of the frame."""
    shot, engine = read_text(json.dumps(data)), engine_of(place)
    planner = ShotPlanner(shot, frame, engine.reader(shot, [place]))
    return planner.baked_planes(name) is not None, engine.make(shot, [place], frame, Want()).picture.pixels


def test_a_bake_is_read_while_the_matte_is_what_it_was_and_no_longer(place: Path) -> None:
    plain = json.loads((place / "shot.json").read_text())
    data = baked_shot(place)
    assert data["mattes"]["dome"]["bake"] == {"source": "baked mattes", "pass": "dome"}
    live = json.loads(json.dumps(data))
    for entry in live["mattes"].values():
        entry.pop("bake")
    for frame in (1001, 1002):
        baked, picture = reads_of(place, data, "dome", frame)
        assert baked
        assert picture == pytest.approx(reads_of(place, live, "dome", frame)[1], abs=4e-3), "as without, to half a step of its numbers"
    assert not reads_of(place, data, "dome", 1003)[0], "a frame that was not baked is pulled"
    assert reads_of(place, data, "shine", 1001)[0]
    elsewhere = json.loads(json.dumps(data))
    elsewhere["mattes"]["dome"]["names"] = ["drum"]
    assert not reads_of(place, elsewhere, "dome", 1001)[0]
    assert not reads_of(place, elsewhere, "shine", 1001)[0], "nor what is made of it"
    assert reads_of(place, elsewhere, "brass", 1001)[0], "the others stay"
    renamed = json.loads(json.dumps(data))
    renamed["mattes"]["dome"]["name"] = "the dome"
    assert reads_of(place, renamed, "dome", 1001)[0], "a name changes no pixel"
    assert reads_of(place, data | {"mattes": plain["mattes"]}, "dome", 1001)[0] is False


def test_a_rewritten_render_makes_its_bake_another(place: Path) -> None:
    data = baked_shot(place)
    rendered = place / "station/station.1001.exr"
    again = rendered.read_bytes()
    rendered.unlink()
    rendered.write_bytes(again)
    shot, engine = read_text(json.dumps(data)), engine_of(place)
    assert ShotPlanner(shot, 1001, engine.reader(shot, [place])).baked_planes("dome") is None
    assert ShotPlanner(shot, 1002, engine.reader(shot, [place])).baked_planes("dome") is not None
