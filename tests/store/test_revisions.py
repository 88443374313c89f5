"""Revisions in the database: nothing is lost, whoever edits at the same time."""

import itertools
import threading
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from typing import Any

import pytest

from arrays import PLATE, STATION, card, shot_of
from umbrax.core.document.edits import InsertItem, SetValue
from umbrax.core.document.text import canonical, digest
from umbrax.core.errors import UmbraxError
from umbrax.store import shots as store
from umbrax.store import shows
from umbrax.store.database import Database

BUILD = [PLATE, card(STATION, treatments=[{"id": "t1", "kind": "grade"}])]
EXPOSURE = ("build", "station", "treatments", "t1", "exposure")
OPACITY = ("build", "station", "opacity")
numbers = itertools.count()


@pytest.fixture
def shot(database: Database) -> int:
    show = shows.put_show(database, f"show {next(numbers)}", "/nowhere")
    made = store.add_shot(database, show, shot_of(BUILD))
    assert made is not None
    return made


def change(database: Database, shot: int, base: int, path: tuple[str, ...], value: Any, gesture: str = "", tab: str = "a") -> store.ShotRow:
    edit = SetValue(op="set", path=path, value=value)
    name = gesture or f"gesture {next(numbers)}"
    return store.edit_shot(database, shot, base, [edit], command=f"set {path[-1]}", gesture=name, tab=tab)


def exposure(database: Database, shot: int, number: int | None = None) -> float:
    number = store.get_shot(database, shot).head if number is None else number
    return float(store.get_revision(database, shot, number).shot.card("station").treatments[0].exposure)  # type: ignore[attr-defined]


def test_revisions_never_change_and_carry_their_digest(database: Database, shot: int) -> None:
    first = store.get_revision(database, shot, 1)
    for value in (0.5, 1.0, 1.5):
        change(database, shot, store.get_shot(database, shot).head, EXPOSURE, value)
    again = store.get_revision(database, shot, 1)
    assert canonical(again.shot) == canonical(first.shot)
    assert again.digest == first.digest == digest(canonical(first.shot))
    assert [exposure(database, shot, n) for n in (1, 2, 3, 4)] == [0, 0.5, 1.0, 1.5]


def test_twenty_threads_editing_different_things_lose_none(database: Database, shot: int) -> None:
    # they wait for one another, and how long that takes is no question here
    with closing(Database(database.address, patience=60)) as patient, ThreadPoolExecutor(20) as pool:

        def add(number: int) -> None:
            item = {"id": f"m{number}", "kind": "id", "source": "station", "layer": "object_ids", "names": ["ball"]}
            edit = InsertItem(op="insert", path=("mattes",), item=item)
            store.edit_shot(patient, shot, 1, [edit], command="matte", gesture=f"m{number}", tab=str(number))

        list(pool.map(add, range(20)))
    head = store.get_shot(database, shot).head
    assert head == 21
    assert {f"m{n}" for n in range(20)} <= set(store.get_revision(database, shot, head).shot.mattes)


def test_of_two_edits_of_one_number_the_second_is_told_what_changed(database: Database, shot: int) -> None:
    ready, refused = threading.Barrier(2), []

    def one(value: float) -> None:
        ready.wait()
        try:
            change(database, shot, 1, EXPOSURE, value, tab=str(value))
        except UmbraxError as error:
            refused.append(error)

    threads = [threading.Thread(target=one, args=(value,)) for value in (1.0, 2.0)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert len(refused) == 1
    assert refused[0].code == "conflict"
    assert refused[0].status == 409
    assert refused[0].detail["changed"] == ["/".join(EXPOSURE)]
    assert "exposure of grade of card station" in refused[0].message, "people are told of names, not of ids"
    assert store.get_shot(database, shot).head == 2


def test_undo_and_redo_walk_the_branch_that_was_made_last(database: Database, shot: int) -> None:
    change(database, shot, 1, EXPOSURE, 1.0)
    change(database, shot, 2, EXPOSURE, 2.0)
    assert store.move_head(database, shot, "undo", tab="a").head == 2
    assert store.move_head(database, shot, "undo", tab="a").head == 1
    with pytest.raises(UmbraxError, match="nothing to undo"):
        store.move_head(database, shot, "undo", tab="a")
    assert store.move_head(database, shot, "redo", tab="a").head == 2
    branch = change(database, shot, 2, OPACITY, 0.5)
    assert branch.parent == 2
    with pytest.raises(UmbraxError, match="nothing to redo"):
        store.move_head(database, shot, "redo", tab="a")
    store.move_head(database, shot, "undo", tab="a")
    assert store.get_shot(database, shot).redo == branch.head, "the older branch is kept but not walked"
    assert exposure(database, shot, 3) == 2.0


def test_another_tabs_work_is_undone_only_on_purpose(database: Database, shot: int) -> None:
    change(database, shot, 1, EXPOSURE, 1.0, tab="a")
    with pytest.raises(UmbraxError) as told:
        store.move_head(database, shot, "undo", tab="b")
    assert told.value.code == "other-tab"
    assert told.value.detail == {"command": "set exposure"}
    assert store.move_head(database, shot, "undo", tab="b", force=True).head == 1


def test_an_edit_that_is_refused_leaves_no_trace(database: Database, shot: int) -> None:
    before = store.get_shot(database, shot)
    for path, value in ((EXPOSURE, "bright"), (("build", "nobody", "opacity"), 0.5), (("build", "station", "colour"), 1), (OPACITY, 7)):
        with pytest.raises(UmbraxError):
            change(database, shot, 1, path, value)
    with pytest.raises(UmbraxError, match="has no revision 99; reload the page"):
        change(database, shot, 99, EXPOSURE, 1.0)
    assert store.get_shot(database, shot) == before


def test_a_gesture_is_kept_once_however_often_it_is_sent(database: Database, shot: int) -> None:
    with ThreadPoolExecutor(6) as pool:
        heads = [row.head for row in pool.map(lambda _: change(database, shot, 1, EXPOSURE, 3.0, gesture="the one"), range(6))]
    assert set(heads) == {2}


def test_shows_and_shots_have_one_name_each(database: Database, shot: int) -> None:
    row = store.get_shot(database, shot)
    assert store.add_shot(database, row.show_id, shot_of(BUILD)) is None
    assert shows.put_show(database, row.show, "/elsewhere") == row.show_id
    assert store.get_shot(database, shot).folder == "/elsewhere"
    with pytest.raises(UmbraxError) as told:
        store.get_shot(database, 10**6)
    assert told.value.status == 404
