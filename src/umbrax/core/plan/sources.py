"""The sources of a shot at a frame -> the steps that read them."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from typing import Any

from ..errors import UmbraxError, Where
from .read import Way, read_step, reduced_step
from .reader import FrameInfo, PassReader
from .steps import Step


class SourcePlanner:
    """Plans the reading of sources for one frame of one shot; what was planned is kept by what it is."""

    def __init__(self, frame: int, reader: PassReader):
        self.frame = frame
        self.reader = reader
        self.times: Mapping[str, int] = {}  # at which sources are read that are not read at this frame
        self.where = Where(frame=frame)
        self._made: dict[Any, Any] = {}

    @contextmanager
    def at(self, **place: Any) -> Iterator[None]:
        """Errors from within name this place, and so do the steps that are planned."""
        before = self.where
        self.where = before.within(**place)
        try:
            yield
        except UmbraxError as error:
            error.at(self.where)
            raise
        finally:
            self.where = before

    @contextmanager
    def reading_at(self, times: Mapping[str, int]) -> Iterator[None]:
        """Within, these sources are read at other frames of the shot, and all others at its own."""
        before, self.times = self.times, times
        try:
            yield
        finally:
            self.times = before

    def time_of(self, source: str) -> int:
        return self.times.get(source, self.frame)

    def source(self, name: str) -> FrameInfo:
        return self.source_at(name, self.time_of(name))

    def source_at(self, name: str, frame: int) -> FrameInfo:
        key = ("source", name, frame)
        if key not in self._made:
            self._made[key] = self.reader.describe(name, frame)
        info: FrameInfo = self._made[key]
        return info

    def read(self, source: str, wanted: str, scale: int, shown: bool = False) -> Step:
        info, frame = self.source(source), self.time_of(source)
        found = info.find(wanted)
        key = ("read", source, found.name, scale, shown, frame)
        if key not in self._made:
            self._made[key] = read_step(self.reader, info, source, found, frame, scale, self.where, shown)
        step: Step = self._made[key]
        return step

    def reduced(self, step: Step, n: int, how: Way) -> Step:
        return reduced_step(step, n, how)
