"""What a new version of a render lost, gained and renamed against the version before."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ..plan.reader import FrameInfo
from .base import Examined, Finding

SAME = 0.9  # of two areas, intersection over union from which they are one object under two names


@dataclass(frozen=True)
class Changes:
    """Names by what became of them; `renamed` is old to new."""

    lost: list[str] = field(default_factory=list)
    added: list[str] = field(default_factory=list)
    renamed: dict[str, str] = field(default_factory=dict)


def changed_names(old: set[str], new: set[str], same: dict[str, str]) -> Changes:
    renamed = {a: b for a, b in same.items() if a in old - new and b in new - old}
    return Changes(sorted(old - new - set(renamed)), sorted(new - old - set(renamed.values())), renamed)


def compare(source: str, old: Examined, new: Examined, old_frames: list[int], new_frames: list[int]) -> list[Finding]:
    """Findings of the rule `version` for two versions, looked at on one frame that both have."""
    findings = []
    passes = changed_names(set(old.info.passes), set(new.info.passes), {})
    findings += _told(source, "pass", None, passes)
    for name, layer in old.info.ids.items():
        other = new.info.ids.get(name)
        if other is None:
            findings.append(Finding("version", source, name, (), "error", f"the ID layer {name} is gone", {"lost": [name]}))
            continue
        same = _same_objects(old, new, name) if layer.names and other.names else {}
        objects = changed_names(set(layer.names or ()), set(other.names or ()), same)
        findings += _told(source, layer.kind if layer.kind != "other" else "name", name, objects)
    lost = sorted(set(old_frames) - set(new_frames))
    if lost:
        message = f"{len(lost)} frames are not there any more: {lost[0]} to {lost[-1]}"
        findings.append(Finding("version", source, None, tuple(lost), "error", message, {"lost_frames": len(lost)}))
    return findings


def _told(source: str, noun: str, layer: str | None, changes: Changes) -> list[Finding]:
    findings = []
    plural = f"{noun}es" if noun == "pass" else f"{noun}s"
    if changes.lost:
        message = f"{'this ' + noun + ' is' if len(changes.lost) == 1 else 'these ' + plural + ' are'} gone: {', '.join(changes.lost)}"
        findings.append(Finding("version", source, layer, (), "warning", message, {"lost": changes.lost}))
    if changes.renamed:
        message = "; ".join(f"{old} is now called {new}" for old, new in changes.renamed.items())
        remedy = {"do": "rename", "names": changes.renamed}
        findings.append(Finding("version", source, layer, (), "warning", message, {"renamed": changes.renamed}, remedy))
    if changes.added:
        findings.append(Finding("version", source, layer, (), "note", f"new: {', '.join(changes.added)}", {"added": changes.added}))
    return findings


def _same_objects(old: Examined, new: Examined, layer: str) -> dict[str, str]:
    """Old names to new ones that cover the same pixels."""
    lost = _only(old.info, new.info, layer)
    added = _only(new.info, old.info, layer)
    if not lost or not added or old.info.ids[layer].window != new.info.ids[layer].window:
        return {}
    before, after = old.ranks(layer), new.ranks(layer)
    areas = {name: _area(before, number) for name, number in lost.items()}
    found = {}
    for name, number in added.items():
        own = _area(after, number)
        for other, area in areas.items():
            union = np.count_nonzero(own | area)
            if union and np.count_nonzero(own & area) / union > SAME:
                found[other] = name
    return found


def _only(info: FrameInfo, other: FrameInfo, layer: str) -> dict[str, int]:
    mine, theirs = info.ids[layer].names or {}, other.ids[layer].names or {}
    return {name: number for name, number in mine.items() if name not in theirs}


def _area(ranks: tuple[NDArray[np.uint32], NDArray[np.float32]], number: int) -> NDArray[np.bool_]:
    ids, coverage = ranks
    area: NDArray[np.bool_] = ((ids == np.uint32(number)) & (coverage > 0.25)).any(axis=0)
    return area
