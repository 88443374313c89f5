"""Plates that are sized and timed, clouds, tiled textures, channels, and lights with a matte or a pass that multiplies them."""

from typing import Any

import numpy as np
import pytest
from scipy import ndimage

from arrays import STATION, ArrayReader, ArraySource, assert_near, card, make, scene, shot_of
from umbrax.core.document.edits import apply
from umbrax.core.document.removals import matte_removal, source_removal
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Window
from umbrax.core.pictures.passes import Timing, sized


def plate(**more: Any) -> dict[str, Any]:
    return {"id": "sky", "picture": {"kind": "plate", "source": "valley", **more}}


class Numbered(ArrayReader):
    """A plate on which every frame is as bright as its number."""

    def pixels(self, source: str, frame: int, name: str, window: Window, shown: bool = False) -> np.ndarray:
        return super().pixels(source, frame, name, window, shown) * 0 + np.float32(frame)

    def describe(self, source: str, frame: int) -> Any:
        info = super().describe(source, frame)
        return type(info)(f"{info.identity} {frame}", info.display, info.passes, info.ids)


@pytest.mark.parametrize(
    ("time", "frames"),
    [
        ({}, [1, 2, 3, 4, 5, 6]),
        ({"offset": 3}, [4, 5, 6, 7, 8, 9]),
        ({"speed": 0.5}, [1, 1, 2, 2, 3, 3]),
        ({"speed": 2, "span": [1, 5]}, [1, 3, 5, 5, 5, 5]),
        ({"span": [1, 3], "beyond": "loop"}, [1, 2, 3, 1, 2, 3]),
        ({"span": [1, 3], "beyond": "bounce"}, [1, 2, 3, 2, 1, 2]),
        ({"span": [1, 4], "reverse": True}, [4, 3, 2, 1, 1, 1]),
        ({"span": [2, 2], "beyond": "bounce"}, [2] * 6),
    ],
)
def test_a_plate_shows_the_frame_that_its_timing_says(time: dict[str, Any], frames: list[int]) -> None:
    reader = Numbered(**scene().sources)
    shot = shot_of([plate(time=time)])
    assert [make(shot, reader, frame=frame).pixels[0, 0, 0] for frame in range(1, 7)] == frames
    with pytest.raises(UmbraxError, match="first to last"):
        shot_of([plate(time={"span": [5, 2]})])


def test_the_frames_of_a_span_are_counted_from_the_shots_first() -> None:
    assert Timing(span=(1001, 1010)).frame_at(1003, 1001) == 1003
    assert Timing(offset=-4, span=(1001, 1010)).frame_at(1003, 1001) == 1001


@pytest.mark.parametrize(
    ("how", "corner", "width"),
    [("fit", (20.0, 0.0), 80.0), ("fill", (0.0, -22.5), 120.0), ("stretch", (0.0, 0.0), 120.0)],
)
def test_a_plate_of_another_size_fits_fills_or_is_stretched(how: str, corner: tuple[float, float], width: float) -> None:
    way = sized(Window(0, 0, 160, 180), Window(0, 0, 120, 90), how)
    assert way.at(0, 0) == pytest.approx(corner)
    assert way.at(160, 0)[0] - way.at(0, 0)[0] == pytest.approx(width)
    bright = np.ones((180, 160, 3), np.float32)
    reader = ArrayReader(station=scene().sources["station"], valley=ArraySource({"rgba": ("beauty", bright)}))
    got = make(shot_of([plate(size=how)]), reader).pixels
    assert got[45, 60, 3] == 1
    assert (got[45, 5, 3] == 1) is (how != "fit") or got[45, 5, 3] == (1 if how != "fit" else 0)
    assert_near(got[..., :3], np.repeat(got[..., 3:], 3, axis=2), 1e-5)


def test_a_texture_repeats_and_scales() -> None:
    y, x = np.mgrid[:20, :30].astype(np.float32)
    tile = np.dstack([0.5 + 0.4 * np.sin(2 * np.pi * x / 30), 0.5 + 0.4 * np.cos(2 * np.pi * y / 20), x * 0])
    reader = ArrayReader(station=scene().sources["station"], valley=ArraySource({"rgba": ("beauty", tile.astype(np.float32))}))
    texture = {"id": "t", "picture": {"kind": "texture", "source": "valley", "move": [7, 0]}}
    got = make(shot_of([texture]), reader).pixels
    assert np.array_equal(got[:20, 7:37, :3], tile.astype(np.float32))
    assert np.array_equal(got[:, 30:60], got[:, 60:90])
    assert got[..., 3].min() == 1
    # half a pixel to the right: smooth waves by spline interpolation in double precision
    moved = make(shot_of([{"id": "t", "picture": {"kind": "texture", "source": "valley", "move": [0.5, 0]}}]), reader).pixels
    wide = np.tile(tile[..., 0].astype(float), (5, 5))
    assert moved[:90, 30:120, 0] == pytest.approx(ndimage.shift(wide, (0, 0.5), order=5)[:90, 30:120], abs=2e-3)
    turned = make(shot_of([{"id": "t", "picture": {"kind": "texture", "source": "valley", "turn": 90}}]), reader).pixels
    assert np.array_equal(turned[:30, :20, :3], np.rot90(tile.astype(np.float32), 1))


@pytest.mark.parametrize("kind", ["plate", "pass", "rebuild"])
@pytest.mark.parametrize(
    "treatment",
    [
        {"kind": "soften", "size": 6.0},
        {"kind": "smear", "length": 20.0},
        {"kind": "fringe", "size": 5.0},
        {"kind": "defocus", "mode": "uniform"},
    ],
    ids=lambda treatment: treatment["kind"],
)
def test_what_the_frame_cuts_off_goes_on(kind: str, treatment: dict[str, Any]) -> None:
    """No dark border around a rendered background that has an alpha; an element that the frame cuts off lets nothing of what is behind it
    through there, but where it stands elsewhere it ends."""
    grey, ground = np.full((90, 120, 4), 0.5, np.float32), np.zeros((90, 120, 4), np.float32)
    grey[..., 3], ground[50:] = 1, 1
    valley, station = ({"rgba": ("beauty", pixels), "diffuse": ("diffuse", pixels[..., :3])} for pixels in (grey, ground))
    reader = ArrayReader(valley=ArraySource(valley), station=ArraySource(station))
    back, t = {"id": "back", "picture": {"kind": kind, "source": "valley"}}, {"id": "t", **treatment}
    beyond = {"id": "beside", "picture": {"kind": "pass", "source": "station"}, "placing": {"move": [70, 0]}}
    for cards in ([card(back, treatments=[t])], [back, {"id": "all", "treat": True, "treatments": [t]}]):
        assert_near(make(shot_of(cards), reader).pixels[..., 3], np.ones((90, 120)), 2e-4)
    finish = {"id": "all", "treat": True, "treatments": [t]}
    assert make(shot_of([back, beyond, finish]), reader).pixels[..., 3].min() == pytest.approx(1, abs=2e-4)
    front = {"id": "front", "picture": {"kind": kind, "source": "station"}, "treatments": [t]}
    assert_near(make(shot_of([front]), reader).pixels[86:, :, 3], np.ones((4, 120)), 2e-3)
    assert make(shot_of([card(front, placing={"move": [0, -20]})]), reader).pixels[89, 60, 3] == pytest.approx(0, abs=2e-3)


def test_a_tile_is_a_files_display_window() -> None:
    """A file may hold less than that, where it is empty around (OpenEXR: data and display window)."""
    tile = np.zeros((20, 30, 4), np.float32)
    tile[4:15, 9:23] = 0.5
    texture = {"id": "t", "picture": {"kind": "texture", "source": "valley"}}
    for windows in ({}, {"rgba": Window(9, 4, 23, 15)}):
        valley = ArraySource({"rgba": ("beauty", tile)}, windows=windows)
        got = make(shot_of([texture]), ArrayReader(station=scene().sources["station"], valley=valley)).pixels
        assert np.array_equal(got, np.tile(tile, (5, 4, 1))[:90])
        small = make(shot_of([card(texture, picture={**texture["picture"], "scale": 0.1})]), ArrayReader(valley=valley)).pixels
        assert small[10:-10, 10:-10, 3].mean() == pytest.approx(tile[..., 3].mean(), abs=0.01)


def test_clouds_are_smooth_seeded_and_evolve() -> None:
    def clouds(frame: int = 1, **more: Any) -> np.ndarray:
        picture = {"kind": "noise", "size": 60, "low": 0.2, "high": 0.8, "density": 0.9, "colour": [0.2, 0.4, 0.8], **more}
        return make(shot_of([{"id": "n", "picture": picture}], width=400, height=300), scene(), frame=frame).pixels

    got = clouds()
    alpha = got[..., 3]
    assert_near(got[..., :3], alpha[..., None] * np.array([0.2, 0.4, 0.8], np.float32), 1e-6)
    assert 0 <= alpha.min() < 0.15
    assert 0.6 < alpha.max() <= 0.9
    assert np.abs(np.diff(alpha, axis=1)).max() < 0.15
    assert np.array_equal(got, clouds())
    assert abs(np.corrcoef(alpha.ravel(), clouds(seed=5)[..., 3].ravel())[0, 1]) < 0.5
    keyed = {"evolve": {"keys": [[1, 0, "linear"], [9, 2, "linear"]]}}
    near, far = (np.corrcoef(alpha.ravel(), clouds(frame, **keyed)[..., 3].ravel())[0, 1] for frame in (2, 9))
    assert np.array_equal(clouds(1, **keyed), got)
    assert 0.5 < near < 0.999
    assert far < near - 0.2


@pytest.mark.parametrize("channel", ["red", "green", "blue", "alpha", "luma"])
def test_one_channel_as_a_picture(channel: str) -> None:
    shown = {"id": "c", "picture": {"kind": "pass", "source": "station", "channel": channel}}
    got, whole = make(shot_of([shown]), scene()).pixels, scene().sources["station"].passes["rgba"][1]
    weights = {"red": [1, 0, 0, 0], "green": [0, 1, 0, 0], "blue": [0, 0, 1, 0], "alpha": [0, 0, 0, 1], "luma": [0.2126, 0.7152, 0.0722, 0]}
    for c in range(3):
        assert_near(got[..., c], whole @ np.array(weights[channel], np.float32), 1e-5, relative=1e-6)
    assert np.array_equal(got[..., 3], np.ones_like(got[..., 3]) if channel == "alpha" else whole[..., 3])


def rebuilt(**lights: Any) -> Any:
    return shot_of([{"id": "station", "picture": {"kind": "rebuild", "source": "station", "lights": lights}}])


def test_a_light_shines_where_its_matte_is_and_leaves_the_rest_dark() -> None:
    reader = scene()
    passes = {name: pixels for name, (_, pixels) in reader.sources["station"].passes.items()}
    got = make(rebuilt(diffuse={"matte": "ball"}, emission={"matte": {"matte": "lamp", "invert": True}, "gain": 2}), reader).pixels
    ids, coverage, names = reader.sources["station"].ids["object_ids"]
    of = {name: np.where(ids == value, coverage, 0).sum(axis=0) for name, value in (names or {}).items()}
    total = np.maximum(of["ball"] + of["lamp"], 1e-6)
    wanted = passes["diffuse"] * (of["ball"] / total)[..., None] + 2 * passes["emission"] * (1 - of["lamp"] / total)[..., None]
    assert got[..., :3] == pytest.approx(wanted, abs=1e-4)


def test_a_light_times_a_pass() -> None:
    """Light without surface colour times the surface colour (common practice of rebuilding a beauty)."""
    reader = scene()
    diffuse = reader.sources["station"].passes["diffuse"][1]
    colour = np.random.default_rng(1).uniform(0, 1, diffuse.shape).astype(np.float32)
    reader.sources["station"].passes["albedo"] = ("surface_colour", colour)
    got = make(rebuilt(diffuse={"times": "albedo", "gain": 0.5}), reader).pixels
    assert got[..., :3] == pytest.approx(0.5 * diffuse * colour, abs=1e-6)


def test_a_lights_matte_goes_with_the_matte() -> None:
    shot = rebuilt(diffuse={"matte": "ball"}, emission={})
    gone = matte_removal(shot, "ball")
    assert gone.with_it == ("the matte of diffuse of card station",)
    assert apply(shot, gone.edits).card("station").picture.lights["diffuse"].matte is None
    with pytest.raises(UmbraxError, match="unknown matte"):
        rebuilt(diffuse={"matte": "nobody"})


def test_a_texture_lies_on_what_a_card_shows_goes_where_it_goes_and_goes_with_its_source() -> None:
    waves = np.random.default_rng(3).random((20, 30, 3), np.float32)
    reader = scene()
    reader.sources["cloth"] = ArraySource({"rgba": ("beauty", waves)})
    treatment = {"id": "t1", "kind": "texture", "source": "cloth", "move": [3, 0]}
    sources = {name: {"path": f"{name}.exr"} for name in ("station", "valley", "cloth")}

    def shown(treatments: list[dict[str, Any]], **more: Any) -> np.ndarray:
        return make(shot_of([{**STATION, "treatments": treatments, **more}], sources=sources), reader).pixels

    whole = np.tile(np.roll(waves, 3, axis=1), (5, 5, 1))[:90, :120]
    plain = shown([])
    assert_near(shown([treatment])[..., :3], plain[..., :3] * whole, 1e-6, relative=1e-5)
    assert np.array_equal(shown([treatment])[..., 3], plain[..., 3])
    assert_near(shown([{**treatment, "lay": {"join": "over"}}])[..., :3], plain[..., 3:] * whole, 1e-6, relative=1e-5)
    assert np.array_equal(shown([{"id": "t1", "kind": "texture"}]), plain), "nothing without a source"
    moved = shown([treatment], placing={"move": [11, 5]})
    assert np.array_equal(moved[5:, 11:], shown([treatment])[:-5, :-11]), "it sticks to the card"
    shot = shot_of([{**STATION, "treatments": [treatment]}], sources=sources)
    left = apply(shot, source_removal(shot, "cloth").edits)
    assert not left.card("station").treatments
    assert source_removal(shot, "cloth").with_it == ("texture of card station",)
    with pytest.raises(UmbraxError, match="clothes"):
        shot_of([{**STATION, "treatments": [{**treatment, "source": "clothes"}]}], sources=sources)
