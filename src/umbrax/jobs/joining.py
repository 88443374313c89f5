"""The movie of a render, put together from its frames by the worker that finds all of them there."""

import contextlib
import time

import numpy as np
import structlog
from numpy.typing import NDArray

from umbrax.media.movie_writing import CODINGS, MovieKind
from umbrax.render.captions import captioned
from umbrax.render.movie import join_frames
from umbrax.store import renders

from .order import Order
from .written import files_of, left_of, movie_of

TELL_EVERY = 0.5


def join_movie(order: Order) -> None:
    """Make the movie that a render asks for, unless frames of it are missing or it is there already. Raises Cancelled and UmbraxError."""
    database, row = order.hands.database, renders.get_render(order.hands.database, order.row.id)
    if row.movie is None or row.state != "running" or row.failed or left_of(row, order.folder):
        return
    path = movie_of(row, order.folder)
    if row.movie_bytes is not None and path.exists():
        return
    frames = sorted(row.frames)
    files = [files_of(row, frame, order.folder)[0] for frame in frames]
    order.hands.report.doing(row.id, frames[-1])
    told = time.monotonic()

    def finish(place: int, light: NDArray[np.float32]) -> NDArray[np.float32]:
        return captioned(order.hands.engine, light, order.shot, frames[place], f"revision {row.revision}", row.scale)

    kind: MovieKind = row.movie  # type: ignore[assignment]
    joined = join_frames(files, path, kind, order.shot, raise_alpha=row.raise_alpha, finish=finish if row.caption and not row.mattes else None)
    with contextlib.closing(joined) as joining:
        while True:
            with order.hands.processors.one(order.watch):
                done = next(joining, None)
            if done is None:
                break
            order.watch()
            if time.monotonic() - told > TELL_EVERY:
                told = time.monotonic()
                renders.set_joined(database, row.id, done)
    for coding in CODINGS.values():
        if coding.ending != path.suffix:
            path.with_suffix(coding.ending).unlink(missing_ok=True)  # one that it took the place of
    renders.movie_done(database, row.id, len(files), path.stat().st_size)
    structlog.get_logger().info("movie made", render=row.id, movie=row.movie, frames=len(files))
