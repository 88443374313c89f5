"""Many passes of many frames with few files that may be open."""

import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from umbrax.media.fastcopies import FastCopies
from umbrax.media.openfiles import too_many
from umbrax.standin.exr import write_exr

PASSES, FRAMES, FILES = 17, 30, 160
WALK = """
import resource, sys
from pathlib import Path
from umbrax.media.fastcopies import FastCopies, planes_on
from umbrax.media.openfiles import raise_limit
assert raise_limit() == int(sys.argv[2]), "the hard limit stands"
copies = FastCopies(Path(sys.argv[1]) / "fast")
total = 0.0
for _ in range(2):
    for path in sorted(Path(sys.argv[1]).glob("*.exr")):
        info = copies.info(path)
        for found in info.passes:
            total += float(planes_on(copies.open(info)[found.name], found.window).sum(dtype=float))
print(total)
"""


def frame(number: int) -> dict[str, np.ndarray]:
    at = np.arange(64, dtype=np.float32).reshape(8, 8)
    return {f"light{p:02d}.{c}": (at + number + p).astype(np.float16) for p in range(PASSES) for c in "RGB"}


def test_a_shot_with_more_passes_than_files_may_be_open_is_read(tmp_path: Path) -> None:
    for number in range(FRAMES):
        write_exr(tmp_path / f"a.{number:04d}.exr", frame(number))
    limited = f"ulimit -n {FILES}; exec {sys.executable} -c '{WALK}' {tmp_path} {FILES}"
    result = subprocess.run(["bash", "-c", limited], capture_output=True, text=True, check=False, timeout=120)
    assert result.returncode == 0, result.stderr[-2000:]
    expected = 2 * sum(float(plane.astype(np.float64).sum()) for number in range(FRAMES) for plane in frame(number).values())
    assert float(result.stdout) == pytest.approx(expected)


def test_too_many_open_files_are_told_of_with_the_remedy() -> None:
    told = too_many(OSError(24, "Too many open files"))
    assert told is not None
    assert "ulimit -n" in told.message
    assert too_many(OSError(2, "No such file")) is None


def test_a_copy_that_was_removed_while_it_was_open_is_made_anew(tmp_path: Path) -> None:
    write_exr(tmp_path / "a.exr", frame(0))
    copies = FastCopies(tmp_path / "fast")
    info = copies.info(tmp_path / "a.exr")
    kept = copies.open(info)["light03"]
    for part in kept.place.parent.iterdir():
        part.unlink()
    assert kept.planes.shape == (3, 8, 8)
    assert copies.open(info)["light03"].planes.shape == (3, 8, 8)
