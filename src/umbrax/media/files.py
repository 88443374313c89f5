"""What is inside a picture file: parts, channels, types, windows, passes and ID layers."""

import hashlib
import json
import os
import re
from collections.abc import Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass, field, replace
from functools import lru_cache
from pathlib import Path
from typing import Any

import OpenImageIO as oiio
import structlog

from umbrax.core.errors import Cancelled, UmbraxError, Where
from umbrax.core.picture import Window
from umbrax.core.plan.reader import FrameInfo, IdLayer, PassInfo

from .openfiles import too_many
from .recognise import kinds_of_ids, letter_of, recognise

TYPES = {
    "half": "half",
    "float": "float",
    "uint": "uint",
    "uint8": "u8",
    "uint16": "u16",
    "uint32": "uint",
    "double": "float",
}
LARGEST_BYTES = 16 << 30
LARGEST_MANIFEST = 256 << 20
ORDER = {
    name: place
    for place, names in enumerate((("r", "red", "x", "u", "y", "z"), ("g", "green", "v"), ("b", "blue"), ("a", "alpha")))
    for name in names
}
AXES = {"x": 0, "y": 1, "z": 2, "w": 3}
ALPHA = ("a", "alpha")
CAPTURE = {"r": 0, "g": 1, "b": 2, "a": 3}

FILM_LOG = ("Logarithmic", "Printing density")  # transfer characteristics of SMPTE ST 268
NOTE = "umbrax/"  # in front of the names of attributes this product writes into its own files


@dataclass(frozen=True)
class FilePass:
    """A pass in a file: where its channels are, and of what type."""

    name: str
    kind: str
    why: str
    of: str | None
    channels: tuple[str, ...]
    types: tuple[str, ...]
    part: int
    part_name: str
    indices: tuple[int, ...]
    window: Window
    view: str | None = None
    unassociated: bool = False  # colours are not multiplied by alpha yet, as the file itself says
    orientation: int = 1  # how the file's rows and columns lie, by TIFF 6.0 and EXIF 2.3: 1 is from the top left

    @property
    def has_alpha(self) -> bool:
        return len(self.channels) in (2, 4) and letter_of(self.channels[-1]) in ALPHA

    def pass_info(self, name: str) -> PassInfo:
        """The same in the core's words, under a name of its own."""
        return PassInfo(name, self.kind, self.channels, self.window, self.has_alpha, self.of, view=self.view)


@dataclass(frozen=True)
class FileInfo:
    """One file, or one frame of a movie. `display` is its display window moved to start at 0, and all windows with it."""

    path: str
    identity: str
    format: str
    display: Window
    data: Window
    passes: tuple[FilePass, ...]
    ids: dict[str, IdLayer] = field(default_factory=dict)
    compression: str = ""
    colour_tag: str = ""
    film_log: bool = False  # codes are logarithmic densities, as the header says
    frame: int | None = None  # of a movie
    notes: dict[str, str] = field(default_factory=dict)

    @property
    def decoded_bytes(self) -> int:
        """What all channels take in memory, each in its own type."""
        sizes = {"u8": 1, "u16": 2, "half": 2}
        return sum(found.window.area * sizes.get(kind, 4) for found in self.passes for kind in found.types)

    def frame_info(self) -> FrameInfo:
        """The same in the core's words."""
        passes = {p.name: p.pass_info(p.name) for p in self.passes if p.kind != "ids"}
        return FrameInfo(self.identity, self.display, passes, self.ids, self.path, self.notes)

    def find(self, name: str) -> FilePass:
        return next(p for p in self.passes if p.name == name)


def widest_type(types: tuple[str, ...]) -> str:
    """The one type that holds all channels of a pass."""
    order = ("u8", "u16", "half", "uint", "float")
    return max(types, key=lambda kind: order.index(kind) if kind in order else len(order))


def identity_of(path: Path) -> str:
    """Path, size and time of change: known at once, different whenever the pixels may be."""
    stat = os.stat(path)
    return hashlib.sha256(f"{path.resolve()}\0{stat.st_size}\0{stat.st_mtime_ns}".encode()).hexdigest()[:32]


def is_unchanged(info: FileInfo) -> bool:
    """Whether the file is still the one that was looked into."""
    try:
        return info.identity.startswith(identity_of(Path(info.path)))
    except OSError:
        return False


def bad_file(path: Path, why: str) -> UmbraxError:
    reason = " ".join(why.replace(str(path), path.name).split()) or "not a picture file"
    return UmbraxError(
        "bad-file",
        f"cannot read {path.name!r}: {reason[:200]}; check the file or render it again",
        where=Where(file=str(path)),
    )


@contextmanager
def reading(path: Path) -> Iterator[None]:
    """Whatever goes wrong in here is the file's fault, and is told in one line that names it.

    Files come from anywhere, and libraries answer to damaged ones with errors of many kinds.
    """
    try:
        yield
    except (UmbraxError, Cancelled):
        raise
    except MemoryError as error:
        raise bad_file(path, "it takes more memory than there is") from error
    except Exception as error:
        if isinstance(error, OSError) and (told := too_many(error)):
            raise told from error
        why = getattr(error, "strerror", None)  # of the system and of the movie library
        if not why:
            structlog.get_logger().warning("a damaged file", file=str(path), why=repr(error)[:200])
        raise bad_file(path, why or "its header is damaged") from error


def as_text(value: Any, others: str = "latin-1") -> str:
    """A name as text, of a file or in one: bytes that are no UTF-8 are read as `others`."""
    text = str(value)
    try:
        text.encode()
    except UnicodeEncodeError:
        return text.encode("utf-8", "surrogateescape").decode(others)
    return text


def bad_name(shown: Path) -> UmbraxError:
    return UmbraxError("bad-name", f"the name of {shown.name!r} is not in UTF-8; rename it", where=Where(file=str(shown)))


def check_there(path: Path) -> None:
    """Refuse what is not there, not a file or not ours to read, each in its own words."""
    shown = as_text(path)
    if shown != str(path):
        raise bad_name(Path(shown))
    if not path.exists():
        raise UmbraxError(
            "missing-file",
            f"there is no file {path.name!r} in {str(path.parent)!r}; check the path or the frame range",
            where=Where(file=str(path)),
        )
    if not path.is_file():
        raise UmbraxError(
            "not-a-file",
            f"{path.name!r} is not a file; name a picture file or a {{frame:04d}} pattern",
            where=Where(file=str(path)),
        )
    if not os.access(path, os.R_OK):
        raise UmbraxError("no-permission", f"no permission to read {path.name!r}; change its permissions", where=Where(file=str(path)))


def open_input(path: Path) -> Any:
    """An open OpenImageIO input; alpha is left as the file has it."""
    check_there(path)
    config = oiio.ImageSpec()
    config.attribute("oiio:UnassociatedAlpha", 1)
    found = oiio.ImageInput.open(str(path), config)
    if found is None:
        raise bad_file(path, oiio.geterror())
    return found


def inspect(path: Path) -> FileInfo:
    """Read a file's header; UmbraxError with one clear line where that is not possible."""
    with reading(path), closing(open_input(path)) as source:
        specs: list[Any] = []
        while source.seek_subimage(len(specs), 0):
            specs.append(source.spec())
            if len(specs) > 1000:
                break
        if not specs:
            raise bad_file(path, oiio.geterror())
        for spec in specs:
            _check_size(path, spec)
        first = specs[0]
        origin = (first.full_x, first.full_y)
        metadata = {as_text(a.name): a.value for spec in specs for a in spec.extra_attribs if a.name.lower().startswith("cryptomatte/")}
        notes = {a.name.removeprefix(NOTE): as_text(a.value) for a in first.extra_attribs if a.name.startswith(NOTE)}
        passes = [p for number, spec in enumerate(specs) for p in _passes_of_part(spec, number, origin, specs, source.format_name())]
        passes, ids = _id_layers(passes, metadata, path)
        passes = _with_beauty(passes, several=len(specs) > 1)
        if len(passes) == 1 and passes[0].name.lower() in ("rgba", "xyz", "z"):
            passes = [_by_file_name(passes[0], path)]
        return FileInfo(
            str(path), identity_of(path), source.format_name(),
            Window(0, 0, *_turned(_orientation(first), first.full_width, first.full_height)),
            passes[0].window if passes else Window(0, 0, 0, 0),
            tuple(_unique(passes)), ids, as_text(first.getattribute("compression") or ""),
            as_text(first.getattribute("colorSpace") or first.getattribute("oiio:ColorSpace") or ""),
            str(first.getattribute("dpx:Transfer")) in FILM_LOG, notes=notes,
        )  # fmt: skip


def _by_file_name(found: FilePass, path: Path) -> FilePass:
    """The one unnamed picture of a file is what the last word of the file's name says it is."""
    word = re.split(r"[._\- ]+", re.sub(r"[._-]?-?\d+\Z", "", path.stem))[-1]
    told = recognise(word, found.channels, found.types)
    return replace(found, kind=told.kind, why=f"of the file, {told.why}", of=told.of) if told.kind != "other" else found


def _with_beauty(passes: list[FilePass], several: bool) -> list[FilePass]:
    """Where nothing in a file of several parts is called a beauty, the picture with alpha of its first part is (common practice)."""
    if not several or any(found.kind == "beauty" for found in passes):
        return passes
    for place, found in enumerate(passes):
        if found.part == 0 and found.kind == "other" and [letter_of(name) for name in found.channels] == list("rgba"):
            return [*passes[:place], replace(found, kind="beauty", why="the picture of the first part"), *passes[place + 1 :]]
    return passes


def _check_size(path: Path, spec: Any) -> None:
    if min(spec.width, spec.height, spec.full_width, spec.full_height, spec.nchannels) < 1:
        raise bad_file(path, f"its size is {spec.width} x {spec.height} with {spec.nchannels} channels")
    if max(spec.width, spec.height, spec.full_width, spec.full_height) > 65536 or spec.width * spec.height * spec.nchannels * 4 > LARGEST_BYTES:
        raise bad_file(path, f"its size of {spec.width} x {spec.height} with {spec.nchannels} channels is more than can be read")


def _orientation(spec: Any) -> int:
    """How a file with one window says that it is to be turned; files with windows of their own are not."""
    told = int(spec.get_int_attribute("Orientation", 1))
    plain = (spec.x, spec.y, spec.width, spec.height) == (0, 0, spec.full_width, spec.full_height)
    return told if 1 < told <= 8 and plain else 1


def _turned(orientation: int, width: int, height: int) -> tuple[int, int]:
    return (height, width) if orientation >= 5 else (width, height)


def _split(channel: str, part_name: str, several: bool) -> tuple[str, str]:
    layer, _, last = channel.rpartition(".")
    if not layer and several and part_name and last.lower() in (*CAPTURE, *AXES, "red", "green", "blue", "alpha", "u", "v"):
        return part_name, last
    return layer, last


def _passes_of_part(spec: Any, number: int, origin: tuple[int, int], specs: list[Any], format_name: str) -> list[FilePass]:
    several = len(specs) > 1
    # names of a layered picture are in Mac Roman: the "Pascal strings" of its format
    others = "mac_roman" if format_name == "psd" else "latin-1"
    part_name = as_text(spec.getattribute("name") or spec.getattribute("oiio:subimagename") or "", others) if several else ""
    unassociated = bool(spec.getattribute("oiio:UnassociatedAlpha"))
    orientation = _orientation(spec)
    names = tuple(as_text(name, others) for name in spec.channelnames)
    formats = [str(f) for f in spec.channelformats] if spec.channelformats else [str(spec.format)] * spec.nchannels
    window = Window(spec.x - origin[0], spec.y - origin[1], spec.x - origin[0] + spec.width, spec.y - origin[1] + spec.height)
    if orientation != 1:
        window = Window(0, 0, *_turned(orientation, spec.width, spec.height))
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


def _unique(passes: list[FilePass]) -> list[FilePass]:
    """Passes of one name in several parts (views) get their part's name in front."""
    names = [p.name for p in passes]
    return [p if names.count(p.name) == 1 else replace(p, name=f"{p.part_name or p.part}.{p.name}") for p in passes]


def _id_layers(passes: list[FilePass], metadata: dict[str, Any], path: Path) -> tuple[list[FilePass], dict[str, IdLayer]]:
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
    metadata = {f"cryptomatte/{number}/name": name for number, name in enumerate(wanted)}
    passes, ids = _id_layers(list(info.passes), metadata, Path(info.path))
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
