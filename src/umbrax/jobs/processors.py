"""Workers on one machine take turns: no more of them compute at once than it has processors.

Those that share a processor drive each other's pictures out of its caches, and all are slower for it (measured: four on two processors by a
fifth). What is held is a lock of the system on a file (flock(2)), which whoever is killed lets go.
"""

import contextlib
import fcntl
import os
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import structlog

LOOK_EVERY = 0.02  # seconds
PATIENCE = 30.0  # seconds: who holds one for longer may have been stopped for good; nobody waits for that twice


def _usual_folder() -> Path:
    return Path(tempfile.gettempdir()) / f"umbrax-processors-{os.getuid()}"


class Processors:
    """The processors of this machine, as workers of one person on it share them."""

    def __init__(self, folder: Path | None = None, count: int | None = None, patience: float = PATIENCE):
        self._files: list[Path] = []
        self._in_vain = False  # the last time
        folder = _usual_folder() if folder is None else folder
        try:
            folder.mkdir(mode=0o700, exist_ok=True)
            if folder.is_symlink() or folder.stat().st_uid != os.getuid():
                raise PermissionError(f"{folder} is somebody else's")
            self._files = [folder / str(number) for number in range(count or len(os.sched_getaffinity(0)))]
        except OSError as error:
            structlog.get_logger().warning("workers do not take turns on the processors", why=str(error))
        self._patience = patience if self._files else 0.0

    @contextlib.contextmanager
    def one(self, watch: Callable[[], None]) -> Iterator[None]:
        """Within, one of them is taken; `watch` is called while that is waited for, and stops it by raising."""
        with contextlib.ExitStack() as held:
            end = time.monotonic() + (0 if self._in_vain else self._patience)
            while not (taken := self._taken(held)) and time.monotonic() < end:
                watch()
                time.sleep(LOOK_EVERY)
            self._in_vain = not taken
            yield

    def _taken(self, held: contextlib.ExitStack) -> bool:
        for path in self._files:
            with contextlib.suppress(OSError), contextlib.ExitStack() as own:
                fcntl.flock(own.enter_context(path.open("w")), fcntl.LOCK_EX | fcntl.LOCK_NB)
                held.push(own.pop_all())
                return True
        return False
