"""What is known of a picture file: its windows, types, passes and ID layers."""

from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from umbrax.core.colour import Chromaticities
from umbrax.core.picture import Window
from umbrax.core.plan.reader import FrameInfo, IdLayer, PassInfo

from .recognise import letter_of

ALPHA = ("a", "alpha")


LEAST_ASPECT = 0.1  # of a pixel


@dataclass(frozen=True)
class CodeCurve:
    """How the codes of a file become light. `film_log`, `pq` and `hlg` need no numbers; a `power` has g, a, b, c, d, e, f:
    (a x + b)^g + e from d on and c x + f below; a `table` has light at even steps from code 0 to 1."""

    kind: Literal["film_log", "pq", "hlg", "power", "table"]
    numbers: tuple[float, ...] = ()


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
    pieces: "tuple[FilePass, ...]" = ()  # where its channels lie in several parts: what of it lies in each

    @property
    def stored(self) -> "tuple[FilePass, ...]":
        """It as it lies in the file, each in one part."""
        return self.pieces or (self,)

    @property
    def decoded_bytes(self) -> int:
        """What its channels take in memory, each in its own type."""
        sizes = {"u8": 1, "u16": 2, "half": 2}
        return self.window.area * sum(sizes.get(kind, 4) for kind in self.types)

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
    ids_elsewhere: dict[str, dict[str, int] | None] = field(default_factory=dict)  # layers it names without their ranks, and their manifests
    compression: str = ""
    colour_tag: str = ""
    curve: CodeCurve | None = None  # how codes become light, where the file says so and it is not the sRGB curve
    chromaticities: Chromaticities | None = None  # of its primaries and white, as the header says
    pixel_aspect: float = 1.0  # how many times as wide as high a pixel is
    frame: int | None = None  # of a movie
    notes: dict[str, str] = field(default_factory=dict)

    @property
    def decoded_bytes(self) -> int:
        """What all channels take in memory, each in its own type."""
        return sum(found.decoded_bytes for found in self.passes)

    @cached_property
    def frame_info(self) -> FrameInfo:
        """The same in the core's words."""
        passes = {p.name: p.pass_info(p.name) for p in self.passes if p.kind != "ids"}
        return FrameInfo(self.identity, self.display, passes, self.ids, self.path, self.notes)

    def find(self, name: str) -> FilePass:
        return next(p for p in self.passes if p.name == name)


def told_aspect(told: object) -> float:
    """How many times as wide as high pixels are, as a file says it; 1 where it says nothing, or nothing that can be."""
    try:
        aspect = float(told)  # type: ignore[arg-type]
    except (TypeError, ValueError, ZeroDivisionError):
        return 1.0
    return aspect if LEAST_ASPECT <= aspect <= 1 / LEAST_ASPECT else 1.0


def widest_type(types: tuple[str, ...]) -> str:
    """The one type that holds all channels of a pass."""
    order = ("u8", "u16", "half", "uint", "float")
    return max(types, key=lambda kind: order.index(kind) if kind in order else len(order))
