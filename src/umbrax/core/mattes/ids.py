"""ID mattes: sets of names, `*` patterns and raw IDs of one hashed ID layer (Cryptomatte specification 1.2)."""

import re
from typing import Literal

import numpy as np
from pydantic import Field

from ..kernels import ids as kernels
from ..picture import Edge, Picture, Window, nothing
from ..plan.reader import IdLayer
from ..plan.steps import Planner, Step, Together, content_key
from .base import MATTES, MatteKind, MatteParams
from .hashing import id_of_name

PART = re.compile(r"[/:|]+")
RAW = re.compile(r"(?:#|0x)([0-9a-fA-F]{8})\Z")


class IdMatte(MatteParams):
    """A matte by hashed IDs: the coverages of all its names, summed over all ranks."""

    kind: Literal["id"]
    source: str
    layer: str
    names: tuple[str | int, ...] = Field(title="Names", description="names, * patterns, or raw IDs as #248bfa47")


def last_part(name: str) -> str:
    """What tells a name apart whose parts are marked off by / : or |, as those of a scene's tree are; all of it where there are none."""
    return next((part for part in reversed(PART.split(name)) if part), name)


def matches(text: str, pieces: list[str]) -> bool:
    """Whether a text is some pieces with anything between them: the first begins it, the last ends it, and each of the others is found
    as soon as it can be, so that however many there are the text is gone through once."""
    first, *others, last = pieces
    if len(text) < len(first) + len(last) or not text.startswith(first) or not text.endswith(last):
        return False
    at, end = len(first), len(text) - len(last)
    for piece in others:
        found = text.find(piece, at, end)
        if found < 0:
            return False
        at = found + len(piece)
    return True


def ids_of_names(names: tuple[str | int, ...], layer: IdLayer) -> frozenset[int]:
    """The IDs meant by names, patterns and raw IDs; a plain name is hashed even if the manifest lacks it. 0 is nothing."""
    known = layer.names or {}
    found: set[int] = set()
    for name in names:
        if isinstance(name, int):
            found.add(name & 0xFFFFFFFF)
        elif name in known:
            found.add(known[name])
        elif "*" in name:
            pieces = name.split("*")
            found.update(value for text, value in known.items() if matches(text, pieces))
        elif raw := RAW.match(name):
            found.add(int(raw[1], 16))
        else:
            found.add(id_of_name(name))
    return frozenset(found - {0})


def set_planes(planner: Planner, source: str, layer: IdLayer, ids: frozenset[int]) -> Step:
    """Coverage, share and sum of a set of IDs at full size."""
    info = planner.source(source)
    reader, frame, where = planner.reader, planner.time_of(source), planner.where

    # a layer that fills the frame goes on outside: what the frame cuts off is no edge to choke or feather
    edge: Edge = "extend" if layer.window.contains(info.display) else "empty"

    def run_many(window: Window, sets: list[frozenset[int]]) -> list[Picture]:
        part = window.intersect(reader.held(source, frame, layer.name))
        if part.empty:
            return [Picture(nothing(window, 3).pixels, window, edge) for _ in sets]
        shape, place = (window.height, window.width), (part.y0 - window.y0, part.x0 - window.x0)
        pulled = kernels.planes_of_sets(*reader.ranks(source, frame, layer.name, part), sets, shape, place)
        return [Picture(planes, window, edge) for planes in pulled]

    def run(window: Window, _: tuple[Picture, ...]) -> Picture:
        return run_many(window, [ids])[0]

    of_layer = [info.identity, layer.name]
    key = content_key("ids 1", [*of_layer, ids], ())
    together = Together(content_key("ids of a layer 1", of_layer, ()), ids, run_many)
    return Step(key, "ID matte", layer.window, 3, (), lambda _: (), run, edge, where, True, together)


def shares(coverage: np.ndarray, total: np.ndarray) -> np.ndarray:
    """coverage / total, limited to 0..1, and 0 where nothing is."""
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where(total > 0, coverage / total, np.float32(0))
    limited: np.ndarray = np.clip(share, 0, 1, dtype=np.float32)
    return limited


def _planes(planner: Planner, params: IdMatte, matte_id: str) -> Step:
    layer = planner.source(params.source).layer(params.layer)
    return set_planes(planner, params.source, layer, ids_of_names(params.names, layer))


MATTES.register(MatteKind("id", "ID", IdMatte, _planes, lambda _: (), lambda params: (params.source,)))
