"""Writes the before and after pictures of the guide from the demo's frames: python guide_pictures.py DEMO FOLDER."""

import sys
from functools import reduce
from pathlib import Path
from typing import Any

from umbrax.core.document.text import read_data
from umbrax.core.picture import Window
from umbrax.media.fastcopies import FastCopies
from umbrax.render.engine import Engine, Want, without
from umbrax.standin.shots import SHOTS
from umbrax.web.encoding import as_eight_bits, jpeg


def without_rendered_shadow() -> dict[str, Any]:
    """The dome at dusk, whose shadow is not that of its render but one that is laid down."""
    shot = SHOTS["dome-at-dusk"]()
    shot["build"] = [card for card in shot["build"] if card["id"] != "shadow"]
    station = next(card for card in shot["build"] if card["id"] == "station")
    cast = {"kind": "cast", "lay_down": 1.0, "angle": -18.0, "length": 1.1, "foot": [600, 618], "softness": 0.03, "density": 0.65}
    station["treatments"] = [one for one in station["treatments"] if one["kind"] != "defocus"]
    station["treatments"].insert(1, {"id": "t20", **cast})
    return shot


def seated() -> dict[str, Any]:
    """The dome at dusk with what the seat check proposes for its blacks."""
    shot = SHOTS["dome-at-dusk"]()
    station = next(card for card in shot["build"] if card["id"] == "station")
    station["treatments"].insert(1, {"id": "t21", "kind": "tones", "lift": [0.03385, 0.02769, 0.02488]})
    return shot


SHOT_OF = {**SHOTS, "seated": seated, "without-rendered-shadow": without_rendered_shadow}
# the name of a pair, its shot, frame and part of the frame, and the treatments that are missing before
PAIRS = (
    ("defocus", "dome-at-dusk", 1006, (0, 300, 640, 660), ("t5",)),
    ("wrap", "dome-at-dusk", 1030, (760, 180, 1080, 360), ("t4", "t6")),
    ("halo", "dome-at-dusk", 1006, (840, 100, 1240, 325), ("t7",)),
    ("outline", "instrument-call-out", 1030, (320, 60, 960, 420), ("t5",)),
    ("seat", "seated", 1001, (320, 340, 960, 700), ("t21",)),
    ("shadow", "without-rendered-shadow", 1006, (580, 440, 1220, 720), ("t20",)),
)


def main(demo: Path, folder: Path) -> None:
    engine = Engine(FastCopies(folder.parent.parent.parent / "var/fast"))
    folder.mkdir(parents=True, exist_ok=True)
    for name, shot_name, frame, box, treatments in PAIRS:
        shot = read_data(SHOT_OF[shot_name]())
        for when, made in (("before", reduce(without, treatments, shot)), ("after", shot)):
            picture = engine.make(made, [demo], frame, Want(), window=Window(*box)).picture
            (folder / f"{name}-{when}.jpg").write_bytes(jpeg(as_eight_bits(picture, "colour", 0.0, exact=True), 88))


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
