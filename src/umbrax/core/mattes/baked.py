"""Baked mattes: written once as coverage, share and sum, read back where they still are what the matte is."""

from ..errors import UmbraxError
from ..picture import Picture
from ..plan.steps import Planner, Step, pointwise
from .base import Bake


def baked(planner: Planner, bake: Bake, live: Step) -> Step | None:
    """The planes of a matte from its bake; None on a frame where that is missing or of something else.

    A baked frame carries the key of the step it was written from, and that names everything the pixels depend on: the
    files, the settings and the numbers at this frame.
    """
    try:
        info = planner.source(bake.source)
    except UmbraxError:
        return None
    if info.notes.get(bake.pass_) != live.key or bake.pass_ not in info.passes:
        return None
    own = planner.read(bake.source, bake.pass_, 1)
    return pointwise("baked 1", None, [own], _planes, channels=3, edge=live.edge, domain=own.domain, where=planner.where)


def _planes(given: tuple[Picture, ...]) -> object:
    return given[0].pixels[..., :3]
