"""What is remembered of a plane of light: its lit part, and what was made of that, as long as the plane lives."""

import gc
import weakref

import numpy as np

from umbrax.core.kernels import lit
from umbrax.core.kernels.lit import lit_part, once_of
from umbrax.core.picture import Picture, Window

AT = Window(100, 50, 140, 80)


def plane(lamps: list[tuple[int, int]]) -> Picture:
    light = np.zeros((AT.height, AT.width, 3), np.float32)
    for y, x in lamps:
        light[y, x] = 2.0
    return Picture(light, AT)


class Grid:
    """Something made of a part, that holds on to it."""

    def __init__(self, part: np.ndarray):
        self.part = part

    def itself(self) -> "Grid":
        return self


def test_a_small_part_is_the_same_picture_each_time_and_what_is_made_of_it_is_made_once() -> None:
    whole, made = plane([(4, 7), (9, 14)]), []
    part = lit_part(whole)
    assert part.window == Window(107, 54, 115, 60)
    assert lit_part(whole) is part
    np.testing.assert_array_equal(part.pixels, whole.pixels[4:10, 7:15])
    for settings in ("few", "few", "many", "many", "few"):
        kept = once_of(part.pixels, "grid", settings, lambda settings=settings: made.append(settings) or settings)
        assert kept == settings
    assert made == ["few", "many", "few"], "with the settings it was last asked with"
    assert once_of(part.pixels, "points", "few", lambda: "something else") == "something else"


def test_what_fills_its_plane_is_neither_copied_nor_remembered() -> None:
    whole, made = plane([(0, 0), (AT.height - 1, AT.width - 1)]), []
    part = lit_part(whole)
    assert np.shares_memory(part.pixels, whole.pixels)
    for _ in range(2):
        once_of(part.pixels, "grid", None, lambda: made.append(1))
    assert len(made) == 2
    dark = plane([])
    assert lit_part(dark).window.empty


def test_the_same_pixels_elsewhere_have_their_part_elsewhere() -> None:
    whole = plane([(4, 7)])
    lit_part(whole)
    moved = Picture(whole.pixels, Window(0, 0, AT.width, AT.height))
    assert lit_part(moved).window == Window(7, 4, 8, 5)
    assert lit_part(whole).window == Window(107, 54, 108, 55)


def test_all_of_it_goes_with_the_plane() -> None:
    before = len(lit._found), len(lit._parts)
    whole = plane([(4, 7)])
    pixels = lit_part(whole).pixels
    kept = weakref.ref(once_of(pixels, "grid", None, Grid(pixels).itself))
    del pixels
    gc.collect()
    assert kept() is not None
    del whole
    gc.collect()
    assert kept() is None
    assert (len(lit._found), len(lit._parts)) == before
