"""Ordering check-ups: when somebody asks for one, and when the sources of an examined shot change."""

from umbrax.jobs.queue import defer_checkup
from umbrax.store import checkups

from .state import state


def order_checkup(shot_id: int, revision: int) -> None:
    """Note that a check-up is wanted, and put it into the queue."""
    checkups.order_checkup(state().database, shot_id, revision)
    defer_checkup(state().settings.database, shot_id)


def order_if_changed(shot_id: int, head: int) -> None:
    """Examine anew where the sources are no longer those that were examined; a shot that never was is left alone."""
    row = checkups.get_checkup(state().database, shot_id)
    if row is not None and reads_differently(shot_id, row.revision, head):
        order_checkup(shot_id, head)


def reads_differently(shot_id: int, one: int, other: int) -> bool:
    """Whether two revisions have other sources, or turn their light into something else."""
    if one == other:
        return False
    before, after = (state().shot(shot_id, revision) for revision in (one, other))
    return (before.sources, before.colour.working) != (after.sources, after.colour.working)
