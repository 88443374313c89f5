"""Light that spreads: what feeds it, and spikes, lens reflections and halos by their formulas, on lamps in the dark."""

import math
from typing import Any

import numpy as np
import pytest

from arrays import STATION, ArrayReader, ArraySource, assert_near, card, make, scene, shot_of
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Window
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.treatments.bloom import level_weights

WIDTH, HEIGHT = 400, 300
FRAME = Window(0, 0, WIDTH, HEIGHT)
LAMPS = {"id": "lamps", "picture": {"kind": "pass", "source": "station", "pass": "rgba"}}


def dark(*lamps: tuple[int, int, Any], size: int = 1) -> ArrayReader:
    """Lamps (x, y, colour) of a few pixels on opaque black."""
    light = np.zeros((HEIGHT, WIDTH, 4), np.float32)
    light[..., 3] = 1
    for x, y, colour in lamps:
        light[y : y + size, x : x + size, :3] = colour
    return ArrayReader(station=ArraySource({"rgba": ("beauty", light)}))


def spread(reader: ArrayReader, kind: str, *, n: int = 1, window: Window | None = None, base: Any = LAMPS, **more: Any) -> np.ndarray:
    """The light that a treatment adds, `[h, w, 3]` in double precision."""
    treatment = {"id": "t", "kind": kind, "threshold": 0.0, "knee": 0.0, "limit": 1e6, **more}
    pictures = []
    for treatments in ([treatment], []):
        shot = shot_of([card(base, treatments=treatments)], width=WIDTH, height=HEIGHT).model_copy(update={"mattes": {}})
        pictures.append(make(shot, reader, scale=n, window=window).pixels[..., :3].astype(np.float64))
    return pictures[0] - pictures[1]


def middle(light: np.ndarray) -> tuple[float, float]:
    total = light.sum()
    y, x = np.mgrid[: light.shape[0], : light.shape[1]] + 0.5
    return float((light * x).sum() / total), float((light * y).sum() / total)


def test_a_bloom_that_conserves_adds_no_light_and_takes_none() -> None:
    """Within 0.1 %, with what leaves the frame; a part of it at a part of the amount."""
    reader = dark((3, 150, [900.0, 300.0, 90.0]), (200, 100, [40.0, 40.0, 80.0]), size=3)
    wide = Window(-700, -700, WIDTH + 700, HEIGHT + 700)
    for amount in (1.0, 0.4):
        moved = spread(reader, "bloom", conserve=True, size=24.0, amount=amount, window=wide)
        fed = reader.sources["station"].passes["rgba"][1][..., :3].sum(axis=(0, 1), dtype=np.float64)
        assert np.abs(moved.sum(axis=(0, 1)) / fed).max() < 1e-3
        assert moved[700 + 100, 700 + 200, 2] < -0.3 * amount * 80, "taken from where it comes from"


@pytest.mark.parametrize("more", [{"amount": 1.5}, {"amount": {"keys": [[1, 0.5, "linear"], [9, 2.0, "linear"]]}}, {"output": "spread_only"}])
def test_what_conserves_cannot_give_more_than_there_is(more: dict[str, Any]) -> None:
    with pytest.raises(UmbraxError, match="conserved"):
        spread(dark(), "bloom", conserve=True, **more)


def peaks(light: np.ndarray, x: float, y: float, radius: float) -> list[float]:
    """Angles at which light on a circle is brightest, degrees counter-clockwise, by the middle of each stretch above half of the most."""
    at = np.radians(np.arange(0, 360, 0.05))
    px, py = x + radius * np.cos(at) - 0.5, y - radius * np.sin(at) - 0.5
    i, j = np.floor(px).astype(int), np.floor(py).astype(int)
    fx, fy = px - i, py - j
    round_it = (1 - fy) * ((1 - fx) * light[j, i] + fx * light[j, i + 1]) + fy * ((1 - fx) * light[j + 1, i] + fx * light[j + 1, i + 1])
    high = round_it > round_it.max() / 4
    start = int(np.flatnonzero(~high)[0])
    marks = np.flatnonzero(np.diff(np.append(np.roll(high, -start), False).astype(int)))
    return sorted(((start + (one + other) / 2 + 0.5) * 0.05) % 360 for one, other in zip(marks[::2], marks[1::2], strict=True))


@pytest.mark.parametrize(("arms", "angle"), [(6, 90.0), (4, 17.0), (5, 33.0), (1, 250.0), (3, -20.0), (2, 0.0)])
def test_spikes_stand_at_their_angles_and_fall_off_as_told(arms: int, angle: float) -> None:
    """Half a degree; light on an arm at `length` is `falloff` of what it begins with, to 3 %; all arms hold the lamp's light."""
    light = spread(dark((200, 150, 1000.0)), "spikes", arms=arms, angle=angle, length=60.0, falloff=0.2)[..., 1]
    found = peaks(light, 200.5, 150.5, 70)
    wanted = sorted((angle + 360 * arm / arms) % 360 for arm in range(arms))
    assert len(found) == arms
    for one, other in zip(found, wanted, strict=True):
        assert abs((one - other + 180) % 360 - 180) < 0.5
    # across an arm its light is summed: between rings 30 and 90 from the lamp it falls by 0.2^((90 - 30) / 60)
    y, x = np.mgrid[:HEIGHT, :WIDTH] + 0.5
    far = np.hypot(x - 200.5, y - 150.5)
    rings = [(light * np.exp(-(((far - r) / 6) ** 2) / 2)).sum() for r in (30, 90)]
    assert rings[1] / rings[0] == pytest.approx(0.2, rel=0.03)
    wide = Window(-600, -600, WIDTH + 600, HEIGHT + 600)
    whole = spread(dark((200, 150, 1000.0)), "spikes", arms=arms, angle=angle, length=60.0, falloff=0.2, window=wide)
    assert whole[..., 1].sum() == pytest.approx(1000, rel=2e-3)


def test_colours_of_a_spike_reach_as_far_as_their_waves_are_long() -> None:
    light = spread(dark((200, 150, 1000.0)), "spikes", arms=2, angle=0.0, length=60.0, falloff=0.2, spread=1.0)
    for c, wave in enumerate((610, 550, 465)):
        line = light[148:153, 200:, c].sum(axis=0)
        assert line[90] / line[30] == pytest.approx(0.2 ** (60 / (60 * wave / 550)), rel=0.01)


@pytest.mark.parametrize(("kind", "more"), [("spikes", {"length": 50.0}), ("halo", {"size": 20.0}), ("reflections", {"size": 25.0})])
@pytest.mark.parametrize("n", [2, 4, 8])
def test_a_lamp_of_two_pixels_sends_out_as_much_light_in_every_preview(kind: str, more: dict[str, Any], n: int) -> None:
    reader = dark((131, 77, [500.0, 400.0, 90.0]), size=2)
    whole, small = (spread(reader, kind, n=k, threshold=1.0, **more).sum(axis=(0, 1)) * k * k for k in (1, n))
    assert small == pytest.approx(whole, rel=0.03)


@pytest.mark.parametrize("centre", [None, [120.0, 210.0]])
def test_reflections_stand_at_c_plus_k_times_c_minus_p(centre: Any) -> None:
    """Copies of 1/3, 2/3 and 1 of the spread: place to a tenth of a pixel, radius to half of one, all of the light."""
    p, c = np.array([230.5, 190.5]), np.array(centre or [WIDTH / 2, HEIGHT / 2])
    whole = {"kind": "reflections", "centre": centre, "spread": 0.9, "softness": 0.1, "dispersion": 0.0}
    light = [spread(dark((230, 190, 900.0)), **whole, count=count, size=9.0)[..., 1] for count in (1, 3)]
    assert light[1].sum() == pytest.approx(900, rel=1e-3)
    assert middle(light[0]) == pytest.approx(tuple(c + 0.9 * (c - p)), abs=0.1)
    area = (light[0] > light[0].max() / 2).sum()
    assert math.sqrt(area / math.pi) == pytest.approx(9, abs=0.5)
    for k, radius in ((0.3, 6), (0.6, 7.5), (0.9, 9)):
        x, y = c + k * (c - p)
        around = light[1][int(y) - 3 : int(y) + 4, int(x) - 3 : int(x) + 4]
        assert around.min() > 0.5 * 300 / (math.pi * radius**2)


def test_colours_of_a_reflection_stand_apart_by_their_dispersion() -> None:
    light = spread(dark((300, 150, 900.0)), "reflections", count=1, spread=1.0, size=12.0, dispersion=0.1)
    places = [middle(light[..., c])[0] for c in range(3)]
    assert places == pytest.approx([200 - 0.9 * 100.5, 200 - 100.5, 200 - 1.1 * 100.5], abs=0.1)


def test_each_reflection_has_its_tint_and_fades_to_the_edge() -> None:
    """By hand: three copies of a third of the light each, tinted in even steps; what falls at half of the half diagonal loses half of
    `fade` (x^2 (3 - 2 x) = 1/2 there), at a fifth of it 0.104 of it."""
    count = {"count": 3, "spread": 0.9, "size": 8.0, "dispersion": 0.0}
    plain = spread(dark((280, 150, 900.0)), "reflections", **count)
    tinted = spread(dark((280, 150, 900.0)), "reflections", **count, first_tint=[1.0, 0.5, 0.2], last_tint=[0.0, 0.5, 1.0])
    for copy, tint in ((1, (1.0, 0.5, 0.2)), (2, (0.5, 0.5, 0.6)), (3, (0.0, 0.5, 1.0))):
        x = int(200 - 0.3 * copy * 80.5)
        part = np.s_[140:161, x - 10 : x + 11]
        assert tinted[part].sum(axis=(0, 1)) == pytest.approx(plain[part].sum(axis=(0, 1)) * tint, rel=1e-3, abs=1e-3)
    for x, left in ((50.0, 0.896), (125.0, 0.5)):  # the half diagonal is 250 pixels
        lamp = dark((int(200 + x), 149, 900.0))
        faded = [spread(lamp, "reflections", count=1, spread=1.0, size=2.0, dispersion=0.0, fade=fade).sum() for fade in (0.0, 1.0, 0.6)]
        assert faded[1] / faded[0] == pytest.approx(left, abs=0.006)
        assert faded[2] / faded[0] == pytest.approx(1 - 0.6 * (1 - left), abs=0.006)


def test_a_halo_has_a_white_core_and_its_colour_around() -> None:
    """From `size` on the surround's colour is exact, with a core as without; in the middle it is white, though nothing else is brighter."""
    colour, lamp = np.array([0.9, 0.3, 0.05]), dark((200, 150, [800.0, 500.0, 100.0]))
    plain = spread(lamp, "halo", size=32.0, colour=list(colour), core=0.0)
    assert plain[150, 200] / plain[150, 200, 0] == pytest.approx(colour / colour[0], rel=1e-4), "no core, no white"
    for core in (0.2, 0.5):
        light = spread(lamp, "halo", size=32.0, colour=list(colour), core=core)
        assert light[150, 232] == pytest.approx(plain[150, 232], rel=2e-4)
        assert light[150, 232] / light[150, 232, 0] == pytest.approx(colour / colour[0], rel=2e-4)
        assert light[150, 200].min() > 0.85 * light[150, 200].max()
        # the white octaves hold as much light as they had, and the core adds its own
        white = light.sum(axis=(0, 1)) - plain.sum(axis=(0, 1))
        weights = level_weights(32.0, 0.7)
        assert white == pytest.approx(800 * (sum(weights[:3]) * (1 - colour) + core), rel=0.01)


def test_lamps_of_two_colours_have_halos_of_theirs_in_one_go() -> None:
    red, blue = np.array([400.0, 60.0, 20.0]), np.array([30.0, 100.0, 500.0])
    light = spread(dark((90, 150, red), (310, 150, blue)), "halo", size=16.0, colour="object", core=0.0)
    for x, lamp in ((90, red), (310, blue)):
        there = light[150 + 16, x]
        assert there / there.max() == pytest.approx(lamp / lamp.max(), rel=0.02)


def test_a_halo_takes_the_colour_of_what_the_lamp_lights() -> None:
    reader = dark((200, 150, 5000.0))
    reader.sources["station"].passes["rgba"][1][:, :, :3] += np.array([0.02, 0.1, 0.04], np.float32)
    plain = spread(reader, "halo", size=16.0, colour=[1, 1, 1], core=0.0, threshold=1.0)
    lit = spread(reader, "halo", size=16.0, colour="lit", core=0.0, threshold=1.0)
    there = lit[150, 290] / plain[150, 290]
    assert there == pytest.approx([0.2, 1.0, 0.4], rel=0.01)


def added(treatments: list[dict[str, Any]], **more: Any) -> np.ndarray:
    pictures = [make(shot_of([card(STATION, treatments=one, **more)]), scene()).pixels[..., :3].astype(np.float64) for one in (treatments, [])]
    return pictures[0] - pictures[1]


GLOW = {"id": "glow", "kind": "bloom", "threshold": 0.0, "knee": 0.0, "size": 9.0}


def test_what_emits_nothing_glows_by_its_fill() -> None:
    bare = added([{**GLOW, "feed": {"matte": "ball"}, "threshold": 1e5}])
    assert np.abs(bare).max() == 0
    filled = added([{**GLOW, "feed": {"matte": "ball"}, "threshold": 1e5, "fill": [0.2, 0.1, 0.0]}])
    assert filled[47, 54] == pytest.approx([0.2, 0.1, 0.0], rel=0.15)
    assert filled[5, 5, 0] < 0.02


def test_a_pass_feeds_alone_and_cut_as_the_card_is() -> None:
    """The emission pass is the lamp alone, whatever the rest of the beauty has; cut off, it feeds nothing."""
    whole = added([{**GLOW, "feed": {"pass": "emission"}}])
    fed = scene().sources["station"].passes["emission"][1].sum(axis=(0, 1), dtype=np.float64)
    assert whole.sum(axis=(0, 1)) / fed == pytest.approx([whole[..., 0].sum() / fed[0]] * 3, rel=1e-4)
    assert 0.7 < whole[..., 0].sum() / fed[0] < 1.001
    assert np.abs(added([{**GLOW, "feed": {"pass": "emission"}}], cut=["ball"])).max() < 1e-6
    # the pass has no alpha of its own: its fill goes where its beauty is, and not over the frame
    filled = added([{**GLOW, "size": 2.0, "feed": {"pass": "emission"}, "threshold": 1e5, "fill": [0.2, 0.1, 0.0]}])
    assert filled[47, 54] == pytest.approx([0.2, 0.1, 0.0], rel=0.02)
    assert np.abs(filled[80:, 100:]).max() < 1e-3
    broken: dict[str, UmbraxError] = {}
    shot = shot_of([card(STATION, treatments=[{**GLOW, "feed": {"pass": "neon"}}])])
    ShotPlanner(shot, 1, scene(), broken=broken).picture()
    assert "neon" in str(broken["station"])


def test_what_was_spread_is_spread_again() -> None:
    """Reflections of bloomed light are as bright as what the bloom put in, though the lamp's matte is two pixels wide."""
    bloom = {**GLOW, "feed": {"matte": "lamp"}, "amount": 0.5}
    again = {"id": "again", "kind": "reflections", "count": 1, "spread": 0.6, "size": 4.0, "dispersion": 0.0, "feed": "above"}
    only, both, switched = added([bloom]), added([bloom, again]), added([bloom, {**again, "amount": 2.0}])
    copies = both - only
    assert copies.sum() == pytest.approx(only.sum(), rel=0.05)
    assert_near(switched - only, 2 * copies, 1e-4)
    lamp = np.zeros((90, 120), bool)
    lamp[28:34, 58:64] = True
    assert copies[~lamp].sum() > 0.9 * copies.sum()
    limited = added([bloom, {**again, "limit": 1e-3}]) - only
    assert 0 < limited.sum() < 0.5 * copies.sum()
    for treatments in ([again, bloom], [{**bloom, "enabled": False}, again]):
        with pytest.raises(UmbraxError, match="no treatment above") as told:
            added(treatments)
        assert told.value.where.treatment == "again"


def test_emission_that_is_in_the_beauty_is_not_doubled() -> None:
    """A card of the emission pass over the beauty: spread only, the lamp itself is there once."""
    lamp = {"id": "l", "picture": {"kind": "pass", "source": "station", "pass": "emission"}, "join": "plus"}
    glow = {**GLOW, "id": "g"}
    pictures = [
        make(shot_of([STATION, *([{**lamp, "treatments": [{**glow, "output": output}]}] if output else [])]), scene()).pixels
        for output in ("with_source", "spread_only", "")
    ]
    emission = scene().sources["station"].passes["emission"][1]
    assert_near((pictures[0] - pictures[1])[..., :3], emission, 2e-4)
    assert (pictures[1] - pictures[2])[..., 0].min() >= -1e-5
