"""Where cards stand, and whether tucks pop: of a small disc that drifts over a mast."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest

from umbrax.core.document.text import read_data
from umbrax.core.document.tucking import Tuck
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Window
from umbrax.media.fastcopies import FastCopies
from umbrax.render.engine import Engine
from umbrax.render.standing import standing_of
from umbrax.render.tucks import Pop, around, by_depth, pops
from umbrax.standin.exr import write_exr

WIDTH, HEIGHT, FRAMES = 160, 90, range(1, 13)


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A mast at x 80 to 88, 20 away, and a disc 20 wide that is over it on frames 5 to 8 of 12 and farther away from 6 to 9; it is not
    there on the last. Where nothing is their depth says so."""
    folder = tmp_path_factory.mktemp("drift")
    mast = np.zeros((HEIGHT, WIDTH), np.float32)
    mast[20:, 80:88] = 1
    write_exr(folder / "mast.exr", {**dict.fromkeys("RGB", mast * 0.3), "A": mast, "depth.Z": _depth(mast, 20)})
    for frame in FRAMES:
        disc = np.zeros((HEIGHT, WIDTH), np.float32)
        left = 10 * frame + 12
        disc[40:60, left : left + 20] = frame < 12
        depth = _depth(disc, 30 if 6 <= frame <= 9 else 10)
        write_exr(folder / f"disc.{frame:04d}.exr", {**dict.fromkeys("RGB", disc), "A": disc, "depth.Z": depth})
    write_exr(folder / "flat.exr", {**dict.fromkeys("RGB", mast), "A": mast})
    return folder


def _depth(alpha: Any, away: float) -> Any:
    return np.where(alpha > 0, np.float32(away), np.float32(1e10))


def shot(**more: Any) -> Any:
    return read_data({
        "umbrax": 1, "name": "drift", "format": {"width": WIDTH, "height": HEIGHT, "first": 1, "last": 12},
        "sources": {"mast": {"path": "mast.exr"}, "disc": {"path": "disc.{frame:04d}.exr"}, "flat": {"path": "flat.exr"}},
        "mattes": {"mast": {"kind": "alpha", "source": "mast"}},
        "build": [
            {"id": "mast", "picture": {"kind": "pass", "source": "mast", "pass": "rgba"}},
            {"id": "disc", "picture": {"kind": "pass", "source": "disc", "pass": "rgba"}} | more,
        ],
    })  # fmt: skip


@pytest.fixture
def engine(tmp_path: Path) -> Engine:
    return Engine(FastCopies(tmp_path / "fast"), 1 << 28)


def watch() -> None:
    return None


@pytest.mark.parametrize(
    ("frames", "found"),
    [
        (None, []),
        ((1, 12), []),
        # over the mast from frame 5 to 7: it may begin at 1 to 4 or when that is over
        ((3, 12), []),
        ((6, 12), [Pop("first", 6, 4)]),
        ((1, 6), [Pop("last", 6, 8)]),
        ((4, 9), []),
        ((6, 7), [Pop("first", 6, 4), Pop("last", 7, 8)]),
    ],
)
def test_a_tuck_pops_where_it_changes_while_they_overlap(engine: Engine, folder: Path, frames: Any, found: list[Pop]) -> None:
    tuck = Tuck.model_validate({"behind": "mast", "card": "mast", "frames": frames})
    assert pops(engine, shot(tuck=[tuck.model_dump(mode="json", exclude_none=True)]), [folder], "disc", tuck, watch) == found


@pytest.mark.parametrize(("frame", "wanted"), [(6, (4, 8)), (5, (4, 8)), (2, (2, 2)), (12, (12, 12))])
def test_the_frames_of_a_tuck_are_proposed_as_long_as_they_overlap_with_clean_ends(
    engine: Engine, folder: Path, frame: int, wanted: tuple[int, int]
) -> None:
    tuck = Tuck.model_validate({"behind": "mast", "card": "mast"})
    made = shot(tuck=[tuck.model_dump(mode="json", exclude_none=True)])
    assert around(engine, made, [folder], "disc", tuck, frame, watch) == wanted
    held = Tuck.model_validate({"behind": "mast", "card": "mast", "frames": wanted})
    assert not pops(engine, shot(tuck=[held.model_dump(mode="json")]), [folder], "disc", held, watch)


def test_by_depth_a_card_is_tucked_while_what_it_is_behind_is_nearer(engine: Engine, folder: Path) -> None:
    """They lie over one another on frames 5 to 7, of which the disc is farther away from 6 on; moved back on 8 to 10, of which it is
    farther away until 9; out of the frame it lies over nothing."""
    tuck = Tuck.model_validate({"behind": "mast", "card": "mast"})
    held = [tuck.model_dump(mode="json", exclude_none=True)]
    for move, spans in (([0, 0], [(6, 12)]), ([-30, 0], [(1, 9)]), ([-500, 0], [])):
        assert by_depth(engine, shot(tuck=held, placing={"move": move}), [folder], "disc", tuck, watch) == spans


def test_a_card_without_depth_says_so(engine: Engine, folder: Path) -> None:
    tuck = Tuck.model_validate({"behind": "mast", "card": "mast"})
    flat = shot(tuck=[tuck.model_dump(mode="json", exclude_none=True)], picture={"kind": "pass", "source": "flat", "pass": "rgba"})
    with pytest.raises(UmbraxError, match="depth") as told:
        by_depth(engine, flat, [folder], "disc", tuck, watch)
    assert told.value.where.card == "disc"


def test_the_box_of_a_card_is_in_its_own_pixels_and_those_of_others_in_the_frame(engine: Engine, folder: Path) -> None:
    placed = shot(placing={"move": [30, 5], "turn": 45})
    found = standing_of(engine, placed, [folder], 3, "disc", watch)
    assert found.box == Window(40, 40, 64, 60)  # of 42 to 62, by fours
    assert found.parent == (1, 0, 0, 0, 1, 0)
    assert found.others == (Window(80, 20, 88, 92),)
    followed = shot(follow="mast")
    leader = followed.build[0].model_copy(update={"placing": placed.build[1].placing})
    followed = followed.model_copy(update={"build": (leader, followed.build[1])})
    a, b, c, d, e, f = standing_of(engine, followed, [folder], 3, "disc", watch).parent
    assert (a, b, d, e) == pytest.approx((0.7071, 0.7071, -0.7071, 0.7071), abs=1e-4)
    assert (a * 80 + b * 45 + c, d * 80 + e * 45 + f) == pytest.approx((110, 50))


def test_a_card_that_shows_nothing_has_no_box(engine: Engine, folder: Path) -> None:
    assert standing_of(engine, shot(opacity=1, cut=[{"matte": "mast"}]), [folder], 1, "disc", watch).box is None
