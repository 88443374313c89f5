"""How far away what was touched is: as a defocus of its card would be told."""

import numpy as np

from ..document.timing import at_frame
from ..picture import Window
from ..pictures.data_values import is_nothing
from ..plan.planner import ShotPlanner
from .hits import Touched


def how_far(planner: ShotPlanner, found: Touched) -> float | None:
    """The depth that the touched card has as a whole at this frame, else that of its source at the touched pixel; None where nothing
    tells, or where nothing stands."""
    depth = None if found.card is None else at_frame(planner.shot.card(found.card), planner.frame).depth
    if depth is not None:
        return depth
    info = planner.source_at(found.source, found.time)
    here = Window(found.x, found.y, found.x + 1, found.y + 1)
    if not info.has("depth") or not info.find("depth").window.contains(here):
        return None
    value = planner.reader.pixels(found.source, found.time, info.find("depth").name, here)[0, 0, :1].astype(np.float32)
    return None if is_nothing(value)[0] else float(value[0])
