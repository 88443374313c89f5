"""The example of the guide: the photograph with a measured disparity that scikit-image ships, defocused from the command line."""

import re
from pathlib import Path

import cv2
import numpy as np
import OpenEXR
import pytest

from running import command as umbrax

GUIDE = Path(__file__).parent.parent.parent / "docs/guide/lens.md"


def example() -> tuple[str, list[str]]:
    """The program of the guide, and the words of the command below it."""
    text = GUIDE.read_text()
    program = re.findall(r"```python\n(.*?)```", text, re.DOTALL)[0]
    command = re.findall(r"\n    umbrax (render photograph.*)\n", text)[0]
    return program, command.replace("'", "").split()


def read(path: Path) -> np.ndarray:
    with OpenEXR.File(str(path), separate_channels=True) as file:
        return np.dstack([file.channels()[name].pixels.astype(np.float32) for name in "RGB"])


def test_the_photograph_of_the_guide_is_sharp_where_it_is_focused(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    program, words = example()
    exec(compile(program, str(GUIDE), "exec"), {})
    done = umbrax(*words, state=tmp_path / "state")
    assert done.returncode == 0, done.stderr
    before, after = read(tmp_path / "photograph.exr"), read(tmp_path / "defocused.0001.exr")
    with OpenEXR.File("photograph.exr", separate_channels=True) as file:
        depth = file.channels()["Z"].pixels
    radius = 14 * np.abs(1 - depth[250, 330] / depth)
    detail = [np.abs(cv2.Laplacian(np.ascontiguousarray(one[..., 1]), cv2.CV_32F)) for one in (before, after)]
    sharp, far = radius < 0.3, radius > 5
    assert 0.005 < sharp.mean() < 0.5
    assert detail[1][sharp].mean() > 0.6 * detail[0][sharp].mean()
    assert detail[1][far].mean() < 0.15 * detail[0][far].mean()
    # as much light as before
    assert after.mean() == pytest.approx(before.mean(), rel=0.01)
