"""Shadow: a shadow pass as darkness, colour 0 and alpha 1 - v, joined over.

That equals multiplying an opaque plate, and is right over nothing as well, in transparent hand-offs too. What the pass
holds on the elements themselves is their own shading: it is dropped and replaced from the catcher around them.
"""

from typing import Literal

import numpy as np
from pydantic import Field

from ..kernels.filling import darkness, fill
from ..picture import Picture, Window
from ..plan.steps import Planner, Step, content_key
from .base import PICTURES, PictureKind, PictureParams, alpha_of


class ShadowPicture(PictureParams):
    """A shadow pass, white where light falls, laid down as darkness. A tinted pass counts by its mean."""

    kind: Literal["shadow"]
    source: str
    pass_: str | None = Field(None, alias="pass", title="Pass")


def _build(planner: Planner, params: ShadowPicture, scale: int, join: str) -> Step:
    info = planner.source(params.source)
    found = info.find(params.pass_ or "shadow")
    shadow = planner.read(params.source, found.name, scale)
    alpha = alpha_of(planner, params.source, scale)
    inputs = (shadow,) if alpha is None else (shadow, alpha)
    colours = len(found.channels) - int(found.has_alpha)

    def run(window: Window, given: tuple[Picture, ...]) -> Picture:
        whole = shadow.domain
        value = given[0].crop(whole).pixels[..., :colours]
        if colours > 1:
            value = value.mean(axis=2, keepdims=True, dtype=np.float32)
        if alpha is not None:
            # a pixel the element covers only in part holds some of its shading as well
            known = (given[1].crop(whole).pixels <= 1e-3).astype(np.float32)
            value = fill(value, whole, known)
        return Picture(darkness(value), whole)

    return Step(
        content_key("shadow 1", colours, inputs), "shadow", shadow.domain, 4, inputs,
        lambda _: (shadow.domain,) * len(inputs), run, where=planner.where, whole=True,
    )  # fmt: skip


PICTURES.register(PictureKind("shadow", "Shadow", ShadowPicture, _build, lambda params: (params.source,), lit=False))
