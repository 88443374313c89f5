"""PostgreSQL killed and started again while renders are made and ordered: every one ends done, with the right frames."""

import contextlib
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from clusters import Cluster, running_cluster
from running import launch, stop
from umbrax.core.document.text import read_data
from umbrax.core.errors import UmbraxError
from umbrax.jobs.cutting import defer_render
from umbrax.media.decoding import read_picture
from umbrax.media.fastcopies import FastCopies
from umbrax.render.engine import Engine, Want
from umbrax.store import renders
from umbrax.store.database import Database
from umbrax.store.migrating import migrate
from umbrax.store.shots import add_shot
from umbrax.store.shows import put_show

FRAMES = list(range(1, 25))


@pytest.fixture
def cluster() -> Iterator[Cluster]:
    with running_cluster() as found:
        migrate(found.address)
        yield found


def page() -> dict[str, object]:
    """A gradient whose end moves: every frame is another one, and none needs a file."""
    picture = {"kind": "gradient", "end": {"keys": [[1, [0, 200], "linear"], [40, [900, 700], "linear"]]}}
    bloom = {"id": "b", "kind": "bloom", "threshold": 0.2}
    layout = {"width": 960, "height": 720, "first": 1, "last": 40}
    return {"umbrax": 1, "name": "page", "format": layout, "build": [{"id": "page", "picture": picture, "treatments": [bloom]}]}


def order(database: Database, shot: int, folder: Path) -> int:
    """As the page does it, and again until the database takes it."""
    for _ in range(200):
        try:
            number = renders.add_render(database, shot, 1, FRAMES, str(folder), "page.{frame:04d}.exr", "half")
            break
        except UmbraxError:
            time.sleep(0.1)
    # without a job the row is taken up by itself
    with contextlib.suppress(UmbraxError):
        renders.set_job(database, number, defer_render(database, number))
    return number


def test_every_render_ends_done_though_the_database_is_killed_again_and_again(cluster: Cluster, tmp_path: Path) -> None:
    database = Database(cluster.address, most=2, patience=10)
    shot = read_data(page())
    number = add_shot(database, put_show(database, "show", str(tmp_path)), shot)
    assert number is not None
    worker = launch(tmp_path, cluster.address, "worker")
    try:
        ordered = [order(database, number, tmp_path / "0")]
        for kill in range(4):
            time.sleep(0.9 + 0.3 * kill)
            cluster.kill()
            if kill == 2:
                time.sleep(4)
            cluster.start()
            ordered.append(order(database, number, tmp_path / str(kill + 1)))
        deadline = time.monotonic() + 150
        while time.monotonic() < deadline:
            states = [renders.get_render(database, one).state for one in ordered]
            if all(state == "done" for state in states):
                break
            time.sleep(0.5)
        assert states == ["done"] * 5, (tmp_path / "log").read_text()[-3000:]
        assert worker.poll() is None, "the worker itself went on"
    finally:
        stop(worker)
        database.close()
    engine = Engine(FastCopies(tmp_path / "fast"))
    for place in range(5):
        assert sorted(file.name for file in (tmp_path / str(place)).iterdir()) == [f"page.{frame:04d}.exr" for frame in FRAMES]
    for frame in (FRAMES[0], FRAMES[-1]):
        expected = engine.make(shot, [], frame, Want()).picture.pixels.astype(np.float16)
        assert np.array_equal(read_picture(tmp_path / "4" / f"page.{frame:04d}.exr").pixels, expected.astype(np.float32))


def test_a_render_that_nobody_works_at_can_be_cancelled_and_is_found(cluster: Cluster, tmp_path: Path) -> None:
    database = Database(cluster.address, most=2, patience=10)
    shot = add_shot(database, put_show(database, "show", str(tmp_path)), read_data(page()))
    assert shot is not None
    lost, working = (renders.add_render(database, shot, 1, FRAMES, str(tmp_path), "a.{frame:04d}.exr", "half") for _ in range(2))
    for one in (lost, working):
        renders.start(database, one)
    with database.transaction() as connection:
        connection.execute("update renders set changed_at = now() - interval '1 minute' where id = %s", (lost,))
    assert renders.stranded(database) == [lost]
    for one in (lost, working):
        renders.ask_to_cancel(database, one)
    assert renders.get_render(database, lost).state == "cancelled"
    assert renders.get_render(database, working).state == "running", "it is told to stop at its next look"
    assert renders.stop_asked(database, working)
    database.close()
