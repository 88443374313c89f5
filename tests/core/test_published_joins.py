"""Every join against its published formula over a grid of values and alphas, in linear light and as sRGB values.

Porter and Duff 1984; W3C Compositing and Blending Level 1, sections 9 and 10; sRGB: IEC 61966-2-1. Subtract, divide, average, min and
max are common practice. What happens outside 0..1 is read from the guide's own table.
"""

import re
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest

from arrays import PLATE, STATION, assert_near, card, make, scene, shot_of
from umbrax.core.errors import UmbraxError
from umbrax.core.joins.base import JOINS, join
from umbrax.core.picture import Picture, Window

GUIDE = Path(__file__).parents[2] / "docs/guide/joins.md"
VALUES = np.array([0.0, 0.02, 0.25, 0.5, 0.6, 0.93, 1.0])
ALPHAS = np.array([0.0, 0.3, 0.75, 1.0])
Blend = Callable[[np.ndarray, np.ndarray], np.ndarray]


def encoded(x: np.ndarray) -> np.ndarray:
    return np.where(x <= 0.0031308, 12.92 * x, 1.0 - 1.055 * (1.0 - np.abs(x) ** (1 / 2.4)))  # the same, and exactly 1 at 1


def decoded(x: np.ndarray) -> np.ndarray:
    return np.sign(x) * np.where(np.abs(x) <= 0.04045, np.abs(x) / 12.92, ((np.abs(x) + 0.055) / 1.055) ** 2.4)


def soft_light(cb: np.ndarray, cs: np.ndarray) -> np.ndarray:
    d = np.where(cb <= 0.25, ((16 * cb - 12) * cb + 4) * cb, np.sqrt(cb))
    return np.where(cs <= 0.5, cb - (1 - 2 * cs) * cb * (1 - cb), cb + (2 * cs - 1) * (d - cb))


def hard_light(cb: np.ndarray, cs: np.ndarray) -> np.ndarray:
    return np.where(cs <= 0.5, 2 * cb * cs, cb + (2 * cs - 1) - cb * (2 * cs - 1))


def dodge(cb: np.ndarray, cs: np.ndarray) -> np.ndarray:
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(cb == 0, 0, np.where(cs == 1, 1, np.minimum(1, cb / (1 - cs))))


def burn(cb: np.ndarray, cs: np.ndarray) -> np.ndarray:
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(cb == 1, 1, np.where(cs == 0, 0, 1 - np.minimum(1, (1 - cb) / cs)))


SEPARABLE: dict[str, Blend] = {
    "multiply": lambda cb, cs: cb * cs, "screen": lambda cb, cs: cb + cs - cb * cs, "overlay": lambda cb, cs: hard_light(cs, cb),
    "darken": np.minimum, "lighten": np.maximum, "colour_dodge": dodge, "colour_burn": burn, "hard_light": hard_light,
    "soft_light": soft_light, "difference": lambda cb, cs: np.abs(cb - cs), "exclusion": lambda cb, cs: cb + cs - 2 * cb * cs,
    "subtract": lambda cb, cs: cb - cs, "average": lambda cb, cs: (cb + cs) / 2,
    "divide": lambda cb, cs: np.where(cs <= 0, cb, cb / np.maximum(cs, 1 / 256)),
}  # fmt: skip


def lum(c: np.ndarray) -> np.ndarray:
    return (c @ [0.3, 0.59, 0.11])[..., None]


def set_lum(c: np.ndarray, wanted: np.ndarray) -> np.ndarray:
    c = c + (wanted - lum(c))
    grey, low, high = lum(c), c.min(-1, keepdims=True), c.max(-1, keepdims=True)
    with np.errstate(divide="ignore", invalid="ignore"):
        c = np.where(low < 0, grey + (c - grey) * grey / (grey - low), c)
        return np.where(high > 1, grey + (c - grey) * (1 - grey) / (high - grey), c)


def sat(c: np.ndarray) -> np.ndarray:
    return c.max(-1, keepdims=True) - c.min(-1, keepdims=True)


def set_sat(c: np.ndarray, wanted: np.ndarray) -> np.ndarray:
    span = sat(c)
    return np.where(span > 0, (c - c.min(-1, keepdims=True)) * wanted / np.where(span > 0, span, 1), 0)


WHOLE: dict[str, Blend] = {
    "hue": lambda cb, cs: set_lum(set_sat(cs, sat(cb)), lum(cb)), "saturation": lambda cb, cs: set_lum(set_sat(cb, sat(cs)), lum(cb)),
    "colour": lambda cb, cs: set_lum(cs, lum(cb)), "luminosity": lambda cb, cs: set_lum(cb, lum(cs)),
}  # fmt: skip
BLENDS = SEPARABLE | WHOLE
FRACTIONS = {  # Fa, Fb of alphas (Porter and Duff, table of operators)
    "over": lambda a, b: (1, 1 - a), "under": lambda a, b: (1 - b, 1), "in": lambda a, b: (b, 0), "out": lambda a, b: (1 - b, 0),
    "atop": lambda a, b: (b, 1 - a), "xor": lambda a, b: (1 - b, 1 - a),
}  # fmt: skip


def grid() -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Colours without alpha and alphas of both pictures: every pair of values in every pair of alphas, channels in turned order."""
    cs, cb, aa, ab = np.meshgrid(VALUES, VALUES, ALPHAS, ALPHAS, indexing="ij")
    top = np.stack([cs, np.roll(cs, 2, axis=0), np.roll(cs, 5, axis=0)], axis=-1).reshape(1, -1, 3)
    below = np.stack([cb, np.roll(cb, 3, axis=1), np.roll(cb, 1, axis=1)], axis=-1).reshape(1, -1, 3)
    return top, aa.reshape(1, -1, 1), below, ab.reshape(1, -1, 1)


def picture(colour: np.ndarray, alpha: np.ndarray) -> Picture:
    pixels = np.concatenate([colour * alpha, alpha], axis=2).astype(np.float32)
    return Picture(pixels, Window(0, 0, pixels.shape[1], 1))


@pytest.mark.parametrize("blend_in", ["linear", "display"])
@pytest.mark.parametrize("opacity", [1.0, 0.6])
@pytest.mark.parametrize("kind", BLENDS)
def test_blends_are_as_published(kind: str, opacity: float, blend_in: str) -> None:
    cs, aa, cb, ab = grid()
    top, below = picture(cs, aa), picture(cb, ab)
    got = join(kind, top, below, top.window, opacity, blend_in).pixels  # type: ignore[arg-type]
    blend = BLENDS[kind]
    mixed = decoded(blend(encoded(cb), encoded(cs))) if blend_in == "display" else blend(cb, cs)
    aa = aa * opacity
    wanted = aa * (1 - ab) * cs + aa * ab * mixed + (1 - aa) * ab * cb
    # a divisor under 1/256 of the other makes what a rounding does as large; colours are known to a rounding of float32
    near = 2e-4 if kind == "divide" else 4e-6
    assert_near(got[..., :3], wanted, near, relative=1e-5)
    assert_near(got[..., 3:], aa + ab - aa * ab, 1e-6)


@pytest.mark.parametrize("kind", FRACTIONS)
def test_porter_and_duff(kind: str) -> None:
    cs, aa, cb, ab = grid()
    top, below = picture(cs, aa), picture(cb, ab)
    fa, fb = FRACTIONS[kind](aa, ab)
    wanted = np.concatenate([aa * fa * cs + ab * fb * cb, aa * fa + ab * fb], axis=2)
    assert_near(join(kind, top, below, top.window).pixels, wanted, 5e-7)


@pytest.mark.parametrize(("kind", "choose"), [("min", np.minimum), ("max", np.maximum)])
def test_min_and_max_compare_what_is_there_alpha_included(kind: str, choose: Blend) -> None:
    cs, aa, cb, ab = grid()
    top, below = picture(cs, aa), picture(cb, ab)
    wanted = below.pixels + 0.5 * (choose(top.pixels, below.pixels) - below.pixels)
    assert join(kind, top, below, top.window, 0.5).pixels == pytest.approx(wanted, abs=1e-6)


def test_every_join_has_its_formula_here_and_says_what_it_is_for() -> None:
    assert set(JOINS.kinds()) == {*BLENDS, *FRACTIONS, "plus", "min", "max"}
    assert all(one.formula and one.outside for one in JOINS)


def table() -> list[list[str]]:
    """The rows of worked examples: join, blend in, card, picture, result."""
    lines = GUIDE.read_text().split("<!-- worked examples -->")[1].splitlines()
    return [[cell.strip() for cell in line.strip("|").split("|")] for line in lines if re.match(r"\| `", line)]


@pytest.mark.parametrize("row", table(), ids=lambda row: f"{row[0]} {row[1]} {row[2]} on {row[3]}")
def test_outside_0_to_1_is_as_the_guide_says(row: list[str]) -> None:
    def read(cell: str) -> np.ndarray:
        numbers = [float(one) for one in cell.split(",")]
        return np.array(numbers if len(numbers) == 3 else numbers * 3).reshape(1, 1, 3)

    kind, blend_in = row[0].strip("`"), row[1]
    got = join(kind, picture(read(row[2]), np.ones((1, 1, 1))), picture(read(row[3]), np.ones((1, 1, 1))), Window(0, 0, 1, 1), 1.0, blend_in)  # type: ignore[arg-type]
    assert got.pixels[..., :3] == pytest.approx(read(row[4]), abs=6e-4)


def test_the_guide_has_an_example_of_every_join_outside_0_to_1() -> None:
    assert {row[0].strip("`") for row in table()} == set(JOINS.kinds())
    assert all(one.outside in GUIDE.read_text() for one in JOINS)


def test_a_card_says_in_what_it_is_blended() -> None:
    def overlaid(**more: object) -> np.ndarray:
        return make(shot_of([PLATE, card(STATION, join="overlay", **more)]), scene()).pixels

    assert np.array_equal(overlaid(), overlaid(blend_in="display"))
    assert np.abs(overlaid() - overlaid(blend_in="linear")).max() > 0.02
    with pytest.raises(UmbraxError, match="blend_in"):
        shot_of([PLATE, card(STATION, blend_in="wet")])


def test_american_spelling_is_understood() -> None:
    assert shot_of([PLATE, card(STATION, join="color_dodge")]).card("station").join == "colour_dodge"
    assert shot_of([PLATE, card(STATION, join="color")]).card("station").join == "colour"
