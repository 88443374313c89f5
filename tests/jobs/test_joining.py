"""A render that asks for a movie: it is made when all frames are there, by whoever finds that, and tells how far it is."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from one_worker import Hands, first_of

from umbrax.core.colour import exact_codes
from umbrax.core.errors import UmbraxError
from umbrax.jobs import joining
from umbrax.jobs.written import movie_of
from umbrax.media.movies import count_frames, decode_frame, inspect_movie, rate_of
from umbrax.render.engine import Want
from umbrax.store import renders
from umbrax.store.shots import get_revision

FRAMES = [1001, 1002, 1003]


def ordered(hands: Hands, movie: str | None = "h264", ending: str = "exr", type_: str = "half", scale: int = 4, **more: Any) -> int:
    name = str(hands.settings.state / "out")
    return renders.add_render(
        hands.database, hands.shot, 1, FRAMES, name, f"dome.{{frame:04d}}.{ending}", type_, movie=movie, scale=scale, **more
    )


@pytest.mark.parametrize(
    ("ending", "type_", "scale", "more"),
    [
        ("exr", "half", 1, {}), ("exr", "half", 2, {"space": "lin_ap1"}), ("png", "8", 2, {}), ("png", "16", 2, {}),
        ("tif", "8", 2, {"raise_alpha": False}), ("jpg", "8", 2, {}),
    ],
)  # fmt: skip
def test_a_movie_holds_the_frames_that_were_written(hands: Hands, ending: str, type_: str, scale: int, more: dict[str, Any]) -> None:
    """Whichever primaries they were written in, the movie gets the view of what is worked in."""
    row = hands.run(ordered(hands, "prores_422", ending, type_, scale, **more))
    path = movie_of(row)
    assert (row.state, row.error, row.joined, row.movie_bytes) == ("done", None, 3, path.stat().st_size)
    assert (path.name, count_frames(path), rate_of(path)) == ("dome.mov", 3, 24.0)
    shot = get_revision(hands.database, hands.shot, 1).shot
    roots = [Path(hands.settings.media[0])]
    for number, frame in enumerate(FRAMES, 1):
        expected = exact_codes(hands.engine.make(shot, roots, frame, Want(), scale=scale).picture.pixels[..., :3], 65535) / 257
        found = np.stack(decode_frame(inspect_movie(path, number)), axis=2) / 257
        assert np.abs(found - expected).mean() < 1, f"frame {frame} out of {ending}"


def test_what_it_is_of_is_written_into_its_lower_left_and_nowhere_else(hands: Hands) -> None:
    seen: dict[bool, list[np.ndarray]] = {}
    for caption in (False, True):
        path = movie_of(hands.run(ordered(hands, "prores_422", scale=1, caption=caption)))
        seen[caption] = [np.stack(decode_frame(inspect_movie(path, number)), axis=2) / 257 for number in (1, 3)]
    labels = []
    for without, with_it in zip(*seen.values(), strict=True):
        rows, columns = np.nonzero(np.abs(with_it - without).max(axis=2) > 12)
        assert rows.min() > 640, "of 720"
        assert columns.max() < 960, "of 1280, for a long name"
        assert with_it[rows.min() : rows.max(), columns.min() : columns.max()].max() > 200, "light letters"
        labels.append(with_it[660:710, :960])
    assert np.abs(labels[0] - labels[1]).max() > 100, "each has its own number"


def test_one_matte_is_a_movie_as_well(hands: Hands) -> None:
    for ending, type_ in (("exr", "half"), ("png", "8")):
        row = hands.run(ordered(hands, "prores_422", ending, type_, mattes=["dome"], pack="single"))
        shot = get_revision(hands.database, hands.shot, 1).shot
        coverage = hands.engine.make(shot, [hands.settings.media[0]], 1002, Want("matte", name="dome"), scale=4).picture.pixels[..., 0]
        grey = decode_frame(inspect_movie(movie_of(row), 2))[1] / 65535
        assert np.abs(grey - coverage).mean() < 0.003
        assert grey.max() > 0.99


def test_where_a_frame_fails_no_movie_is_made_until_it_is_there(hands: Hands) -> None:
    number = ordered(hands)
    with pytest.MonkeyPatch.context() as patch:
        make = hands.engine.make

        def fails(shot: Any, roots: Any, frame: int, *rest: Any, **more: Any) -> Any:
            if frame == 1002:
                raise UmbraxError("odd", "an odd frame")
            return make(shot, roots, frame, *rest, **more)

        patch.setattr(hands.engine, "make", fails)
        row = hands.run(number)
    assert (row.state, row.done, row.movie_bytes) == ("failed", [1001, 1003], None)
    assert not movie_of(row).exists()
    renders.reopen(hands.database, number)
    row = hands.run(number)
    assert (row.state, row.joined, count_frames(movie_of(row))) == ("done", 3, 3)


def test_why_it_could_not_be_made_is_told_and_the_frames_stay(hands: Hands) -> None:
    number = ordered(hands)
    place = movie_of(renders.get_render(hands.database, number))
    (place / "in the way").mkdir(parents=True)  # no file can take the name of a folder
    row = hands.run(number)
    assert (row.state, row.done, row.movie_bytes) == ("failed", FRAMES, None)
    assert row.error is not None
    assert "render" in row.error["message"]
    (place / "in the way").rmdir()
    place.rmdir()
    before = [first_of(row, frame).stat().st_mtime_ns for frame in FRAMES]
    renders.reopen(hands.database, number)
    row = hands.run(number)
    assert (row.state, row.movie_bytes) == ("done", place.stat().st_size)
    assert [first_of(row, frame).stat().st_mtime_ns for frame in FRAMES] == before, "frames that are there are not made again"


def test_a_render_that_is_stopped_while_it_is_joined_leaves_no_movie(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    number = ordered(hands)
    join = joining.join_frames
    seen: list[int] = []

    def stopping(*rest: Any, **more: Any) -> Any:
        for done in join(*rest, **more):
            seen.append(done)
            renders.ask_to_cancel(hands.database, number)
            yield done

    monkeypatch.setattr(joining, "join_frames", stopping)
    monkeypatch.setattr("umbrax.jobs.order.LOOK_EVERY", 0)
    row = hands.run(number)
    assert (row.state, row.done, row.movie_bytes, seen) == ("cancelled", FRAMES, None, [1])
    assert not list(Path(row.folder).glob("*.mp4"))
    assert not list(Path(row.folder).glob(".*"))


def test_another_movie_takes_the_place_of_the_first(hands: Hands) -> None:
    number = ordered(hands, None)
    row = hands.run(number)
    assert (row.state, row.movie) == ("done", None)
    for movie in ("prores_4444", "h264"):
        renders.reopen(hands.database, number)
        renders.ask_for_movie(hands.database, number, movie)
        row = hands.run(number)
        assert (row.state, row.movie, row.movie_bytes) == ("done", movie, movie_of(row).stat().st_size)
    size, when = row.movie_bytes, movie_of(row).stat().st_mtime_ns
    assert [file.name for file in Path(row.folder).iterdir() if file.suffix != ".exr"] == ["dome.mp4"], "which was there before"
    renders.reopen(hands.database, number)
    row = hands.run(number)
    assert (row.movie_bytes, movie_of(row).stat().st_mtime_ns) == (size, when), "one that is there is not made again"
