"""How far two pictures are apart."""

import numpy as np

from umbrax.core.measuring.difference import difference
from umbrax.core.picture import Picture, Window

WINDOW = Window(3, 5, 7, 8)


def of(*values: float) -> Picture:
    return Picture(np.full((3, 4, len(values)), values, np.float32), WINDOW)


def test_it_is_that_of_each_channel_whichever_comes_first() -> None:
    one, other = of(0.5, -2.0, 9.0, 1.0), of(0.75, 1.0, 8.0, 0.25)
    for found in (difference(one, other), difference(other, one)):
        assert found.window == WINDOW
        assert found.pixels.dtype == np.float32
        assert np.array_equal(found.pixels[0, 0], [0.25, 3.0, 1.0, 0.75])
    assert not difference(one, one).pixels.any()


def test_colours_are_compared_where_only_one_has_alpha_and_what_is_no_number_is_nothing() -> None:
    found = difference(of(1.0, 2.0, 3.0, 1.0), of(1.5, np.nan, 3.0))
    assert found.pixels.shape == (3, 4, 3)
    assert np.array_equal(found.pixels[0, 0], [0.5, 2.0, 0.0])
