"""What treatments that give each pixel another colour have in common; no treatment itself."""

from collections.abc import Callable
from typing import Any

from ..kernels.colouring import Recolouring
from ..picture import Picture, Window
from .base import TREATMENTS, USUAL_TOLERANCE, ThroughParams, Treatment

Mixed = Callable[..., Picture]


def by_rows(rows_of: Callable[[Any], Recolouring], settings_of: Callable[..., Any]) -> Mixed:
    """`mixed` of a treatment whose loop of `kernels.colouring`, and the settings of that, follow from its parameters."""

    def mixed(params: Any, own: Picture, weight: Picture | None, window: Window, scale: int, **known: Any) -> Picture:
        given = None if weight is None else weight.crop(window).pixels
        return Picture(rows_of(params)(own.crop(window).pixels, settings_of(params, **known), given, params.amount), window, own.edge)

    return mixed


def colour_treatment(
    kind: str, title: str, params: type[ThroughParams], mixed: Mixed, neutral: Callable[[Any], bool], summary: str, **more: Any
) -> None:
    """Register a pointwise treatment of the colour stage; `mixed` limits it by a matte and its amount in the same pass."""

    def apply(settings: Any, own: Picture, window: Window, scale: int, **known: Any) -> Picture:
        return mixed(settings.model_copy(update={"amount": 1.0}), own, None, window, scale, **known)

    TREATMENTS.register(
        Treatment(
            kind, title, "colour", params, 1, apply, neutral, lambda given, scale: 0, USUAL_TOLERANCE, grows=False, mixed=mixed,
            summary=summary, **more,
        )
    )  # fmt: skip
