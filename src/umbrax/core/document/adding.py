"""Adding sources to a shot that is being worked on: edits that bring them in, with cards where these belong."""

from collections.abc import Mapping, Sequence
from typing import Any

from ..checkup.sums import LightSum
from ..plan.reader import FrameInfo
from .edits import Edit, InsertItem, fresh_id
from .first_build import first_build
from .shot import Shot


def fitting_offset(shot: Shot, frames: Sequence[int], offset: int = 0) -> int:
    """The offset under which frames lie in the shot: the given one where some do, else the first comes on the shot's first."""
    there = not frames or (frames[0] + offset <= shot.format.last and shot.format.first <= frames[-1] + offset)
    return offset if there else shot.format.first - frames[0]


def added_sources(
    shot: Shot, sources: Mapping[str, dict[str, Any]], infos: Mapping[str, FrameInfo], sums: Mapping[str, LightSum | None], *, with_cards: bool
) -> list[Edit]:  # fmt: skip
    """Edits that insert sources and their cards: plates behind everything, all else in front of the last element card.

    Treat cards at the front stay there: what finishes the picture finishes what is new as well.
    """
    edits: list[Edit] = [InsertItem(op="insert", path=("sources",), item={"id": name, **data}) for name, data in sources.items()]
    if not with_cards:
        return edits
    elements = [index for index, card in enumerate(shot.build) if not card.treat]
    back = shot.build[0].id if shot.build else None
    after = elements[-1] + 1 if elements else 0
    front = shot.build[after].id if after < len(shot.build) else None
    taken = [card.id for card in shot.cards()] + shot.treatment_ids()

    def fresh(item: dict[str, Any]) -> dict[str, Any]:
        taken.append(fresh_id(taken, item["id"]))
        return {**item, "id": taken[-1]}

    for card in first_build(infos, sums):
        item = fresh(card) | {"treatments": [fresh(one) for one in card.get("treatments", [])]}
        before = back if card["picture"]["kind"] == "plate" else front
        edits.append(InsertItem(op="insert", path=("build",), item=item, before=before))
    return edits
