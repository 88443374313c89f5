"""Writes the before and after pictures of the guide from the demo's frames: python guide_pictures.py DEMO FOLDER."""

import sys
from pathlib import Path

import cv2
import numpy as np

from umbrax.core.colour import srgb_from_linear
from umbrax.core.document.edits import RemoveItem, apply
from umbrax.core.document.shot import Shot
from umbrax.core.document.text import read_data
from umbrax.core.picture import Window
from umbrax.media.fastcopies import FastCopies
from umbrax.render.engine import Engine, Want
from umbrax.standin.shots import SHOTS

# the name of a pair, its shot, frame and part of the frame, and the treatments that are missing before
PAIRS = (
    ("defocus", "dome-at-dusk", 1006, (0, 300, 640, 660), ("t5",)),
    ("wrap", "dome-at-dusk", 1030, (760, 180, 1080, 360), ("t4", "t6")),
    ("halo", "dome-at-dusk", 1006, (840, 100, 1240, 325), ("t7",)),
    ("outline", "instrument-call-out", 1030, (320, 60, 960, 420), ("t5",)),
)


def without(shot: Shot, treatments: tuple[str, ...]) -> Shot:
    places = [(card.id, one.id) for card in shot.cards() for one in card.treatments if one.id in treatments]
    return apply(shot, [RemoveItem(op="remove", path=(*shot.path_of(card), "treatments", one)) for card, one in places])


def main(demo: Path, folder: Path) -> None:
    engine = Engine(FastCopies(folder.parent.parent.parent / "var/fast"))
    folder.mkdir(parents=True, exist_ok=True)
    for name, shot_name, frame, box, treatments in PAIRS:
        shot = read_data(SHOTS[shot_name]())
        for when, made in (("before", without(shot, treatments)), ("after", shot)):
            light = engine.make(made, [demo], frame, Want(), window=Window(*box)).picture.pixels[..., :3]
            codes = np.rint(srgb_from_linear(np.clip(light, 0, 1)) * 255).astype(np.uint8)
            cv2.imwrite(str(folder / f"{name}-{when}.jpg"), codes[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 88])


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
