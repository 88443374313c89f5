"""A card held behind mattes of what lies below it, as a document says it."""

from typing import Annotated

from pydantic import Field, model_validator

from .parameters import MatteReference, Parameters


class Tuck(Parameters):
    """Behind what a matte covers, on the frames from first to last; without frames on all."""

    behind: MatteReference
    card: str = Field(min_length=1, description="the card whose picture shows what it is behind")
    frames: Annotated[tuple[int, int], Field(title="Frames")] | None = None

    @model_validator(mode="after")
    def _in_order(self) -> "Tuck":
        if self.frames is not None and self.frames[1] < self.frames[0]:
            raise ValueError(f"expected frames from first to last, got {self.frames[0]} to {self.frames[1]}")
        return self

    def holds(self, frame: int) -> bool:
        return self.frames is None or self.frames[0] <= frame <= self.frames[1]
