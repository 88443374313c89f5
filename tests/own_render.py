"""A render that is not the demo: a hut in two versions, of which the later lost a light and an object and renamed another; a plate."""

from pathlib import Path

import cv2
import numpy as np

from umbrax.standin.exr import channels_of, write_exr
from umbrax.standin.frames import render
from umbrax.standin.scene import observatory, renamed, without

WIDTH, HEIGHT = 320, 180
FRAMES = (1, 2, 3)


def write_hut(folder: Path) -> None:
    """`hut_v001/hut_v001.####.exr`, `late/hut_v002.####.exr` and `plates/evening.png`."""
    for frame in FRAMES:
        scenes = [observatory(1000 + frame + step) for step in (0, 1)]
        channels, metadata = channels_of(render(scenes[0], WIDTH, HEIGHT, after=scenes[1]))
        write_exr(folder / f"hut_v001/hut_v001.{frame:04d}.exr", channels, metadata)
        changed = [renamed(without(scene, "door"), {"dome_shell": "dome_skin"}) for scene in scenes]
        channels, metadata = channels_of(render(changed[0], WIDTH, HEIGHT, after=changed[1]))
        kept = {name: plane for name, plane in channels.items() if not name.startswith("ambient.")}
        write_exr(folder / f"late/hut_v002.{frame:04d}.exr", kept, metadata)
    write_plate(folder / "plates" / "evening.png")


def write_plate(path: Path, width: int = WIDTH, height: int = HEIGHT) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    y = np.linspace(0, 1, height)[:, None, None] * np.ones((1, width, 1))
    assert cv2.imwrite(str(path), ((0.7 - 0.4 * y) * np.array([0.8, 0.6, 0.5]) * 255).astype(np.uint8))
