"""Light wrap: by hand on a step edge, nothing where nothing is, and it follows what lies behind."""

from typing import Any

import numpy as np
import pytest
from scipy.special import erf

from arrays import PLATE, ArrayReader, ArraySource, assert_near, make, scene, shot_of
from umbrax.core.errors import UmbraxError

WIDTH, HEIGHT, EDGE = 120, 60, 60
COLOUR = np.array([0.2, 0.3, 0.1], np.float32)


def half(alpha: np.ndarray | float = 1.0, plate: Any = (0.6, 0.5, 0.4)) -> ArrayReader:
    """An element that covers everything right of a straight edge, over an even plate."""
    element = np.zeros((HEIGHT, WIDTH, 4), np.float32)
    element[:, EDGE:, 3] = alpha
    element[..., :3] = COLOUR * element[..., 3:]
    behind = np.broadcast_to(np.array(plate, np.float32), (HEIGHT, WIDTH, 3)).copy()
    return ArrayReader(station=ArraySource({"rgba": ("beauty", element)}), valley=ArraySource({"rgba": ("beauty", behind)}))


def pixels(reader: ArrayReader, plate: bool = True, more: dict[str, Any] | None = None, **settings: Any) -> np.ndarray:
    element = {"id": "station", "picture": {"kind": "pass", "source": "station"}, **(more or {})}
    element["treatments"] = [{"id": "w", "kind": "wrap", **settings}] if settings else []
    shot = shot_of(
        [PLATE, element] if plate else [element], width=WIDTH, height=HEIGHT, mattes={"ball": {"kind": "alpha", "source": "station"}}
    )
    return make(shot_without_ids(shot), reader).pixels


def shot_without_ids(shot: Any) -> Any:
    return shot.model_copy(update={"mattes": {"ball": shot.mattes["ball"]}})


def by_hand(size: float, width: float, plate: np.ndarray) -> np.ndarray:
    """W at each column of the element: the plate's part of a Gaussian that lies left of the edge, times 1 - distance / width."""
    distance = np.arange(WIDTH - EDGE) + 0.5
    left = 0.5 * (1 - erf(distance / (size * np.sqrt(2))))
    return (left * np.clip(1 - distance / width, 0, 1))[:, None] * plate


@pytest.mark.parametrize(("size", "width"), [(8.0, 20.0), (15.0, 15.0), (3.0, 40.0)])
@pytest.mark.parametrize("amount", [1.0, 0.5])
def test_a_step_edge_by_hand(size: float, width: float, amount: float) -> None:
    """The Gaussian integral up to a straight edge; screen is c + w - c w, plus is c + w (W3C Compositing and Blending 1)."""
    plate = np.array([0.6, 0.5, 0.4], np.float32)
    w = amount * by_hand(size, width, plate)
    middle = HEIGHT // 2
    for join, wanted in (("screen", COLOUR + w - COLOUR * w), ("plus", COLOUR + w), ("add", COLOUR + w)):
        got = pixels(half(), size=size, width=width, amount=amount, join=join)[middle, EDGE:, :3]
        assert got == pytest.approx(wanted, abs=1.5e-3)
    bright = by_hand(size, width, plate).max(axis=1, keepdims=True)
    over = pixels(half(), size=size, width=width, amount=amount, join="over")[middle, EDGE:, :3]
    assert over == pytest.approx(w + (1 - amount * bright) * COLOUR, abs=1.5e-3)


@pytest.mark.parametrize(("saturation", "tint"), [(0.0, (1, 1, 1)), (2.5, (1, 1, 1)), (1.0, (2.0, 0.5, 0.0)), (0.4, (0.2, 1.0, 3.0))])
def test_what_is_laid_on_has_a_grade_of_its_own(saturation: float, tint: tuple[float, float, float]) -> None:
    """Saturation about the luma of BT.709 (0.2126, 0.7152, 0.0722: ASC CDL v1.2), then the tint; none of it below 0."""
    plate = np.array([0.9, 0.5, 0.02])
    luma = plate @ [0.2126, 0.7152, 0.0722]
    w = by_hand(8.0, 20.0, plate)[..., :1] / plate[0] * np.maximum((luma + (plate - luma) * saturation) * tint, 0)
    got = pixels(half(plate=plate), size=8.0, width=20.0, join="plus", saturation=saturation, tint=tint)[HEIGHT // 2, EDGE:, :3]
    assert got == pytest.approx(COLOUR + w, abs=3e-3)


@pytest.mark.parametrize("join", ["screen", "plus", "over"])
def test_nothing_happens_outside_the_alpha_and_over_black(join: str) -> None:
    settings = {"size": 8.0, "width": 20.0, "join": join}
    plain = pixels(half())
    assert np.array_equal(pixels(half(), **settings)[:, :EDGE], plain[:, :EDGE])
    assert np.array_equal(pixels(half(), **settings)[..., 3], plain[..., 3])
    for reader, plate in ((half(plate=(0, 0, 0)), True), (half(), False)):
        assert np.array_equal(pixels(reader, plate, **settings), pixels(reader, plate))


def test_what_is_see_through_is_not_veiled_and_what_is_solid_beside_it_is_wrapped() -> None:
    glass = np.full((HEIGHT, WIDTH - EDGE), 0.3, np.float32)
    assert np.array_equal(pixels(half(glass), size=8.0, width=20.0), pixels(half(glass)))
    half_glass = glass.copy()
    half_glass[:, 30:] = 1.0  # solid from 30 pixels inside on
    changed = np.abs(pixels(half(half_glass), size=8.0, width=20.0) - pixels(half(half_glass)))[HEIGHT // 2, EDGE:].max(axis=1)
    assert changed[:28].max() == 0
    assert changed[30:40].min() > 0.005
    blurred = np.clip(np.arange(WIDTH - EDGE) / 40, 0, 1)[None].repeat(HEIGHT, 0)  # motion blur: mostly see-through along its edge
    soft = np.abs(pixels(half(blurred), size=8.0, width=20.0) - pixels(half(blurred)))[HEIGHT // 2, EDGE:].max(axis=1)
    hard = np.abs(pixels(half(), size=8.0, width=20.0) - pixels(half()))[HEIGHT // 2, EDGE:].max(axis=1)
    assert soft.max() < 0.25 * hard.max()
    assert soft[:18].max() == 0


def test_what_is_behind_is_limited_in_its_own_colour() -> None:
    bright, capped = half(plate=(60.0, 30.0, 6.0)), half(plate=(2.0, 1.0, 0.2))
    settings = {"size": 8.0, "width": 20.0, "join": "plus", "limit": 2.0}
    inside = np.s_[:, EDGE:, :3]
    assert pixels(bright, **settings)[inside] == pytest.approx(pixels(capped, **settings)[inside], abs=1e-6)
    assert pixels(bright, **{**settings, "limit": 60.0})[inside].max() > 10


def test_it_follows_the_plate_and_the_placing() -> None:
    """Moved by whole pixels, over a plate moved by as many: the same picture elsewhere."""
    ramp = np.linspace(0, 1, WIDTH, dtype=np.float32)[None, :, None] * np.array([1, 0.5, 0.25], np.float32)
    reader = half()
    reader.sources["valley"].passes["rgba"] = ("beauty", np.ascontiguousarray(np.broadcast_to(ramp, (HEIGHT, WIDTH, 3))))
    settings = {"size": 6.0, "width": 14.0}
    still = pixels(reader, **settings)
    moved_plate = np.ascontiguousarray(np.roll(reader.sources["valley"].passes["rgba"][1], -20, axis=1))
    reader.sources["valley"].passes["rgba"] = ("beauty", moved_plate)
    reader.sources["valley"].version = "2"
    moved = pixels(reader, more={"placing": {"move": [-20, 0]}}, **settings)
    assert moved[:, 10:70] == pytest.approx(still[:, 30:90], abs=1e-5)


def test_just_what_a_matte_holds_is_wrapped_and_amounts_above_one_brighten() -> None:
    settings = {"size": 8.0, "width": 20.0, "join": "plus"}
    assert np.array_equal(pixels(half(), through={"matte": "ball", "invert": True}, **settings)[:, :EDGE], pixels(half())[:, :EDGE])
    plain = pixels(half())
    once, twice = (pixels(half(), amount=a, **settings) - plain for a in (1.0, 2.0))
    assert_near(twice, 2 * once, 1e-6)


def test_a_card_looked_at_alone_is_not_wrapped_and_its_alpha_is_the_same() -> None:
    shot = shot_of([PLATE, {"id": "s", "picture": {"kind": "rebuild", "source": "station"}, "treatments": [{"id": "w", "kind": "wrap"}]}])
    plain = shot_of([PLATE, {"id": "s", "picture": {"kind": "rebuild", "source": "station"}}])
    from umbrax.core.plan.planner import ShotPlanner

    assert ShotPlanner(shot, 1, scene()).card("s").key == ShotPlanner(plain, 1, scene()).card("s").key
    with pytest.raises(UmbraxError, match="multiply"):
        pixels(half(), join="multiply")
