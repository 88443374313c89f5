"""Mattes by channel, depth, colour, alpha, number and drawn shape: against formulas, reference libraries and the stand-in's truth."""

import colorsys
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from skimage.draw import polygon2mask

from arrays import PLATE, STATION, ArrayReader, ArraySource, card, scene, shot_of
from umbrax.core.document.parameters import MatteRef
from umbrax.core.document.text import read_data
from umbrax.core.errors import UmbraxError
from umbrax.core.mattes.channel import channel_values
from umbrax.core.mattes.depth import between
from umbrax.core.mattes.index import smoothed
from umbrax.core.mattes.key import distance
from umbrax.core.mattes.membership import ramped
from umbrax.core.mattes.shape import outline
from umbrax.core.picture import Window
from umbrax.core.plan.cache import PictureCache
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner
from umbrax.standin.frames import render
from umbrax.standin.scene import observatory

W, H = 120, 90
RANDOM = np.random.default_rng(2)


def planes(matte: dict[str, Any], reader: ArrayReader | None = None, frame: int = 1, size: tuple[int, int] = (W, H)) -> np.ndarray:
    """Coverage, share and sum of a matte over the little scene."""
    shot = shot_of([PLATE], mattes={"m": matte}, width=size[0], height=size[1])
    planner = ShotPlanner(shot, frame, reader or scene())
    return evaluate(planner.matte_planes(MatteRef(matte="m"), 1), Window(0, 0, *size), PictureCache(1 << 28)).pixels


colours = st.tuples(*[st.floats(0, 4, width=32)] * 3)


@given(colours)
def test_hue_and_saturation_are_those_of_the_hexcone(rgb: tuple[float, float, float]) -> None:
    """colorsys.rgb_to_hsv, for colours scaled into 0..1."""
    pixel = np.float32(rgb).reshape(1, 1, 3)
    hue, saturation, _ = colorsys.rgb_to_hsv(*(float(v) / 4 for v in pixel[0, 0]))
    assert channel_values(pixel, "saturation")[0, 0, 0] == pytest.approx(saturation, abs=1e-5)
    found = float(channel_values(pixel, "hue")[0, 0, 0])
    assert min(abs(found - hue), 1 - abs(found - hue)) < 1e-4 or saturation < 1e-4


def test_luma_and_colour_differences_are_those_of_bt709() -> None:
    """ITU-R BT.709-6, items 3.2 and 3.3: pure blue has Cb 0.5, pure red Cr 0.5, grey neither."""
    pixels = np.float32([[[0, 0, 1], [1, 0, 0], [0.3, 0.3, 0.3], [0, 1, 0]]])
    assert channel_values(pixels, "luma")[0, :, 0] == pytest.approx([0.0722, 0.2126, 0.3, 0.7152], abs=1e-6)
    assert channel_values(pixels, "cb")[0, :3, 0] == pytest.approx([0.5, -0.2126 / 1.8556, 0], abs=1e-5)
    assert channel_values(pixels, "cr")[0, :3, 0] == pytest.approx([-0.0722 / 1.5748, 0.5, 0], abs=1e-5)


def test_ramps_by_hand() -> None:
    values = np.float32([-1, 0.2, 0.4, 0.6, 9, np.nan, np.inf])
    assert ramped(values, 0.2, 0.6) == pytest.approx([0, 0, 0.5, 1, 1, 0, 1], abs=1e-6)
    assert ramped(values, 0.6, 0.2) == pytest.approx([1, 1, 0.5, 0, 0, 0, 0], abs=1e-6)
    assert ramped(values, 0.4, 0.4).tolist() == [0, 0, 1, 1, 1, 0, 1]


def test_light_is_looked_at_without_its_alpha_so_that_rims_belong_whole() -> None:
    """The ball's colour is the same at its rim: where it is red enough inside, its rim is as well, by what it covers."""
    found = planes({"kind": "channel", "source": "station", "pass": "rgba", "channel": "red", "black": 0.3, "white": 0.4})
    alpha = scene().sources["station"].passes["rgba"][1][..., 3]
    rim = (alpha > 0.05) & (alpha < 0.95)
    assert rim.sum() > 50
    assert found[..., 1][rim] == pytest.approx(1, abs=1e-4)
    assert found[..., 0] == pytest.approx(alpha, abs=1e-4)


def with_pass(name: str, kind: str, pixels: np.ndarray) -> ArrayReader:
    reader = scene()
    reader.sources["station"].passes[name] = (kind, pixels.astype(np.float32))
    return reader


def test_a_rendered_matte_is_coverage_and_its_share_is_found_by_alpha() -> None:
    alpha = scene().sources["station"].passes["rgba"][1][..., 3]
    packed = np.stack([alpha * (np.arange(W) < 60), alpha, 0 * alpha], axis=2)
    found = planes({"kind": "channel", "source": "station", "pass": "packed", "channel": "red"}, with_pass("packed", "rgb_matte", packed))
    assert np.array_equal(found[..., 0], packed[..., 0])
    left = (alpha > 0) & (np.arange(W) < 60)
    assert found[..., 1][left] == pytest.approx(1)
    assert not found[..., 1][:, 60:].any()


def test_depth_by_hand() -> None:
    depth = np.float32([1, 2, 3, 5, 8, 10, 12, 14, np.inf, np.nan, 1e10, -1])
    assert between(depth, 3, 10, 2, 4) == pytest.approx([0, 0.5, 1, 1, 1, 1, 0.5, 0, 0, 0, 0, 0])
    assert between(depth, 3, 10, 0, 0).tolist() == [0, 0, 1, 1, 1, 1, 0, 0, 0, 0, 0, 0]


def test_a_depth_matte_covers_what_alpha_covers() -> None:
    alpha = scene().sources["station"].passes["rgba"][1][..., 3]
    found = planes({"kind": "depth", "source": "station", "near": 0, "far": 100})
    assert found[..., 0] == pytest.approx(alpha)
    assert set(np.unique(found[..., 1])) == {0, 1}
    keyed = {"kind": "depth", "source": "station", "near": 0, "far": {"keys": [[1, 0, "linear"], [11, 100, "linear"]]}}
    assert not planes(keyed).any(axis=2)[:, :].all()
    assert planes(keyed, frame=11)[..., 0] == pytest.approx(alpha)


def test_colours_are_apart_by_the_cube_roots_of_their_light() -> None:
    pixels = np.float32([[[0.18, 0.18, 0.18], [1, 1, 1], [0, 0, 0], [0.216, 0.18, 0.18]]])
    assert distance(pixels, (0, 0, 0))[0, 1, 0] == pytest.approx(np.sqrt(3))
    assert distance(pixels, (0.18, 0.18, 0.18))[0, :, 0] == pytest.approx([0, 0.7541, 0.9779, 0.6 - 0.5646], abs=2e-4)


@pytest.mark.parametrize("tolerance", [0.0, 0.05])
def test_a_key_without_softness_holds_its_colour_and_nothing_else(tolerance: float) -> None:
    reader = scene()
    row = np.where(np.arange(120) < 40, 0.8, 0.1).astype(np.float32)
    reader.sources["station"].passes["two"] = ("other", np.tile(row[None, :, None], (90, 1, 3)))
    told = {"kind": "key", "source": "station", "pass": "two", "colour": [0.8, 0.8, 0.8], "tolerance": tolerance, "softness": 0.0}
    assert np.array_equal(planes(told, reader)[..., 1] > 0, (np.arange(120) < 40) & (reader.sources["station"].passes["rgba"][1][..., 3] > 0))


def test_a_key_holds_its_colour_with_the_rim_and_leaves_the_rest() -> None:
    reader = scene()
    beauty = reader.sources["station"].passes["rgba"][1]
    beauty[..., :3] = beauty[..., 3:] * np.where(np.arange(W)[None, :, None] < 54, np.float32([0.8, 0.1, 0.1]), np.float32([0.1, 0.1, 0.8]))
    found = planes({"kind": "key", "source": "station", "pass": "rgba", "colour": [0.8, 0.1, 0.1], "tolerance": 0.05, "softness": 0.05}, reader)
    assert found[:, :54, 0] == pytest.approx(beauty[:, :54, 3], abs=1e-4)
    assert not found[:, 54:, 0].any()


def test_the_alpha_of_a_card_is_that_of_its_cut_picture_and_no_card_is_cut_by_itself() -> None:
    cut = card(STATION, cut=["lamp"])
    mattes = {"of card": {"kind": "alpha", "card": "station"}}
    planner = ShotPlanner(shot_of([PLATE, cut], mattes=mattes), 1, scene())
    whole = Window(0, 0, 120, 90)
    got, lamp = (evaluate(planner.coverage(MatteRef(matte=name), 1), whole, PictureCache(1 << 26)).pixels for name in ("of card", "lamp"))
    assert got == pytest.approx(lamp, abs=1e-6), "share times alpha is the lamp's own coverage"
    with pytest.raises(UmbraxError, match="in a circle: of card -> of card"):
        shot_of([PLATE, card(STATION, cut=["of card"])], mattes=mattes)
    with pytest.raises(UmbraxError, match="unknown element card 'nobody'"):
        shot_of([PLATE], mattes={"m": {"kind": "alpha", "card": "nobody"}})
    with pytest.raises(UmbraxError, match="expected a source or a card"):
        shot_of([PLATE], mattes={"m": {"kind": "alpha", "card": "sky", "source": "station"}})


def test_alpha_is_a_matte_and_one_that_is_missing_is_refused() -> None:
    alpha = scene().sources["station"].passes["rgba"][1][..., 3]
    found = planes({"kind": "alpha", "source": "station"})
    assert np.array_equal(found[..., 0], alpha)
    assert np.array_equal(found[..., 1], (alpha > 0).astype(np.float32))
    with pytest.raises(UmbraxError, match="'valley' has no alpha"):
        planes({"kind": "alpha", "source": "valley"})
    with pytest.raises(UmbraxError, match="pass 'shadow' has no alpha"):
        planes({"kind": "channel", "source": "station", "pass": "shadow", "channel": "alpha"})


def area(points: list[float]) -> float:
    """Gauss's shoelace formula."""
    p = np.array(points).reshape(-1, 2)
    q = np.roll(p, -1, axis=0)
    return float(abs((p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0]).sum()) / 2)


@settings(deadline=None)
@given(st.lists(st.tuples(st.floats(1, W - 1), st.floats(1, H - 1)), min_size=3, max_size=3))
def test_a_triangle_covers_its_area(corners: list[tuple[float, float]]) -> None:
    points = [value for corner in corners for value in corner]
    found = planes({"kind": "shape", "points": points})[..., 0]
    assert float(found.sum(dtype=np.float64)) == pytest.approx(area(points), abs=1e-3)
    assert found.min() >= 0
    assert found.max() <= 1


def test_a_polygon_is_skimages_inside_and_partly_covered_only_along_its_edge() -> None:
    points = [20.5, 10.25, 100.0, 30.5, 64.3, 80.75, 30.0, 60.0]
    found = planes({"kind": "shape", "points": points})[..., 0]
    centres = np.array(points).reshape(-1, 2)[:, ::-1] - 0.5
    inside = polygon2mask((H, W), centres)
    assert (found[inside] > 0.2).all()
    assert (found[~inside] < 0.8).all()
    whole = (found == 0) | (found > 0.9999)
    assert (~whole).sum() < 2 * sum(np.hypot(*d) for d in np.diff(np.array(points + points[:2]).reshape(-1, 2), axis=0))


def test_an_ellipse_covers_pi_times_its_radii_however_it_is_turned() -> None:
    for turn in (0, 30, 90):
        found = planes({"kind": "shape", "form": "ellipse", "points": [60, 45, 30, 12], "turn": turn})[..., 0]
        assert float(found.sum(dtype=np.float64)) == pytest.approx(np.pi * 30 * 12, rel=1e-5)
    upright = planes({"kind": "shape", "form": "ellipse", "points": [60, 45, 30, 12], "turn": 90})[..., 0]
    assert upright[45 - 28, 60] == 1, "turned by 90 degrees it stands"
    assert upright[45, 60 - 28] == 0


def test_a_turn_is_counter_clockwise_as_seen_on_the_screen() -> None:
    corner = outline("polygon", (0, 0, 10, 0, 0, 10), 90.0) - np.array([10, 10]) / 3
    assert corner[1] == pytest.approx(np.array([-10 / 3, -20 / 3]), abs=1e-9), "what points right points up afterwards"


def test_a_curve_goes_through_its_points() -> None:
    points = [20.0, 20.0, 100.0, 25.0, 90.0, 75.0, 30.0, 70.0]
    curve = outline("curve", tuple(points), 0.0)
    for point in np.array(points).reshape(-1, 2):
        assert np.abs(curve - point).sum(axis=1).min() < 1e-9


def test_a_keyed_shape_moves_with_its_points_and_is_cut_by_the_frame() -> None:
    keyed = {"keys": [[1, [10, 10, 30, 10, 30, 30, 10, 30], "linear"], [11, [110, 10, 130, 10, 130, 30, 110, 30], "linear"]]}
    centre = np.arange(W) + 0.5
    for frame, wanted in ((1, 20), (6, 70)):
        found = planes({"kind": "shape", "points": keyed}, frame=frame)[..., 0]
        assert (found.sum(axis=0) * centre).sum() / found.sum() == pytest.approx(wanted)
    assert planes({"kind": "shape", "points": keyed}, frame=11)[..., 0].sum() == pytest.approx(10 * 20)


@pytest.mark.parametrize(
    ("matte", "told"),
    [({"points": [1, 2, 3]}, "x and y of at least two points"), ({"points": [1, 2, 3, 4]}, "at least three points"),
     ({"form": "ellipse", "points": [1, 2, 3, 4, 5, 6]}, "centre and the two radii"),
     ({"points": {"keys": [[1, [0, 0, 1, 0, 1, 1], "hold"], [2, [0, 0, 1, 0, 1, 1, 2, 2], "hold"]]}}, "as many points at every key")],
)  # fmt: skip
def test_shapes_that_are_none_are_refused(matte: dict[str, Any], told: str) -> None:
    with pytest.raises(UmbraxError, match=told):
        planes({"kind": "shape", **matte})


@pytest.fixture(scope="module")
def station() -> Any:
    return render(observatory(1001), 480, 270, after=observatory(1002))


def number_of(frame: Any) -> tuple[np.ndarray, list[str]]:
    """A hard index pass as renderers write it: the thing that covers most of a pixel, 0 where the sky does."""
    names = sorted({thing.object for thing in frame.scene.things})
    covers = np.stack([frame.object_coverage(name) for name in names])
    sky = 1 - covers.sum(axis=0)
    most = covers.argmax(axis=0)
    return np.where(covers.max(axis=0) > sky, most + 1, 0), names


def test_smoothed_numbers_come_near_the_true_coverage(station: Any) -> None:
    """Against the stand-in's exact coverage: much nearer than the hard mask at the edges, and the same away from them."""
    index, names = number_of(station)
    alpha, light = station.alpha, station.beauty[..., :3]
    plain = light / np.where(alpha > 0, alpha, 1)[..., None]
    soft_error = hard_error = edges = 0.0
    for name in ("dome_shell", "drum", "telescope_tube"):
        truth = station.object_coverage(name)
        belongs = index == names.index(name) + 1
        found = smoothed(belongs, index == 0, plain.astype(np.float32)) * alpha
        edge = (truth > 0.02) & (truth < 0.98)
        soft_error += float(np.abs(found - truth)[edge].sum())
        hard_error += float(np.abs(belongs - truth)[edge].sum())
        edges += int(edge.sum())
        far = ~edge & (np.abs(belongs - truth) < 0.02)
        assert np.abs(found - truth)[far].mean() < 0.01
    assert edges > 300
    assert soft_error < 0.55 * hard_error, (soft_error / edges, hard_error / edges)


def test_without_smoothing_a_number_is_a_hard_mask_cut_by_alpha() -> None:
    reader = scene()
    index = reader.sources["station"].passes["object_index"][1][..., 0]
    alpha = reader.sources["station"].passes["rgba"][1][..., 3]
    found = planes({"kind": "index", "source": "station", "numbers": [2], "smooth": False})
    assert np.array_equal(found[..., 0], (index == 2) * alpha)
    both = planes({"kind": "index", "source": "station", "numbers": [1, 2]})
    assert both[..., 0] == pytest.approx(alpha, abs=1e-5), "all numbers together are the alpha, rims included"


@pytest.mark.parametrize("channel", ["luma", "cb", "cr", "hue", "saturation"])
def test_depth_without_end_has_no_colour(channel: str) -> None:
    """A depth pass is infinite where nothing stands, and grey: a difference of its channels is none."""
    found = planes({"kind": "channel", "source": "station", "pass": "depth", "channel": channel, "black": 0.0, "white": 100.0})
    assert np.isfinite(found).all()
    assert found[0, 0, 0] == (1 if channel == "luma" else 0)
    assert channel == "luma" or found[..., 0].max() < 1e-6


def test_what_is_no_number_belongs_to_nothing() -> None:
    """A damaged index pass: infinite, or more than a whole number can be."""
    reader, matte = scene(), {"kind": "index", "source": "station", "numbers": [1, 2], "smooth": False}
    whole, index = planes(matte, reader), reader.sources["station"].passes["object_index"][1]
    damaged = [(47, 40), (47, 50), (50, 54), (52, 60)]
    for (y, x), value in zip(damaged, (np.inf, -np.inf, 3e38, -1e19), strict=True):
        assert whole[y, x, 0] == 1
        index[y, x] = value
    found = planes(matte, reader)
    assert {(int(y), int(x)) for y, x in np.argwhere((found != whole).any(axis=2))} == set(damaged)
    assert not any(found[y, x, 0] for y, x in damaged)


def test_mattes_without_a_source_cut_by_themselves_and_others_by_their_share() -> None:
    square = {"kind": "shape", "points": [0, 0, 54, 0, 54, 90, 0, 90]}
    lit = {"kind": "channel", "source": "station", "pass": "rgba", "channel": "luma", "black": -1, "white": 0}
    reader = scene()
    alpha = reader.sources["station"].passes["rgba"][1][..., 3]
    for matte, wanted in ((square, np.where(np.arange(W) < 54, alpha, 0)), (lit, alpha)):
        build = [{"id": "a", "picture": {"kind": "pass", "source": "station", "pass": "rgba"}, "cut": ["m"]}]
        shot = shot_of(build, mattes={"m": matte})
        picture = evaluate(ShotPlanner(shot, 1, reader).picture(), Window(0, 0, W, H), PictureCache(1 << 28)).pixels
        assert picture[..., 3] == pytest.approx(wanted, abs=1e-5), "an alpha that is there is not applied twice"


def test_unknown_channels_are_refused_by_name() -> None:
    document = {"umbrax": 1, "name": "x", "format": {"width": 8, "height": 8, "first": 1, "last": 1}, "sources": {"s": {"path": "s.exr"}}}
    with pytest.raises(UmbraxError, match=r"mattes\.m\.channel"):
        read_data(document | {"mattes": {"m": {"kind": "channel", "source": "s", "pass": "rgba", "channel": "orange"}}})


def test_mattes_of_opaque_sources_have_their_coverage_as_share() -> None:
    pixels = RANDOM.random((H, W, 3)).astype(np.float32)
    reader = scene()
    reader.sources["valley"] = ArraySource({"rgba": ("beauty", pixels)})
    found = planes({"kind": "channel", "source": "valley", "pass": "rgba", "channel": "green"}, reader)
    assert np.array_equal(found[..., 0], pixels[..., 1])
    assert np.array_equal(found[..., 1], pixels[..., 1])
