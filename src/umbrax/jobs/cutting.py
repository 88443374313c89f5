"""Renders cut into chunks of frames, each a job of the queue, so that many workers share one render."""

import math

from umbrax.store import renders
from umbrax.store.database import Database

from .queue import RENDER, Work, defer
from .written import left_of

CHUNK_SECONDS = 8.0  # a chunk takes about so long: what a worker that is lost has in hand is done again
SHARES = 8  # a render is cut into so many chunks at the least, where it has the frames: workers end at about the same time
MOST_CHUNKS = 400


def chunk_size(frames: int, seconds: float | None) -> int:
    """How many frames go into a chunk, by what a frame takes; the first render of all has no more to go by than a second each."""
    fitting = round(CHUNK_SECONDS / max(seconds or 1.0, 0.01))
    return max(1, min(fitting, math.ceil(frames / SHARES)), math.ceil(frames / MOST_CHUNKS))


def chunks_of(row: renders.RenderRow, seconds: float | None) -> list[Work]:
    """The frames that are left of a render as work for the queue; what is whole already is not done again."""
    left = left_of(row) or row.frames[:1]  # one with nothing left still has to be ended
    size = chunk_size(len(left), seconds)
    return [Work(RENDER, row.id, tuple(left[start : start + size]), row.priority) for start in range(0, len(left), size)]


def defer_render(database: Database, render_id: int) -> int:
    """Put what is left of a render into the queue; returns its first job's number."""
    row = renders.get_render(database, render_id)
    return defer(database.address, chunks_of(row, renders.seconds_a_frame(database, row.shot_id)))
