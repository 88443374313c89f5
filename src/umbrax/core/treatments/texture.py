"""Texture: the surface of something lies on what the card shows, and goes where the card goes."""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field

from ..document.tiling import Tiling
from ..picture import Picture, Window
from ..plan.steps import Step
from .base import TREATMENTS, USUAL_TOLERANCE, Around, Lay, ThroughParams, Treatment

MULTIPLIED = Lay(join="multiply")


class TextureParams(Tiling, ThroughParams):
    """A tiled picture inside the card's alpha, by default multiplied: c x texture."""

    kind: Literal["texture"]
    source: str | None = Field(None, title="Source", description="whose picture; nothing happens without one")
    # null is the default in a document: what replaces its input is laid on it by over
    lay: Annotated[Lay | None, BeforeValidator(lambda value: MULTIPLIED if value is None else value)] = MULTIPLIED


def apply(params: TextureParams, own: Picture, window: Window, scale: int, *, tile: Picture) -> Picture:
    given, texture = own.crop(window).pixels, tile.crop(window).pixels
    pixels = texture * given[..., 3:]
    pixels[..., 3:] = given[..., 3:]
    return Picture(pixels, window, own.edge)


def looks(params: TextureParams, around: Around) -> dict[str, Step]:
    assert params.source is not None
    return {"tile": around.tiled(params.source, params)}


TREATMENTS.register(
    Treatment(
        "texture",
        "Texture",
        "colour",
        TextureParams,
        1,
        apply,
        lambda params: params.source is None,
        lambda params, scale: 0,
        USUAL_TOLERANCE,
        looks=looks,
        needs=lambda params, window, scale: {"tile": window},
        grows=False,
        sources=lambda params: () if params.source is None else (params.source,),
        summary="a tiled picture lies on the surface",
    )
)
