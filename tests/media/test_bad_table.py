"""A table of bad files: each gets one clear line that names it, and leaves neither a copy nor a broken process behind."""

import os
import pwd
import struct
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import numpy as np
import OpenImageIO as oiio
import pytest
from foreign import write, write_parts
from PIL import Image
from psd_tools import PSDImage

from movies import write_movie
from umbrax.core.errors import UmbraxError
from umbrax.media.fastcopies import FastCopies
from umbrax.media.files import inspect

H, W = 48, 64
RANDOM = np.random.default_rng(5)
NOISE = {letter: RANDOM.normal(0, 1, (H, W)).astype(np.float16) for letter in "RGBA"}
PIXELS = RANDOM.integers(0, 255, (H, W, 3), dtype=np.uint8)
TEXT = b"this is no picture at all\n" * 40
Make = Callable[[Path], None]


def scan_lines(path: Path) -> None:
    write(path, NOISE)


def in_parts(path: Path) -> None:
    write_parts(path, [("beauty", NOISE, {}), ("more", NOISE, {})])


def in_tiles(path: Path) -> None:
    spec = oiio.ImageSpec(W, H, 3, "half")
    spec.tile_width = spec.tile_height = 16
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec)
    assert out.write_image(PIXELS.astype(np.float32))
    out.close()


def by_pillow(path: Path) -> None:
    Image.fromarray(PIXELS).save(path)


def by_pyav(path: Path) -> None:
    write_movie(path, "libx264" if path.suffix == ".mp4" else "ffv1", "yuv420p" if path.suffix == ".mp4" else "bgr0")


def by_psd_tools(path: Path) -> None:
    document = PSDImage.new("RGB", (W, H))
    document.create_pixel_layer(Image.fromarray(PIXELS).convert("RGBA"), name="layer", top=0, left=0)
    document.save(path)


def cut(make: Make, share: float) -> Make:
    def bad(path: Path) -> None:
        make(path)
        data = path.read_bytes()
        path.write_bytes(data[: int(len(data) * share)])

    return bad


def holding(data: bytes) -> Make:
    return lambda path: path.write_bytes(data) and None


def patched(make: Make, at: int | bytes, data: bytes, after: int = 0) -> Make:
    """Bytes replaced at a place, or behind the first occurrence of others."""

    def bad(path: Path) -> None:
        make(path)
        raw = bytearray(path.read_bytes())
        place = at if isinstance(at, int) else raw.index(at) + len(at) + after
        raw[place : place + len(data)] = data
        path.write_bytes(raw)

    return bad


def window(x0: int, y0: int, x1: int, y1: int) -> bytes:
    return struct.pack("<4i", x0, y0, x1, y1)


BOX = b"dataWindow\0box2i\0" + struct.pack("<i", 16)
SHOWN = b"displayWindow\0box2i\0" + struct.pack("<i", 16)
LIST = b"channels\0chlist\0"


def link_to_itself(path: Path) -> None:
    path.symlink_to(path.name)


def link_to_nothing(path: Path) -> None:
    path.symlink_to("nowhere.exr")


TABLE: dict[str, tuple[str, Make]] = {
    **{f"exr cut at {share}": (".exr", cut(scan_lines, share)) for share in (0.0005, 0.002, 0.01, 0.03, 0.06, 0.1, 0.3, 0.5, 0.7, 0.9, 0.99)},
    **{f"tiled exr cut at {share}": (".exr", cut(in_tiles, share)) for share in (0.01, 0.05, 0.2, 0.5, 0.8, 0.95)},
    **{f"exr of two parts cut at {share}": (".exr", cut(in_parts, share)) for share in (0.01, 0.04, 0.2, 0.45, 0.55, 0.95)},
    **{f"png cut at {share}": (".png", cut(by_pillow, share)) for share in (0.001, 0.01, 0.3, 0.9)},
    **{f"tiff cut at {share}": (".tif", cut(by_pillow, share)) for share in (0.0002, 0.3, 0.9)},
    **{f"jpeg cut at {share}": (".jpg", cut(by_pillow, share)) for share in (0.001, 0.05)},
    **{f"webp cut at {share}": (".webp", cut(by_pillow, share)) for share in (0.01, 0.5)},
    **{f"psd cut at {share}": (".psd", cut(by_psd_tools, share)) for share in (0.0005, 0.1, 0.6, 0.95)},
    **{f"mp4 cut at {share}": (".mp4", cut(by_pyav, share)) for share in (0.001, 0.1, 0.5, 0.98)},
    **{f"mkv cut at {share}": (".mkv", cut(by_pyav, share)) for share in (0.0001, 0.01)},
    **{f"nothing called {ending}": (ending, holding(b"")) for ending in (".exr", ".png", ".tif", ".jpg", ".dpx", ".psd", ".mov", ".webm")},
    **{f"text called {ending}": (ending, holding(TEXT)) for ending in (".exr", ".png", ".tif", ".jpg", ".dpx", ".hdr", ".mov", ".avi")},
    **{f"noise called {ending}": (ending, holding(RANDOM.bytes(4000))) for ending in (".exr", ".png", ".tif", ".psd")},
    "exr with another magic number": (".exr", patched(scan_lines, 0, b"\x00\x11\x22\x33")),
    "exr of version 77": (".exr", patched(scan_lines, 4, b"\x4d")),
    "exr with a negative window": (".exr", patched(scan_lines, BOX, window(10, 10, -10, -10))),
    "exr with an absurd width": (".exr", patched(scan_lines, BOX, window(0, 0, 2**31 - 2, H - 1))),
    "exr with an absurd height": (".exr", patched(scan_lines, BOX, window(0, 0, W - 1, 2**31 - 2))),
    "exr with an absurd display": (".exr", patched(scan_lines, SHOWN, window(0, 0, 2**31 - 2, 2**31 - 2))),
    "exr of 60000 x 60000 with nothing in it": (".exr", patched(scan_lines, BOX, window(0, 0, 59999, 59999))),
    "exr with damaged pixels": (".exr", patched(scan_lines, 5000, RANDOM.bytes(900))),
    "exr with a damaged table of lines": (".exr", patched(scan_lines, b"screenWindowWidth\0float\0\x04\0\0\0", b"\xff" * 60, 5)),
    "exr with channels of no type": (".exr", patched(scan_lines, LIST, b"\x77" * 12, 8)),
    "png that says it is huge": (".png", patched(by_pillow, 16, struct.pack(">II", 2**31 - 1, 2**31 - 1))),
    "a link to itself": (".exr", link_to_itself),
    "a link to nothing": (".exr", link_to_nothing),
}  # fmt: skip


@pytest.mark.parametrize("name", TABLE)
def test_a_bad_file_gets_one_clear_line_and_leaves_nothing(name: str, tmp_path: Path, capfd: pytest.CaptureFixture[str]) -> None:
    ending, make = TABLE[name]
    path = tmp_path / f"bad one{ending}"
    make(path)
    copies = FastCopies(tmp_path / "copies")
    with pytest.raises(UmbraxError) as caught:
        copies.open(copies.info(path))
    message = caught.value.message
    assert path.name in message
    assert "\n" not in message
    assert 20 < len(message) < 360
    assert "Traceback" not in message
    left = list((tmp_path / "copies").iterdir()) if (tmp_path / "copies").exists() else []
    assert left == []
    good = tmp_path / "good.exr"
    scan_lines(good)
    assert copies.open(copies.info(good))["rgba"].planes.shape == (4, H, W)


@pytest.mark.parametrize("name", [name for name in TABLE if "exr" in name and "cut" in name])
def test_a_cut_off_file_that_comes_in_strips_is_refused_as_well(name: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("umbrax.media.decoding.WHOLE_BYTES", 100)
    path = tmp_path / "bad.exr"
    TABLE[name][1](path)
    copies = FastCopies(tmp_path / "copies")
    with pytest.raises(UmbraxError, match=r"cannot read 'bad.exr'"):
        copies.open(copies.info(path))
    assert not (tmp_path / "copies").exists() or not list((tmp_path / "copies").iterdir())


def test_the_table_is_long_enough() -> None:
    assert len(TABLE) >= 60


@pytest.mark.parametrize("name", ["with spaces.exr", 'it\'s "quoted".exr', "größe-λ-圖.exr", "two\nrows.exr", "-dash.exr", "%41 &?#.exr"])
def test_odd_names_are_only_names(name: str, tmp_path: Path) -> None:
    path = tmp_path / name
    scan_lines(path)
    assert inspect(path).passes[0].kind == "beauty"
    with pytest.raises(UmbraxError) as caught:
        inspect(path.with_name("no " + name))
    assert "\n" not in caught.value.message


def test_a_file_without_permission_is_refused_to_a_plain_user(tmp_path: Path) -> None:
    """Root may read everything, so the question is asked as a plain user."""
    path = tmp_path / "secret.exr"
    scan_lines(path)
    path.chmod(0)
    for folder in (tmp_path, *tmp_path.parents):
        if folder.stat().st_uid == os.getuid() and folder != Path("/"):
            folder.chmod(folder.stat().st_mode | 0o755)
    code = (
        "import os, sys; os.setuid(int(sys.argv[2])) if os.getuid() == 0 else None\n"
        "print('no permission to read' if not os.access(sys.argv[1], os.R_OK) else 'readable')\n"
    )
    nobody = str(pwd.getpwnam("nobody").pw_uid)
    asked = subprocess.run([sys.executable, "-c", code, str(path), nobody], capture_output=True, text=True, check=True)
    assert asked.stdout.strip() == "no permission to read"
    told = subprocess.run(
        [sys.executable, "-c", _INSPECT, str(path), nobody], capture_output=True, text=True, check=False, cwd=tmp_path
    )  # fmt: skip
    assert told.stdout.strip() == "no permission to read 'secret.exr'; change its permissions"


# modules are loaded before the rights are given up: a plain user may not see where they lie
_INSPECT = """
import os, sys
from pathlib import Path
from umbrax.core.errors import UmbraxError
from umbrax.media.files import inspect
if os.getuid() == 0:
    os.setuid(int(sys.argv[2]))
try:
    inspect(Path(sys.argv[1]))
except UmbraxError as error:
    print(error.message)
"""


def test_nan_everywhere_is_read_as_dark_light(tmp_path: Path) -> None:
    path = tmp_path / "nan.exr"
    write(path, {letter: np.full((H, W), np.nan, np.float16) for letter in "RGB"})
    copies = FastCopies(tmp_path / "copies")
    copy = copies.open(copies.info(path))["rgba"]
    assert copy.window.empty
    assert np.isnan(copy.outside).all()
