"""Text: areas of letters against the fonts' own numbers, lines where they should be, and a leader line that follows what it shows."""

from typing import Any

import numpy as np
import pytest
import uharfbuzz as hb
from PIL import Image, ImageDraw, ImageFont

from arrays import STATION, ArrayReader, ArraySource, assert_near, disc, make, ranked, scene, shot_of
from umbrax.core.document.edits import apply
from umbrax.core.document.removals import matte_removal
from umbrax.core.errors import UmbraxError
from umbrax.core.kernels.resample import reduce_area
from umbrax.core.lettering.shaping import face_of, shaped
from umbrax.media import typefaces
from umbrax.media.typefaces import FILES, FONTS, typeface

WHITE = {"colour": [1.0, 1.0, 1.0]}


def text(**more: Any) -> dict[str, Any]:
    return {"id": "text", "picture": {"kind": "text", "text": "Dome", "size": 30, "at": [10, 8], **WHITE, **more}}


def drawn(scale: int = 1, frame: int = 1, reader: ArrayReader | None = None, **more: Any) -> np.ndarray:
    return make(shot_of([text(**more)], width=320, height=120), reader or scene(), scale=scale, frame=frame).pixels


@pytest.mark.parametrize("font", sorted(FILES))
@pytest.mark.parametrize("letter", ["R", "g", "&", "é"])
def test_letters_are_those_that_freetype_draws_of_the_same_font(font: str, letter: str) -> None:
    """Pillow draws with FreeType: eight times as large, where its hints move nothing, and reduced."""
    got = drawn(font=font, text=letter, size=64)[..., 3]
    file = next(FONTS / one for one in FILES[font] if (FONTS / one).is_file())
    face = ImageFont.truetype(str(file), 64 * 8, layout_engine=ImageFont.Layout.BASIC)
    picture = Image.new("L", (320 * 8, 120 * 8))
    base = 8 + face_of(typeface(font)).above * 64
    ImageDraw.Draw(picture).text((10 * 8, base * 8), letter, fill=255, font=face, anchor="ls")
    wanted = reduce_area(np.asarray(picture, np.float32)[..., None] / np.float32(255), 8)[..., 0]
    assert got.sum() == pytest.approx(wanted.sum(), rel=0.01)
    assert np.abs(got - wanted).max() < 0.2, "hints round to an eighth of a pixel"


def test_a_line_is_as_long_as_its_advances_and_kerning_say() -> None:
    data = typeface("sans")
    font = hb.Font(hb.Face(data))
    buffer = hb.Buffer()
    buffer.add_str("AVATAR")
    buffer.guess_segment_properties()
    hb.shape(font, buffer)
    assert shaped("AVATAR", data).width == pytest.approx(sum(at.x_advance for at in buffer.glyph_positions) / font.face.upem)
    assert shaped("AVATAR", data).width < sum(shaped(letter, data).width for letter in "AVATAR"), "kerned"


def test_lines_are_lined_up_and_lead_apart() -> None:
    left = drawn(text="i\nWWW")
    assert left[:44, 60:, 3].max() == 0
    right = drawn(text="i\nWWW", align="right", at=[300, 8])
    assert right[:44, 296:300, 3].max() > 0
    assert right[:44, :280, 3].max() == 0
    wide = drawn(text="H\nH", leading=2.0)[..., 3].sum(axis=1)
    near = drawn(text="H\nH", leading=1.0)[..., 3].sum(axis=1)
    assert np.flatnonzero(wide).max() - np.flatnonzero(near).max() == 30, "one size further down"


@pytest.mark.parametrize("n", [2, 4, 8])
def test_previews_are_the_mean_of_their_pixels(n: int) -> None:
    whole = drawn(box={"margin": 7.5}, alpha=0.9)
    assert_near(drawn(scale=n, box={"margin": 7.5}, alpha=0.9), reduce_area(whole, n), 0.02)


def test_a_box_lies_behind_the_letters_and_only_there() -> None:
    got = drawn(box={"colour": [0.2, 0.1, 0.0], "alpha": 0.5, "margin": 6})
    assert got[4, 6] == pytest.approx([0.1, 0.05, 0.0, 0.5], abs=1e-6)
    assert got[1, 2].max() == 0
    assert got[..., 3].max() == pytest.approx(1, abs=1e-6)


def moving(frame: int) -> ArrayReader:
    """A ball that goes to the right with every frame."""
    coverage = disc(120, 320, 90, 100 + 20 * frame, 8)
    picture = np.stack([coverage * 0.5] * 3 + [coverage], axis=2)
    ball = ArraySource({"rgba": ("beauty", picture)}, {"object_ids": ranked({"ball": coverage})}, version=str(frame))
    return ArrayReader(station=ball, valley=scene().sources["valley"])


@pytest.mark.parametrize("frame", [1, 5])
def test_the_leader_line_goes_to_the_middle_of_what_the_matte_holds_and_follows_it(frame: int) -> None:
    got = drawn(frame=frame, reader=moving(frame), leader={"to": "ball", "dot": 4, "width": 2})
    plain = drawn(frame=frame, reader=moving(frame))
    line = (got - plain)[..., 3]
    x = 100 + 20 * frame
    assert line[90, x] == pytest.approx(1, abs=1e-5), "the dot"
    assert line[82:99, x - 8 : x + 9].sum() == pytest.approx(np.pi * 16, rel=0.35)
    assert line[88:93, x + 6 :].max() == 0, "nothing beyond it"
    away = np.flatnonzero(line.sum(axis=0))
    assert away.min() >= 5, "from the text on"
    assert away.max() <= x + 5


@pytest.mark.parametrize("placing", [{"move": [20, -3]}, {"turn": 20.0, "scale": 1.4, "about": [30, 20]}])
def test_the_leader_line_of_a_placed_text_ends_on_what_it_shows(placing: dict[str, Any]) -> None:
    unseen = {"id": "ball", "picture": {"kind": "pass", "source": "station", "pass": "rgba"}, "placing": {"move": [10, 0]}, "opacity": 0}
    cards = [text(leader={"to": "ball", "dot": 8, "width": 2}), text()]
    got, plain = (make(shot_of([unseen, one | {"placing": placing}], width=320, height=120), moving(3), frame=3).pixels for one in cards)
    y, x = np.mgrid[82:99, 162:179] + 0.5
    dot = (got - plain)[82:99, 162:179, 3]
    assert (dot * x).sum() / dot.sum() == pytest.approx(170.5, abs=1.0)
    assert (dot * y).sum() / dot.sum() == pytest.approx(90.5, abs=1.0)
    assert got[90, 170, 3] == pytest.approx(1, abs=1e-4)


def test_where_the_matte_holds_nothing_there_is_no_line_and_without_the_matte_no_leader() -> None:
    gone = moving(1)
    gone.sources["station"].ids["object_ids"][1][...] = 0
    assert np.array_equal(drawn(reader=gone, leader={"to": "ball"}), drawn(reader=gone))
    shot = shot_of([STATION, text(leader={"to": "ball"})])
    removal = matte_removal(shot, "ball")
    assert "the leader line of card text" in removal.with_it
    left = apply(shot, removal.edits).card("text").picture
    assert left is not None
    assert "leader" not in left.model_dump(mode="json")


def test_a_machine_without_a_typeface_says_what_to_do(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(typefaces, "FILES", {"sans": ("nowhere.otf",)})
    typeface.cache_clear()
    with pytest.raises(UmbraxError, match="bin/setup"):
        typeface("sans")
    typeface.cache_clear()
