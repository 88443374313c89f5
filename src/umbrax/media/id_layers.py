"""ID layers in a file: the Cryptomatte specification's metadata, the channels of their ranks, and manifests."""

import json
import re
from dataclasses import replace
from functools import lru_cache
from pathlib import Path
from typing import Any

from umbrax.core.picture import union_of
from umbrax.core.plan.reader import IdLayer

from .file_info import FileInfo, FilePass
from .opening import as_text
from .recognise import kinds_of_ids

LARGEST_MANIFEST = 256 << 20


Names = dict[str, int] | None  # IDs by name, where there is a manifest


def id_layers(passes: list[FilePass], metadata: dict[str, Any], path: Path) -> tuple[list[FilePass], dict[str, IdLayer], dict[str, Names]]:
    """Rank channels of each layer named in the metadata become one pass of kind `ids`; the preview becomes `other`.

    Beside them the layers that are named but have no channels here, with the names of their manifests: their ranks may lie in other files.
    """
    layers: dict[str, dict[str, str]] = {}
    for key, value in metadata.items():
        parts = key.split("/", 2)
        if len(parts) == 3:
            layers.setdefault(parts[1], {})[parts[2].lower()] = as_text(value)
    ids: dict[str, IdLayer] = {}
    elsewhere: dict[str, Names] = {}
    for entry in layers.values():
        name = entry.get("name", "")
        rank = re.compile(re.escape(name) + r"(\d\d)\Z")
        found = [(p, int(m[1]), p.name[: m.start()]) for p in passes if (m := rank.search(p.name))] if name else []
        # what is called so to the letter, but for its eye; else what ends so, with groups of layers in front
        levels = [(p, number, "") for p, number, prefix in found if prefix in ("", f"{p.view}.")] or found
        several = len({prefix for _, _, prefix in levels}) > 1
        members: dict[str, list[tuple[int, FilePass]]] = {}
        for p, number, prefix in levels:
            layer = (f"{p.view}." if p.view else "") + (prefix if several else "") + name
            members.setdefault(layer, []).append((number, p))
        if name and not members:
            elsewhere[name] = _manifest(entry, path)
        for layer, numbered in members.items():
            merged = of_all_ranks(layer, [p for _, p in sorted(numbered, key=lambda one: one[0])], "named in the file's metadata")
            first, *others = (p for _, p in numbered)
            passes = [merged if p == first else p for p in passes if p not in others]
            ids[layer] = IdLayer(layer, "other", len(merged.channels) // 2, merged.window, _manifest(entry, path))
        passes = [
            replace(p, kind="other", why="the preview of an ID layer", of=None) if p.name == name and p.kind != "ids" else p for p in passes
        ]
    passes = [p if not (p.name in ids and p.kind == "other") else replace(p, name=f"{p.name} preview") for p in passes]
    kinds = kinds_of_ids([(p.name, ids[p.name].names) for p in passes if p.name in ids])
    return passes, {name: replace(layer, kind=kinds[name]) for name, layer in ids.items()}, elsewhere


def of_all_ranks(name: str, levels: list[FilePass], why: str) -> FilePass:
    """One pass of the channels of all ranks, two of them a level."""
    stored = tuple(one for level in levels for one in level.stored)
    return replace(
        levels[0], name=name, kind="ids", why=why, of=None, view=None,
        channels=tuple(c for one in stored for c in one.channels), types=tuple(t for one in stored for t in one.types),
        indices=tuple(i for one in stored for i in one.indices), window=union_of(one.window for one in stored),
        pieces=stored if len({one.part for one in stored}) > 1 else (),
    )  # fmt: skip


def with_id_layers(info: FileInfo, names: tuple[str, ...]) -> FileInfo:
    """A file in which these layers count as ID layers although its metadata does not name them."""
    wanted = [name for name in names if name not in info.ids]
    if not wanted:
        return info
    metadata = {f"cryptomatte/{number}/name": name for number, name in enumerate(wanted)}
    passes, ids, _ = id_layers(list(info.passes), metadata, Path(info.path))
    if not ids:
        return info
    # the passes are put together differently, so their copies are others
    return replace(info, passes=tuple(passes), ids=info.ids | ids, identity=f"{info.identity}-{'-'.join(sorted(ids)).encode().hex()[:80]}")


def _manifest(entry: dict[str, str], path: Path) -> Names:
    text = entry.get("manifest")
    if text is None and "manif_file" in entry:
        side = path.parent / Path(entry["manif_file"]).name
        beside = side.is_file() and side.resolve().parent == path.resolve().parent and side.stat().st_size < LARGEST_MANIFEST
        text = side.read_text("utf-8", errors="replace") if beside else None
    return None if text is None else _names_in(text)


@lru_cache(maxsize=16)
def _names_in(text: str) -> Names:
    """The IDs of a manifest by name; frames of a sequence mostly have the same one, which is then held once."""
    try:
        # a name may be escaped as half a character, which is none
        return {name.encode("utf-8", "replace").decode(): int(value, 16) & 0xFFFFFFFF for name, value in json.loads(text).items()}
    except (ValueError, AttributeError, TypeError, RecursionError):
        return None
