"""Pictures as sources of a shot: their names, how their passes are read, and how their lights add up."""

from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from umbrax.core.checkup import LightSum
from umbrax.core.document.edits import fresh_id
from umbrax.core.document.sources import PassSetting, Source
from umbrax.core.errors import UmbraxError
from umbrax.core.pictures.rebuild import light_passes
from umbrax.core.plan.reader import FrameInfo
from umbrax.media.adjusting import adjusted_info
from umbrax.media.examining import sequence_of_found, sum_of_lights
from umbrax.media.finding import Found
from umbrax.media.versions import without_version
from umbrax.store import shots as store

from .browsing import path_from
from .state import state


@dataclass
class NewSource:
    """A picture that is to be a source: its document data, what it holds, and how its lights add up where it has several."""

    found: Found
    data: dict[str, Any]
    info: FrameInfo
    sum: LightSum | None


def new_sources(found: list[Found], folder: Path, taken: Iterable[str], known: dict[str, str]) -> dict[str, NewSource]:
    """Sources by names that are not taken, and tell no version; `known` are kinds that were given to passes by hand before."""
    made: dict[str, NewSource] = {}
    taken = set(taken)
    for one in found:
        whole = one.whole
        assert whole is not None
        settings = {name: PassSetting(kind=known[name]) for name in whole.placed if name in known}
        source = Source(path=str(one.path), passes=settings)
        info = adjusted_info(whole.frame_info, source)
        made[fresh_id([*taken, *made], without_version(one.name))] = NewSource(
            one, source_data(one, folder, settings), info, _sum(one, info, source)
        )
    return made


def source_data(one: Found, folder: Path, settings: dict[str, PassSetting]) -> dict[str, Any]:
    data: dict[str, Any] = {"path": path_from(folder, one.path)}
    if one.attached:
        data["attached"] = {name: {"path": path_from(folder, other.path)} for name, other in one.attached.items()}
    if settings:
        data["passes"] = {name: {"kind": setting.kind} for name, setting in settings.items()}
    return data


def _sum(one: Found, info: FrameInfo, source: Source) -> LightSum | None:
    return sum_of_lights(sequence_of_found(one, source), state().engine.copies) if len(light_passes(info)) > 1 else None


def remembered_kinds(show_id: int) -> dict[str, str]:
    """The kinds that were given to passes by hand in the shots of a show, the newest last."""
    shared = state()
    rows = sorted((row for row in store.list_shots(shared.database) if row.show_id == show_id), key=lambda row: row.changed_at)
    return {
        name: setting.kind
        for row in rows
        if _is_readable(row)
        for source in shared.shot(row.id, row.head).sources.values()
        for name, setting in source.passes.items()
        if setting.kind is not None
    }


def _is_readable(row: store.ShotRow) -> bool:
    try:
        state().shot(row.id, row.head)
    except UmbraxError:
        return False
    return True
