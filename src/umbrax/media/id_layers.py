"""ID layers in a file: the Cryptomatte specification's metadata, the channels of their ranks, and manifests."""

import json
import re
from dataclasses import replace
from functools import lru_cache
from pathlib import Path
from typing import Any

from umbrax.core.plan.reader import IdLayer

from .file_info import FileInfo, FilePass
from .opening import as_text
from .recognise import kinds_of_ids

LARGEST_MANIFEST = 256 << 20


def id_layers(passes: list[FilePass], metadata: dict[str, Any], path: Path) -> tuple[list[FilePass], dict[str, IdLayer]]:
    """Rank channels of each layer named in the metadata become one pass of kind `ids`; the preview becomes `other`."""
    layers: dict[str, dict[str, str]] = {}
    for key, value in metadata.items():
        parts = key.split("/", 2)
        if len(parts) == 3:
            layers.setdefault(parts[1], {})[parts[2].lower()] = as_text(value)
    ids: dict[str, IdLayer] = {}
    for entry in layers.values():
        name = entry.get("name", "")
        rank = re.compile(re.escape(name) + r"(\d\d)\Z")
        pieces = sorted((int(m[1]), p) for p in passes if (m := rank.search(p.name)))
        if not name or not pieces:
            continue
        members = [p for _, p in pieces]
        channels = tuple(c for p in members for c in p.channels)
        merged = FilePass(
            name, "ids", "named in the file's metadata", None, channels, tuple(t for p in members for t in p.types),
            members[0].part, members[0].part_name, tuple(i for p in members for i in p.indices), members[0].window,
        )  # fmt: skip
        place = passes.index(members[0])
        passes = [p for p in passes if p not in members]
        passes.insert(place, merged)
        passes = [
            replace(p, kind="other", why="the preview of an ID layer", of=None) if p.name == name and p.kind != "ids" else p for p in passes
        ]
        ids[name] = IdLayer(name, "other", len(channels) // 2, merged.window, _manifest(entry, path))
    passes = [p if not (p.name in ids and p.kind == "other") else replace(p, name=f"{p.name} preview") for p in passes]
    kinds = kinds_of_ids([(p.name, ids[p.name].names) for p in passes if p.name in ids])
    return passes, {name: replace(layer, kind=kinds[name]) for name, layer in ids.items()}


def with_id_layers(info: FileInfo, names: tuple[str, ...]) -> FileInfo:
    """A file in which these layers count as ID layers although its metadata does not name them."""
    wanted = [name for name in names if name not in info.ids]
    if not wanted:
        return info
    metadata = {f"cryptomatte/{number}/name": name for number, name in enumerate(wanted)}
    passes, ids = id_layers(list(info.passes), metadata, Path(info.path))
    if not ids:
        return info
    # the passes are put together differently, so their copies are others
    return replace(info, passes=tuple(passes), ids=info.ids | ids, identity=f"{info.identity}-{'-'.join(sorted(ids)).encode().hex()[:80]}")


def _manifest(entry: dict[str, str], path: Path) -> dict[str, int] | None:
    text = entry.get("manifest")
    if text is None and "manif_file" in entry:
        side = path.parent / Path(entry["manif_file"]).name
        beside = side.is_file() and side.resolve().parent == path.resolve().parent and side.stat().st_size < LARGEST_MANIFEST
        text = side.read_text("utf-8", errors="replace") if beside else None
    return None if text is None else _names_in(text)


@lru_cache(maxsize=16)
def _names_in(text: str) -> dict[str, int] | None:
    """The IDs of a manifest by name; frames of a sequence mostly have the same one, which is then held once."""
    try:
        # a name may be escaped as half a character, which is none
        return {name.encode("utf-8", "replace").decode(): int(value, 16) & 0xFFFFFFFF for name, value in json.loads(text).items()}
    except (ValueError, AttributeError, TypeError, RecursionError):
        return None
