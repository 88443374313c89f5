"""Taking a baked-in backdrop out: Porter-Duff's over solved for the front, against pictures composed by it."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from umbrax.core.repair.backdrop import REACH, without_backdrop

H, W = 48, 64


def disc(softness: float = 1.0) -> np.ndarray:
    y, x = np.mgrid[:H, :W] + 0.5
    return np.clip((15 - np.hypot(x - 30, y - 24)) / softness + 0.5, 0, 1).astype(np.float32)


def composed(front: tuple[float, float, float], behind: np.ndarray, coverage: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Porter and Duff, Compositing Digital Images (1984): F + (1 - m) B, with F associated."""
    own = coverage[..., None] * np.float32(front)
    return own, own + (1 - coverage[..., None]) * behind


def ramp() -> np.ndarray:
    """A backdrop that changes slowly, as walls and skies do."""
    x = np.linspace(0.2, 0.6, W, dtype=np.float32)
    return np.broadcast_to(np.stack([x, x * 0.5, 1 - x], axis=1), (H, W, 3)).astype(np.float32)


def test_with_a_clean_backdrop_the_front_comes_back_exactly() -> None:
    coverage = disc(4.0)
    own, seen = composed((1.5, 0.2, 0.05), ramp(), coverage)
    assert np.abs(without_backdrop(seen, coverage, ramp()) - own).max() < 2e-7


def test_without_one_it_is_spread_inward_from_around_the_rim() -> None:
    coverage = disc(2.0)
    own, seen = composed((0.8, 0.7, 0.6), ramp(), coverage)
    found = without_backdrop(seen, coverage)
    # the ramp rises by 0.4/64 a pixel, and what is seen of it lies a few pixels from the rim
    assert np.abs(found - own).max() < 0.02
    assert np.abs(found[coverage == 0]).max() == 0
    assert np.array_equal(found[coverage == 1], seen[coverage == 1])


@given(level=st.floats(0, 4, width=32), light=st.floats(0, 30, width=32))
def test_over_a_flat_backdrop_it_is_exact_at_any_level(level: float, light: float) -> None:
    coverage = disc(3.0)
    own, seen = composed((light, light / 2, 0), np.full((H, W, 3), level, np.float32), coverage)
    found = without_backdrop(seen, coverage)
    assert np.abs(found - own).max() <= 1e-5 * max(level, light, 1)
    assert found.min() >= 0


def test_a_window_with_its_reach_gives_what_the_whole_gives() -> None:
    coverage = disc(2.0)
    _, seen = composed((0.8, 0.7, 0.6), ramp(), coverage)
    whole = without_backdrop(seen, coverage)
    ys, xs = slice(20, 30), slice(18, 40)
    wide = (slice(20 - REACH, 30 + REACH), slice(18 - REACH, 40 + REACH))
    part = without_backdrop(seen[wide], coverage[wide])[REACH:-REACH, REACH:-REACH]
    assert np.allclose(part, whole[ys, xs], atol=1e-6)


def test_far_from_any_backdrop_half_covered_pixels_keep_their_share() -> None:
    """Glass in the middle of an object: nothing shows what is behind, so it counts as its own light."""
    coverage = np.ones((H, W), np.float32)
    coverage[20:26, 30:36] = 0.5
    seen = np.full((H, W, 3), 0.4, np.float32)
    assert np.allclose(without_backdrop(seen, coverage)[22, 32], 0.2)
