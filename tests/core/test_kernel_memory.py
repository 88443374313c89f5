"""Compiled loops take the memory they work in once a thread, not once a row: taken in every turn it has the threads wait for one another."""

from collections.abc import Callable, Iterator

import numpy as np
import pytest
from numba.core.runtime import _nrt_python as counting
from numba.core.runtime import rtsys

from arrays import spread_octaves
from umbrax.core.kernels import arms, colouring, distance, ghosts, ids, placing, soft_edges
from umbrax.core.kernels.edge_light import told_by_light
from umbrax.core.kernels.points import points_of
from umbrax.core.lens.apertures import aperture
from umbrax.core.lens.spreading import spread_through
from umbrax.core.picture import Picture, Window

WIDTH = 160
SOME = 24  # of any loop, for all threads together


@pytest.fixture(autouse=True)
def counted() -> Iterator[None]:
    counting.memsys_enable_stats()
    yield
    counting.memsys_disable_stats()


def picture(height: int, channels: int = 4) -> np.ndarray:
    return np.random.default_rng(5).uniform(0.1, 2.0, (height, WIDTH, channels)).astype(np.float32)


def lamps(height: int) -> np.ndarray:
    light = np.zeros((height, WIDTH, 3), np.float32)
    light[::16, ::16] = 1.0
    return light


def spikes(height: int) -> arms.Arms:
    window = Window(0, 0, WIDTH, height)
    found = arms.arms(points_of(lamps(height), window), [20.0, 90.0], True, np.full(3, 0.9, np.float32), 0.25, window)
    assert isinstance(found, arms.Arms)
    return found


def reflections(height: int) -> ghosts.Enlarged:
    window = Window(0, 0, WIDTH, height)
    copies = [ghosts.Copy((k, k, k), 1, np.full((9, 9), 1 / 81, np.float32), TINT) for k in (0.5, 1.0)]
    return ghosts.reflected(points_of(lamps(height), window), (WIDTH / 2, height / 2), copies, 0.0, 100.0, window)


def disc(height: int) -> np.ndarray:
    y, x = np.mgrid[:height, :WIDTH]
    return np.clip(height / 3 - np.hypot(y - height / 2, x - WIDTH / 2) + 0.5, 0, 1).astype(np.float32)


def names(height: int) -> np.ndarray:
    return np.random.default_rng(6).integers(1, 9, (2, height, WIDTH), dtype=np.uint32)


DISC = aperture(3.0, 0, 0.0, 1.0)
TINT = np.ones(3, np.float32)
TURNED = np.array([0.9, 0.2, 3.0, -0.2, 0.9, 3.0])
CURVE = [4, 0, 0, 0, 1, 0, 0, 1, 1, 1, 0, 1, 1, 0, 0]  # one straight segment for all channels
WORK: dict[str, Callable[[int], object]] = {
    "levels": lambda height: colouring.level_rows(picture(height), [0.1] * 3 + [1.1] * 3 + [0.8] * 3 + [1.0] * 3 + [0.0] * 3),
    "curves": lambda height: colouring.curve_rows(picture(height), CURVE),
    "spill": lambda height: colouring.spill_rows(picture(height), [0, 0, 1, 0, 0, 0]),
    "distance": lambda height: distance.signed_distance(disc(height), 5.0),
    "soft edges": lambda height: soft_edges.moved_levels(disc(height), 0.9),
    "IDs": lambda height: ids.pull(names(height), picture(height, 1)[..., 0][None].repeat(2, 0) / 4, frozenset({1, 2})),
    "pyramid": lambda height: spread_octaves(picture(height, 3), Window(0, 0, WIDTH, height), [0.4, 0.3, 0.2, 0.1]),
    "reflections": lambda height: reflections(height).drawn(Window(0, 0, WIDTH, height)),
    "discs": reflections,
    "spikes": lambda height: spikes(height).drawn(Window(0, 0, WIDTH, height)),
    "placing": lambda height: placing.averaged(picture(height), TURNED, (40, 20), (height // 4, WIDTH // 4)),
    "edges": lambda height: told_by_light(np.ceil(picture(height)), edges(height), 0.5, 0.1),
    "defocus": lambda height: spread_through(
        Picture(picture(height), Window(0, 0, WIDTH, height)), np.full((height, WIDTH), 3.0, np.float32), DISC, 1.0, 0.0, (False,) * 4
    ),
}


def edges(height: int) -> np.ndarray:
    """An order with an edge every ten pixels."""
    return np.where(np.arange(WIDTH) % 20 < 10, 0, 4).astype(np.float32)[None].repeat(height, axis=0)


def taken(work: Callable[[int], object], height: int) -> int:
    before = rtsys.get_allocation_stats().alloc
    work(height)
    return int(rtsys.get_allocation_stats().alloc - before)


@pytest.mark.parametrize("name", WORK)
def test_a_taller_picture_takes_no_more_pieces_of_memory(name: str) -> None:
    low, high = taken(WORK[name], 96), taken(WORK[name], 384)
    assert low > 0
    assert high < low + SOME, f"{low} pieces for 96 rows, {high} for 384"
