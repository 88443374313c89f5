"""Shots that work in the primaries of ACEScg: what is read, computed, looked at and written, against the same work in BT.709."""

from dataclasses import replace
from pathlib import Path
from typing import Any

import colour
import numpy as np
import OpenImageIO as oiio
import pytest
from hypothesis import given
from hypothesis import strategies as st

from umbrax.core.colour import PRIMARIES, in_bt709, luma_of, primaries_matrix
from umbrax.core.document.text import read_data
from umbrax.core.mattes.channel import channel_values
from umbrax.core.measuring.matching import matching_slope
from umbrax.core.measuring.scopes import scopes
from umbrax.core.treatments.grade import hue_matrix, saturation_matrix
from umbrax.media import reader as reading
from umbrax.media.examining import check_up, sequence_of_source
from umbrax.media.fastcopies import FastCopies
from umbrax.media.writing import write_picture
from umbrax.render.engine import Engine, Want
from umbrax.render.movie import render_movie
from umbrax.render.output import RenderOrder, render_frames

WIDE, HIGH = 48, 32
# CIE 1931 Y of ACEScg's primaries by colour-science, from Academy S-2014-004
AP1_LUMA = colour.RGB_COLOURSPACES["ACEScg"].matrix_RGB_to_XYZ[1]


def element() -> np.ndarray:
    """Colours of a render up to 4, some of them strong, multiplied by an alpha that ends inside."""
    rng = np.random.default_rng(5)
    pixels = rng.uniform(0.02, 4, (HIGH, WIDE, 4)).astype(np.float32)
    pixels[..., 3] = np.clip(np.linspace(-0.2, 1.4, WIDE, dtype=np.float32), 0, 1)
    pixels[..., :3] *= pixels[..., 3:]
    return pixels


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """`render.exr`, which says AP1; `plain.exr`, which says nothing; `plate.png` for a display."""
    write_picture(tmp_path / "render.exr", element(), "float", space="lin_ap1", working="lin_ap1")
    spec = oiio.ImageSpec(WIDE, HIGH, 4, "float")
    out = oiio.ImageOutput.create(str(tmp_path / "plain.exr"))
    assert out.open(str(tmp_path / "plain.exr"), spec)
    assert out.write_image(element())
    out.close()
    codes = np.random.default_rng(2).uniform(0, 1, (HIGH, WIDE, 4)).astype(np.float32)
    codes[..., 3] = 1
    write_picture(tmp_path / "plate.png", codes, "8")
    return tmp_path


def shot(working: str, build: list[dict[str, Any]], view: str = "srgb", **sources: dict[str, Any]) -> Any:
    files = {"render": "render.exr", "plain": "plain.exr", "plate": "plate.png"}
    return read_data({
        "umbrax": 1, "name": "s", "format": {"width": WIDE, "height": HIGH, "first": 1, "last": 1},
        "colour": {"working": working, "view": view}, "build": build,
        "sources": {name: {"path": path} | sources.get(name, {}) for name, path in files.items()},
    })  # fmt: skip


def card(source: str, **more: Any) -> dict[str, Any]:
    return {"id": source, "picture": {"kind": "pass", "source": source}, **more}


def made(folder: Path, wanted: Any, scale: int = 1, want: Want | None = None) -> np.ndarray:
    return Engine(FastCopies(folder / "fast")).make(wanted, [folder], 1, want or Want(), scale=scale).picture.pixels


def written(folder: Path, wanted: Any, name: str, **order: Any) -> np.ndarray:
    """A frame as it was written, read by OpenImageIO alone."""
    out = folder / "out" / name
    out.parent.mkdir(exist_ok=True)
    for _ in render_frames(Engine(FastCopies(folder / "fast")), wanted, [folder], RenderOrder((1,), str(out), **order)):
        pass
    return oiio.ImageBuf(str(out)).get_pixels(oiio.FLOAT if name.endswith("exr") else oiio.UINT16)


def test_light_of_these_primaries_goes_through_bit_for_bit_and_says_what_it_is(folder: Path) -> None:
    wanted = shot("lin_ap1", [card("render")])
    assert np.array_equal(made(folder, wanted), element())
    assert np.array_equal(written(folder, wanted, "a.exr", type="float"), element())
    header = oiio.ImageBuf(str(folder / "out" / "a.exr")).spec()
    assert header.getattribute("chromaticities") == pytest.approx(PRIMARIES["lin_ap1"])
    # what is asked for in other primaries is turned, once
    asked = written(folder, wanted, "b.exr", type="float", space="lin_rec709")
    assert np.abs(asked - in_bt709(element(), "lin_ap1")).max() < 1e-5


LINEAR = [
    card("plate"),
    card("render", opacity=0.7, treatments=[{"id": "g", "kind": "grade", "exposure": 0.4}, {"id": "b", "kind": "soften", "size": 2.0}]),
    {"id": "plus", "picture": {"kind": "pass", "source": "plain"}, "join": "plus", "opacity": 0.2},
]


@pytest.mark.parametrize("view", ["srgb", "aces"])
@pytest.mark.parametrize("name", ["a.png", "a.tif"])
def test_work_that_mixes_no_channels_looks_as_it_does_in_bt709(folder: Path, view: str, name: str) -> None:
    one, other = (written(folder, shot(working, LINEAR, view), f"{working}{name}", type="16") for working in ("lin_rec709", "lin_ap1"))
    assert np.abs(one.astype(int) - other.astype(int)).max() <= (64 if view == "aces" else 8), "of 65535"
    exr = [written(folder, shot(working, LINEAR), f"{working}.exr", type="float", space="lin_rec709") for working in ("lin_rec709", "lin_ap1")]
    assert np.abs(exr[0] - exr[1]).max() < 1e-4


def test_a_movie_looks_as_the_frames_do(folder: Path) -> None:
    frames = []
    for working in ("lin_rec709", "lin_ap1"):
        out = folder / f"{working}.mov"
        order = RenderOrder((1,), str(out), type="prores_4444", caption=True)
        list(render_movie(Engine(FastCopies(folder / "fast")), shot(working, LINEAR), [folder], order))
        reader = reading.MediaReader({"m": read_source(out.name)}, [folder], FastCopies(folder / "fast"))
        frames.append(reader.pixels("m", 1, "rgba", reader.describe("m", 1).display))
    assert np.abs(frames[0] - frames[1]).max() < 0.01


def read_source(path: str) -> Any:
    return shot("lin_rec709", [], render={"path": path}).sources["render"]


def test_what_says_nothing_is_bt709_and_raw_is_as_it_lies(folder: Path) -> None:
    matrix = primaries_matrix(PRIMARIES["lin_rec709"], PRIMARIES["lin_ap1"])
    assert matrix is not None
    turned = element().astype(np.float64)
    turned[..., :3] = turned[..., :3] @ matrix.astype(np.float64).T
    assert np.abs(made(folder, shot("lin_ap1", [card("plain")])) - turned).max() < 1e-5
    assert np.array_equal(made(folder, shot("lin_ap1", [card("plain")], plain={"colour": "lin_ap1"})), element())
    assert np.array_equal(made(folder, shot("lin_ap1", [card("plain")], plain={"colour": "raw"})), element())


def test_smaller_copies_of_one_space_are_not_those_of_the_other(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(reading, "REDUCED_FROM", 1)
    for source in ("plain", "render"):
        whole, small = ([made(folder, shot(working, [card(source)]), n) for working in ("lin_rec709", "lin_ap1")] for n in (1, 4))
        for full, preview in zip(whole, small, strict=True):
            assert preview == pytest.approx(full.reshape(HIGH // 4, 4, WIDE // 4, 4, 4).mean(axis=(1, 3)), abs=1e-4)
        assert np.abs(small[0] - small[1]).max() > 0.05


def test_one_engine_makes_both_without_taking_one_for_the_other(folder: Path) -> None:
    engine = Engine(FastCopies(folder / "fast"))
    solid = {"id": "c", "picture": {"kind": "solid", "colour": [0.1, 0.5, 0.9]}}
    grey = {"id": "g", "kind": "grade", "saturation": 0}
    for treatments in ([grey], [{**grey, "amount": 0.5}], [{"id": "r", "kind": "recolour"}], [{"id": "r", "kind": "recolour", "amount": 0.5}]):
        builds = [shot(working, [{**solid, "treatments": treatments}]) for working in ("lin_rec709", "lin_ap1")]
        one, other = (engine.make(build, [folder], 1, Want()).picture.pixels for build in builds)
        assert np.abs(one - other).max() > 0.01


def test_luma_has_the_weights_of_these_primaries() -> None:
    assert luma_of("lin_ap1") == pytest.approx(tuple(AP1_LUMA), abs=1e-6)
    assert luma_of("lin_rec709") == (0.2126, 0.7152, 0.0722), "BT.709-6, item 3.2"


@given(st.tuples(*[st.floats(0, 8)] * 3), st.floats(0, 3), st.floats(-180, 180))
def test_saturation_and_hue_keep_that_luma(light: tuple[float, float, float], saturation: float, degrees: float) -> None:
    luma = luma_of("lin_ap1")
    turned = hue_matrix(degrees, luma) @ saturation_matrix(saturation, luma) @ np.array(light)
    assert turned @ np.array(luma) == pytest.approx(np.array(light) @ np.array(luma), abs=1e-9)


@pytest.mark.parametrize(
    "treatment", [{"kind": "grade", "saturation": 0}, {"kind": "grade", "saturation": 0, "amount": 0.999999}], ids=["whole", "mixed"]
)
def test_without_saturation_light_is_its_luma(folder: Path, treatment: dict[str, Any]) -> None:
    found = made(folder, shot("lin_ap1", [card("render", treatments=[{"id": "g", **treatment}])]))
    assert found[..., :3] == pytest.approx((element()[..., :3] @ AP1_LUMA)[..., None].repeat(3, axis=2), abs=1e-4)


def test_mattes_pictures_and_brightness_of_grain_go_by_it(folder: Path) -> None:
    straight = element()[..., :3] / np.maximum(element()[..., 3:], 1e-6)
    values = channel_values(straight, "luma", luma_of("lin_ap1"))[..., 0]
    matte = {"kind": "channel", "source": "render", "pass": "rgba", "channel": "luma", "white": 4}
    document = shot("lin_ap1", [card("render")]).model_dump(mode="json", by_alias=True)
    found = made(folder, read_data(document | {"mattes": {"m": matte}}), want=Want("matte", name="m"))[..., 0]
    solid = element()[..., 3] == 1
    assert found[solid] == pytest.approx(np.clip(values / 4, 0, 1)[solid], abs=1e-5)
    shown = made(folder, shot("lin_ap1", [{"id": "c", "picture": {"kind": "pass", "source": "render", "channel": "luma"}}]))
    assert shown[..., 0] == pytest.approx(element()[..., :3] @ AP1_LUMA, abs=1e-4)
    grain = {"id": "n", "kind": "grain", "strength": 0.1, "size": 0, "still": True}
    noises = [
        made(folder, shot("lin_ap1", [card("render", treatments=[{**grain, "response": response}])])) - element() for response in (0.0, 1.0)
    ]
    ratio = noises[1][solid, :3] / noises[0][solid, :3]
    assert np.median(ratio[:, 0] / (straight[solid] @ AP1_LUMA / 0.18)) == pytest.approx(1, abs=0.01)


@pytest.mark.parametrize("kind", ["wrap", "bleed"])
def test_light_that_is_laid_on_loses_its_colour_by_it(folder: Path, kind: str) -> None:
    """On a black element before one colour: what is laid there is grey, as bright as the luma of that."""
    behind = {"id": "c", "picture": {"kind": "solid", "colour": [0.3, 0.1, 0.02]}}
    black = {"id": "k", "kind": "grade", "slope": [0, 0, 0]}
    laid = {"id": "w", "kind": kind, "width": 30, "size": 9, "saturation": 0, "join": "plus" if kind == "wrap" else "over"}
    found = {working: made(folder, shot(working, [behind, card("render", treatments=[black, laid])])) for working in ("lin_rec709", "lin_ap1")}
    inside = (element()[..., 3] == 1) & (found["lin_rec709"][..., 0] > 1e-3)
    assert inside.sum() > 100
    bright = {working: float(np.array([0.3, 0.1, 0.02]) @ luma_of(working)) for working in found}
    for pixels in found.values():
        assert np.ptp(pixels[inside, :3], axis=1).max() < 1e-6
    ratio = found["lin_ap1"][inside, 0] / found["lin_rec709"][inside, 0]
    assert ratio == pytest.approx(bright["lin_ap1"] / bright["lin_rec709"], rel=1e-3)


def test_a_match_keeps_luma_and_scopes_show_the_colours_that_are_seen() -> None:
    here, there, luma = (0.3, 0.5, 0.2), (0.6, 0.2, 0.4), luma_of("lin_ap1")
    slope = matching_slope(here, there, "neutral", luma)
    assert np.array(here) * slope @ np.array(luma) == pytest.approx(np.array(here) @ np.array(luma))
    light = np.full((4, 4, 4), (0.2, 0.7, 0.4, 1), np.float32)
    one, other = scopes(in_bt709(light, "lin_ap1")), scopes(light, working="lin_ap1")
    assert np.array_equal(one.chroma, other.chroma)
    assert not np.array_equal(scopes(light).chroma, other.chroma)


def test_the_check_up_tells_what_is_turned_and_what_says_nothing(folder: Path) -> None:
    told = {}
    for working in ("lin_rec709", "lin_ap1"):
        for source, setting in (("render", {}), ("plain", {}), ("plate", {}), ("plain", {"colour": "lin_ap1"})):
            wanted = shot(working, [], **{source: setting})
            reader = reading.MediaReader(wanted.sources, [folder], FastCopies(folder / "fast"), working=wanted.colour.working)
            found = [one for one in check_up(sequence_of_source(reader, source), reader.copies) if one.rule == "colour-space"]
            told[working, source, bool(setting)] = [(one.message.split(": ")[1], one.remedy) for one in found]
    assert told["lin_rec709", "render", False] == [("turned to BT.709 on reading", {"do": "work-in", "working": "lin_ap1"})]
    remedy = {"do": "set", "colour": "lin_ap1"}
    read_so = "read as BT.709 and turned to ACEScg (AP1) on reading; set them where they are others"
    assert told["lin_ap1", "plain", False] == [(read_so, remedy)]
    assert [key for key, found in told.items() if found] == [("lin_rec709", "render", False), ("lin_ap1", "plain", False)]


def test_what_a_look_shows_is_turned_for_the_display(folder: Path) -> None:
    from umbrax.web.encoding import as_eight_bits

    picture = Engine(FastCopies(folder / "fast")).make(shot("lin_ap1", [card("render")]), [folder], 1, Want()).picture
    in_709 = replace(picture, pixels=in_bt709(picture.pixels, "lin_ap1"))
    for view in ("srgb", "aces"):
        for exact in (False, True):
            one = as_eight_bits(picture, "colour", 0.5, exact=exact, view=view, working="lin_ap1")
            assert np.array_equal(one, as_eight_bits(in_709, "colour", 0.5, exact=exact, view=view))
    grey = as_eight_bits(picture, "luma", 0, exact=True, working="lin_ap1")[..., 0]
    weighted = picture.pixels[..., :3] @ AP1_LUMA.astype(np.float32)
    assert np.array_equal(grey, as_eight_bits(replace(picture, pixels=weighted[..., None]), "colour", 0, exact=True)[..., 0])
