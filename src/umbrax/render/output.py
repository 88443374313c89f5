"""Finished frames as files."""

import contextlib
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from umbrax.core.colour import WORKING
from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError, Where
from umbrax.core.plan.evaluate import never_cancelled
from umbrax.core.views import View
from umbrax.media.sequences import is_pattern, path_of_frame
from umbrax.media.writing import Space, check_space, holds_light, pixel_type, write_picture

from .engine import Engine, Want


@dataclass(frozen=True)
class RenderOrder:
    """What to write: `out` with `{frame:04d}` for more than one frame; a matte is written as one channel."""

    frames: tuple[int, ...]
    out: str
    upto: str | None = None
    matte: str | None = None
    type: str | None = None
    scale: int = 1
    raise_alpha: bool = True
    space: str | None = None  # of EXR: by default what the shot works in
    view: View | None = None  # that of the shot without one
    caption: bool = False  # of a movie

    @property
    def glow_note(self) -> str:
        """What to say where a frame held light without alpha that its format cannot hold."""
        if self.raise_alpha:
            return "light without alpha, such as glow, was kept by raising alpha to its brightness; EXR holds it as it is"
        return "light without alpha, such as glow, is lost in this format; let alpha be raised, or write EXR"


@dataclass(frozen=True)
class Rendered:
    """One frame that was written. `glow`: it held light without alpha, which its format cannot hold as it is."""

    frame: int
    file: Path
    seconds: float
    glow: bool = False


def checked(shot: Shot, order: RenderOrder) -> None:
    """Refuse an order that cannot work before anything is computed."""
    if not order.frames:
        raise UmbraxError("no-frames", "no frames to render; name at least one")
    if len(order.frames) > 1 and not is_pattern(order.out):
        raise UmbraxError("bad-pattern", f"{len(order.frames)} frames need {{frame:04d}} in the output name, got {order.out!r}")
    pixel_type(Path(order.out), order.type)
    space_of(shot, order)
    check_named(shot, order)


def space_of(shot: Shot, order: RenderOrder) -> Space:
    """The primaries that an order's files are written in."""
    path = Path(order.out)
    return check_space(path, order.space or (shot.colour.working if holds_light(path) else WORKING))


def check_named(shot: Shot, order: RenderOrder) -> None:
    """Refuse an order for a card or a matte that the shot has not."""
    if order.upto is not None:
        shot.card(order.upto)
    if order.matte is not None:
        shot.matte(order.matte)


def render_frames(
    engine: Engine, shot: Shot, roots: list[Path], order: RenderOrder, *, watch: Callable[[], None] = never_cancelled
) -> Iterator[Rendered]:
    """Render and write frame by frame, cropped to the display window. Errors name the card, frame and file."""
    checked(shot, order)
    space, view = space_of(shot, order), order.view or shot.colour.view
    for frame, pixels, start in frames_of(engine, shot, roots, order, watch):
        path = Path(path_of_frame(order.out, frame))
        with naming(frame):
            glow = write_picture(
                path,
                pixels,
                pixel_type(path, order.type),
                raise_alpha=order.raise_alpha,
                space=space,
                view=view,
                attributes=told_of(shot),
                working=shot.colour.working,
            )
        yield Rendered(frame, path, time.perf_counter() - start, glow)


def told_of(shot: Shot) -> dict[str, Any]:
    """What a file that is written says of its shot."""
    return {"Software": "Umbrax", "FramesPerSecond": shot.format.rate, "PixelAspectRatio": shot.format.pixel_aspect}


def frames_of(
    engine: Engine, shot: Shot, roots: list[Path], order: RenderOrder, watch: Callable[[], None]
) -> Iterator[tuple[int, NDArray[np.float32], float]]:
    """Each frame of an order, its pixels `float32[h, w, 4]` (1 of a matte), and when it was begun."""
    want = Want("matte", name=order.matte) if order.matte else Want("picture", card=order.upto)
    for frame in order.frames:
        start = time.perf_counter()
        with naming(frame):
            pixels = engine.make(shot, roots, frame, want, scale=order.scale, watch=watch).picture.pixels
        yield frame, pixels, start


@contextlib.contextmanager
def naming(frame: int) -> Iterator[None]:
    """Errors in the block tell of this frame."""
    try:
        yield
    except UmbraxError as error:
        error.at(Where(frame=frame))
        raise
