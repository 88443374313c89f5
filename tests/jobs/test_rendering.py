"""The work of a render job without its queue: what is left, what is noted, and how it ends."""

import pytest
from one_worker import Hands, first_of

from umbrax.core.document import edits
from umbrax.core.document.bakes import unlink_bake
from umbrax.core.document.edits import SetValue, apply
from umbrax.core.errors import UmbraxError
from umbrax.core.plan.planner import ShotPlanner
from umbrax.jobs import order
from umbrax.jobs.written import files_of
from umbrax.media.roots import roots_of_show
from umbrax.store import renders
from umbrax.store.shots import add_shot, get_revision, get_shot


def test_every_frame_is_written_and_noted_once(hands: Hands) -> None:
    row = hands.run(hands.order("1001-1003,1002"))
    assert row.state == "done"
    assert row.done == row.frames == [1001, 1002, 1003]
    assert row.bytes == sum(first_of(row, frame).stat().st_size for frame in row.done)
    assert all(first_of(row, frame).name == f"dome.{frame}.exr" for frame in row.done)


@pytest.mark.parametrize("raised", [True, False])
def test_a_png_tells_what_became_of_light_without_alpha(hands: Hands, raised: bool) -> None:
    shot, row = get_revision(hands.database, hands.shot, 1).shot, get_shot(hands.database, hands.shot)
    alone = tuple(card for card in shot.build if card.id not in ("sky", "shadow"))
    name = f"alone {hands.settings.state.name}"
    number = add_shot(hands.database, row.show_id, shot.model_copy(update={"name": name, "build": alone}))
    assert number is not None
    told = (hands.database, number, 1, [1001], str(hands.settings.state), "glow.{frame:04d}.png", "8")
    written = hands.run(renders.add_render(*told, raise_alpha=raised))
    assert written.state == "done"
    assert written.note is not None
    assert ("kept by raising alpha" if raised else "is lost") in written.note
    assert hands.run(hands.order("1001", None)).note is None, "EXR holds it"


def test_a_render_tells_what_it_was_made_without(hands: Hands) -> None:
    shot, row = get_revision(hands.database, hands.shot, 1).shot, get_shot(hands.database, hands.shot)
    path = (*shot.path_of("station"), "picture", "lights", "bounce")
    lost = apply(shot, [SetValue(op="set", path=path, value={}), SetValue(op="set", path=("name",), value=f"lost {row.id}")])
    number = add_shot(hands.database, row.show_id, lost)
    assert number is not None
    written = hands.run(renders.add_render(hands.database, number, 1, [1001], str(hands.settings.state), "l.{frame:04d}.exr", "half"))
    assert (written.state, written.done) == ("done", [1001])
    assert written.note is not None
    assert "rendered without what is lost: card 'station': the light 'bounce' is not in 'station'" in written.note


def test_going_on_does_only_what_is_missing(hands: Hands) -> None:
    number = hands.order("1001-1003")
    row = hands.run(number)
    before = {frame: first_of(row, frame).stat().st_mtime_ns for frame in row.done}
    first_of(row, 1002).unlink()
    renders.reopen(hands.database, number)
    again = hands.run(number)
    assert again.state == "done"
    after = {frame: first_of(again, frame).stat().st_mtime_ns for frame in again.done}
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
    assert first_of(row, 1001).exists()


def test_a_missing_frame_fails_with_its_place_and_an_unexpected_error_with_the_remedy(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    row = hands.run(hands.order("1003-1005", None))
    assert row.state == "failed"
    assert row.done == [1003]
    assert row.error is not None
    assert row.error["code"] == "missing-frame"
    assert row.error["frame"] == 1004

    def broken(*_: object, **__: object) -> object:
        raise MemoryError

    monkeypatch.setattr(order, "render_frames", broken)
    row = hands.run(hands.order("1001", None))
    assert row.state == "failed"
    assert row.error is not None
    assert "worker's log" in row.error["message"]


def of_mattes(hands: Hands, pack: str, folder: str, name: str) -> int:
    mattes = ["brass", "dome", "mast lamps"]
    return renders.add_render(hands.database, hands.shot, 1, [1001, 1002], folder, name, "half", None, mattes, pack)


def test_several_mattes_are_several_files_a_frame_and_each_is_noted(hands: Hands) -> None:
    row = hands.run(of_mattes(hands, "single", str(hands.settings.state / "single"), "{matte}.{frame:04d}.exr"))
    assert row.state == "done"
    assert [file.name for file in files_of(row, 1002)] == ["brass.1002.exr", "dome.1002.exr", "mast-lamps.1002.exr"]
    assert row.bytes == sum(file.stat().st_size for frame in row.done for file in files_of(row, frame))
    files_of(row, 1002)[1].unlink()
    renders.reopen(hands.database, row.id)
    assert all(file.exists() for file in files_of(hands.run(row.id), 1002)), "a frame of which one file is gone is done again"


def test_a_bake_links_its_mattes_when_it_is_done_and_only_then(hands: Hands) -> None:
    before = get_shot(hands.database, hands.shot).head
    row = hands.run(of_mattes(hands, "baked", str(hands.settings.baked / "baked-000007"), "dome-mattes.{frame:04d}.exr"))
    assert row.state == "done"
    head = get_shot(hands.database, hands.shot).head
    assert head == before + 1
    shot = get_revision(hands.database, hands.shot, head).shot
    assert shot.sources["baked mattes"].path == "baked-000007/dome-mattes.{frame:04d}.exr"
    roots = roots_of_show(hands.settings, get_shot(hands.database, hands.shot).folder)
    planner = ShotPlanner(shot, 1002, hands.engine.reader(shot, roots))
    assert all(planner.baked_planes(name) for name in ("brass", "dome", "mast lamps"))
    renders.reopen(hands.database, row.id)
    hands.run(row.id)
    assert get_shot(hands.database, hands.shot).head == head, "linked once"
    folder = str(hands.settings.baked / "lost")
    order = renders.add_render(hands.database, hands.shot, 1, [1001, 1010], folder, "y.{frame:04d}.exr", "half", None, ["dome"], "baked")
    lost = hands.run(order)
    assert lost.state == "failed"
    assert get_shot(hands.database, hands.shot).head == head
    left = edits.apply(shot, unlink_bake(shot, ("brass", "dome", "mast lamps")))
    assert "baked mattes" not in left.sources
    assert all(matte.bake is None for matte in left.mattes.values())


def test_a_render_that_was_removed_says_so(hands: Hands) -> None:
    with pytest.raises(UmbraxError, match="no render of this number"):
        hands.run(10**6)
