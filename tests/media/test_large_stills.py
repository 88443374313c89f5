"""Stills that are too large to be held as floats: read in rows, the same bit for bit, and codes decoded by a table."""

from pathlib import Path

import numpy as np
import pytest
from foreign import write
from PIL import Image

from umbrax.core.colour import linear_from_srgb
from umbrax.core.document.text import read_data
from umbrax.core.picture import Window
from umbrax.core.plan import evaluate, read
from umbrax.media import examining
from umbrax.media import reader as media_reader
from umbrax.media.examining import check_up, sequence_of
from umbrax.media.fastcopies import FastCopies
from umbrax.media.reader import MediaReader
from umbrax.render.engine import Engine, Want

WIDE, HIGH = 203, 157


@pytest.fixture
def stills(tmp_path: Path) -> Path:
    rng = np.random.default_rng(3)
    Image.fromarray(rng.integers(0, 256, (HIGH, WIDE, 3), dtype=np.uint8)).save(tmp_path / "plate.png")
    cut = np.zeros((HIGH, WIDE, 4), np.uint8)
    cut[30:90, 50:120] = rng.integers(0, 256, (60, 70, 4), dtype=np.uint8)
    Image.fromarray(cut).save(tmp_path / "cut.png")
    write(tmp_path / "data.exr", {"Z": rng.random((HIGH, WIDE), np.float32)})
    return tmp_path


@pytest.mark.parametrize("name", ["plate.png", "cut.png", "data.exr"])
@pytest.mark.parametrize("scale", [1, 2, 4, 8])
def test_rows_change_nothing(stills: Path, monkeypatch: pytest.MonkeyPatch, name: str, scale: int) -> None:
    layout = {"width": WIDE + 30, "height": HIGH + 20, "fps": 24, "first": 1, "last": 1}
    shot = read_data({"umbrax": 1, "name": "s", "format": layout, "sources": {"a": {"path": name}}, "build": []})
    of = "Z" if name == "data.exr" else "rgba"
    windows = [None, Window(3, 5, 20, 17), Window(-2, 10, 26, 19)]

    def looked(folder: str) -> list[bytes]:
        engine = Engine(FastCopies(stills / folder))
        want = Want(kind="pass", source="a", name=of)
        return [engine.make(shot, [stills], 1, want, scale=scale, window=one).picture.pixels.tobytes() for one in windows]

    before = looked("one")
    monkeypatch.setattr(read, "LARGE", 1000)
    monkeypatch.setattr(evaluate, "BAND_PIXELS", 2000)
    asked: list[int] = []
    plain = MediaReader.pixels

    def pixels(self: MediaReader, source: str, frame: int, name: str, window: Window, shown: bool = False) -> object:
        asked.append(window.area)
        return plain(self, source, frame, name, window, shown)

    monkeypatch.setattr(MediaReader, "pixels", pixels)
    assert looked("two") == before
    assert max(asked) <= max(2000, WIDE * scale), "no more than a band of rows is read at a time"


@pytest.mark.parametrize("n", [2, 4, 8])
def test_kept_reductions_are_made_in_rows(stills: Path, monkeypatch: pytest.MonkeyPatch, n: int) -> None:
    Image.fromarray(np.random.default_rng(1).integers(0, 256, (80, 96, 3), dtype=np.uint8)).save(stills / "even.png")
    sources = read_data(
        {"umbrax": 1, "name": "s", "format": {"width": 96, "height": 80, "fps": 24, "first": 1, "last": 1},
         "sources": {"a": {"path": "even.png"}}, "build": []}
    ).sources  # fmt: skip
    whole = MediaReader(sources, [stills], FastCopies(stills / "one"))
    monkeypatch.setattr(media_reader, "REDUCED_FROM", 0)
    assert whole.keeps("a", 1, "rgba", n)
    wanted = Window(0, 0, 96 // n, 80 // n)
    expected = whole.reduced("a", 1, "rgba", n, wanted)
    monkeypatch.setattr(media_reader, "ROWS_OF", 96 * n)
    rows = MediaReader(sources, [stills], FastCopies(stills / "two")).reduced("a", 1, "rgba", n, wanted)
    assert rows.tobytes() == expected.tobytes()
    blocks = linear_from_srgb(np.asarray(Image.open(stills / "even.png"), np.float64) / 255).reshape(80 // n, n, 96 // n, n, 3)
    assert np.abs(rows - blocks.mean(axis=(1, 3))).max() < 1e-6


@pytest.mark.parametrize("bits", [8, 16])
def test_codes_are_decoded_as_the_standard_says(tmp_path: Path, bits: int) -> None:
    """IEC 61966-2-1:1999, 5.2, for every code; alpha is no light, and colour that carries it not is multiplied by it after."""
    codes = np.arange(1 << bits, dtype=np.uint32).reshape(-1, 256)
    import cv2

    kind = np.uint8 if bits == 8 else np.uint16
    alpha = np.flip(codes).astype(kind)
    cv2.imwrite(str(tmp_path / "all.png"), np.stack([codes.astype(kind)] * 3 + [alpha], axis=2))
    sources = read_data(
        {"umbrax": 1, "name": "s", "format": {"width": 256, "height": len(codes), "fps": 24, "first": 1, "last": 1},
         "sources": {"a": {"path": "all.png"}}, "build": []}
    ).sources  # fmt: skip
    found = MediaReader(sources, [tmp_path], FastCopies(tmp_path / "fast")).pixels("a", 1, "rgba", Window(0, 0, 256, len(codes)))
    top = (1 << bits) - 1
    code = codes / top
    light = np.where(code <= 0.04045, code / 12.92, ((code + 0.055) / 1.055) ** 2.4)
    assert np.abs(found[..., 3] - alpha / top).max() < 1e-7
    assert np.abs(found[..., 0] - light * alpha / top).max() < 1e-6


def test_a_check_up_says_that_a_still_is_too_large_for_it(stills: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    copies = FastCopies(stills / "fast")
    assert [one.rule for one in check_up(sequence_of(str(stills / "plate.png")), copies)].count("size") == 0
    monkeypatch.setattr(examining, "MOST_EXAMINED", WIDE * HIGH - 1)
    (told,) = check_up(sequence_of(str(stills / "plate.png")), copies)
    assert (told.rule, told.severity, told.pass_) == ("size", "note", "rgba")
    assert f"{WIDE} x {HIGH} pixels are more than a check-up looks through" in told.message
