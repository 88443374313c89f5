"""Memory: what is held stays within a budget, and a picture that could not be computed within it is refused."""

import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from umbrax.core.document.text import read_data
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Picture, Window
from umbrax.core.plan.cache import PictureCache
from umbrax.media.fastcopies import FastCopies
from umbrax.render import memory
from umbrax.render.engine import Engine, Want

# as a server does: pictures of some megabytes are made and let go, each time a small one that stays is made between them
SCATTERED = """
import numpy as np
from umbrax.core.plan.cache import PictureCache
from umbrax.render.memory import SLACK, anonymous_bytes, keep_within
before = anonymous_bytes()
kept, waste = [], []
np.ones(31 << 20, np.uint8)  # from now on pieces up to this size lie in the heap
for _ in range(400):
    waste.append(np.ones(4 << 20, np.uint8))
    kept.append(np.ones(2000, np.uint8))
waste.clear()
held = anonymous_bytes()
assert held - before > SLACK, held - before
assert not keep_within(1 << 40, (PictureCache(1 << 30),), held, tidy=False)
assert keep_within(1 << 40, (PictureCache(1 << 30),), held)
assert anonymous_bytes() - before < 100 << 20, anonymous_bytes() - before
"""


def test_idle_memory_goes_back_to_the_system() -> None:
    subprocess.run([sys.executable, "-c", SCATTERED], check=True, timeout=120)


def test_over_budget_the_cache_makes_room_and_keeps_what_is_worth_most(monkeypatch: pytest.MonkeyPatch) -> None:
    cache = PictureCache(10_000_000)
    for number in range(10):
        cache.put(str(number), Picture(np.zeros((250, 250, 4), np.float32), Window(0, 0, 250, 250)), seconds=float(number))
    monkeypatch.setattr(memory, "anonymous_bytes", lambda: 14_000_000)
    assert not memory.keep_within(20_000_000, (cache,), 14_000_000)
    assert cache.size == 10_000_000
    assert memory.keep_within(9_500_000, (cache,), 14_000_000)
    assert cache.size <= 5_500_000
    assert cache.get("9", Window(0, 0, 9, 9)) is not None
    assert cache.get("0", Window(0, 0, 9, 9)) is None
    memory.keep_within(1_000, (cache,), 14_000_000)
    assert 0 < cache.size <= 2_500_000, "some of it is kept whatever happens"
    cache.put("new", Picture(np.zeros((250, 250, 4), np.float32), Window(0, 0, 250, 250)), seconds=1.0)
    assert cache.get("new", Window(0, 0, 9, 9)) is not None


def test_a_cache_that_is_shared_makes_room_and_stays_small(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    engine, budgets = Engine(FastCopies(tmp_path), 10_000_000, 30_000_000), []
    monkeypatch.setattr("umbrax.render.engine.keep_memory_within", lambda budget, _: budgets.append(budget))
    engine.keep_memory()
    picture = Picture(np.zeros((250, 250, 4), np.float32), Window(0, 0, 250, 250))
    for number in range(10):
        engine.cache.put(str(number), picture, seconds=float(number))
    engine.share_cache(0.5)
    assert engine.cache.size == 5_000_000
    engine.cache.put("new", picture, seconds=1.0)
    assert engine.cache.size <= 5_000_000
    assert budgets[0]() == 25_000_000, "what is computed keeps its room, what the cache gave up is given back"
    engine.share_cache(1.0)
    assert budgets[0]() == 30_000_000


@pytest.mark.parametrize(("window", "scale", "refused"), [(None, 1, True), (None, 4, False), (None, 8, False), ((0, 0, 900, 900), 1, False)])
def test_a_picture_that_takes_more_memory_than_there_is_gets_refused(
    tmp_path: Path, window: tuple[int, int, int, int] | None, scale: int, refused: bool
) -> None:
    layout = {"width": 4000, "height": 3000, "fps": 24, "first": 1, "last": 1}
    backdrop = {"id": "b", "picture": {"kind": "solid", "colour": [0.5, 0.5, 0.5]}}
    shot = read_data({"umbrax": 1, "name": "s", "format": layout, "sources": {}, "build": [backdrop]})
    engine = Engine(FastCopies(tmp_path), memory_bytes=200 << 20)
    area = None if window is None else Window(*window)
    if refused:
        with pytest.raises(UmbraxError, match=r"4000 x 3000 pixels takes 1 GB .* UMBRAX_MEMORY_BYTES"):
            engine.make(shot, [tmp_path], 1, Want(), window=area, scale=scale)
    else:
        assert engine.make(shot, [tmp_path], 1, Want(), window=area, scale=scale).picture.pixels[..., 0].max() == 0.5
