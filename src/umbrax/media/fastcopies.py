"""Fast copies: each pass of a frame kept beside the file in its own type, memory-mapped, so a second look costs no decoding.

A copy is a folder named by the file's identity, holding one `.npy` of planes a pass, cut to where the pass differs from
its corner value. It is written under another name and renamed when complete: killed at any moment, it is there whole
or not at all. The folder may be emptied at any time.
"""

import json
import os
import shutil
import threading
import uuid
from collections import OrderedDict
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from umbrax.core.kernels.boxes import differing_box
from umbrax.core.picture import Window

from .decoding import decode
from .files import FileInfo, inspect
from .movies import inspect_movie, is_movie

FORMAT = 1
OPEN_COPIES = 96


@dataclass(frozen=True)
class PassCopy:
    """Planes `[channel, h, w]` on the part of the pass that holds anything, and each channel's value outside it."""

    planes: NDArray[Any]
    window: Window
    fill: tuple[Any, ...]

    @property
    def outside(self) -> NDArray[np.float32]:
        """The values of `fill`, which are bit patterns, as floats."""
        values = np.array(self.fill, np.uint32).astype(_bits(self.planes).dtype).view(self.planes.dtype)
        return values.astype(np.float32)


class FastCopies:
    """The copies under one folder, bounded in bytes; safe for many threads and processes."""

    def __init__(self, folder: Path, limit_bytes: int = 12 << 30):
        self.folder = folder
        self.limit = limit_bytes
        self.made = 0
        self._lock = threading.Lock()
        self._making: dict[str, threading.Lock] = {}
        self._open: OrderedDict[str, dict[str, PassCopy]] = OrderedDict()
        self._infos: OrderedDict[tuple[str, int, int, int], FileInfo] = OrderedDict()

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
        return (self.folder / info.identity / "index.json").is_file()

    def open(self, info: FileInfo) -> dict[str, PassCopy]:
        """The copies of all passes of a file, made now if they are not there yet."""
        with self._lock:
            if info.identity in self._open:
                self._open.move_to_end(info.identity)
                return self._open[info.identity]
            making = self._making.setdefault(info.identity, threading.Lock())
        with making:
            copies = self._load(info.identity)
            if copies is None:
                self._make(info)
                copies = self._load(info.identity)
            if copies is None:  # evicted at once: the limit is smaller than one frame
                raise OSError(f"cannot keep fast copies in {self.folder}")
        with self._lock:
            self._making.pop(info.identity, None)
            self._open[info.identity] = copies
            while len(self._open) > OPEN_COPIES:
                self._open.popitem(last=False)
        return copies

    def _load(self, identity: str) -> dict[str, PassCopy] | None:
        place = self.folder / identity
        try:
            index = json.loads((place / "index.json").read_text())
            if index["format"] != FORMAT:
                return None
            copies = {}
            for number, entry in enumerate(index["passes"]):
                # copy-on-write keeps the file untouched and gives kernels the one array kind they are compiled for
                planes = np.load(place / f"{number}.npy", mmap_mode="c") if entry["area"] else np.zeros(entry["shape"], entry["dtype"])
                fill = np.array(entry["fill"], np.uint32).view(np.uint32)
                copies[entry["name"]] = PassCopy(planes, Window(*entry["window"]), tuple(int(v) for v in fill))
            os.utime(place)
            return copies
        except (OSError, ValueError, KeyError):
            return None

    def _make(self, info: FileInfo) -> None:
        self.folder.mkdir(parents=True, exist_ok=True)
        temporary = self.folder / f".{info.identity}.{uuid.uuid4().hex}"
        temporary.mkdir()
        try:
            entries = []
            for number, (found, planes) in enumerate(decode(info)):
                entries.append(_write_pass(temporary / f"{number}.npy", found.name, found.window, planes))
            (temporary / "index.json").write_text(json.dumps({"format": FORMAT, "file": info.path, "passes": entries}))
            self._publish(temporary, self.folder / info.identity)
            self.made += 1
        finally:
            shutil.rmtree(temporary, ignore_errors=True)
        self._evict(info.identity)

    def _publish(self, temporary: Path, final: Path) -> None:
        try:
            os.rename(temporary, final)
        except OSError:
            # another process was first, or an old format lies there
            if self._load(final.name) is None:
                shutil.rmtree(final, ignore_errors=True)
                os.rename(temporary, final)

    def _evict(self, newest: str) -> None:
        """Remove the copies that were used longest ago until the rest fits; leftovers of killed writers go too."""
        with self._lock:
            copies = []
            for place in self.folder.iterdir():
                try:
                    used = place.stat().st_mtime
                    if place.name.startswith("."):
                        if used < place.parent.stat().st_mtime - 3600:
                            shutil.rmtree(place, ignore_errors=True)
                        continue
                    copies.append((used, sum(f.stat().st_size for f in place.iterdir()), place))
                except OSError:
                    continue
            total = sum(size for _, size, _ in copies)
            for _, size, place in sorted(copies, key=lambda copy: copy[0]):
                if total <= self.limit:
                    break
                if place.name != newest:
                    self._open.pop(place.name, None)
                    shutil.rmtree(place, ignore_errors=True)
                    total -= size


def _bits(planes: NDArray[Any]) -> NDArray[Any]:
    kinds: dict[int, Any] = {1: np.uint8, 2: np.uint16, 4: np.uint32}
    return planes.view(kinds[planes.dtype.itemsize])


def _write_pass(path: Path, name: str, window: Window, planes: list[NDArray[Any]]) -> dict[str, Any]:
    """Write planes cut to the box where any channel differs, bit for bit, from its first pixel."""
    widest = max((p.dtype for p in planes), key=lambda d: (d.itemsize, d.kind == "f"))
    same = [p if p.dtype == widest else p.astype(widest) for p in planes]
    fills = [_bits(p)[0, 0] for p in same]
    box = Window(0, 0, 0, 0)
    for plane, value in zip(same, fills, strict=True):
        box = box.union(Window(*differing_box(_bits(plane), value)))
    shape = (len(same), box.height, box.width)
    if not box.empty:
        out = np.lib.format.open_memmap(path, mode="w+", dtype=widest, shape=shape)
        for place, plane in zip(out, same, strict=True):
            place[:] = plane[box.y0 : box.y1, box.x0 : box.x1]
        out.flush()
    at = Window(box.x0 + window.x0, box.y0 + window.y0, box.x1 + window.x0, box.y1 + window.y0)
    return {
        "name": name, "window": [at.x0, at.y0, at.x1, at.y1], "area": box.area, "shape": shape, "dtype": widest.str,
        "fill": [int(v) for v in fills],
    }  # fmt: skip


def planes_on(copy: PassCopy, window: Window) -> NDArray[Any]:
    """Planes `[channel, h, w]` of a copy on any window inside the pass, in the pass's own type."""
    if copy.window.contains(window):
        y, x = window.y0 - copy.window.y0, window.x0 - copy.window.x0
        return copy.planes[:, y : y + window.height, x : x + window.width]
    dtype = copy.planes.dtype
    out = np.empty((copy.planes.shape[0], window.height, window.width), dtype)
    bits = _bits(out)
    for channel, value in enumerate(copy.fill):
        bits[channel] = value
    part = copy.window.intersect(window)
    if not part.empty:
        y, x = part.y0 - window.y0, part.x0 - window.x0
        out[:, y : y + part.height, x : x + part.width] = planes_on(copy, part)
    return out
