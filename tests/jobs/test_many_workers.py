"""Renders that several workers share: cut into chunks, every frame once, whatever becomes of a worker."""

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest

from running import launch, stop
from umbrax.core.document.text import read_data
from umbrax.core.errors import UmbraxError
from umbrax.jobs.cutting import chunk_sizes, chunks_of, defer_render
from umbrax.jobs.hands import Hands
from umbrax.jobs.mapping import FolderMap, folders_named
from umbrax.jobs.queue import defer_checkup, forget_waiting, order_waiting
from umbrax.jobs.rendering import run_render
from umbrax.media.decoding import read_picture
from umbrax.media.fastcopies import FastCopies
from umbrax.media.writing import is_unfinished
from umbrax.render.engine import Engine, Want
from umbrax.settings import Settings
from umbrax.store import checkups, folders, renders, workers
from umbrax.store.database import Database
from umbrax.store.shots import add_shot
from umbrax.store.shows import put_show

FRAMES = list(range(1, 25))
STAGES = ("begun", "opened", "written", "flushed", "named")
KILLED = """
import os, signal
from umbrax.media import writing
from umbrax.commands.main import main
left = [2]
def at_stage(name):
    if name == {stage!r}:
        left[0] -= 1
        if not left[0]:
            os.kill(os.getpid(), signal.SIGKILL)
writing.at_stage = at_stage
main()
"""


def page(size: int = 160, octaves: int = 5) -> dict[str, object]:
    picture = {"kind": "noise", "size": {"keys": [[1, 10, "linear"], [24, 60, "linear"]]}, "octaves": octaves}
    layout = {"width": size, "height": size, "fps": 24, "first": 1, "last": 24}
    return {"umbrax": 1, "name": "page", "format": layout, "build": [{"id": "page", "picture": picture}]}


class Farm:
    """A shot and its renders, each in a folder of its own."""

    def __init__(self, database: Database, place: Path):
        self.database, self.place = database, place
        self.shot = read_data(page())
        made = add_shot(database, put_show(database, f"farm {place}", str(place)), self.shot)
        assert made is not None
        self.number = made

    def order(self, name: str, frames: list[int] = FRAMES, *, put: bool = True) -> int:
        folder = str(self.place / name)
        render = renders.add_render(self.database, self.number, 1, frames, folder, "page.{frame:04d}.exr", "half")
        if put:
            defer_render(self.database, render)
        return render

    def wait(self, render: int, seconds: float = 90) -> renders.RenderRow:
        end = time.monotonic() + seconds
        while (row := renders.get_render(self.database, render)).state in ("queued", "running"):
            assert time.monotonic() < end, (row.state, row.done, (self.place / "log").read_text()[-2000:])
            time.sleep(0.2)
        return row

    def check(self, name: str) -> None:
        """All frames are there, nothing else is, and they are what one engine makes."""
        files = sorted((self.place / name).iterdir())
        assert [file.name for file in files] == [f"page.{frame:04d}.exr" for frame in FRAMES]
        engine = Engine(FastCopies(self.place / "own"))
        for frame in (1, 12, 24):
            expected = engine.make(self.shot, [], frame, Want()).picture.pixels.astype(np.float16)
            assert np.array_equal(read_picture(files[frame - 1]).pixels, expected.astype(np.float32))


@pytest.fixture
def farm(database: Database, tmp_path: Path) -> Farm:
    """With nothing to do but its own: other tests order renders and check-ups that nobody does."""
    with database.transaction() as connection:
        connection.execute("delete from procrastinate_jobs where status = 'todo'")
        connection.execute("update renders set state = 'cancelled' where state in ('queued', 'running')")
        connection.execute("update checkups set state = 'cancelled' where state in ('queued', 'running')")
    return Farm(database, tmp_path)


def by_hand(farm: Farm) -> Hands:
    return Hands(farm.database, Engine(FastCopies(farm.place / "fast")), Settings(farm.place, (), "", 1 << 29, 4 << 30))


def test_a_worker_knows_how_many_are_on_its_machine(database: Database) -> None:
    here = [workers.add_worker(database, f"w{number}", "this machine", 1) for number in range(3)]
    elsewhere = workers.add_worker(database, "w9", "another machine", 1)
    assert (workers.is_here(database, here[0]), workers.is_here(database, elsewhere)) == (3, 1)
    with database.transaction() as connection:
        connection.execute("update workers set seen_at = now() - interval '1 minute' where id = any(%s)", (here[1:],))
    assert workers.is_here(database, here[0]) == 1, "of whom nothing is heard is gone"
    assert workers.is_here(database, here[1]) == 2, "and counts again when it is heard"
    for one in (*here, elsewhere):
        workers.is_leaving(database, one)


def test_chunks_take_about_as_long_and_there_is_one_for_everybody() -> None:
    assert chunk_sizes(1000, 1.0)[:50] == [8] * 50
    assert chunk_sizes(1000, 0.1)[0] == 63, "many workers have something to do"
    assert set(chunk_sizes(1000, 60.0)[:-1]) == {3}, "no more than four hundred chunks"
    assert chunk_sizes(3, None) == [1, 1, 1]
    for count in (1, 7, 48, 1001):
        sizes = chunk_sizes(count, 0.2)
        assert sum(sizes) == count
        assert sizes == sorted(sizes, reverse=True), "the last ones are the smallest"


def test_a_render_is_cut_by_what_frames_of_the_shot_took(farm: Farm) -> None:
    render = farm.order("a", list(range(1, 101)), put=False)
    row = renders.get_render(farm.database, render)
    for frame in range(1, 5):
        renders.frame_done(farm.database, render, frame, 4.0, 10, [f"page.{frame:04d}.exr"])
    assert renders.seconds_a_frame(farm.database, farm.number) == 4.0
    cut = chunks_of(row, 4.0)
    assert [frame for work in cut for frame in work.frames] == list(range(1, 101))
    assert {len(work.frames) for work in cut} == {1, 2}
    assert len({work.lock for work in cut}) == len(cut)


def test_chunks_in_any_hands_and_order_make_each_frame_once(farm: Farm) -> None:
    hands, render = by_hand(farm), farm.order("a", put=False)
    for frames in ([9, 10, 11], [1, 2, 3], FRAMES[3:8], [10, 11, 12]):
        run_render(hands, render, frames)
    before = {file.name: file.stat().st_mtime_ns for file in (farm.place / "a").iterdir()}
    assert renders.get_render(farm.database, render).state == "running"
    run_render(hands, render, FRAMES)
    row = renders.get_render(farm.database, render)
    assert (row.state, row.done) == ("done", FRAMES)
    assert all((farm.place / "a" / name).stat().st_mtime_ns == when for name, when in before.items())
    farm.check("a")


def test_a_frame_that_fails_stops_no_other_and_is_tried_alone(farm: Farm, monkeypatch: pytest.MonkeyPatch) -> None:
    hands, render = by_hand(farm), farm.order("a", put=False)
    make, asked = Engine.make, []

    def failing(self: Engine, shot: object, roots: object, frame: int, *more: object, **others: object) -> object:
        asked.append(frame)
        if frame in (5, 7) and len(asked) < 30:
            raise UmbraxError("missing-frame", "there is no such file; render it")
        return make(self, shot, roots, frame, *more, **others)  # type: ignore[arg-type]

    monkeypatch.setattr(Engine, "make", failing)
    run_render(hands, render, FRAMES)
    row = renders.get_render(farm.database, render)
    assert (row.state, row.failed, len(row.done)) == ("failed", [5, 7], 22)
    assert row.error is not None
    assert (row.error["frame"], row.error["message"]) == (5, "there is no such file; render it; 1 more frame failed as well")
    asked += [0] * 30
    renders.reopen(farm.database, render)
    assert [frame for work in chunks_of(renders.get_render(farm.database, render), 1.0) for frame in work.frames] == [5, 7]
    count = len(asked)
    run_render(hands, render, [5, 7])
    assert asked[count:] == [5, 7]
    assert renders.get_render(farm.database, render).state == "done"
    farm.check("a")


def test_a_full_disk_fails_a_chunk_at_once(farm: Farm, monkeypatch: pytest.MonkeyPatch) -> None:
    hands, render = by_hand(farm), farm.order("a", put=False)
    tried: list[int] = []

    def full(_: int) -> None:
        tried.append(1)
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("umbrax.media.writing.os.fsync", full)
    run_render(hands, render, FRAMES)
    row = renders.get_render(farm.database, render)
    assert (row.state, row.failed, len(tried)) == ("failed", FRAMES, 1)
    assert row.error is not None
    assert "the disk is full" in row.error["message"]


def test_a_render_rests_and_goes_on_and_the_order_of_the_queue_can_be_changed(farm: Farm) -> None:
    hands, first, second = by_hand(farm), farm.order("a"), farm.order("b")
    order_waiting(farm.database, second, 5)
    query = "select args->>'render_id' from procrastinate_jobs where status = 'todo' order by priority desc, id"
    with farm.database.transaction() as connection:
        waiting = [int(row[0]) for row in connection.execute(query) if int(row[0]) in (first, second)]
    assert waiting[: len(waiting) // 2] == [second] * (len(waiting) // 2)
    run_render(hands, first, [1, 2])
    renders.pause(farm.database, first)
    forget_waiting(farm.database, first)
    forget_waiting(farm.database, second)
    run_render(hands, first, [3, 4])
    row = renders.get_render(farm.database, first)
    assert (row.state, row.done) == ("paused", [1, 2]), "who comes to it meanwhile does nothing"
    renders.reopen(farm.database, first)
    run_render(hands, first, FRAMES[2:])
    assert renders.get_render(farm.database, first).state == "done"


def test_several_workers_share_a_render_and_one_of_them_is_killed(farm: Farm, database_address: str) -> None:
    states = [farm.place / f"worker {number}" for number in range(3)]
    for state in states:
        state.mkdir()
    crew = [launch(state, database_address, "worker", cache_bytes=1 << 28) for state in states]
    try:
        end = time.monotonic() + 60
        while sum(one.here for one in workers.list_workers(farm.database)) < 3:
            assert time.monotonic() < end
            time.sleep(0.1)
        render = farm.order("a")
        while len(renders.get_render(farm.database, render).done) < 3:
            assert time.monotonic() < end
            time.sleep(0.02)
        os.killpg(crew[0].pid, signal.SIGKILL)
        row = farm.wait(render)
        assert (row.state, row.done) == ("done", FRAMES)
        with farm.database.transaction() as connection:
            shares = connection.execute("select worker, count(*) from render_frames where render_id = %s group by 1", (render,)).fetchall()
        assert len(shares) > 1, shares
        farm.check("a")
    finally:
        for one in crew[1:]:
            stop(one)
        crew[0].wait(10)
    assert [one.name for one in workers.list_workers(farm.database) if one.here and one.name.endswith(str(crew[1].pid))] == []


def test_no_render_waits_for_a_check_up_to_end(farm: Farm, database_address: str, demo: Path) -> None:
    """One worker, examining a long sequence: frames that are ordered meanwhile are made at once, and the check-up goes on."""
    uploads = farm.place / "worker" / "uploads"
    uploads.mkdir(parents=True)
    found = sorted((demo / "station").glob("*.exr"))
    for number in range(300):
        (uploads / f"long.{1001 + number}.exr").hardlink_to(found[number % len(found)])
    examined = read_data(page() | {"name": "long", "sources": {"long": {"path": "long.{frame:04d}.exr"}}})
    shot = add_shot(farm.database, put_show(farm.database, f"long {farm.place}", str(uploads)), examined)
    assert shot is not None
    checkups.order_checkup(farm.database, shot, 1)
    defer_checkup(database_address, shot)
    worker = launch(farm.place / "worker", database_address, "worker", cache_bytes=1 << 28)

    def reached(frames: int) -> checkups.CheckupRow:
        end = time.monotonic() + 90
        while (row := checkups.get_checkup(farm.database, shot)) is None or row.done < frames:
            assert time.monotonic() < end, row
            time.sleep(0.05)
        return row

    try:
        reached(2)
        assert farm.wait(farm.order("a")).state == "done"
        row = checkups.get_checkup(farm.database, shot)
        assert row is not None
        assert (row.state, row.total) == ("running", 300)
        assert row.done < 300, "it was not waited for"
        assert reached(row.done + 2).state == "running", "and it is not lost"
    finally:
        worker.terminate()
        assert worker.wait(30) == 0, "it leaves off"
    farm.check("a")
    with farm.database.transaction() as connection:
        waiting = connection.execute(
            "select count(*) from procrastinate_jobs where status = 'todo' and args->>'shot_id' = %s", (str(shot),)
        ).fetchone()
    assert waiting == (1,), "and another begins anew"


def test_kills_at_every_stage_of_a_file_leave_right_frames_and_nothing_else(farm: Farm, database_address: str) -> None:
    """One worker after the other is killed over its second file: begun, opened, written, flushed, or named and not noted yet."""
    render = farm.order("a")
    environment = os.environ | {"UMBRAX_DATABASE": database_address, "UMBRAX_STATE": str(farm.place), "UMBRAX_CACHE_BYTES": str(1 << 28)}
    for count, stage in enumerate(STAGES, 1):
        with (farm.place / "log").open("ab") as log:
            program = [sys.executable, "-c", KILLED.format(stage=stage), "worker"]
            killed = subprocess.Popen(program, env=environment, stdout=log, stderr=log, start_new_session=True)
        assert killed.wait(60) == -signal.SIGKILL
        row = renders.get_render(farm.database, render)
        assert (row.state, len(row.done)) == ("running", count)
    assert sum(is_unfinished(path) for path in (farm.place / "a").iterdir()) == 3
    worker = launch(farm.place, database_address, "worker", cache_bytes=1 << 28)
    try:
        assert farm.wait(render).state == "done"
    finally:
        stop(worker)
    farm.check("a")


def test_folders_are_found_by_name_on_another_machine(farm: Farm, tmp_path: Path) -> None:
    served = {"media": Path("/srv/media"), "renders": Path("/srv/state/renders"), "old": Path("/srv/media/old")}
    folders.publish(farm.database, served)
    assert folders.by_name(farm.database).items() >= served.items(), "beside those that were added in the page"
    for name in ("here", "out"):
        (tmp_path / name).mkdir()
    told = FolderMap(served, folders_named([f"media={tmp_path}/here", f"renders={tmp_path}/out"]))
    assert told.local("/srv/media/a/b.exr") == tmp_path / "here" / "a" / "b.exr"
    assert told.local("/srv/state/renders/000001") == tmp_path / "out" / "000001"
    assert told.local("/srv/mediafiles/x") == Path("/srv/mediafiles/x")
    data = page() | {"sources": {"s": {"path": "/srv/media/s.exr", "attached": {"z": {"path": "/srv/media/z.exr"}}}, "t": {"path": "t.exr"}}}
    found = told.localised(read_data(data)).sources
    assert (found["s"].path, found["t"].path) == (str(tmp_path / "here" / "s.exr"), "t.exr")
    assert found["s"].attached["z"].path == str(tmp_path / "here" / "z.exr")
    for wrong, why in ((["x"], "NAME=PATH"), ([f"media={tmp_path}/none"], "there is no folder")):
        with pytest.raises(UmbraxError, match=why):
            folders_named(wrong)
    with pytest.raises(UmbraxError, match="unknown folder 'mdia'"):
        FolderMap(served, {"mdia": tmp_path})
