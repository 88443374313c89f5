"""Rules about hashed ID layers and index passes. ID layers follow the Cryptomatte specification 1.2."""

import re
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..plan.reader import IdLayer
from .base import RULES, Examined, Fault, Finding, Measures, Rule, listed, percent, share
from .light import baked_backdrop

RARE = 2e-5  # of the frame: an ID in fewer pixels may be an accident of filtering
DEEP = 0.999


def _ids_damaged(frame: Examined) -> list[Fault]:
    faults = _unannounced(frame)
    for layer in frame.info.ids.values():
        coverage = frame.ranks(layer.name)[1]
        faults += _types(frame, layer)
        total = coverage.sum(axis=0)
        over = share(total > 1.01)
        if over > 1e-4:
            message = f"coverages add up to more than 1 on {percent(over)} of the frame: the layer was filtered or merged; render it again"
            faults.append(
                Fault(
                    layer.name,
                    message,
                    {"share": round(over, 5), "largest": round(float(total.max()), 3)},
                    what="over",
                    weight=over,
                    placed=True,
                )
            )
        alpha = frame.alpha_on(layer.window)
        if alpha is not None and layer.kind == "object":
            inside = _deep(alpha)
            under = share(total[inside] < 0.99) if inside.any() else 0.0
            if under > 1e-3 and not baked_backdrop(frame):  # a backdrop explains it, and has a rule of its own
                message = f"coverages add up to less than 1 on {percent(under)} of the solid picture: too few ranks, or objects without IDs"
                faults.append(Fault(layer.name, message, {"share": round(under, 5)}, what="under", weight=under))
        if layer.names is not None:
            faults += _strangers(frame, layer)
    return faults


def _deep(alpha: Any) -> Any:
    """Inside alpha 1, away from every rim."""
    solid = alpha >= DEEP
    deep = solid.copy()
    deep[1:] &= solid[:-1]
    deep[:-1] &= solid[1:]
    deep[:, 1:] &= solid[:, :-1]
    deep[:, :-1] &= solid[:, 1:]
    return deep


def _types(frame: Examined, layer: IdLayer) -> list[Fault]:
    kind = frame.reader.types.get(layer.name, "float")
    if kind == "float":
        return []
    message = f"IDs are stored as {kind}, which cannot hold their 32 bits; write the layer as float"
    return [Fault(layer.name, message, {"type": kind}, "error", what="type")]


def _strangers(frame: Examined, layer: IdLayer) -> list[Fault]:
    """IDs that no name has, many and each in few pixels, come from filtering; one with an area is an object without a name."""
    number = len(strange_ids(frame, layer))
    if number < 50:
        return []
    message = f"{number} IDs in single pixels that no name has: the layer was resized or filtered; render it unfiltered"
    return [Fault(layer.name, message, {"strange": number}, "error", what="strange", weight=float(number), placed=True)]


def strange_ids(frame: Examined, layer: IdLayer) -> NDArray[np.uint32]:
    """IDs in single pixels that no name of the manifest has."""
    assert layer.names is not None
    seen, counts = frame.seen(layer.name)
    strange = (seen != 0) & ~np.isin(seen, np.fromiter(layer.names.values(), np.uint32, len(layer.names)))
    found: NDArray[np.uint32] = seen[strange & (counts < max(4, RARE * layer.window.area))]
    return found


def unannounced_ranks(frame: Examined) -> dict[str, list[str]]:
    """Passes built like ID ranks that the metadata does not speak of, by what would be their layer."""
    layers: dict[str, list[str]] = {}
    for found in frame.info.passes.values():
        match = re.fullmatch(r"(.*\D)(\d\d)", found.name)
        if match and found.kind == "other" and len(found.channels) == 4 and frame.reader.types.get(found.name) == "float":
            layers.setdefault(match[1], []).append(found.name)
    return {layer: names for layer, names in layers.items() if len(names) >= 2}


def _unannounced(frame: Examined) -> list[Fault]:
    return [
        Fault(
            names[0],
            f"{', '.join(names)} look like ranks of an ID layer, but the file's metadata does not name it; "
            "read them as one, or write the layer with its metadata",
            {"ranks": 2 * len(names)},
            remedy={"do": "set-source", "id_layers": [names[0][:-2]]},
            what="unannounced",
        )
        for names in unannounced_ranks(frame).values()
    ]


RULES.register(Rule("ids-damaged", "Damaged IDs", _ids_damaged))


def _names(frame: Examined) -> dict[str, tuple[frozenset[str] | None, frozenset[int], frozenset[int]]]:
    """Of each layer: its names, the IDs seen in this frame, and those of them with an area that no name has."""
    result = {}
    for layer in frame.info.ids.values():
        if layer.names is not None and _strangers(frame, layer):
            continue  # names cannot be told from a filtered layer
        seen, counts = frame.seen(layer.name)
        named = set(layer.names.values()) if layer.names is not None else set()
        large = [int(i) for i, n in zip(seen, counts, strict=True) if i and int(i) not in named and n >= RARE * layer.window.area]
        unseen = frozenset(layer.names) if layer.names is not None else None
        result[layer.name] = (unseen, frozenset(int(i) for i in seen), frozenset(large))
    return result


def _judge_names(source: str, measures: Measures) -> list[Finding]:
    from ..mattes.hashing import id_of_name

    findings = []
    frames = tuple(sorted(measures))
    for layer in dict.fromkeys(name for found in measures.values() for name in found):
        found = [measures[frame][layer] for frame in frames if layer in measures[frame]]
        names = set().union(*(f[0] for f in found if f[0] is not None))
        seen, strange = set().union(*(f[1] for f in found)), set().union(*(f[2] for f in found))
        if found[0][0] is None:
            message = f"the layer has no manifest: its {len(seen - {0})} IDs have no names; write the manifest, or name them by hand"
            findings.append(Finding("ids-names", source, layer, frames, "note", message, {"ids": len(seen - {0})}))
            continue
        lost = sorted(name for name in names if id_of_name(name) not in seen)
        if lost:
            message = f"the manifest names {listed(lost)}, seen in no frame"
            findings.append(Finding("ids-names", source, layer, frames, "note", message, {"never_seen": lost}))
        if 0 < len(strange) < 50:
            told = [f"{number:08x}" for number in sorted(strange)]
            message = f"no name in the manifest for {listed(told)}; name by hand"
            findings.append(Finding("ids-names", source, layer, frames, "note", message, {"unnamed": told}, {"do": "name", "ids": told}))
    return findings


RULES.register(Rule("ids-names", "Names of IDs", _names, _judge_names))


def _index_smoothed(frame: Examined) -> list[Fault]:
    faults = []
    for found in frame.of_kind("object_index", "material_index"):
        raw = frame.raw(found.name)
        if raw.constant or frame.reader.types.get(found.name) in ("uint", "u8", "u16"):
            continue
        between = share(np.abs(raw.values - np.rint(raw.values)) > 1e-3)
        if between > 0:
            message = f"{percent(between)} of the pixels lie between whole numbers: the pass was filtered; render it unfiltered"
            faults.append(
                Fault(found.name, message, {"share": round(between, 5)}, remedy={"do": "set", "round": True}, weight=between, placed=True)
            )
    return faults


RULES.register(Rule("index-smoothed", "Smoothed index", _index_smoothed))
