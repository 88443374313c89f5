"""Channels put together to passes: by layer and part, with the views they are of and how they are turned."""

import re
from dataclasses import replace
from pathlib import Path
from typing import Any, TypeVar

from umbrax.core.picture import Window

from .file_info import FilePass
from .opening import as_text
from .recognise import letter_of, recognise

TYPES = {
    "half": "half",
    "float": "float",
    "uint": "uint",
    "uint8": "u8",
    "uint16": "u16",
    "uint32": "uint",
    "double": "float",
}
ORDER = {
    name: place
    for place, names in enumerate((("r", "red", "x", "u", "y", "z"), ("g", "green", "v"), ("b", "blue"), ("a", "alpha")))
    for name in names
}
Length = TypeVar("Length", int, float)
AXES = {"x": 0, "y": 1, "z": 2, "w": 3}
CAPTURE = {"r": 0, "g": 1, "b": 2, "a": 3}


def passes_of_part(spec: Any, number: int, origin: tuple[int, int], specs: list[Any], format_name: str) -> list[FilePass]:
    """The passes of one part, from its header; `origin` is where the display window of the first part begins, `specs` are all parts."""
    several = len(specs) > 1
    # names of a layered picture are in Mac Roman: the "Pascal strings" of its format
    others = "mac_roman" if format_name == "psd" else "latin-1"
    part_name = as_text(spec.getattribute("name") or spec.getattribute("oiio:subimagename") or "", others) if several else ""
    unassociated = bool(spec.getattribute("oiio:UnassociatedAlpha"))
    orientation = orientation_of(spec)
    names = tuple(as_text(name, others) for name in spec.channelnames)
    formats = [str(f) for f in spec.channelformats] if spec.channelformats else [str(spec.format)] * spec.nchannels
    window = Window(spec.x - origin[0], spec.y - origin[1], spec.x - origin[0] + spec.width, spec.y - origin[1] + spec.height)
    if orientation != 1:
        window = Window(0, 0, *turned(orientation, spec.width, spec.height))
    views, usual = _views_of(spec), _views_of(specs[0])[:1]
    bare = {channel.lower() for channel in names}
    vector = bool({"x", "y"} <= bare)
    groups: dict[str, list[int]] = {}
    for index, channel in enumerate(names):
        layer, last = _split(channel, part_name, several)
        if not layer and vector and last.lower() in AXES:
            layer = "xyz"
        elif not layer:
            layer = "rgba" if last.lower() in (*CAPTURE, "red", "green", "blue", "alpha", "y") else last
        groups.setdefault(layer, []).append(index)
    result = []
    for layer, unsorted in [piece for name, whole in groups.items() for piece in _without_depth(name, whole, names, part_name)]:
        indices = sorted(unsorted, key=lambda i: _place(names[i]))
        channels = tuple(names[i] for i in indices)
        types = tuple(TYPES.get(formats[i], formats[i]) for i in indices)
        name = "" if layer in ("rgba", *views) else layer
        own = [view for view in views if len(views) == 1 or view in layer.split(".")]
        view = own[0] if own and own[0] not in usual else None
        found = recognise(name, channels, types)
        result.append(
            FilePass(
                layer, found.kind, found.why, found.of, channels, types, number, part_name, tuple(indices), window, view,
                unassociated, orientation,
            )
        )  # fmt: skip
    return result


def _split(channel: str, part_name: str, several: bool) -> tuple[str, str]:
    layer, _, last = channel.rpartition(".")
    if not layer and several and part_name and last.lower() in (*CAPTURE, *AXES, "red", "green", "blue", "alpha", "u", "v"):
        return part_name, last
    return layer, last


def _without_depth(layer: str, indices: list[int], names: tuple[str, ...], part_name: str) -> list[tuple[str, list[int]]]:
    """A layer with red, green, blue and a lone Z is a picture and its depth: two passes."""
    by_letter = {letter_of(names[index]): index for index in indices}
    if not {"r", "g", "b", "z"} <= set(by_letter) or {"x", "y"} & set(by_letter):
        return [(layer, indices)]
    depth = by_letter["z"]
    plain = layer in ("rgba", part_name)
    return [(layer, [index for index in indices if index != depth]), (names[depth].rsplit(".", 1)[-1] if plain else f"{layer}.Z", [depth])]


def _views_of(spec: Any) -> tuple[str, ...]:
    """The eyes or cameras of a part, as OpenEXR's attributes `multiView` and `view` name them; the first is the usual one."""
    several = spec.getattribute("multiView")
    if several:
        return tuple(map(as_text, several)) if isinstance(several, (tuple, list)) else (as_text(several),)
    one = spec.getattribute("view")
    return (as_text(one),) if one else ()


def _place(channel: str) -> tuple[int, str]:
    last = letter_of(channel)
    if last in ("x", "y", "z", "w"):
        return AXES[last], last
    return ORDER.get(last, 9), last


def orientation_of(spec: Any) -> int:
    """How a file with one window says that it is to be turned; files with windows of their own are not."""
    told = int(spec.get_int_attribute("Orientation", 1))
    plain = (spec.x, spec.y, spec.width, spec.height) == (0, 0, spec.full_width, spec.full_height)
    return told if 1 < told <= 8 and plain else 1


def turned(orientation: int, width: Length, height: Length) -> tuple[Length, Length]:
    """A size as it is when the file has been turned upright."""
    return (height, width) if orientation >= 5 else (width, height)


def by_file_name(found: FilePass, path: Path) -> FilePass:
    """The one unnamed picture of a file is what the last word of the file's name says it is."""
    word = re.split(r"[._\- ]+", re.sub(r"[._-]?-?\d+\Z", "", path.stem))[-1]
    told = recognise(word, found.channels, found.types)
    return replace(found, kind=told.kind, why=f"of the file, {told.why}", of=told.of) if told.kind != "other" else found


def with_beauty(passes: list[FilePass], several: bool) -> list[FilePass]:
    """Where nothing in a file of several parts is called a beauty, the picture with alpha of its first part is (common practice)."""
    if not several or any(found.kind == "beauty" for found in passes):
        return passes
    for place, found in enumerate(passes):
        if found.part == 0 and found.kind == "other" and [letter_of(name) for name in found.channels] == list("rgba"):
            return [*passes[:place], replace(found, kind="beauty", why="the picture of the first part"), *passes[place + 1 :]]
    return passes


def unique(passes: list[FilePass]) -> list[FilePass]:
    """Passes of one name in several parts (views) get their part's name in front."""
    names = [p.name for p in passes]
    return [p if names.count(p.name) == 1 else replace(p, name=f"{p.part_name or p.part}.{p.name}") for p in passes]
