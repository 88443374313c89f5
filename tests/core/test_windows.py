"""Windows: half-open, absolute, floored and ceiled at scales (the page of docs/architecture.md says this)."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from umbrax.core.picture import Picture, Window, nothing

numbers = st.integers(-60, 60)
windows = st.builds(lambda x, y, w, h: Window(x, y, x + w, y + h), numbers, numbers, st.integers(0, 40), st.integers(0, 40))
full = windows.filter(lambda w: not w.empty)


def cells(window: Window) -> set[tuple[int, int]]:
    return {(x, y) for x in range(window.x0, window.x1) for y in range(window.y0, window.y1)}


@given(windows, windows)
def test_intersection_and_containment_are_those_of_their_pixels(a: Window, b: Window) -> None:
    assert cells(a.intersect(b)) == cells(a) & cells(b)
    if not b.empty:
        assert a.contains(b) == (cells(b) <= cells(a))


@given(windows, windows)
def test_a_union_holds_both_and_is_the_smallest(a: Window, b: Window) -> None:
    both = a.union(b)
    assert cells(both) >= cells(a) | cells(b)
    if not (a.empty or b.empty):
        assert (both.x0, both.y0) == (min(a.x0, b.x0), min(a.y0, b.y0))
        assert (both.x1, both.y1) == (max(a.x1, b.x1), max(a.y1, b.y1))


@given(full, st.sampled_from([1, 2, 4, 8]))
def test_at_a_scale_every_pixel_is_covered_and_no_cell_too_many(window: Window, n: int) -> None:
    small = window.scaled(n)
    assert cells(small) == {(x // n, y // n) for x, y in cells(window)}
    assert small.magnified(n).contains(window)


@given(full, full, st.sampled_from(["empty", "one", "far", "extend"]))
def test_cropping_fills_by_the_edge(at: Window, wanted: Window, edge: str) -> None:
    pixels = np.arange(at.area, dtype=np.float32).reshape(at.height, at.width, 1) + 2
    got = Picture(pixels, at, edge).crop(wanted)  # type: ignore[arg-type]
    assert got.window == wanted
    for y in range(wanted.y0, wanted.y1, 7):
        for x in range(wanted.x0, wanted.x1, 7):
            value = got.pixels[y - wanted.y0, x - wanted.x0, 0]
            if at.contains(Window(x, y, x + 1, y + 1)):
                assert value == pixels[y - at.y0, x - at.x0, 0]
            elif edge == "extend":
                row, column = min(max(y, at.y0), at.y1 - 1), min(max(x, at.x0), at.x1 - 1)
                assert value == pixels[row - at.y0, column - at.x0, 0]
            else:
                assert value == {"empty": 0, "one": 1, "far": np.inf}[edge]


def test_only_what_a_frame_cuts_off_goes_on() -> None:
    pixels = np.arange(12, dtype=np.float32).reshape(3, 4, 1) + 1
    frame, around = Window(0, 0, 10, 8), Window(-2, -2, 12, 10)
    beside = Picture(pixels, Window(0, 3, 4, 6)).cut_off_by(frame).crop(around).pixels[..., 0]
    assert np.array_equal(beside[5:8, :7], [[1, 1, 1, 2, 3, 4, 0], [5, 5, 5, 6, 7, 8, 0], [9, 9, 9, 10, 11, 12, 0]])
    assert not beside[:5].any()
    assert not beside[8:].any()
    wider = Picture(pixels, Window(8, -1, 12, 2)).cut_off_by(frame).crop(around).pixels[..., 0]
    assert np.array_equal(wider[:5, 9:], [[0, 1, 2, 3, 4], [0, 1, 2, 3, 4], [0, 5, 6, 7, 8], [0, 9, 10, 11, 12], [0] * 5])
    endless = Picture(pixels, Window(2, 2, 6, 5), "extend")
    assert endless.cut_off_by(frame) is endless


def test_pixels_must_fit_their_window() -> None:
    with pytest.raises(ValueError, match="expected pixels of 3 x 2"):
        Picture(np.zeros((2, 3, 1), np.float32), Window(0, 0, 2, 3))
    assert not nothing(Window(0, 0, 2, 3), 4).pixels.any()
