"""Windows and coordinates: half open, absolute, floored and ceiled at scales."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from umbrax.core.picture import Picture, Window, nothing

EDGES = st.integers(-200, 200)


@st.composite
def windows(draw: st.DrawFn) -> Window:
    x0, y0 = draw(EDGES), draw(EDGES)
    return Window(x0, y0, x0 + draw(st.integers(1, 90)), y0 + draw(st.integers(1, 90)))


@given(windows(), st.sampled_from([1, 2, 4, 8]))
def test_a_window_at_a_scale_covers_every_pixel_it_stands_for(window: Window, n: int) -> None:
    assert window.scaled(n).magnified(n).contains(window)
    assert not window.scaled(n).grown(-1).magnified(n).contains(window)


@given(windows(), windows())
def test_union_holds_both_and_intersection_lies_in_both(a: Window, b: Window) -> None:
    assert a.union(b).contains(a)
    assert a.union(b).contains(b)
    assert a.contains(a.intersect(b))
    assert b.contains(a.intersect(b))


@pytest.mark.parametrize(("edge", "outside"), [("empty", 0.0), ("one", 1.0), ("extend", 3.0)])
def test_what_stands_outside_a_picture_is_its_edge(edge: str, outside: float) -> None:
    picture = Picture(np.full((2, 2, 4), 3, np.float32), Window(5, 5, 7, 7), edge)  # type: ignore[arg-type]
    grown = picture.crop(Window(0, 0, 12, 12)).pixels
    assert grown[6, 6, 0] == 3
    assert grown[0, 0, 0] == outside
    assert grown[11, 5, 3] == outside


def test_pixels_that_do_not_fit_their_window_are_refused() -> None:
    with pytest.raises(ValueError, match="expected pixels of 3 x 4"):
        Picture(np.zeros((4, 3, 1), np.float32), Window(0, 0, 4, 3))


def test_nothing_is_nothing() -> None:
    assert not nothing(Window(-1, -1, 3, 3), 4).pixels.any()


@pytest.mark.parametrize("x", range(-9, 10, 3))
@pytest.mark.parametrize("y", range(-9, 10, 3))
def test_a_border_goes_on_as_numpy_pads_it(x: int, y: int) -> None:
    """Windows around, across and beside a picture, far off at each corner as well."""
    pixels = np.random.default_rng(1).random((4, 5, 3)).astype(np.float32)
    picture = Picture(pixels, Window(0, 0, 5, 4), "extend")
    padded = np.pad(pixels, ((20, 20), (20, 20), (0, 0)), mode="edge")
    for width, height in ((1, 1), (3, 6), (12, 2), (25, 19)):
        window = Window(x, y, x + width, y + height).intersect(Window(-20, -20, 25, 24))
        want = padded[window.y0 + 20 : window.y1 + 20, window.x0 + 20 : window.x1 + 20]
        assert np.array_equal(picture.crop(window).pixels, want)
