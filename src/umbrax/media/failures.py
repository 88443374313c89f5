"""Files that could not be decoded: not tried anew for each of their passes and looks."""

import threading
import time
from collections import OrderedDict
from collections.abc import Iterator
from contextlib import contextmanager

from umbrax.core.errors import UmbraxError, Where

from .file_info import FileInfo

SECONDS = 30.0  # a disk or a network may only have been away
MOST = 1000


class Failures:
    """What decoding ended with, by the state of the file; kept for some time. Safe to use from many threads."""

    def __init__(self) -> None:
        self._known: OrderedDict[str, tuple[float, UmbraxError]] = OrderedDict()
        self._lock = threading.Lock()

    @contextmanager
    def told_once(self, info: FileInfo) -> Iterator[None]:
        """Around decoding a file: refuses one that was refused shortly before and did not change since."""
        self._raise_again(info)
        try:
            yield
        except UmbraxError as error:
            if error.code == "bad-file":
                self._note(info, error)
            raise

    def _note(self, info: FileInfo, error: UmbraxError) -> None:
        with self._lock:
            self._known[info.identity] = time.monotonic(), error
            while len(self._known) > MOST:
                self._known.popitem(last=False)

    def _raise_again(self, info: FileInfo) -> None:
        with self._lock:
            noted, error = self._known.get(info.identity, (0.0, None))
            if error is None:
                return
            if time.monotonic() - noted > SECONDS:
                del self._known[info.identity]
                return
        # a new one: whoever gets it adds the place where the file was wanted
        raise UmbraxError(error.code, error.message, where=Where(file=info.path))
