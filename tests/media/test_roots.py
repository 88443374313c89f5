"""Which file a path means: links followed as Python's own Path.resolve follows them, and nothing outside of the media folders."""

from pathlib import Path

import numpy as np
import pytest
from foreign import write

from umbrax.core.document.sources import Source
from umbrax.core.errors import UmbraxError
from umbrax.media.examining import check_up, sequence_of_source
from umbrax.media.fastcopies import FastCopies
from umbrax.media.places import is_there
from umbrax.media.reader import MediaReader
from umbrax.media.roots import Roots, real_path


@pytest.fixture
def disk(tmp_path: Path) -> Path:
    """Two media folders and what lies beside them, with links of all kinds."""
    for folder in ("a/in", "a/v1", "a/v2", "b/in", "out/in"):
        (tmp_path / folder).mkdir(parents=True)
    for file in ("a/in/one.exr", "a/v1/shot.exr", "a/v2/shot.exr", "b/in/one.exr", "b/in/two.exr", "out/in/three.exr"):
        (tmp_path / file).write_bytes(b"")
    for link, to in {
        "a/now": "v2", "a/in/link.exr": "one.exr", "a/in/across.exr": "../../b/in/two.exr", "a/in/leads.exr": "../../out/in/three.exr",
        "a/away": "../out", "a/gone": "nowhere", "a/in/dangling.exr": "nothing.exr", "a/ring": "ring2", "a/ring2": "ring", "a/up": "..",
    }.items():  # fmt: skip
        (tmp_path / link).symlink_to(to)
    return tmp_path


PATHS = (
    "in/one.exr", "in/link.exr", "in/across.exr", "in/leads.exr", "in/dangling.exr", "in/none.exr", "in", "", ".", "..", "in/..",
    "in/../in/one.exr", "now/shot.exr", "now/../in/one.exr", "now/none.exr", "now", "away/in/three.exr", "away/none/none.exr", "away",
    "gone/x.exr", "gone/y/z.exr", "up/a/in/one.exr", "up/out/in/three.exr", "up/none/x/y/z.exr", "in/one.exr/x.exr", "none/x.exr",
    "none/../in/one.exr", "none/deep/x.exr",
    "none/../../out/in/three.exr", "in//one.exr", "./in/./one.exr", "/".join(["n"] * 900), "in/two.exr",
)  # fmt: skip


@pytest.mark.parametrize("text", PATHS)
def test_links_are_followed_as_python_follows_them(disk: Path, text: str) -> None:
    roots, folders = Roots([disk / "a", disk / "b"]), [(disk / "a").resolve(), (disk / "b").resolve()]
    each = [(folder / text).resolve() for folder in folders]
    held = [path for path in each if any(path == folder or folder in path.parents for folder in folders)]
    for _ in range(2):  # the second time by what is known from the first
        assert list(roots.places_of(text)) == held
        there = [path for folder, path in zip(folders, each, strict=True) if path in held and (folder / text).exists()]
        assert roots.first_of(text, is_there) == next(iter(there), None)
        assert [roots.holds(folder / text) for folder in folders] == [path in held for path in each]
    assert [real_path(folder / text) for folder in folders] == each


@pytest.mark.parametrize(("text", "why"), [("x" * 300, "longer"), ("/".join(["y" * 200] * 30), "longer"), ("half\ud800", "no character")])
def test_what_no_path_can_be_is_told(disk: Path, text: str, why: str) -> None:
    for ask in (lambda roots: list(roots.places_of(text)), lambda roots: roots.first_of(text, is_there)):
        with pytest.raises(UmbraxError, match=why):
            ask(Roots([disk / "a"]))


def test_a_ring_of_links_is_told(disk: Path) -> None:
    roots = Roots([disk / "a"])
    assert roots.first_of("ring/x.exr", is_there) is None
    with pytest.raises(UmbraxError, match="ring"):
        list(roots.places_of("ring/x.exr"))


def test_a_pattern_lies_where_its_folder_does(disk: Path) -> None:
    roots = Roots([disk / "a"])
    write(disk / "a/v2/seq.0001.exr", {"Y": np.zeros((2, 2), np.float32)})
    assert roots.first_of("now/seq.{frame:04d}.exr", is_there) == disk.resolve() / "a/v2/seq.{frame:04d}.exr"
    assert roots.first_of("away/seq.{frame:04d}.exr", is_there) is None


def test_of_an_attached_sequence_no_frame_is_read_that_is_a_link_out_of_the_media_folders(disk: Path) -> None:
    """Nor is it on a frame that it lacks, where the nearest one is told of in its place."""
    grey = {c: np.full((4, 4), 0.5, np.float16) for c in "RGB"}
    for frame in (1, 2):
        write(disk / f"a/in/shot.{frame:04d}.exr", grey)
    write(disk / "out/secret.exr", grey)
    (disk / "a/in/shadow.0001.exr").symlink_to("../../out/secret.exr")
    source = Source.model_validate({"path": "in/shot.{frame:04d}.exr", "attached": {"shadow": {"path": "in/shadow.{frame:04d}.exr"}}})
    for frame in (1, 2):
        with pytest.raises(UmbraxError) as refused:
            MediaReader({"s": source}, [disk / "a"], FastCopies(disk / "fast")).describe("s", frame)
        assert refused.value.code == "outside"


def test_a_check_up_reads_no_such_frame_either(disk: Path) -> None:
    grey = {c: np.full((4, 4), 0.5, np.float16) for c in "RGB"}
    write(disk / "a/in/shot.0001.exr", grey)
    write(disk / "out/secret.exr", {c: np.full((4, 4), np.nan, np.float16) for c in "RGB"})
    (disk / "a/in/shot.0002.exr").symlink_to("../../out/secret.exr")
    copies = FastCopies(disk / "fast")
    reader = MediaReader({"s": Source(path="in/shot.{frame:04d}.exr")}, [disk / "a"], copies)
    findings = check_up(sequence_of_source(reader, "s"), copies)
    assert [one.frames for one in findings if one.severity == "error"] == [(2,)]
    assert any("outside" in one.message for one in findings), [one.message for one in findings]
    assert not any("finite" in one.message for one in findings)
