"""Where a shot's pixels come from, and how each pass is read."""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field, model_validator

from ..plan.reader import KINDS
from ..registry import unknown
from .parameters import Parameters


def _pass_kind(value: str) -> str:
    if value not in KINDS:
        raise ValueError(unknown("pass kind", value, list(KINDS)))
    return value


class PassSetting(Parameters):
    """How a pass is read where the file misleads; what is not set is read as it is."""

    kind: Annotated[str, BeforeValidator(_pass_kind), Field(json_schema_extra={"enum": list(KINDS)})] | None = None
    alpha: str | None = Field(None, description="the pass whose alpha it takes")
    polarity: Literal["light", "shadow", "taken"] = Field("light", description="what white means in a shadow pass")
    repair: bool = Field(False, description="impossible pixels are taken from their neighbours")
    round: bool = Field(False, description="an index between whole numbers takes the commonest one around it")
    association: Literal["file", "multiply", "as_is"] = Field("file", description="whether colours are multiplied by alpha on reading")
    black: float = Field(0.0, ge=-1, lt=1)
    white: float = Field(1.0, gt=0, le=1000)
    shift: tuple[float, float] = Field((0.0, 0.0), description="pixels to the right and down by which it is moved")
    snap: bool = Field(False, description="a depth between near and far at an edge takes the nearer of the two")
    ray_focal: float | None = Field(None, gt=0, description="depth is along the ray; the focal length in pixels turns it to the axis")

    @model_validator(mode="after")
    def _in_order(self) -> "PassSetting":
        if self.white <= self.black:
            raise ValueError(f"expected white above black, got {self.black} and {self.white}")
        if max(abs(by) for by in self.shift) > 64:
            raise ValueError(f"expected a shift of at most 64 pixels, got {self.shift}")
        return self


class Backdrop(Parameters):
    """What was rendered in behind the objects is taken out on reading, and alpha is what the objects cover."""

    layer: str = Field(min_length=1, description="the ID layer whose objects stay")
    clean: str | None = Field(None, description="a pass that shows the backdrop alone; else it is spread inward from around the rims")


class Attached(Parameters):
    """A file, sequence or movie whose passes belong to a source although they came by themselves."""

    path: str = Field(min_length=1)
    offset: int = Field(0, description="the source's file frame = its own frame + offset")


class Source(Parameters):
    """An imported still, sequence or movie: `{frame:04d}` in the path stands for the file's frame number."""

    path: str = Field(min_length=1)
    colour: Literal[
        "auto", "lin_rec709", "lin_ap1", "lin_ap0", "lin_rec2020", "lin_p3d65", "srgb_tx", "display", "film_log", "pq", "hlg", "raw"
    ] = "auto"
    offset: int = Field(0, description="shot frame = file frame + offset")
    missing: Literal["error", "hold"] = "error"
    backdrop: Backdrop | None = None
    id_layers: tuple[str, ...] = Field((), description="names of ID layers whose channels are there but not named in the metadata")
    attached: dict[str, Attached] = Field(default_factory=dict, description="files whose passes belong to it, by the names they go by")
    passes: dict[str, PassSetting] = Field(default_factory=dict, description="settings of passes that are not read as they are")
