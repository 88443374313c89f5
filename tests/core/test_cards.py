"""How a card is made: shares, refined cuts, through, spread light and the order of things."""

from typing import Any

import numpy as np
import pytest

from arrays import PLATE, STATION, ArrayReader, ArraySource, assert_near, card, disc, make, ranked, scene, shot_of, spread_octaves
from umbrax.core.picture import Window
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.treatments.bloom import level_weights

CUT = card(STATION, cut=["ball"])


def over_colour(pixels: np.ndarray, colour: tuple[float, float, float]) -> np.ndarray:
    return pixels[..., :3] + (1 - pixels[..., 3:]) * np.array(colour)


def rim_scene(edge: float = 30.3) -> ArrayReader:
    """A white half-plane that ends at x = edge, exactly covered, with its ID."""
    x = np.arange(60)
    coverage = np.tile(np.clip(edge - x, 0, 1).astype(np.float32), (20, 1))
    beauty = np.stack([coverage * 0.9, coverage * 0.8, coverage * 0.7, coverage], axis=2)
    source = ArraySource({"rgba": ("beauty", beauty)}, {"object_ids": ranked({"wall": coverage})})
    return ArrayReader(station=source, valley=ArraySource({"rgba": ("beauty", np.zeros((20, 60, 3), np.float32))}))


def rim_shot(refine: dict[str, float]) -> Any:
    mattes = {
        name: {"kind": "id", "source": "station", "layer": "object_ids", "names": ["wall"], "refine": refine} for name in ("ball", "lamp")
    } | {"glass": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["wall"]}}
    picture = {"kind": "pass", "source": "station", "pass": "beauty"}
    return shot_of([{"id": "wall", "picture": picture, "cut": ["ball"]}], width=60, height=20, mattes=mattes)


def test_an_unrefined_cut_keeps_the_rendered_edge_exactly() -> None:
    reader = scene()
    beauty = reader.sources["station"].passes["rgba"][1]
    mattes = {"all": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["*"]}}
    out = make(shot_of([card(STATION, cut=["all"])], mattes=mattes), reader).pixels
    assert np.array_equal(out[..., 3], beauty[..., 3]), "the alpha is never multiplied by itself"
    assert_near(out[..., :3], beauty[..., :3], 1e-7, relative=1e-6)


def test_glass_that_covers_fully_but_shows_through_stays_glass() -> None:
    coverage = disc(40, 40, 20, 20, 12)
    beauty = np.stack([coverage * 0.06] * 3 + [coverage * 0.3], axis=2)
    reader = ArrayReader(
        station=ArraySource(
            {"rgba": ("beauty", beauty)},
            {"object_ids": ranked({"ball": coverage}), "material_ids": ranked({"glass": coverage})},
        ),
        valley=scene(40, 40).sources["valley"],
    )
    picture = {"kind": "pass", "source": "station", "pass": "beauty"}
    out = make(shot_of([{"id": "b", "picture": picture, "cut": ["ball"]}], width=40, height=40), reader).pixels
    assert np.array_equal(out, beauty)


@pytest.mark.parametrize("green", [(0.0, 0.0, 0.0), (0.0, 1.0, 0.0), (1.0, 1.0, 1.0)])
@pytest.mark.parametrize("refine", [{}, {"grow": -2.0}, {"grow": 1.5}, {"feather": 3.0}, {"grow": -2.0, "feather": 3.0}])
@pytest.mark.parametrize("edge", [30.0, 30.3, 30.5, 30.9])
def test_the_rim_is_monotone_over_any_background(edge: float, refine: dict[str, float], green: tuple[float, float, float]) -> None:
    profile = over_colour(make(rim_shot(refine), rim_scene(edge)).pixels, green)[10]
    steps = np.diff(profile, axis=0)
    rising = np.array(green) >= profile[5]
    assert (np.where(rising, steps, -steps) >= -1 / 255).all()
    inside = np.array([0.9, 0.8, 0.7])
    assert (profile >= np.minimum(inside, green) - 1 / 255).all()


@pytest.mark.parametrize("edge", [30.0, 30.3, 30.7])
def test_choking_moves_the_rim_inward_by_that_much(edge: float) -> None:
    areas = [make(rim_shot({"grow": grow} if grow else {}), rim_scene(edge)).pixels[10, :, 3].sum() for grow in (0, -1, -2, -2.5, -4)]
    assert np.array(areas) - areas[0] == pytest.approx([0, -1, -2, -2.5, -4], abs=0.06)


def test_growing_and_feathering_are_continuous_from_nothing() -> None:
    plain = make(rim_shot({}), rim_scene()).pixels
    for tiny in ({"grow": 1e-3}, {"grow": -1e-3}, {"feather": 1e-3}):
        assert np.abs(make(rim_shot(tiny), rim_scene()).pixels - plain).max() < 0.01


def test_sub_pixel_growing_is_monotone() -> None:
    areas = [make(rim_shot({"grow": g / 10} if g else {}), rim_scene()).pixels[..., 3].sum() for g in range(-30, 1)]
    assert (np.diff(areas) >= -1e-4).all()


def test_a_gain_through_a_share_doubles_exactly_to_the_rim() -> None:
    grade = {"id": "t1", "kind": "grade", "exposure": 1.0, "through": "all"}
    mattes = {"all": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["*"]}}
    plain = make(shot_of([STATION]), scene()).pixels
    out = make(shot_of([card(STATION, treatments=[grade])], mattes=mattes), scene()).pixels
    assert_near(out[..., :3], 2 * plain[..., :3], relative=1e-6)
    assert np.array_equal(out[..., 3], plain[..., 3])


def test_through_on_a_treat_card_is_the_matte_itself_where_the_picture_is_opaque() -> None:
    grade = {"id": "t1", "kind": "grade", "exposure": 1.0, "through": "ball"}
    plain = make(shot_of([PLATE, STATION]), scene()).pixels
    out = make(shot_of([PLATE, STATION, {"id": "f", "treat": True, "treatments": [grade]}]), scene()).pixels
    ids, coverage, names = scene().sources["station"].ids["object_ids"]
    m = np.where(ids == names["ball"], coverage, 0).sum(axis=0)[..., None]
    assert_near(out[..., :3], plain[..., :3] * (1 + m), 1e-6, relative=1e-5)


@pytest.mark.parametrize("kind", ["shadow", "line", "occlusion"])
def test_a_raw_pass_multiplies_where_the_render_covers_nothing(kind: str) -> None:
    """0.5 x 0.3 = 0.15 (W3C Compositing and Blending 1, multiply): what is no light does not borrow the beauty's alpha."""
    reader = scene()
    reader.sources["valley"] = ArraySource({"rgba": ("beauty", np.full((90, 120, 3), 0.5, np.float32))})
    reader.sources["station"].passes["raw"] = (kind, np.full((90, 120, 1), 0.3, np.float32))
    raw = {"id": "raw", "picture": {"kind": "pass", "source": "station", "pass": "raw"}, "join": "multiply"}
    out = make(shot_of([PLATE, raw]), reader).pixels
    alpha = reader.sources["station"].passes["rgba"][1][..., 3]
    assert alpha.min() == 0, "the render must leave room"
    assert alpha.max() == 1
    assert_near(out, np.broadcast_to([0.15, 0.15, 0.15, 1.0], out.shape), 1e-6)


def test_a_pass_of_unknown_kind_shown_as_a_picture_is_read_and_reduced_as_light() -> None:
    """A preview is the mean of its pixels, whether or not the pass's name tells what it is."""
    fine = np.random.default_rng(2).random((90, 120, 4)).astype(np.float32)
    reader = scene()
    reader.sources["station"].passes |= {"rim_light": ("other", fine), "known": ("diffuse", fine)}
    shown = [{"id": "p", "picture": {"kind": "pass", "source": "station", "pass": name}} for name in ("rim_light", "known")]
    summed = {"id": "p", "picture": {"kind": "rebuild", "source": "station", "lights": {"rim_light": {}}}}
    for n in (2, 8):
        first, second = (make(shot_of([one]), reader, scale=n).pixels for one in shown)
        assert np.array_equal(first, second)
        assert np.array_equal(make(shot_of([summed]), reader, scale=n).pixels[..., :3], first[..., :3])
    assert all(shown for name, shown in reader.asked if name == "rim_light")


def test_a_light_without_alpha_takes_that_of_the_beauty() -> None:
    light = {"id": "l", "picture": {"kind": "pass", "source": "station", "pass": "diffuse"}}
    out = make(shot_of([light]), scene()).pixels
    assert np.array_equal(out[..., 3:], scene().sources["station"].passes["rgba"][1][..., 3:])


def test_keys_inside_the_stops_of_a_gradient_are_those_of_the_frame() -> None:
    def page(at: object, grey: object) -> list[dict[str, object]]:
        stops = [{"at": 0.0, "colour": [0.1, 0.1, 0.1]}, {"at": at, "colour": grey, "alpha": 0.5}]
        return [{"id": "page", "picture": {"kind": "gradient", "end": [0, 90], "stops": stops}}]

    keyed = page({"keys": [[1, 0.2, "linear"], [9, 1.0, "linear"]]}, {"keys": [[1, [0, 0, 0], "linear"], [9, [1, 0.5, 0.25], "linear"]]})
    plain = make(shot_of(page(0.6, [0.5, 0.25, 0.125])), scene()).pixels
    assert np.array_equal(make(shot_of(keyed), scene(), frame=5).pixels, plain)
    assert not np.array_equal(make(shot_of(keyed), scene(), frame=6).pixels, plain)


def test_a_softened_plate_keeps_brightness_and_alpha_at_the_border() -> None:
    soft = {"id": "t1", "kind": "soften", "size": 12.0}
    flat = scene()
    flat.sources["valley"] = ArraySource({"rgba": ("beauty", np.full((90, 120, 3), 0.4, np.float32))})
    out = make(shot_of([card(PLATE, treatments=[soft])]), flat).pixels
    assert out[..., :3] == pytest.approx(0.4, rel=1e-5)
    assert out[..., 3] == pytest.approx(1.0, rel=1e-5)


def test_bloom_spreads_past_matte_element_and_frame_and_leaves_alpha_alone() -> None:
    bloom = {"id": "t1", "kind": "bloom", "threshold": 0.0, "size": 20.0, "amount": 1.0, "feed": {"matte": "lamp"}}
    plain, out = (make(shot_of([card(STATION, treatments=t)]), scene()) for t in ([], [bloom]))
    added = (out.pixels - plain.pixels)[..., :3]
    assert (added[5, 5] > 0).all(), "far outside the element"
    assert np.array_equal(out.pixels[..., 3], plain.pixels[..., 3])
    window = Window(-60, -60, 0, 0)
    assert make(shot_of([card(STATION, treatments=[bloom])]), scene(), window=window).pixels[..., 0].max() > 0


def spread_of_a_point(size: float, falloff: float = 0.7) -> np.ndarray:
    height = width = 513
    beauty = np.zeros((height, width, 4), np.float32)
    beauty[256, 256] = (100, 100, 100, 1)
    reader = ArrayReader(station=ArraySource({"rgba": ("beauty", beauty)}), valley=scene().sources["valley"])
    bloom = {
        "id": "t",
        "kind": "bloom",
        "threshold": 0.0,
        "limit": 1e5,
        "size": size,
        "falloff": falloff,
        "amount": 1.0,
    }
    picture = {"id": "p", "picture": {"kind": "pass", "source": "station", "pass": "beauty"}, "treatments": [bloom]}
    shot = shot_of([picture], width=width, height=height, mattes={})
    shot = shot.model_copy(update={"mattes": {}})
    whole = make(shot, reader, window=Window(-700, -700, 1213, 1213)).pixels[..., 0].astype(np.float64)
    whole[956, 956] -= 100
    return whole


@pytest.mark.parametrize("size", [6.0, 20.0, 60.0])
def test_bloom_keeps_energy_is_round_and_half_of_it_lies_within_its_size(size: float) -> None:
    spread = spread_of_a_point(size)
    assert spread.sum() == pytest.approx(100, rel=1e-3)
    y, x = np.mgrid[: spread.shape[0], : spread.shape[1]] - 956
    away = np.hypot(y, x)
    assert spread[away <= size].sum() / spread.sum() == pytest.approx(0.5, abs=0.06)
    rings = [spread[(away >= r) & (away < r + max(1.0, size / 8))].mean() for r in np.arange(1, 4 * size, max(1.0, size / 4))]
    assert (np.diff(rings) <= 1e-9).all(), "falls with distance"


@pytest.mark.parametrize("falloff", [0.3, 0.7, 1.0, 1.2])
@pytest.mark.parametrize("size", [2.0, 17.0, 200.0, 1500.0])
def test_size_holds_half_of_the_light_whatever_the_fall_off(size: float, falloff: float) -> None:
    """By the formula of the levels: a Gaussian of variance v holds 1 - exp(-r^2 / 2 v) within r."""
    weights = level_weights(size, falloff)
    held = sum(w * (1 - np.exp(-(size**2) / (2 * (4.0**k - 1)))) if k else w for k, w in enumerate(weights))
    assert held == pytest.approx(0.5, abs=1e-3)


@pytest.mark.parametrize(("size", "falloff"), [(8.0, 0.5), (20.0, 0.7), (40.0, 1.0), (8.0, 1.0)])
def test_the_glow_of_a_lamp_that_moves_by_pixels_stays_as_it_is(size: float, falloff: float) -> None:
    """A lamp of sigma 1.5: under 2 % from one frame to the next, under 5 % between any two places."""
    weights, frame = list(level_weights(size, falloff)), Window(0, 0, 512, 512)
    y, x = np.mgrid[:512, :512]
    for step in ((1, 0), (1, 1)):
        glows = []
        for moved in range(33):
            at = (240 + moved * step[0], 250 + moved * step[1])
            lamp = np.exp(-((x - at[0]) ** 2 + (y - at[1]) ** 2) / (2 * 1.5**2)).astype(np.float32)
            glow = spread_octaves(lamp[..., None].repeat(3, axis=2), frame, weights, frame, np.ones(3, np.float32))[..., 0]
            glows.append([glow[at[1] + dy, at[0] + dx] for dx, dy in ((0, 0), (4, 2), (int(size), 0), (-int(size), int(size)))])
        seen = np.array(glows)
        assert np.abs(np.diff(seen, axis=0) / seen[1:]).max() < 0.02
        assert (seen.max(axis=0) / seen.min(axis=0)).max() < 1.05


def test_glow_is_not_kept_farther_than_eight_sizes_beyond_the_frame() -> None:
    bloom = {"id": "t1", "kind": "bloom", "threshold": 0.5, "size": 10.0}
    step = ShotPlanner(shot_of([card(STATION, treatments=[bloom])]), 1, scene()).picture()
    kept = Window(0, 0, 120, 90).grown(80)
    assert step.domain == kept.grown(1), "what goes on beyond is what lies around it"
    wide = make(shot_of([card(STATION, treatments=[bloom])]), scene(), window=kept).pixels[..., 0]
    rim = np.concatenate([wide[0], wide[-1], wide[:, 0], wide[:, -1]])
    assert 0 < rim.max() < 0.004 * wide.max()
    assert make(shot_of([card(STATION, treatments=[bloom])]), scene(), window=kept.grown(300)).pixels[:100].max() == 0


def test_bloom_weights_are_shares_and_coarse_scales_merge_the_fine_ones() -> None:
    full = level_weights(40.0, 0.7)
    assert sum(full) == pytest.approx(1)
    for scale, skip in ((2, 1), (4, 2), (8, 3)):
        reduced = level_weights(40.0, 0.7, scale)
        assert reduced[0] == pytest.approx(sum(full[: skip + 1]))
        assert reduced[1:] == pytest.approx(full[skip + 1 :])


def test_a_two_pixel_lamp_blooms_the_same_at_an_eighth() -> None:
    bloom = {"id": "t1", "kind": "bloom", "threshold": 1.0, "size": 60.0, "amount": 1.0}
    shot = shot_of([PLATE, STATION, {"id": "f", "treat": True, "treatments": [bloom]}], width=960, height=720)
    plain = shot_of([PLATE, STATION], width=960, height=720)
    reader = scene(720, 960)
    glow = make(shot, reader).pixels - make(plain, reader).pixels
    small = make(shot, reader, scale=8).pixels - make(plain, reader, scale=8).pixels
    assert small[..., 0].sum() * 64 == pytest.approx(glow[..., 0].sum(), rel=0.01)


def test_opacity_scales_spread_light_too_and_cards_that_are_off_add_nothing() -> None:
    bloom = {"id": "t1", "kind": "bloom", "threshold": 0.0, "size": 20.0, "feed": {"matte": "lamp"}}
    lit = card(STATION, treatments=[bloom])
    plain = make(shot_of([PLATE]), scene()).pixels
    assert np.array_equal(make(shot_of([PLATE, card(lit, opacity=0.0)]), scene()).pixels, plain)
    assert np.array_equal(make(shot_of([PLATE, card(lit, enabled=False)]), scene()).pixels, plain)
    whole, half = (make(shot_of([PLATE, card(lit, opacity=o)]), scene()).pixels - plain for o in (1.0, 0.5))
    assert half[3, 3, :3] == pytest.approx(whole[3, 3, :3] / 2, rel=1e-3, abs=1e-7)


def test_rebuild_at_neutral_gains_is_the_sum_of_its_lights() -> None:
    reader = scene()
    out = make(shot_of([STATION]), reader).pixels
    beauty = reader.sources["station"].passes["rgba"][1]
    assert_near(out, beauty, 1e-7, relative=1e-6)
    one = card(STATION, picture={"kind": "rebuild", "source": "station", "lights": {"emission": {}}})
    assert np.array_equal(make(shot_of([one]), reader).pixels[..., :3], reader.sources["station"].passes["emission"][1])
    tinted = card(
        STATION,
        picture={"kind": "rebuild", "source": "station", "lights": {"emission": {"gain": 2, "tint": [1, 0, 0.5]}}},
    )
    got = make(shot_of([tinted]), reader).pixels[..., :3]
    assert got == pytest.approx(reader.sources["station"].passes["emission"][1] * np.array([2, 0, 1]), rel=1e-6)


def test_designed_pictures_have_no_end() -> None:
    solid = {
        "id": "s",
        "picture": {"kind": "solid", "colour": [0.2, 0.4, 0.6]},
        "treatments": [{"id": "t", "kind": "soften", "size": 9}],
    }
    assert make(shot_of([solid]), scene()).pixels[0, 0] == pytest.approx([0.2, 0.4, 0.6, 1.0], rel=1e-5)
    gradient = {
        "kind": "gradient",
        "start": [0, 0],
        "end": [120, 0],
        "stops": [{"at": 0, "colour": [0, 0, 0]}, {"at": 1, "colour": [1, 1, 1]}],
    }
    line = make(shot_of([{"id": "g", "picture": gradient}]), scene()).pixels[40, :, 0]
    assert line == pytest.approx((np.arange(120) + 0.5) / 120, abs=1e-5)
    banded = make(shot_of([{"id": "g", "picture": gradient | {"bands": 4}}]), scene()).pixels[40, :, 0]
    assert sorted(set(np.round(banded, 4))) == pytest.approx([0, 1 / 3, 2 / 3, 1], abs=1e-3)
