"""Defocus by hand: how far a lens spreads a point, into what shape, and what lies before what."""

from typing import Any

import cv2
import numpy as np
import pytest

from arrays import ArraySource, assert_near, disc, element, made_of
from umbrax.core.errors import UmbraxError
from umbrax.core.kernels.edge_light import told_by_light
from umbrax.core.kernels.lit import lit_window
from umbrax.core.kernels.radii import surrounded
from umbrax.core.lens.apertures import aperture
from umbrax.core.lens.behind import FARTHER, LEAST, NEXT, borders, nearest_behind
from umbrax.core.lens.focusing import beyond_everything, circle_of_confusion, hyperfocal, spread_by
from umbrax.core.picture import Window

SIZE = 96
MIDDLE = SIZE // 2


def picture(rgba: np.ndarray, depth: np.ndarray | float | None = None) -> ArraySource:
    passes = {"rgba": ("beauty", rgba.astype(np.float32))}
    if depth is not None:
        passes["depth"] = ("depth", np.broadcast_to(np.float32(depth), rgba.shape[:2]).astype(np.float32)[..., None])
    return ArraySource(passes)


def defocus(**settings: Any) -> dict[str, Any]:
    return {"id": f"d{len(settings)}", "kind": "defocus", **settings}


def made(cards: list[dict[str, Any]], frame: int = 1, camera: dict[str, Any] | None = None, **sources: ArraySource) -> np.ndarray:
    return made_of(cards, sources, frame, **({"camera": camera} if camera else {}))


def alone(rgba: np.ndarray, depth: np.ndarray | float | None = None, **settings: Any) -> np.ndarray:
    return made([element("station", treatments=[defocus(**settings)])], station=picture(rgba, depth))


def lamp(light: float = 1000.0, alpha: float = 1.0) -> np.ndarray:
    """One pixel of light on black."""
    rgba = np.zeros((SIZE, SIZE, 4), np.float32)
    rgba[..., 3] = alpha
    rgba[MIDDLE, MIDDLE, :3] = light
    return rgba


def sides(left: np.ndarray | list[float], right: np.ndarray | list[float]) -> np.ndarray:
    """Two halves, opaque."""
    rgba = np.ones((SIZE, SIZE, 4), np.float32)
    rgba[:, :MIDDLE, :3], rgba[:, MIDDLE:, :3] = left, right
    return rgba


def test_the_circle_of_confusion_by_worked_values() -> None:
    """By hand: 50 mm at f/2 is an opening of 25 mm; focused on 5 m, what is at 10 m becomes 25 x 50 x 5000 / (10000 x 4950) mm.

    The hyperfocal distance of 50 mm at f/8 with a circle of 0.03 mm is 10.47 m: the value that depth-of-field tables print.
    """
    assert circle_of_confusion(10_000, 5_000, 50, 2.0) == pytest.approx(25 * 50 * 5000 / (10_000 * 4_950))
    assert circle_of_confusion(5_000, 5_000, 50, 2.0) == 0
    assert hyperfocal(50, 8, 0.03) == pytest.approx(10_467, abs=1)
    far = hyperfocal(50, 8, 0.03)
    # focused there, everything from half of it to infinity is spread to at most that circle
    assert beyond_everything(far, 50, 8) == pytest.approx(0.03)
    assert circle_of_confusion(far / 2, far, 50, 8) == pytest.approx(-0.03, rel=0.01)


def test_what_a_lens_spreads_in_pixels() -> None:
    """Through the engine: a frame 96 pixels wide on 36 mm; the lamp's disc has the circle's radius."""
    settings = {"mode": "lens", "focus": 2.0, "focal_mm": 85.0, "f_stop": 0.7, "sensor_mm": 36.0}
    wanted = circle_of_confusion(8_000, 2_000, 85, 0.7) / 2 / 36 * SIZE
    assert 3 < wanted < 20
    seen = alone(lamp(), 8.0, **settings)
    assert np.sqrt((seen[..., 0] > 1e-3).sum() / np.pi) == pytest.approx(wanted, abs=0.5)
    # and so in a scene whose unit is a centimetre
    assert_near(alone(lamp(), 800.0, **{**settings, "focus": 200.0, "unit_m": 0.01}), seen, 1e-3)


def test_the_radius_by_formula_and_where_nothing_stands() -> None:
    depth = np.array([[5.0, 10.0, 20.0, 1e10, np.inf, 2.0, 0.1, -20.0]], np.float32)
    got = spread_by(depth, 10.0, 12.0, 12.0)
    assert got == pytest.approx(np.array([[-12, 0, 6, 12, 12, -12, -12, 6]]), abs=1e-5)


@pytest.mark.parametrize("radius", [1.5, 4.0, 9.25, 20.0])
def test_a_lamp_becomes_a_disc_of_its_size_with_all_of_its_light(radius: float) -> None:
    seen = alone(lamp(), mode="uniform", radius=radius)[..., 0]
    assert seen.sum() == pytest.approx(1000, rel=1e-4)
    flat = 1000 / (np.pi * radius**2)
    # as many pixels as the disc covers, each as bright as its share; the diameter by the light on the row through the middle
    assert seen[MIDDLE].sum() / flat == pytest.approx(2 * radius, abs=0.5)
    assert seen[:, MIDDLE].sum() / flat == pytest.approx(2 * radius, abs=0.5)
    y, x = np.mgrid[:SIZE, :SIZE] - MIDDLE
    away = np.hypot(x, y)
    assert seen[away < radius - 1] == pytest.approx(flat, rel=0.01)
    assert np.abs(seen[away > radius + 1]).max() < 1e-6 * flat


def test_constant_depth_is_a_uniform_disc() -> None:
    rng = np.random.default_rng(4)
    rgba = np.dstack([rng.random((SIZE, SIZE, 3)) ** 4 * 8, np.ones((SIZE, SIZE))])
    by_depth = alone(rgba, 20.0, mode="radius", focus=10.0, radius=12.0)
    assert_near(by_depth, alone(rgba, mode="uniform", radius=6.0), 1e-5)


@pytest.mark.parametrize(("blades", "turn"), [(5, 0.0), (6, 15.0), (3, 40.0)])
def test_blades_make_a_polygon_and_squeeze_makes_it_narrow(blades: int, turn: float) -> None:
    """Area n / 2 sin(2 pi / n) r^2 of a regular polygon; behind the focus its corner is at the top, before it at the bottom."""
    radius = 16.0
    seen = alone(lamp(), mode="uniform", radius=radius, blades=blades, turn=turn)[..., 0]
    area = blades / 2 * np.sin(2 * np.pi / blades) * radius**2
    assert seen.sum() == pytest.approx(1000, rel=1e-4)
    assert seen[MIDDLE, MIDDLE] == pytest.approx(1000 / area, rel=0.01)
    corner = np.radians(90 + turn)
    y, x = (round(v * 0.9 * radius) for v in (-np.sin(corner), np.cos(corner)))
    assert seen[MIDDLE + y, MIDDLE + x] > 0.3 * seen[MIDDLE, MIDDLE]
    assert (seen[MIDDLE - y, MIDDLE - x] < 0.3 * seen[MIDDLE, MIDDLE]) == (blades % 2 == 1)
    near = alone(lamp(), 4.0, mode="radius", focus=8.0, radius=radius, blades=blades, turn=turn)[..., 0]
    assert_near(near, np.roll(seen[::-1, ::-1], (1, 1), (0, 1)), 0.05)
    narrow = alone(lamp(), mode="uniform", radius=radius, blades=blades, turn=turn, squeeze=0.5)[..., 0]
    assert narrow.sum() == pytest.approx(1000, rel=1e-4)
    assert narrow[MIDDLE, MIDDLE] == pytest.approx(2 * seen[MIDDLE, MIDDLE], rel=0.01)


def test_a_bright_rim_takes_its_light_from_inside() -> None:
    seen = alone(lamp(), mode="uniform", radius=15.0, rim=1.0)[MIDDLE, :, 0]
    assert seen[MIDDLE + 14] == pytest.approx(2 * seen[MIDDLE], rel=0.02)
    assert alone(lamp(), mode="uniform", radius=15.0, rim=1.0)[..., 0].sum() == pytest.approx(1000, rel=1e-4)


def test_a_sharp_foreground_before_a_blurred_background_has_no_halo() -> None:
    depth = np.where(np.arange(SIZE)[None] < MIDDLE, 2.0, 50.0)
    dark_before_bright = alone(sides([0.1, 0.1, 0.1], [5.0, 4.0, 3.0]), depth, focus=2.0, radius=12.0)
    # nothing of what is behind gets onto what is sharp, and what is behind is not darkened by it
    assert np.array_equal(dark_before_bright[:, :MIDDLE], sides([0.1, 0.1, 0.1], 0.0)[:, :MIDDLE].astype(np.float32))
    assert dark_before_bright[:, MIDDLE:, :3] == pytest.approx(np.broadcast_to([5.0, 4.0, 3.0], (SIZE, MIDDLE, 3)), rel=1e-4)


def test_a_blurred_foreground_shows_what_is_behind_through_its_rim() -> None:
    """A straight edge spread by a disc: its cover at x is the part of the disc to the left of it; what is behind stays sharp."""
    stripes = np.where(np.arange(SIZE) % 8 < 4, 0.2, 1.0)[:, None, None] * np.ones(3)
    depth = np.where(np.arange(SIZE)[None] < MIDDLE, 2.0, 10.0)
    rgba = sides([3.0, 0.0, 0.0], np.broadcast_to(stripes, (SIZE, SIZE - MIDDLE, 3)))
    radius = 8.0
    got = alone(rgba, depth, focus=10.0, radius=radius)
    for x in (-6, -3, 0, 3, 6):
        u = (x + 0.5) / radius
        cover = 0.5 - (u * np.sqrt(1 - u * u) + np.arcsin(u)) / np.pi
        wanted = cover * np.array([3.0, 0.0, 0.0]) + (1 - cover) * stripes[24:72, 0]
        assert got[24:72, MIDDLE + x, :3] == pytest.approx(wanted, abs=0.06)


@pytest.mark.parametrize(("light", "stray"), [(0.9, 0.012), (20.0, 0.06), (1000.0, 0.06)])
def test_what_is_sharp_has_no_halo_from_pixels_that_it_shares(light: float, stray: float) -> None:
    """Depth is that of the middle of each pixel: the far ones at a lamp's edge hold some of its light, which is sharp as it is."""
    cover = disc(SIZE, SIZE, MIDDLE + 0.2, MIDDLE - 0.3, 6.0, samples=16)[..., None]
    rgba = np.concatenate([cover * light + (1 - cover) * 0.2, np.ones_like(cover)], axis=2).repeat([3, 1], axis=2)
    depth = np.where(cover[..., 0] > 0.5, 5.0, 50.0)
    got = alone(rgba, depth, focus=5.0, radius=10.0)[..., 0]
    around = cv2.dilate((cover[..., 0] > 0).astype(np.uint8), np.ones((3, 3), np.uint8)) == 0
    assert np.abs(got - 0.2)[around].max() < stray
    assert np.abs(got - rgba[..., 0])[cover[..., 0] > 0.5].max() < 0.05 * light


def test_only_what_a_thing_shares_counts_to_it() -> None:
    """A pattern on what is behind, and light that comes from neither, are no part of what is before it."""
    rng = np.random.default_rng(4)
    radius = np.where(np.arange(SIZE)[None] < MIDDLE, -6.0, 0.0).astype(np.float32).repeat(SIZE, axis=0)
    own = np.arange(SIZE * SIZE).reshape(SIZE, SIZE)
    flat = sides([0.1, 0.2, 0.3], [0.6, 0.5, 0.1])
    pattern = sides([0.1, 0.1, 0.1], 0.2 + 0.6 * (rng.random((SIZE, MIDDLE)) < 0.5)[..., None].repeat(3, axis=2))
    strange = flat.copy()
    strange[:, MIDDLE, :3] = [0.0, 3.0, 0.0]
    for light, most in ((flat, 0), (strange, 0), (pattern, 6)):
        assert np.count_nonzero(told_by_light(light, radius, LEAST, FARTHER) != own) <= most
    shared = flat.copy()
    shared[:, MIDDLE, :3] = 0.3 * flat[:, 0, :3] + 0.7 * flat[:, -1, :3]
    told = told_by_light(shared, radius, LEAST, FARTHER)
    assert np.array_equal(np.argwhere(told != own)[:, 1], np.full(SIZE, MIDDLE))
    assert (radius.reshape(-1)[told[:, MIDDLE]] == -6).all()
    shared[..., 3] = 0.5  # what is not opaque may show anything
    assert np.array_equal(told_by_light(shared, radius, LEAST, FARTHER), own)


def test_where_nothing_is_an_element_ends_softly() -> None:
    """Through the rim of an element that is cut out there is nothing; the light of what is seen keeps its colour."""
    rgba = np.zeros((SIZE, SIZE, 4), np.float32)
    rgba[30:66, 30:66] = [0.6, 0.3, 0.1, 1.0]
    depth = np.where(rgba[..., 3] > 0, 20.0, np.inf)
    got = alone(rgba, depth, focus=5.0, radius=8.0)
    assert got[MIDDLE, MIDDLE] == pytest.approx(rgba[MIDDLE, MIDDLE], rel=1e-4)
    assert got[MIDDLE, 30, 3] == pytest.approx(0.53, abs=0.05)
    lit = got[..., 3] > 1e-3
    assert got[lit][:, :3] / got[lit][:, 3:] == pytest.approx(np.broadcast_to([0.6, 0.3, 0.1], (int(lit.sum()), 3)), rel=1e-3)
    assert got[..., 3].sum() == pytest.approx(rgba[..., 3].sum(), rel=1e-3)


def test_what_the_frame_cuts_off_is_no_edge() -> None:
    """An opaque picture stays opaque, and as bright, at the border of the frame."""
    rgba = sides([0.4, 0.4, 0.4], [0.4, 0.4, 0.4])
    assert_near(alone(rgba, 30.0, focus=5.0, radius=10.0), rgba, relative=1e-4)


def test_light_without_alpha_is_spread_as_well() -> None:
    seen = alone(lamp(100.0, alpha=0.0), mode="uniform", radius=6.0)
    assert seen[..., 0].sum() == pytest.approx(100, rel=1e-4)
    assert not seen[..., 3].any()


def test_a_treat_card_has_the_depth_of_all_that_is_joined() -> None:
    """What covers most of a pixel says how far it is; a card without a pass says it for all of itself, or leaves what is behind."""
    plate, pole = sides([0.2, 0.2, 0.2], [0.2, 0.2, 0.2]), np.zeros((SIZE, SIZE, 4), np.float32)
    pole[:, 40:56] = [0.0, 1.0, 0.0, 1.0]
    sources = {"valley": picture(plate), "station": picture(pole, np.where(pole[..., 3] > 0, 4.0, np.inf))}
    finish = {"id": "finish", "treat": True, "treatments": [defocus(focus=4.0, radius=9.0)]}
    sharp = made([element("valley"), element("station"), finish], **sources)
    assert np.array_equal(sharp[:, 40:56], pole[:, 40:56])
    moved = made([element("valley"), element("station", depth=40.0), finish], **sources)
    assert 0.05 < moved[MIDDLE, 42, 0] < 0.1, "the pole is blurred, and the plate shows through it"
    lamp_behind = {**sources, "valley": picture(lamp(500.0))}
    assert made([element("valley", depth=4.0), finish], **lamp_behind)[MIDDLE, MIDDLE, 0] == 500
    assert made([element("valley", depth=4.0), element("station", opacity=0.2), finish], **lamp_behind)[MIDDLE, 38, 0] == 0


def test_a_shadow_is_as_far_away_as_what_it_falls_on() -> None:
    """Whatever the depth pass of its own source says there; a depth that is set on its card counts."""
    plate = picture(lamp(500.0))
    shade = ArraySource(
        {"shadow": ("shadow", np.zeros((SIZE, SIZE, 1), np.float32)), "depth": ("depth", np.full((SIZE, SIZE, 1), 40, np.float32))}
    )
    shadow = {"id": "shadow", "picture": {"kind": "shadow", "source": "shade"}, "opacity": 0.6}
    finish = {"id": "finish", "treat": True, "treatments": [defocus(focus=4.0, radius=9.0)]}

    def shown(**settings: Any) -> np.ndarray:
        return made([element("valley", depth=4.0), {**shadow, **settings}, finish], valley=plate, shade=shade)

    sharp = shown()
    assert sharp[MIDDLE, MIDDLE, 0] == pytest.approx(500 * 0.4)
    assert np.count_nonzero(sharp[..., 0]) == 1
    assert shown(depth=40.0)[MIDDLE, MIDDLE, 0] < 10


def test_a_bundle_has_the_depth_of_what_is_in_it() -> None:
    pole = np.zeros((SIZE, SIZE, 4), np.float32)
    pole[:, 40:56] = [0.0, 1.0, 0.0, 1.0]
    sources = {"valley": picture(lamp(500.0)), "station": picture(pole, 4.0)}
    bundle = {"id": "pair", "picture": {"kind": "bundle", "build": [element("valley", depth=80.0), element("station")]}}
    got = made([{**bundle, "treatments": [defocus(focus=4.0, radius=9.0)]}], **sources)
    assert np.array_equal(got[:, 40:56], pole[:, 40:56])
    assert made([{**bundle, "treatments": [defocus(focus=80.0, radius=9.0)]}], **sources)[:, 40, 1].max() < 0.7


def test_cards_share_the_shots_camera() -> None:
    """Its focus pulled by keys; a treatment with values of its own stays as it is."""
    camera = {"focus": {"keys": [[1, 5.0, "linear"], [9, 20.0, "linear"]]}, "f_stop": 1.4}
    cards = [element("station", treatments=[defocus(mode="lens", camera="shot", focus=1.0, f_stop=22.0)])]
    sources = {"station": picture(lamp(), 20.0)}
    blurred, sharp = (made(cards, frame=frame, camera=camera, **sources) for frame in (1, 9))
    assert np.array_equal(sharp, lamp())
    wanted = alone(lamp(), 20.0, mode="lens", focus=5.0, f_stop=1.4)
    assert np.array_equal(blurred, wanted)
    own = [element("station", treatments=[defocus(mode="lens", focus=5.0, f_stop=1.4)])]
    assert np.array_equal(made(own, frame=9, camera=camera, **sources), wanted)


def test_each_treatment_takes_from_the_camera_what_it_has_of_it() -> None:
    """Grain its strength, colour fringe its size, and what has an optical centre that."""
    camera = {"centre": [30, 20], "fringe": 7.0, "grain": 0.3}
    sources = {"station": picture(sides([0.2, 0.3, 0.4], [0.8, 0.1, 0.5]))}
    of_camera = {"grain": {"strength": 0.3}, "fringe": {"size": 7.0, "centre": [30, 20]}, "warp": {"centre": [30, 20]}}
    for kind, own in (*of_camera.items(), ("reflections", {"centre": [30, 20], "threshold": 0.1, "amount": 20.0})):
        rest = {} if kind in of_camera else {"threshold": 0.1, "amount": 20.0}
        shared, alike, other = (
            made([element("station", treatments=[{"id": "t", "kind": kind, **settings}])], camera=camera, **sources)
            for settings in ({"camera": "shot", **rest}, own, rest)
        )
        assert np.array_equal(shared, alike)
        assert not np.array_equal(shared, other)


def test_without_any_depth_it_says_so_and_what_to_do() -> None:
    with pytest.raises(UmbraxError, match="set a depth on its card"):
        alone(lamp(), None, mode="radius")


def test_every_size_of_an_aperture_holds_as_much_as_it_covers() -> None:
    for blades, unit in ((0, np.pi), (6, 3 * np.sqrt(3) / 2)):
        shape = aperture(30.0, blades, 10.0, 0.8)
        sizes = np.arange(8, 481) / 16
        areas = ((shape.right - shape.left) * shape.of_row).sum(axis=1)[8:481]
        assert areas == pytest.approx(unit * 0.8 * sizes**2, rel=0.01)
        assert 1 / shape.light[8:481] == pytest.approx(areas, rel=1e-4)


def test_what_is_behind_is_the_nearest_pixel_of_what_is_farther() -> None:
    """By hand: every pixel against every other, as far as chamfer distances (Borgefors, 1986) are exact, 3 % and a pixel."""
    y, x = np.mgrid[:40, :60]
    order = (8 * np.sin(x / 9) * np.cos(y / 7)).astype(np.float32)
    order[10:20, 20:40], order[30:, 50:] = -7.0, np.inf
    size = np.where(np.isfinite(order), np.abs(order), 0).astype(np.float32)
    between = borders(8.0)
    found = nearest_behind(order, size, between)
    behind = order + np.maximum(np.float32(LEAST), np.float32(FARTHER) * np.where(np.isfinite(order), np.abs(order), 0))
    some = 0
    for v, u in np.ndindex(order.shape):
        # the slice that what is behind it lies in ends at the first border that is not nearer
        border = between[np.searchsorted(between, behind[v, u], "left")] if behind[v, u] <= between[-1] else np.inf
        far = np.hypot(y - v, x - u) + np.where(order >= border, 0, 1e9)
        if found[v, u] >= 0:
            some += 1
            at = np.unravel_index(found[v, u], order.shape)
            assert order[at] >= border
            assert far[at] <= far.min() * 1.03 + 1
        elif np.isfinite(border):
            assert far.min() * 1.03 + 1 > size[v, u] + NEXT, "something was there to be found"
    assert some > 200


@pytest.mark.parametrize("on", [(True, True, True, True), (False, True, False, False), (False, False, True, True)])
def test_a_picture_goes_on_where_it_is_cut_off_and_nowhere_else(on: tuple[bool, bool, bool, bool]) -> None:
    """Against numpy.pad."""
    rng = np.random.default_rng(8)
    light, radius = rng.random((9, 7, 4)).astype(np.float32), rng.standard_normal((9, 7)).astype(np.float32)
    light[2:4, 1:5] = 0
    lights, order, size = surrounded(light, radius, 3, on)
    left, top, right, bottom = (3 if side else 0 for side in on)
    kept, rest = ((top, bottom), (left, right)), ((3 - top, 3 - bottom), (3 - left, 3 - right))
    wanted = np.pad(np.pad(light, (*kept, (0, 0)), "edge"), (*rest, (0, 0)))
    there = (wanted != 0).any(axis=2)
    padded = np.pad(np.pad(radius, kept, "edge"), rest)
    assert np.array_equal(lights, wanted)
    assert np.array_equal(order, np.where(there, padded, np.inf))
    assert np.array_equal(size, np.where(there, np.abs(padded), 0))


def test_where_light_is_is_remembered_for_the_very_pixels_it_is_of() -> None:
    for number in range(50):  # an array may come to lie where one lay that is gone
        light = np.zeros((20, 30, 3), np.float32)
        light[number % 20, number % 30] = 1
        for _ in range(2):
            wanted = Window(100 + number % 30, 50 + number % 20, 101 + number % 30, 51 + number % 20)
            assert lit_window(light, Window(100, 50, 130, 70)) == wanted
        del light
