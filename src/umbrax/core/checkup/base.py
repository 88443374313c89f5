"""What a rule looks at, what it finds, and the list of rules."""

from collections.abc import Callable, Container, Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Literal, Protocol

import numpy as np
from numpy.typing import NDArray

from ..colour import LUMA_BT709
from ..kernels.ids import sum_of_ranks
from ..picture import Window
from ..plan.reader import FrameInfo, PassInfo
from ..registry import Registry

Severity = Literal["note", "warning", "error"]
Plane = NDArray[np.float32]
LUMA = np.array(LUMA_BT709, np.float32)


@dataclass(frozen=True)
class Raw:
    """A pass as the file has it: values `float32[h, w, c]` on the box where it is not constant, and what is outside.

    Integers of 8 and 16 bits come as 0..1; nothing is linearised, associated or repaired.
    """

    values: Plane
    box: Window
    outside: Plane

    @property
    def constant(self) -> bool:
        return self.box.empty

    def on(self, window: Window) -> Plane:
        """The values on a window of the pass; a view where nothing has to be filled in."""
        if not window.empty and self.box.contains(window):
            y, x = window.y0 - self.box.y0, window.x0 - self.box.x0
            return self.values[y : y + window.height, x : x + window.width]
        out = np.empty((window.height, window.width, len(self.outside)), np.float32)
        out[:] = self.outside
        part = self.box.intersect(window)
        if not part.empty:
            y, x = part.y0 - window.y0, part.x0 - window.x0
            out[y : y + part.height, x : x + part.width] = self.on(part)
        return out


class RawReader(Protocol):
    """One frame of a source, unconverted."""

    info: FrameInfo
    types: Mapping[str, str]  # of each pass: half, float, uint, u8 or u16
    tags: Mapping[str, str]  # what the header says of colour, and what is worked in
    unassociated: Container[str]  # passes whose file says that colours are not multiplied by alpha
    associated: Container[str]  # passes of which it was set whether their colours are multiplied by alpha

    def raw(self, name: str) -> Raw: ...

    def ranks(self, layer: str) -> tuple[NDArray[np.uint32], NDArray[np.float32]]: ...


class Examined:
    """One frame under examination; what several rules need is worked out once."""

    def __init__(self, reader: RawReader):
        self.reader = reader
        self.info = reader.info
        self._raw: dict[str, Raw] = {}
        self._ranks: dict[str, tuple[NDArray[np.uint32], Plane]] = {}
        self._covered: dict[str, Plane] = {}
        self._seen: dict[str, tuple[NDArray[np.uint32], NDArray[np.int64]]] = {}

    def raw(self, name: str) -> Raw:
        if name not in self._raw:
            self._raw[name] = self.reader.raw(name)
        return self._raw[name]

    def ranks(self, layer: str) -> tuple[NDArray[np.uint32], Plane]:
        """IDs and coverages `[rank, h, w]` of a layer."""
        if layer not in self._ranks:
            self._ranks[layer] = self.reader.ranks(layer)
        return self._ranks[layer]

    def covered(self, layer: str) -> Plane:
        """How much of each pixel the objects of a layer cover, `[h, w]`: all ranks but those of ID 0."""
        if layer not in self._covered:
            self._covered[layer] = sum_of_ranks(*self.ranks(layer))[..., 0]
        return self._covered[layer]

    def covering_layer(self, window: Window) -> str | None:
        """The ID layer that tells what is covered on a window: one of objects, else the first that fits."""
        layers = [layer for layer in self.info.ids.values() if layer.window == window]
        return min(layers, key=lambda layer: layer.kind != "object").name if layers else None

    def seen(self, layer: str) -> tuple[NDArray[np.uint32], NDArray[np.int64]]:
        """The IDs of a layer that cover anything, and in how many pixels."""
        if layer not in self._seen:
            ids, coverage = self.ranks(layer)
            self._seen[layer] = np.unique(ids[coverage > 0], return_counts=True)
        return self._seen[layer]

    def whole(self, name: str) -> Plane:
        """The values on the whole window of the pass."""
        return self.on(name, self.info.passes[name].window)

    def on(self, name: str, window: Window) -> Plane:
        """The values on a part of the pass's window."""
        return self.raw(name).on(window)

    def box_of(self, passes: Iterable[PassInfo]) -> Window:
        """Where any of these passes is not constant, or all of their window where one is not 0 outside."""
        box = Window(0, 0, 0, 0)
        for found in passes:
            raw = self.raw(found.name)
            box = found.window if raw.outside.any() else box.union(raw.box)
        return box

    def of_kind(self, *kinds: str) -> list[PassInfo]:
        return [found for found in self.info.passes.values() if found.kind in kinds]

    @cached_property
    def beauty(self) -> PassInfo | None:
        return next(iter(self.of_kind("beauty")), None)

    @cached_property
    def alpha(self) -> Plane | None:
        """The beauty's alpha `[h, w]` on its window; None where it has none."""
        return self.whole(self.beauty.name)[..., -1] if self.beauty is not None and self.beauty.has_alpha else None

    def alpha_on(self, window: Window) -> Plane | None:
        """The beauty's alpha where it covers the same window as another pass."""
        return self.alpha if self.beauty is not None and self.beauty.window == window else None

    def colours(self, found: PassInfo, window: Window | None = None) -> Plane:
        """The values of a pass without its alpha, on its own window or on a part of it."""
        values = self.on(found.name, found.window if window is None else window)
        return values[..., : values.shape[2] - int(found.has_alpha)]


@dataclass(frozen=True)
class Finding:
    """One thing the check-up found; `measure` holds the numbers, `remedy` what the program can do about it.

    `placed`: it lies somewhere in the frame, so that a picture can show where.
    """

    rule: str
    source: str
    pass_: str | None
    frames: tuple[int, ...]
    severity: Severity
    message: str
    measure: dict[str, Any] = field(default_factory=dict)
    remedy: dict[str, Any] | None = None
    placed: bool = False

    def payload(self) -> dict[str, Any]:
        return {
            "rule": self.rule,
            "source": self.source,
            "pass": self.pass_,
            "frames": list(self.frames),
            "severity": self.severity,
            "measure": self.measure,
            "message": self.message,
            "remedy": self.remedy,
            "placed": self.placed,
        }


@dataclass(frozen=True)
class Fault:
    """What a rule found in one frame. `weight` orders the same fault on different frames: the worst is reported."""

    pass_: str | None
    message: str
    measure: dict[str, Any] = field(default_factory=dict)
    severity: Severity = "warning"
    remedy: dict[str, Any] | None = None
    what: str = ""
    weight: float = 0.0
    placed: bool = False


Measures = dict[int, Any]


def gathered(rule: str, source: str, measures: Mapping[int, Iterable[Fault]]) -> list[Finding]:
    """The same fault of the same pass on several frames is one finding, with the numbers of the worst frame."""
    kept: dict[tuple[str | None, str], tuple[Fault, list[int]]] = {}
    for frame, faults in sorted(measures.items()):
        for fault in faults:
            key = (fault.pass_, fault.what)
            worst, frames = kept.get(key, (fault, []))
            kept[key] = (fault if fault.weight > worst.weight else worst, [*frames, frame])
    return [
        Finding(rule, source, fault.pass_, tuple(frames), fault.severity, fault.message, fault.measure, fault.remedy, fault.placed)
        for fault, frames in kept.values()
    ]


@dataclass(frozen=True)
class Rule:
    """`measure` looks at one frame, `judge` at what was measured on all of them."""

    kind: str
    title: str
    measure: Callable[[Examined], Any]
    judge: Callable[[str, Measures], list[Finding]] | None = None
    aliases: tuple[str, ...] = ()

    def findings(self, source: str, measures: Measures) -> list[Finding]:
        return self.judge(source, measures) if self.judge is not None else gathered(self.kind, source, measures)


RULES: Registry[Rule] = Registry("rule")


def share(mask: NDArray[np.bool_]) -> float:
    """How much of a mask is set, 0..1."""
    return float(np.count_nonzero(mask)) / max(1, mask.size)


def percent(value: float) -> str:
    return f"{100 * value:.0f} %" if value >= 0.095 else f"{100 * value:.2g} %"


def listed(names: list[str]) -> str:
    """The first four of some names, and how many more there are."""
    return ", ".join(names[:4]) + (f" and {len(names) - 4} more" if len(names) > 4 else "")
