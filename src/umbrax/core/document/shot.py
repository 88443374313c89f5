"""The shot document: typed models of a whole shot."""

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field, model_validator

from ..colour import WORKING, Working
from ..errors import UmbraxError
from ..picture import Window
from ..registry import unknown
from .camera import Camera
from .cards import AnyMatte, Card
from .parameters import Parameters
from .sources import Source
from .timing import Frame

LARGEST = 65536
LONGEST = 1_000_000  # frames
Part = Annotated[int, Field(ge=1, le=1_000_000)]  # of a rate


class Format(Parameters):
    """The frame: size in pixels, rate, and the first and last frame."""

    width: int = Field(ge=1, le=LARGEST)
    height: int = Field(ge=1, le=LARGEST)
    pixel_aspect: float = Field(1.0, gt=0, le=10)
    fps: Annotated[float, Field(gt=0, le=1000)] | tuple[Part, Part] = Field(24.0, json_schema_extra={"always": True})
    first: Frame
    last: Frame

    @model_validator(mode="after")
    def _in_order(self) -> "Format":
        if self.last < self.first:
            raise ValueError(f"expected last at or after first, got {self.first} to {self.last}")
        if self.last - self.first >= LONGEST:
            raise ValueError(f"expected at most {LONGEST} frames, got {self.first} to {self.last}")
        if self.width * self.height > 400_000_000:
            raise ValueError(f"expected at most 400 million pixels, got {self.width} x {self.height}")
        return self

    @property
    def display(self) -> Window:
        return Window(0, 0, self.width, self.height)

    @property
    def rate(self) -> float:
        """Frames a second."""
        return self.fps[0] / self.fps[1] if isinstance(self.fps, tuple) else float(self.fps)


class ColourSettings(Parameters):
    """Working space and view."""

    working: Working = Field(WORKING, description="the primaries of the light that is worked with: BT.709, or AP1 as in ACEScg")
    view: Literal["srgb", "aces"] = "srgb"


class Shot(Parameters):
    """A whole shot: what the page edits, the store keeps and the command line reads."""

    umbrax: Literal[1] = Field(json_schema_extra={"always": True})
    name: str = Field(min_length=1)
    format: Format
    colour: ColourSettings = Field(default_factory=ColourSettings)
    sources: dict[str, Source] = Field(default_factory=dict)
    mattes: dict[str, AnyMatte] = Field(default_factory=dict)
    camera: Camera = Field(default_factory=Camera)
    build: tuple[Card, ...] = ()

    def cards(self) -> Iterator[Card]:
        """All cards, those inside bundles too, backmost first."""
        for card in self.build:
            yield from card.with_inside()

    def treatment_ids(self) -> list[str]:
        """The ids of all treatments; no two are the same."""
        return [one.id for card in self.cards() for one in card.treatments]

    def card(self, card_id: str) -> Card:
        """The card of an id, inside a bundle too."""
        for card in self.cards():
            if card.id == card_id:
                return card
        raise UmbraxError("unknown-card", unknown("card", card_id, [card.id for card in self.cards()]))

    def path_of(self, card_id: str) -> tuple[str, ...]:
        """Where a card is in the document, for edits."""
        return next(path for path, card in _paths(self.build, ("build",)) if card.id == card_id)

    def matte_name(self, matte_id: str) -> str:
        """What a matte is called: its id where nobody gave it a name, or it is not there (any more)."""
        matte = self.mattes.get(matte_id)
        return matte_id if matte is None else matte.name or matte_id

    def matte(self, wanted: str) -> str:
        """The id of a matte given by id or by shown name."""
        if wanted in self.mattes:
            return wanted
        for matte_id, matte in self.mattes.items():
            if matte.name == wanted:
                return matte_id
        raise UmbraxError("unknown-matte", unknown("matte", wanted, list(self.mattes)))


def _paths(cards: tuple[Card, ...], path: tuple[str, ...]) -> Iterator[tuple[tuple[str, ...], Card]]:
    for card in cards:
        yield (*path, card.id), card
        yield from _paths(card.inside(), (*path, card.id, "picture", "build"))
