"""Going over the frames of a source: every rule measures each frame, then judges them all."""

from collections.abc import Callable, Iterable

from ..errors import UmbraxError
from ..plan.reader import FrameInfo
from .base import RULES, Examined, Finding, RawReader
from .sequence import damaged_frames, differing_frames, missing_frames

Open = Callable[[int], RawReader]


class Examination:
    """The check-up of one source, frame by frame, so that it can be watched and stopped."""

    def __init__(self, source: str, present: Iterable[int], *, still: bool = False):
        self.source = source
        self.present = sorted(present)
        self.still = still
        self.problems: dict[int, UmbraxError] = {}
        self.sizes: dict[int, tuple[int, int]] = {}
        self.infos: dict[int, FrameInfo] = {}
        self._measures: dict[str, dict[int, object]] = {rule.kind: {} for rule in RULES}

    def look_at(self, frame: int, opening: Open) -> None:
        """Measure one frame; one that cannot be read is a finding, not an error."""
        try:
            reader = opening(frame)
            looked = Examined(reader)
            self.sizes[frame] = (reader.info.display.width, reader.info.display.height)
            self.infos[frame] = reader.info
            found = {rule.kind: rule.measure(looked) for rule in RULES}
        except UmbraxError as problem:
            self.problems[frame] = problem
            return
        for kind, measured in found.items():
            self._measures[kind][frame] = measured

    def findings(self) -> list[Finding]:
        """Worst first."""
        found = damaged_frames(self.source, self.problems) + differing_frames(self.source, self.sizes)
        if not self.still:
            found += missing_frames(self.source, self.present)
        for rule in RULES:
            found += rule.findings(self.source, self._measures[rule.kind])
        return worst_first(found)


def worst_first(findings: Iterable[Finding]) -> list[Finding]:
    """Errors, then warnings, then notes; otherwise in the order they come."""
    return sorted(findings, key=lambda finding: ("error", "warning", "note").index(finding.severity))


def examine(
    source: str, frames: Iterable[int], opening: Open, *, still: bool = False, watch: Callable[[], None] | None = None
) -> list[Finding]:
    """All findings of a source on these frames; `watch` is called between frames and may raise to stop."""
    looking = Examination(source, frames, still=still)
    for frame in looking.present:
        if watch is not None:
            watch()
        looking.look_at(frame, opening)
    return looking.findings()
