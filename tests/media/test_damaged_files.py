"""Files of every kind, damaged at random: each is read or refused in one line, and stops no other file of its folder."""

import json
import os
from pathlib import Path

import numpy as np
import pytest
from foreign import id_header, id_of, id_planes, write
from PIL import Image

from movies import write_movie
from umbrax.core.document.sources import Source
from umbrax.core.errors import UmbraxError
from umbrax.media.fastcopies import FastCopies
from umbrax.media.files import inspect
from umbrax.media.finding import find_here
from umbrax.media.listing import list_passes
from umbrax.media.reader import MediaReader
from umbrax.media.roots import Roots

EXTREMES = [b"\xff\xff\xff\x7f", b"\xff\xff\xff\xff", b"\x00\x00\x00\x80", b"\x00\x00\x01\x00", b"\x7f\xff\xff\xff", b"\0" * 16]
ROUNDS = 30
NEGATIVE = '{"a": "-ffffffffffffff"}'


def made(path: Path) -> Path:
    noise = np.random.default_rng(0).integers(0, 256, (40, 60, 3), dtype=np.uint8)
    if path.suffix == ".exr":
        ids = np.full((2, 40, 60), id_of("dome"))
        channels = {name: noise[..., 0].astype(np.float16) for name in "RGBA"} | id_planes("object", ids, np.full((2, 40, 60), 0.5))
        return write(path, channels, id_header("object", ["dome"]))
    if path.suffix in (".mkv", ".mov", ".avi"):
        codec, layout = {".mkv": ("ffv1", "bgr0"), ".mov": ("libx264", "yuv420p"), ".avi": ("mjpeg", "yuvj420p")}[path.suffix]
        return write_movie(path, codec, layout)
    Image.fromarray(noise).save(path)
    return path


def damaged(data: bytes, rng: np.random.Generator) -> bytes:
    out, head = bytearray(data), min(len(data), 1200)
    at = int(rng.integers(head))
    match int(rng.integers(5)):
        case 0:
            return bytes(out[: int(rng.integers(len(out)))])
        case 1:
            for place in rng.integers(len(out), size=20):
                out[place] ^= 1 << int(rng.integers(8))
        case 2:
            for place in rng.integers(head, size=4):
                out[place] = int(rng.integers(256))
        case 3:
            out[at:at] = rng.bytes(5)
        case _:
            extreme = EXTREMES[int(rng.integers(len(EXTREMES)))]
            out[at : at + len(extreme)] = extreme
    return bytes(out)


def looked_at(path: Path, copies: FastCopies) -> None:
    reader = MediaReader({"a": Source(path=path.name)}, [path.parent], copies)
    for name, placed in reader.frame_of("a", 1).placed.items():
        if placed.found.kind == "ids":
            reader.ranks("a", 1, name, placed.found.window)
        else:
            reader.pixels("a", 1, name, placed.found.window)


@pytest.mark.parametrize("ending", ["exr", "png", "jpg", "tif", "webp", "mkv", "mov", "avi"])
def test_damage_is_told_of_in_one_line(tmp_path: Path, ending: str) -> None:
    folder, rng = tmp_path / "shot", np.random.default_rng(len(ending))
    folder.mkdir()
    data = made(tmp_path / f"whole.{ending}").read_bytes()
    Image.new("RGB", (8, 8)).save(folder / "good.png")
    bad, refused = folder / f"bad.{ending}", 0
    for number in range(ROUNDS):
        bad.write_bytes(damaged(data, rng))
        copies = FastCopies(tmp_path / "fast")
        for look in (lambda: list_passes(str(bad)), lambda copies=copies: looked_at(bad, copies)):
            told = ""
            try:
                look()
            except UmbraxError as error:
                told = error.message
            refused += bool(told)
            assert "\n" not in told, number
            assert not told or "bad." in told, (number, told)
        found = {one.path.name: one for one in find_here(folder, copies, Roots([folder]))}
        assert found["good.png"].info is not None
    assert refused, "no damage was told of"
    assert [path.name for path in (tmp_path / "fast").iterdir() if path.name.startswith(".") and path.name != ".notes"] == []


def test_names_that_are_not_in_utf8_are_shown_and_to_be_renamed(tmp_path: Path) -> None:
    """One such name blanks neither its folder nor an answer about it."""
    data = made(tmp_path / "good.exr").read_bytes()
    for name in (b"caf\xe9.exr", b"plaqu\xe9.0001.exr", b"plaqu\xe9.0002.exr"):
        (tmp_path / os.fsdecode(name)).write_bytes(data)
    (tmp_path / os.fsdecode(b"dossi\xe9")).mkdir()
    found = {one.name: one for one in find_here(tmp_path, FastCopies(tmp_path / ".fast"), Roots([tmp_path]))}
    assert set(found) == {"good", "café", "plaqué", "dossié"}
    assert json.dumps([str(one.path) for one in found.values()], ensure_ascii=False).encode()
    assert found["good"].info is not None
    assert {name for name, one in found.items() if one.problem and "not in UTF-8; rename it" in one.problem} == {"café", "plaqué", "dossié"}
    with pytest.raises(UmbraxError, match=r"'café.exr' is not in UTF-8; rename it"):
        inspect(tmp_path / os.fsdecode(b"caf\xe9.exr"))


def test_channels_and_objects_named_in_latin_1(tmp_path: Path) -> None:
    """The package writes UTF-8; the same bytes as ISO 8859-1 take their place, as older programs write them."""
    names = ["DxxME", "tower"]
    ids = np.full((2, 8, 8), id_of("tower"))
    channels = {f"lumiXXre.{c}": np.full((8, 8), 0.5, np.float16) for c in "RGB"} | id_planes("object", ids, np.full((2, 8, 8), 0.5))
    data = write(tmp_path / "plain.exr", channels, id_header("object", names)).read_bytes()
    for path, before, after in ((tmp_path / "latin.exr", b"XX", b"\xe8\xe9"), (tmp_path / "utf.exr", b"XX", "ü".encode())):
        path.write_bytes(data.replace(b"lumi" + before + b"re", b"lumi" + after + b"re").replace(b"DxxM", b"D" + after + b"M"))
    latin, utf = inspect(tmp_path / "latin.exr"), inspect(tmp_path / "utf.exr")
    assert "lumièére" in [one.name for one in latin.passes]
    assert "lumiüre" in [one.name for one in utf.passes]
    assert set(latin.ids["object"].names or ()) == {"DèéME", "tower"}
    assert set(utf.ids["object"].names or ()) == {"DüME", "tower"}
    copies = FastCopies(tmp_path / "fast")
    assert float(copies.open(latin)["lumièére"].outside[0]) == 0.5


@pytest.mark.parametrize(
    "manifest", ["[" * 100_000, '{"a":' * 100_000, '{"a": 3}', '{"a": "zz"}', '{"\\ud800": "1"}', '{"a": "-ffffffffffffff"}']
)
def test_a_manifest_that_is_none_costs_only_the_names(tmp_path: Path, manifest: str) -> None:
    ids = np.full((2, 8, 8), id_of("tower"))
    header = id_header("object", None) | {"cryptomatte/1a2b3c4/manifest": manifest}
    info = inspect(write(tmp_path / "a.exr", id_planes("object", ids, np.full((2, 8, 8), 0.5)), header))
    assert info.ids["object"].ranks == 2
    names = info.ids["object"].names
    assert json.dumps(names, ensure_ascii=False).encode()
    assert all(0 <= one < 1 << 32 for one in (names or {}).values())
