"""Rows of lens and line, through the engine: each time by a hair other, so that the treatment and its join are made and no more."""

import time
from collections.abc import Callable
from typing import Any

import cv2
import numpy as np
import scipy.fft
import scipy.signal
from numpy.typing import NDArray

from umbrax.core.document.edits import plain_data

from .assembling_rows import SKY, TREATMENT, changing, on_station, shot_with
from .engine_rows import HD
from .row import Row, Work
from .ten_cards import ten_cards

HALF = (960, 540)
RADIUS = 24
VIEWER = 2  # a shot of 1280x720 as it is seen on the bench
IN_TIME = 0.1  # seconds within which a change is seen
LAMPS: dict[str, Any] = {"feed": {"matte": "lamps"}, "threshold": 0.0, "amount": 0.5}
ALL: dict[str, tuple[dict[str, Any], str]] = {
    "defocus": ({"focus": 12.6, "radius": 8.0}, "radius"), "outline": ({"of": "telescope", "width": 3.0}, "width"),
    "cast": ({"distance": 20.0}, "distance"), "wrap": ({"width": 8.0, "size": 12.0}, "width"),
    "bleed": ({"width": 5.0, "size": 12.0, "gain": 0.5}, "width"), "bloom": ({**LAMPS, "size": 30.0}, "size"),
    "halo": ({**LAMPS, "size": 40.0}, "size"), "spikes": ({**LAMPS, "length": 80.0}, "length"),
    "reflections": ({**LAMPS, "size": 30.0}, "size"),
}  # fmt: skip


def _layers_by_fft() -> Work:
    """Layers of a pixel of radius each, blurred by scipy.signal.fftconvolve and laid over one another."""
    rng = np.random.default_rng(6)
    picture = rng.random((HALF[1], HALF[0], 4)).astype(np.float32)
    level = np.linspace(-RADIUS, RADIUS, HALF[1])[:, None] * np.ones(HALF[0])

    def disc(radius: float) -> NDArray[np.float32]:
        reach = int(radius + 1)
        y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1]
        weights = np.clip(radius + 0.5 - np.hypot(x, y), 1e-6, 1)
        return np.asarray(weights / weights.sum(), np.float32)[..., None]

    def work() -> object:
        out: Any = np.zeros_like(picture)
        with scipy.fft.set_workers(2):
            for one in range(RADIUS, -RADIUS - 1, -1):
                held = np.dstack([picture, np.ones(level.shape, np.float32)]) * (np.rint(level) == one)[..., None]
                blurred = scipy.signal.fftconvolve(held.astype(np.float32), disc(abs(one)), mode="same", axes=(0, 1))
                out = blurred[..., :4] + out * (1 - blurred[..., 4:])
        return out

    return work


def _defocus() -> tuple[Work, Work]:
    shot = shot_with(SKY, on_station({"kind": "defocus", "radius": RADIUS}), size=HALF)
    return changing(shot, (*TREATMENT, "focus"), 12.6, HALF), _layers_by_fft()


def _outline() -> tuple[Work, Work]:
    mattes = {"drum": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["drum", "dome_shell"]}}
    shot = shot_with(on_station({"kind": "outline", "of": "drum", "width": 3.0}), mattes=mattes)
    return changing(shot, (*TREATMENT, "end"), 1.0), lambda: time.sleep(0.03)


def _around(kind: str, settings: dict[str, Any], size: float) -> Callable[[], tuple[Work, Work]]:
    """Against the Gaussian of what is behind that such a treatment needs."""

    def prepare() -> tuple[Work, Work]:
        cv2.setNumThreads(2)
        picture = np.random.default_rng(2).random((HD[1], HD[0], 4), np.float32)
        shot = shot_with(SKY, on_station({"kind": kind, **settings}))
        return changing(shot, (*TREATMENT, "width"), settings["width"]), lambda: cv2.GaussianBlur(picture, (0, 0), size)

    return prepare


def _first_preview(changing_one: str) -> Callable[[], tuple[Work, Work]]:
    """Ten cards with all of these on the station; one of them is changed, at the scale of the bench."""

    def prepare() -> tuple[Work, Work]:
        size = (1280, 720)
        shot = ten_cards(*size)
        card = next(card for card in shot.build if card.id == "station")
        made = [{"id": f"of {kind}", "kind": kind, **settings} for kind, (settings, _) in ALL.items()]
        fuller = type(card).model_validate({**plain_data(card), "treatments": made})
        shot = shot.model_copy(update={"build": tuple(fuller if one.id == "station" else one for one in shot.build)})
        settings, key = ALL[changing_one]
        path = ("build", "station", "treatments", f"of {changing_one}", key)
        return changing(shot, path, settings[key], size, VIEWER), lambda: time.sleep(IN_TIME)

    return prepare


LENS_ROWS = (
    Row(f"defocus, radius {RADIUS}, 960x540", "layers by scipy.signal.fftconvolve", 3, _defocus, faster=True, slow_reference=True),
    Row("outline of a matte, 1920x1080", "30 ms", 1, _outline),
    Row("light wrap, 1920x1080", "cv2.GaussianBlur as wide", 3, _around("wrap", {"width": 15.0, "size": 15.0}, 15.0)),
    Row("surround bleed, 1920x1080", "cv2.GaussianBlur as wide", 3, _around("bleed", {"width": 8.0, "size": 20.0}, 20.0)),
    *(Row(f"{kind} changed, ten cards with all of these, 1280x720 at 1/{VIEWER}", "100 ms", 1, _first_preview(kind)) for kind in ALL),
)
