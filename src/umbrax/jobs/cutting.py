"""Renders cut into chunks of frames, each a job of the queue, so that many workers share one render."""

import itertools
import math

from umbrax.store import renders
from umbrax.store.database import Database

from .queue import RENDER, Work, defer
from .written import left_of

CHUNK_SECONDS = 8.0  # a chunk takes no longer than about this: what a worker that is lost has in hand is done again
SHARES = 16  # no chunk is more than such a part of what is still left: chunks get smaller, and all workers end at about the same time
MOST_CHUNKS = 400


def chunk_sizes(frames: int, seconds: float | None) -> list[int]:
    """How many frames go into each chunk, by what a frame takes; the first render of all has no more to go by than a second each."""
    fitting, least = round(CHUNK_SECONDS / max(seconds or 1.0, 0.01)), math.ceil(frames / MOST_CHUNKS)
    sizes = []
    while frames:
        sizes.append(min(frames, max(1, least, min(fitting, math.ceil(frames / SHARES)))))
        frames -= sizes[-1]
    return sizes


def chunks_of(row: renders.RenderRow, seconds: float | None) -> list[Work]:
    """The frames that are left of a render as work for the queue; what is whole already is not done again."""
    left = left_of(row) or row.frames[:1]  # one with nothing left still has to be ended
    ends = list(itertools.accumulate(chunk_sizes(len(left), seconds)))
    return [Work(RENDER, row.id, tuple(left[start:end]), row.priority) for start, end in zip([0, *ends], ends, strict=False)]


def defer_render(database: Database, render_id: int) -> int:
    """Put what is left of a render into the queue; returns its first job's number."""
    row = renders.get_render(database, render_id)
    return defer(database.address, chunks_of(row, renders.seconds_a_frame(database, row.shot_id)))
