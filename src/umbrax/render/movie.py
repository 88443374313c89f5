"""Movies of a shot: rendered straight into one file, or put together from frames that were written."""

import time
from collections.abc import Callable, Generator, Iterator, Sequence
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from umbrax.core.colour import in_bt709
from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError
from umbrax.core.plan.evaluate import never_cancelled
from umbrax.media.finished import finished_light
from umbrax.media.movie_writing import MovieKind, movie_kind, writing_movie
from umbrax.media.sequences import is_pattern
from umbrax.media.writing import holds_light

from .captions import captioned
from .engine import Engine
from .output import Rendered, RenderOrder, check_named, frames_of, naming, space_of

Finish = Callable[[int, NDArray[np.float32]], NDArray[np.float32]]


def render_movie(
    engine: Engine, shot: Shot, roots: list[Path], order: RenderOrder, *, watch: Callable[[], None] = never_cancelled
) -> Iterator[Rendered]:
    """Render frame by frame into the movie `out`, coded as its ending or the order's type says. It is there when the last frame is."""
    if is_pattern(order.out):
        raise UmbraxError("bad-pattern", f"a movie is one file: leave {{frame:04d}} out of its name, got {order.out!r}")
    check_named(shot, order)
    path = Path(order.out)
    space_of(shot, order)
    layout, kind, view = shot.format, movie_kind(path, order.type), order.view or shot.colour.view
    with writing_movie(path, kind, layout.fps, layout.pixel_aspect, raise_alpha=order.raise_alpha, view=view) as movie:
        for frame, pixels, start in frames_of(engine, shot, roots, order, watch):
            with naming(frame):
                shown = in_bt709(pixels, shot.colour.working)
                movie.add(captioned(engine, shown, shot, frame, scale=order.scale) if order.caption else shown)
            yield Rendered(frame, path, time.perf_counter() - start, movie.glows)


def join_frames(
    files: Sequence[Path], out: Path, kind: MovieKind, shot: Shot, *, raise_alpha: bool = True, finish: Finish | None = None
) -> Generator[int]:
    """Put written frames together to a movie; yields how many are in it after each. It is there when this has come to its end.

    `finish` makes of the light of each file, by its place from 0, what is shown.
    """
    layout, view = shot.format, shot.colour.view
    if files and not holds_light(files[0]):
        view = "srgb"  # it went through the view already, and is read back as light of a display
    with writing_movie(out, kind, layout.fps, layout.pixel_aspect, raise_alpha=raise_alpha, view=view) as movie:
        for done, file in enumerate(files):
            light = finished_light(file)
            movie.add(light if finish is None else finish(done, light))
            yield done + 1
