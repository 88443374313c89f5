"""What holds for the loop of every registered join, in linear light and as display values, on arrays."""

import numpy as np
import pytest

from arrays import assert_near
from umbrax.core.joins.base import JOINS, join
from umbrax.core.picture import Picture, Window

WAYS = [(kind, way) for kind in JOINS.kinds() for way in ("linear", "display")]


def pair(height: int, width: int, low: float = 0.0, high: float = 1.5) -> tuple[Picture, Picture]:
    """Two pictures of which a third is nothing, a third opaque and a third between."""
    rng = np.random.default_rng(8)
    pictures = []
    for _ in range(2):
        alpha = np.clip(rng.uniform(-1, 2, (height, width, 1)), 0, 1)
        light = rng.uniform(low, high, (height, width, 3)) * alpha
        pictures.append(Picture(np.concatenate([light, alpha], axis=2).astype(np.float32), Window(0, 0, width, height)))
    return pictures[0], pictures[1]


@pytest.mark.parametrize(("kind", "way"), WAYS)
def test_any_window_equals_the_whole_bit_for_bit(kind: str, way: str) -> None:
    """Wider and narrower than the loops are long, with and without a rest; products and sums are rounded alike in all."""
    top, below = pair(5, 601)
    whole = join(kind, top, below, top.window, 0.7, way)  # type: ignore[arg-type]
    for window in (Window(0, 0, 256, 5), Window(3, 1, 600, 4), Window(100, 0, 357, 2), Window(17, 2, 40, 5), Window(600, 0, 601, 1)):
        part = join(kind, top.crop(window), below.crop(window), window, 0.7, way)  # type: ignore[arg-type]
        assert np.array_equal(part.pixels, whole.crop(window).pixels)


@pytest.mark.parametrize(("kind", "way"), WAYS)
def test_rows_and_stretches_with_nothing_on_top_come_out_as_beside_something(kind: str, way: str) -> None:
    """What is left out where a stretch of the top is empty is what the formula gives there: so it is where one pixel of it is not."""
    top, below = pair(37, 300)
    holes = top.pixels.copy()
    holes[:, :290] = 0
    holes[5:21, 150:160] = top.pixels[5:21, 150:160]
    marked = holes.copy()
    marked[:, ::40] = 0.25
    got, beside = (join(kind, Picture(one, top.window), below, top.window, 0.7, way).pixels for one in (holes, marked))  # type: ignore[arg-type]
    unmarked = (holes == marked).all(axis=2)
    assert np.array_equal(got[unmarked], beside[unmarked])
    for y in range(37):
        row = Window(0, y, 300, y + 1)
        assert np.array_equal(join(kind, Picture(holes, top.window), below, row, 0.7, way).pixels[0], got[y])  # type: ignore[arg-type]


@pytest.mark.parametrize(("kind", "way"), WAYS)
def test_wild_values_stay_finite_and_alpha_in_range(kind: str, way: str) -> None:
    top, below = pair(20, 300, -50.0, 1e4)
    out = join(kind, top, below, top.window, 0.9, way).pixels  # type: ignore[arg-type]
    assert np.isfinite(out).all()
    assert out[..., 3].min() >= -1e-6
    assert out[..., 3].max() <= 1 + 1e-5


@pytest.mark.parametrize(("kind", "way"), WAYS)
def test_nothing_on_something_leaves_it_and_the_inputs_stay(kind: str, way: str) -> None:
    top, below = pair(4, 300)
    before = top.pixels.copy(), below.pixels.copy()
    nothing = Picture(np.zeros_like(below.pixels), below.window)
    got = join(kind, nothing, below, below.window, 0.8, way).pixels  # type: ignore[arg-type]
    if kind in ("in", "out", "min"):
        assert_near(got, below.pixels * np.float32(0.2), 1e-6)
    else:
        assert np.array_equal(got, np.maximum(below.pixels, 0) if kind == "max" else below.pixels)
    if JOINS.get(kind).keeps_nothing:
        assert np.array_equal(join(kind, top, nothing, top.window, 1.0, way).pixels, top.pixels)  # type: ignore[arg-type]
    assert np.array_equal(top.pixels, before[0])
    assert np.array_equal(below.pixels, before[1])


@pytest.mark.parametrize("shape", [(0, 4), (3, 0), (1, 1)])
def test_empty_and_tiny_pictures(shape: tuple[int, int]) -> None:
    top, below = pair(*shape)
    for kind in JOINS.kinds():
        assert join(kind, top, below, top.window).pixels.shape == (*shape, 4)
