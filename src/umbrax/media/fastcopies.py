"""Fast copies: each pass of a frame kept beside the file in its own type, memory-mapped, so a second look costs no decoding.

A copy is a folder named by the file's content, holding one `.npy` of planes a pass, cut to where the pass differs from its
corner value; a note by the file's path, size and time says which content that was, so a file that was moved or copied
needs no decoding. A copy is written under another name and renamed when complete: killed at any moment, it is there
whole or not at all. The folder may be emptied at any time.
"""

import contextlib
import hashlib
import json
import os
import shutil
import threading
import uuid
from collections import Counter, OrderedDict
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property, partial
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Window

from .copyfiles import StripWriter, bits_of, mapped_numbers, write_numbers, write_whole
from .decoding import comes_in_strips, decode, decode_strips
from .disk import disk_full, is_full, room_taken
from .failures import Failures
from .file_info import FileInfo
from .files import inspect
from .movies import inspect_movie, is_movie
from .openfiles import limit, too_many
from .opening import bad_file, is_unchanged

FORMAT = 3
NOTES = ".notes"  # which content a file had, by its identity
OPEN_COPIES = 96


@dataclass(frozen=True)
class PassCopy:
    """Planes `[channel, h, w]` on the part of the pass that holds anything, and each channel's value outside it.

    `place` is the file the planes are in, without its ending; it is mapped when they are asked for the first time. Where it was
    removed meanwhile, `again` makes it anew.
    """

    shape: tuple[int, ...]
    dtype: np.dtype[Any]
    window: Window
    fill: tuple[Any, ...]
    place: Path
    mapped: Callable[[], None] = lambda: None
    again: "Callable[[], PassCopy] | None" = None

    @cached_property
    def planes(self) -> NDArray[Any]:
        if self.window.empty:
            return np.zeros(self.shape, self.dtype)
        try:
            found = mapped_numbers(self.place.with_name(f"{self.place.name}.npy"))
        except OSError as error:
            if told := too_many(error):
                raise told from error
            if self.again is None:
                raise _gone(self.place) from error
            return self.again().planes
        self.mapped()
        return found

    @classmethod
    def held(cls, planes: NDArray[Any], window: Window, fill: tuple[Any, ...] | None = None) -> "PassCopy":
        """Planes that lie in no file of their own; without `fill` they hold all of the pass."""
        copy = cls(planes.shape, planes.dtype, window, (0,) * len(planes) if fill is None else fill, Path())
        vars(copy)["planes"] = planes  # as if they had been asked for already
        return copy

    @property
    def outside(self) -> NDArray[np.float32]:
        """The values of `fill`, which are bit patterns, as floats."""
        values = np.array(self.fill, np.uint32).astype(bits_of(np.empty(0, self.dtype)).dtype).view(self.dtype)
        return values.astype(np.float32)


@contextlib.contextmanager
def _removed_unless_whole(temporary: Path) -> Iterator[None]:
    try:
        yield
    finally:
        with contextlib.suppress(OSError):
            temporary.unlink(missing_ok=True)


def _gone(place: Path) -> UmbraxError:
    return UmbraxError("copy-gone", f"the fast copy {place.parent.name!r} was removed while it was used; try again")


class FastCopies:
    """The copies under one folder, bounded in bytes and in files held open; safe for many threads and processes."""

    def __init__(self, folder: Path, limit_bytes: int = 12 << 30):
        self.folder = folder
        self.limit = limit_bytes
        self.made = 0
        self._written = 0
        self._lock = threading.Lock()
        self._making: dict[str, threading.Lock] = {}
        self._open: OrderedDict[str, dict[str, PassCopy]] = OrderedDict()
        self._mapped: Counter[str] = Counter()  # how many files of each open copy are mapped
        self._infos: OrderedDict[tuple[str, int, int, int], FileInfo] = OrderedDict()
        self._failures = Failures()

    def info(self, path: Path, frame: int = 0) -> FileInfo:
        """The file's header, or that of a movie's frame, read once for each state of the file."""
        moving = is_movie(path)
        try:
            stat = os.stat(path)
        except OSError:
            return inspect(path)
        key = (str(path), stat.st_size, stat.st_mtime_ns, frame if moving else 0)
        with self._lock:
            if key in self._infos:
                self._infos.move_to_end(key)
                return self._infos[key]
        found = inspect_movie(path, frame) if moving else inspect(path)
        with self._lock:
            self._infos[key] = found
            while len(self._infos) > 4096:
                self._infos.popitem(last=False)
        return found

    def has(self, info: FileInfo) -> bool:
        content = self._noted(info)
        return content is not None and (self.folder / content / "index.json").is_file()

    def _noted(self, info: FileInfo) -> str | None:
        try:
            content = (self.folder / NOTES / info.identity).read_text()
        except OSError:
            return None
        return content if content.endswith(_layout_of(info)) else None

    def _note(self, identity: str, content: str) -> None:
        notes = self.folder / NOTES
        notes.mkdir(parents=True, exist_ok=True)
        temporary = notes / f".{uuid.uuid4().hex}"
        with _removed_unless_whole(temporary):
            temporary.write_text(content)
            os.replace(temporary, notes / identity)

    def open(self, info: FileInfo) -> dict[str, PassCopy]:
        """The copies of all passes of a file, made now if they are not there yet."""
        with self._lock:
            kept = self._open.get(info.identity)
            if kept is not None and all(copy.place.parent.is_dir() for copy in [*kept.values()][:1]):
                self._open.move_to_end(info.identity)
                return kept
            making = self._making.setdefault(info.identity, threading.Lock())
        with making:
            copies = self._load(self._noted(info), info)
            if copies is None:
                with self._failures.told_once(info):
                    self._make_with_room(info)
                copies = self._load(self._noted(info), info)
            if copies is None:  # evicted at once: the limit is smaller than one frame
                raise UmbraxError("no-room", "there is no room for the fast copy of one frame; raise UMBRAX_FAST_BYTES")
        with self._lock:
            self._making.pop(info.identity, None)
            self._open[info.identity] = copies
            while len(self._open) > OPEN_COPIES:
                self._mapped.pop(self._open.popitem(last=False)[0], None)
        return copies

    def _again(self, info: FileInfo, name: str) -> PassCopy:
        """A copy that was removed while it was in use, made anew."""
        with self._lock:
            self._open.pop(info.identity, None)
            self._mapped.pop(info.identity, None)
        return replace(self.open(info)[name], again=None)

    def _make_with_room(self, info: FileInfo) -> None:
        """Where the disk is full, copies that were not used lately make room, once."""
        try:
            self._make(info)
        except OSError as error:
            if not is_full(error):
                raise
            self._evict("", share=0.5)
            try:
                self._make(info)
            except OSError as again:
                raise (disk_full(f"the fast copy of {Path(info.path).name!r}") if is_full(again) else again) from again

    def _count(self, identity: str) -> None:
        """A file of a copy was mapped: where there are too many, the copies used longest ago are let go."""
        with self._lock:
            self._mapped[identity] += 1
            while self._mapped.total() > limit() // 3 and len(self._open) > 1:
                self._mapped.pop(self._open.popitem(last=False)[0], None)

    def beside(self, copy: PassCopy, how: str, make: Callable[[], NDArray[Any]]) -> NDArray[Any]:
        """What is made of a copy, `how` it is called, when it is asked for the first time, and kept beside it."""
        path = copy.place.with_name(f"{copy.place.name}.{how}.npy")
        with contextlib.suppress(OSError, ValueError):
            return mapped_numbers(path)
        pixels = make()
        # the copy may have been removed meanwhile: then there is no place to keep it
        temporary = path.with_name(f".{uuid.uuid4().hex}.npy")
        with contextlib.suppress(OSError), _removed_unless_whole(temporary):
            write_numbers(temporary, pixels)
            os.replace(temporary, path)
            self._written += pixels.nbytes
            if self._written > self.limit // 20:
                self._written = 0
                self._evict(copy.place.parent.name)
        return pixels

    def _load(self, content: str | None, info: FileInfo) -> dict[str, PassCopy] | None:
        if content is None:
            return None
        place = self.folder / content
        try:
            index = json.loads((place / "index.json").read_text())
            if index["format"] != FORMAT:
                return None
            copies = {}
            for number, entry in enumerate(index["passes"]):
                fill = tuple(int(v) for v in np.array(entry["fill"], np.uint32))
                if entry["area"] and not (place / f"{number}.npy").is_file():
                    return None
                copies[entry["name"]] = PassCopy(
                    tuple(entry["shape"]), np.dtype(entry["dtype"]), Window(*entry["window"]), fill, place / str(number),
                    partial(self._count, info.identity), partial(self._again, info, entry["name"]),
                )  # fmt: skip
            os.utime(place)
            return copies
        except (OSError, ValueError, KeyError) as error:
            if isinstance(error, OSError) and (told := too_many(error)):
                raise told from error
            return None

    def _make(self, info: FileInfo) -> None:
        content = content_of(info)
        if self._load(content, info) is not None:
            self._note(info.identity, content)
            return
        self.folder.mkdir(parents=True, exist_ok=True)
        temporary = self.folder / f".{content}.{uuid.uuid4().hex}"
        temporary.mkdir()
        try:
            if comes_in_strips(info):
                entries = _by_strips(temporary, info)
            else:
                entries = [write_whole(temporary / f"{n}.npy", found, planes) for n, (found, planes) in enumerate(decode(info))]
            (temporary / "index.json").write_text(json.dumps({"format": FORMAT, "file": info.path, "passes": entries}))
            if not is_unchanged(info):
                raise bad_file(Path(info.path), "it was changed while it was read; try again")
            self._publish(temporary, self.folder / content, info)
            self._note(info.identity, content)
            self.made += 1
        finally:
            shutil.rmtree(temporary, ignore_errors=True)
        self._evict(content)

    def _publish(self, temporary: Path, final: Path, info: FileInfo) -> None:
        try:
            os.rename(temporary, final)
        except OSError:
            # another process was first, or an old format lies there
            if self._load(final.name, info) is None:
                shutil.rmtree(final, ignore_errors=True)
                os.rename(temporary, final)

    def _evict(self, newest: str, share: float = 1.0) -> None:
        """Remove the copies that were used longest ago until the rest fits, and is no more than a share of what is there.

        Leftovers of killed writers go too.
        """
        with self._lock:
            copies = []
            for place in self.folder.iterdir():
                if place.name == NOTES:
                    continue
                try:
                    used = place.stat().st_mtime
                    if place.name.startswith("."):
                        if used < place.parent.stat().st_mtime - 3600:
                            shutil.rmtree(place, ignore_errors=True)
                        continue
                    copies.append((used, room_taken(place), place))
                except OSError:
                    continue
            total = sum(size for _, size, _ in copies)
            most = min(self.limit, int(total * share))
            for _, size, place in sorted(copies, key=lambda copy: copy[0]):
                if total <= most:
                    break
                if place.name != newest:
                    self._open.clear()
                    self._mapped.clear()
                    shutil.rmtree(place, ignore_errors=True)
                    total -= size


def content_of(info: FileInfo) -> str:
    """A name for what a file holds and how its passes are put together; a frame of a movie goes by the movie's identity."""
    if info.format == "movie":
        return f"{info.identity}-{_layout_of(info)}"
    digest = hashlib.blake2b(digest_size=16)
    with open(info.path, "rb") as file:
        while block := file.read(1 << 20):
            digest.update(block)
    return f"{digest.hexdigest()}-{_layout_of(info)}"


def _layout_of(info: FileInfo) -> str:
    """How passes are put together: files of one content are told apart by it, and so is what an older program made of them."""
    told = [
        (found.name, *(one.part for one in found.stored), found.indices, *([found.orientation] * (found.orientation != 1)))
        for found in info.passes
    ]
    return hashlib.blake2b(repr(told).encode(), digest_size=4).hexdigest()


def _by_strips(folder: Path, info: FileInfo) -> list[dict[str, Any]]:
    writers = [StripWriter(folder / f"{number}.npy", found) for number, found in enumerate(info.passes)]
    by_name = {writer.found.name: writer for writer in writers}
    try:
        for found, row, planes in decode_strips(info):
            by_name[found.name].add(row, planes)
        return [writer.finish() for writer in writers]
    finally:
        for writer in writers:
            writer.close()


def planes_on(copy: PassCopy, window: Window, channels: slice = slice(None)) -> NDArray[Any]:
    """Planes `[channel, h, w]` of a copy, all or some of them, on any window inside the pass, in the pass's own type."""
    if copy.window.contains(window):
        y, x = window.y0 - copy.window.y0, window.x0 - copy.window.x0
        return copy.planes[channels, y : y + window.height, x : x + window.width]
    fill = list(copy.fill)[channels]
    out = np.empty((len(fill), window.height, window.width), copy.dtype)
    bits = bits_of(out)
    for channel, value in enumerate(fill):
        bits[channel] = value
    part = copy.window.intersect(window)
    if not part.empty:
        y, x = part.y0 - window.y0, part.x0 - window.x0
        out[:, y : y + part.height, x : x + part.width] = planes_on(copy, part, channels)
    return out


def ranks_on(copy: PassCopy, window: Window) -> tuple[NDArray[np.uint32], NDArray[np.float32]]:
    """IDs and coverages `[rank, h, w]` of an ID layer's copy, whose planes hold them in turn, on any window inside it, as they lie there."""
    planes = np.asarray(planes_on(copy, window))
    if planes.dtype != np.float32:
        planes = planes.astype(np.float32)
    return planes[0::2].view(np.uint32), planes[1::2]
