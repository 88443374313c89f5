"""Shadow: a shadow pass laid down as darkness, with an alpha of how much of the light is taken away.

Joined over, that equals multiplying an opaque plate, and is right over nothing as well, in transparent hand-offs too. What the pass
holds on the elements themselves is their own shading: it is dropped and replaced from the catcher around them. Colour treatments
work on the pass, white where light falls; what is limited, cut, softened and placed is the darkness.
"""

from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..document.parameters import colour
from ..document.timing import Colour
from ..kernels.filling import darkness, fill
from ..picture import Picture, Window
from ..plan.steps import Planner, Step, content_key, pointwise
from .base import PICTURES, PictureKind, PictureParams, alpha_of


class ShadowPicture(PictureParams):
    """A shadow pass, white where light falls, laid down as darkness. Joined by multiply it darkens each colour by itself; joined over
    a coloured pass counts by its mean."""

    kind: Literal["shadow"]
    source: str
    pass_: str | None = Field(None, alias="pass", title="Pass")
    tint: Colour = colour((0.0, 0.0, 0.0), "Tint")


def _build(planner: Planner, params: ShadowPicture, scale: int, join: str) -> Step:
    """The pass as an opaque picture, 1 outside, with what surrounds them on the elements."""
    info = planner.source(params.source)
    found = info.find(params.pass_ or "shadow")
    shadow = planner.read(params.source, found.name, scale)
    alpha = alpha_of(planner, params.source, scale)
    inputs = (shadow,) if alpha is None else (shadow, alpha)
    colours = 3 if len(found.channels) - int(found.has_alpha) >= 3 else 1

    def run(window: Window, given: tuple[Picture, ...]) -> Picture:
        whole = shadow.domain
        value = given[0].crop(whole).pixels[..., :colours]
        if alpha is not None:
            # a pixel the element covers only in part holds some of its shading as well
            known = (given[1].crop(whole).pixels <= 1e-3).astype(np.float32)
            value = fill(value, whole, known)
        return Picture(np.concatenate([value] * (3 // colours) + [np.ones_like(value[..., :1])], axis=2), whole, "one")

    return Step(
        content_key("shadow 2", colours, inputs), "shadow", shadow.domain, 4, inputs,
        lambda _: (shadow.domain,) * len(inputs), run, "one", planner.where, whole=True,
    )  # fmt: skip


def _laid_down(planner: Planner, params: ShadowPicture, own: Step, join: str) -> Step:
    """The darkness of a pass that was treated."""
    tint, apart = np.array(params.tint, np.float32), join == "multiply"

    def compute(given: tuple[Picture, ...]) -> Any:
        return darkness(given[0].pixels, tint, apart)

    return pointwise("darkness 1", [tint.tolist(), apart], [own], compute, channels=4, edge="empty", domain=own.domain, where=planner.where)


PICTURES.register(PictureKind("shadow", "Shadow", ShadowPicture, _build, lambda params: (params.source,), lit=False, laid_down=_laid_down))
