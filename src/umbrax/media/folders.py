"""The names in a folder, read again only after it changed: each look at a shot asks for the frames of all its sources."""

import errno
import os
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from threading import Lock
from typing import Any, TypeVar

MOST = 64  # folders
SURE = 2.0  # seconds after which another change has another time, on any file system
LONGEST = 10.0  # seconds that names are kept, should the clocks of this machine and of its files differ
NO_FOLDER = (errno.ENOENT, errno.ENOTDIR, errno.ELOOP)

Made = TypeVar("Made")


@dataclass
class Folder:
    """The names in a folder, and what was made of them."""

    names: tuple[str, ...]
    _stamp: tuple[int, ...]
    _read: float
    _made: dict[Any, Any] = field(default_factory=dict)

    def made(self, key: Any, make: Callable[[tuple[str, ...]], Made]) -> Made:
        """What `make` makes of the names, made once for each key."""
        if key not in self._made:
            self._made[key] = make(self.names)
        found: Made = self._made[key]
        return found

    def holds_still(self, stamp: tuple[int, ...]) -> bool:
        return self._stamp == stamp and time.monotonic() - self._read < LONGEST


_kept: OrderedDict[Path, Folder] = OrderedDict()
_lock = Lock()


def folder_at(path: Path) -> Folder | None:
    """A folder as it is now; None where there is none."""
    now = time.time()
    try:
        there = os.stat(path)
        stamp = (there.st_mtime_ns, there.st_dev, there.st_ino)
        with _lock:
            kept = _kept.get(path)
            if kept is not None and kept.holds_still(stamp):
                _kept.move_to_end(path)
                return kept
        found = Folder(tuple(os.listdir(path)), stamp, time.monotonic())
    except ValueError:  # a name that no file can have
        return None
    except OSError as error:
        if error.errno not in NO_FOLDER:
            raise
        return None
    with _lock:
        _kept.pop(path, None)
        if now - there.st_mtime > SURE:
            _kept[path] = found
            while len(_kept) > MOST:
                _kept.popitem(last=False)
    return found
