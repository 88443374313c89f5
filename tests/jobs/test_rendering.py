"""The work of a render job without its queue: what is left, what is noted, and how it ends."""

from pathlib import Path

import pytest

from umbrax.core.errors import UmbraxError
from umbrax.jobs import rendering
from umbrax.jobs.rendering import file_of, run_render
from umbrax.media.fastcopies import FastCopies
from umbrax.media.sequences import frame_range
from umbrax.render.engine import Engine
from umbrax.settings import Settings
from umbrax.store import renders
from umbrax.store.database import Database
from umbrax.store.shots import list_shots
from umbrax.web.demo_show import bring_in


class Hands:
    """One worker's hands: a database, an engine and a folder."""

    def __init__(self, database: Database, address: str, state: Path, demo: Path):
        bring_in(database, str(demo))
        self.database = database
        self.shot = next(row.id for row in list_shots(database) if row.name == "Dome at dusk")
        self.settings = Settings(state, (), address, 1 << 29, 4 << 30)
        self.engine = Engine(FastCopies(state / "fast"))

    def order(self, frames: str, matte: str | None = "dome") -> int:
        name = str(self.settings.state / "out")
        found = frame_range(frames, 1001, 1048)
        return renders.add_render(self.database, self.shot, 1, found, name, "dome.{frame:04d}.exr", "half", None, matte)

    def run(self, number: int) -> renders.RenderRow:
        run_render(self.database, self.engine, self.settings, number)
        return renders.get_render(self.database, number)


@pytest.fixture
def hands(database: Database, database_address: str, tmp_path: Path, demo: Path) -> Hands:
    return Hands(database, database_address, tmp_path, demo)


def test_every_frame_is_written_and_noted_once(hands: Hands) -> None:
    row = hands.run(hands.order("1001-1003,1002"))
    assert row.state == "done"
    assert row.done == row.frames == [1001, 1002, 1003]
    assert row.bytes == sum(file_of(row, frame).stat().st_size for frame in row.done)
    assert all(file_of(row, frame).name == f"dome.{frame}.exr" for frame in row.done)


def test_going_on_does_only_what_is_missing(hands: Hands) -> None:
    number = hands.order("1001-1003")
    row = hands.run(number)
    before = {frame: file_of(row, frame).stat().st_mtime_ns for frame in row.done}
    file_of(row, 1002).unlink()
    renders.reopen(hands.database, number)
    again = hands.run(number)
    assert again.state == "done"
    after = {frame: file_of(again, frame).stat().st_mtime_ns for frame in again.done}
    assert after[1001] == before[1001]
    assert after[1003] == before[1003]
    assert after[1002] > before[1002]


def test_a_render_that_ended_is_not_done_again(hands: Hands) -> None:
    number = hands.order("1001")
    hands.run(number)
    changed = renders.get_render(hands.database, number).changed_at
    assert hands.run(number).changed_at == changed


def test_asked_to_stop_it_stops_and_keeps_what_is_complete(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    number = hands.order("1001-1003")
    noted = renders.frame_done

    def stop_after_the_first(*arguments: object) -> bool:
        renders.ask_to_cancel(hands.database, number)
        return noted(*arguments)  # type: ignore[arg-type]

    monkeypatch.setattr(renders, "frame_done", stop_after_the_first)
    row = hands.run(number)
    assert row.state == "cancelled"
    assert row.done == [1001]
    assert file_of(row, 1001).exists()


def test_a_missing_frame_fails_with_its_place_and_an_unexpected_error_with_the_remedy(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    row = hands.run(hands.order("1003-1005", None))
    assert row.state == "failed"
    assert row.done == [1003]
    assert row.error is not None
    assert row.error["code"] == "missing-frame"
    assert row.error["frame"] == 1004

    def broken(*_: object, **__: object) -> object:
        raise MemoryError

    monkeypatch.setattr(rendering, "render_frames", broken)
    row = hands.run(hands.order("1001"))
    assert row.state == "failed"
    assert row.error is not None
    assert "worker's log" in row.error["message"]


def test_a_render_that_was_removed_says_so(hands: Hands) -> None:
    with pytest.raises(UmbraxError, match="no render of this number"):
        hands.run(10**6)
