"""Mattes as files: single, packed, by name, baked; read back by the OpenEXR package and OpenImageIO, and by the product itself."""

import json
import os
import shutil
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
import OpenImageIO as oiio
import pytest

from demo_shot import without_balloon
from running import command
from umbrax.core.document.text import read_text
from umbrax.core.errors import UmbraxError
from umbrax.core.plan.planner import ShotPlanner
from umbrax.media.fastcopies import FastCopies
from umbrax.render.engine import Engine, Want
from umbrax.render.matte_files import MatteOrder, checked_mattes, write_frames

HALF_STEP = 2.0**-11
NAMES = ("brass", "dome", "mast lamps")


@pytest.fixture(scope="module")
def engine(tmp_path_factory: pytest.TempPathFactory) -> Engine:
    """One engine, and one store of fast copies, for all tests here."""
    return Engine(FastCopies(tmp_path_factory.mktemp("state") / "fast"))


@pytest.fixture
def place(demo: Path, tmp_path: Path) -> Path:
    """The demo in a folder of its own, as links: a test may write beside it."""
    shutil.copytree(demo, tmp_path / "demo", copy_function=os.link)
    data = without_balloon(json.loads((demo / "dome-at-dusk.umbrax.json").read_text()))
    (tmp_path / "demo/shot.json").write_text(json.dumps(data))
    return tmp_path / "demo"


def umbrax(engine: Engine, *words: str) -> list[str]:
    done = command(*words, state=engine.copies.folder.parent)
    assert done.returncode == 0, done.stderr
    return done.stdout.splitlines()


def matte(engine: Engine, place: Path, name: str, frame: int = 1001) -> np.ndarray:
    shot = read_text((place / "shot.json").read_text())
    return engine.make(shot, [place], frame, Want("matte", name=name)).picture.pixels[..., 0]


def channels(file: Path) -> dict[str, np.ndarray]:
    with OpenEXR.File(str(file), separate_channels=True) as opened:
        return {name: channel.pixels.astype(np.float32) for name, channel in opened.channels().items()}


def test_single_packed_and_named_hold_each_matte_in_its_channel(engine: Engine, place: Path) -> None:
    shot = str(place / "shot.json")
    told = umbrax(engine, "mattes", shot, "--out", str(place / "m/{matte}.{frame:04d}.exr"), "--frames", "1001-1002", "--json")
    assert [json.loads(line).get("frame") for line in told] == [1001] * 3 + [1002] * 3 + [None]
    lamps = channels(place / "m/mast-lamps.1002.exr")
    assert set(lamps) == {"Y"}
    assert np.abs(lamps["Y"] - matte(engine, place, "mast lamps", 1002)).max() <= HALF_STEP
    umbrax(engine, "mattes", shot, "--out", str(place / "p/{part}.{frame:04d}.exr"), "--pack", "rgb", "--frames", "1001", "--type", "float")
    packed = channels(place / "p/1.1001.exr")
    for channel, name in zip("RGB", NAMES, strict=True):
        assert np.array_equal(packed[channel], matte(engine, place, name))
    umbrax(engine, "mattes", shot, "--out", str(place / "n.{frame:04d}.exr"), "--pack", "named", "--frames", "1001")
    assert set(channels(place / "n.1001.exr")) == {f"{name}.Y" for name in NAMES}
    note = oiio.ImageInput.open(str(place / "n.1001.exr")).spec().getattribute("Mattes")
    assert note == "brass brass; dome dome; mast lamps mast lamps"


def test_a_packed_png_is_not_divided_by_its_last_matte(engine: Engine, place: Path) -> None:
    out = str(place / "p.{frame:04d}.png")
    chosen = [part for name in ("dome", "brass", "mast lamps") for part in ("--matte", name)]
    umbrax(engine, "mattes", str(place / "shot.json"), "--out", out, "--pack", "rgba", "--frames", "1001", "--type", "16", *chosen)
    config = oiio.ImageSpec()
    config.attribute("oiio:UnassociatedAlpha", 1)
    source: Any = oiio.ImageInput.open(str(place / "p.1001.png"), config)
    pixels = source.read_image("float")
    for channel, name in enumerate(("dome", "brass", "mast lamps")):
        assert np.abs(pixels[..., channel] - matte(engine, place, name)).max() <= 1 / 65535


@pytest.mark.parametrize(("ending", "most"), [(".png", 1 / 255), (".tif", 1 / 255), (".jpg", 0.1), (".exr", HALF_STEP)])
def test_a_pack_that_is_not_full_is_red_green_and_blue(ending: str, most: float, engine: Engine, place: Path) -> None:
    # PNG would call two channels grey and alpha, and a picture of one is grey all over
    data = json.loads((place / "shot.json").read_text())
    data["format"]["pixel_aspect"] = 2.0
    (place / "shot.json").write_text(json.dumps(data))
    order = MatteOrder((1001,), str(place / ("{part}.{frame:04d}" + ending)), ())
    for mattes in (("dome", "brass"), ("mast lamps",)):
        written = list(write_frames(engine, read_text(json.dumps(data)), [place], replace(order, mattes=mattes, pack="rgb")))
        source: Any = oiio.ImageInput.open(str(written[0].files[0].path))
        assert source.spec().channelnames == ("R", "G", "B")
        if ending != ".jpg":  # which tells of it in whole dots an inch
            assert source.spec().get_float_attribute("PixelAspectRatio", 1) == 2.0, "as the pictures of the shot do"
        pixels = source.read_image("float")
        for channel in range(3):
            wanted = matte(engine, place, mattes[channel]) if channel < len(mattes) else np.zeros_like(pixels[..., 0])
            assert np.abs(pixels[..., channel] - wanted).max() <= most


@pytest.mark.parametrize(
    ("change", "told"),
    [
        ({"out": "m.{frame:04d}.exr"}, "need {matte} in the output name"),
        ({"out": "m.{frame:04d}.exr", "pack": "rgb", "mattes": ("brass", "dome", "mast lamps", "more")}, "need {part}"),
        ({"out": "{matte}.exr"}, "need {frame:04d}"),
        ({"out": "x.{frame:04d}.png", "pack": "named"}, "only .exr holds channels of any name"),
        ({"out": "{part}.{frame:04d}.jpg", "pack": "rgba"}, "JPEG has no alpha for a fourth matte"),
        ({"mattes": ()}, "no mattes to write"),
        ({"mattes": ("doom",)}, "did you mean 'dome'"),
        ({"mattes": ("dome", "dome")}, "two of the mattes are called 'dome'"),
    ],
)
def test_orders_that_cannot_work_are_refused_with_the_remedy(demo: Path, change: dict[str, Any], told: str) -> None:
    data = without_balloon(json.loads((demo / "dome-at-dusk.umbrax.json").read_text()))
    data["mattes"]["more"] = {"kind": "combined", "how": "any_of", "mattes": ["dome", "brass"]}
    order = MatteOrder(**{"frames": (1001, 1002), "out": "{matte}.{frame:04d}.exr", "mattes": NAMES} | change)
    with pytest.raises(UmbraxError, match=told.replace("{", r"\{")):
        checked_mattes(read_text(json.dumps(data)), order)


def baked_shot(engine: Engine, place: Path) -> dict[str, Any]:
    data = json.loads((place / "shot.json").read_text())
    data["mattes"]["dome"]["refine"] = {"grow": {"keys": [[1001, -2.0, "linear"], [1003, 2.0, "linear"]]}, "feather": 3.0}
    data["mattes"]["shine"] = {"kind": "combined", "how": "all_of", "mattes": ["dome", "brass"]}
    (place / "shot.json").write_text(json.dumps(data))
    umbrax(engine, "bake", str(place / "shot.json"), "--folder", str(place / "baked"), "--frames", "1001-1002")
    found: dict[str, Any] = json.loads((place / "shot.json").read_text())
    return found


def is_baked(engine: Engine, place: Path, data: dict[str, Any], name: str, frame: int) -> bool:
    """Whether a matte is read from its bake."""
    shot = read_text(json.dumps(data))
    return ShotPlanner(shot, frame, engine.reader(shot, [place])).baked_planes(name) is not None


def finished(engine: Engine, place: Path, data: dict[str, Any], frame: int) -> np.ndarray:
    return engine.make(read_text(json.dumps(data)), [place], frame, Want(), scale=2).picture.pixels


def test_a_bake_is_read_while_the_matte_is_what_it_was_and_no_longer(engine: Engine, place: Path) -> None:
    plain = json.loads((place / "shot.json").read_text())
    data = baked_shot(engine, place)
    assert data["mattes"]["dome"]["bake"] == {"source": "baked mattes", "pass": "dome"}
    live = json.loads(json.dumps(data))
    for entry in live["mattes"].values():
        entry.pop("bake")
    for frame in (1001, 1002):
        assert is_baked(engine, place, data, "dome", frame)
        baked, pulled = (finished(engine, place, one, frame) for one in (data, live))
        assert np.abs(baked - pulled).max() <= 4e-3, "as without, to half a step of its numbers"
    assert not is_baked(engine, place, data, "dome", 1003), "a frame that was not baked is pulled"
    assert is_baked(engine, place, data, "shine", 1001)
    elsewhere = json.loads(json.dumps(data))
    elsewhere["mattes"]["dome"]["names"] = ["drum"]
    assert not is_baked(engine, place, elsewhere, "dome", 1001)
    assert not is_baked(engine, place, elsewhere, "shine", 1001), "nor what is made of it"
    assert is_baked(engine, place, elsewhere, "brass", 1001), "the others stay"
    renamed = json.loads(json.dumps(data))
    renamed["mattes"]["dome"]["name"] = "the dome"
    assert is_baked(engine, place, renamed, "dome", 1001), "a name changes no pixel"
    assert not is_baked(engine, place, data | {"mattes": plain["mattes"]}, "dome", 1001)


def test_a_rewritten_render_makes_its_bake_another(engine: Engine, place: Path) -> None:
    data = baked_shot(engine, place)
    rendered = place / "station/station.1001.exr"
    again = rendered.read_bytes()
    rendered.unlink()
    rendered.write_bytes(again)
    shot = read_text(json.dumps(data))
    assert ShotPlanner(shot, 1001, engine.reader(shot, [place])).baked_planes("dome") is None
    assert ShotPlanner(shot, 1002, engine.reader(shot, [place])).baked_planes("dome") is not None
