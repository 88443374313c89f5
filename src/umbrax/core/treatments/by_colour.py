"""What treatments that give each pixel another colour have in common; no treatment itself."""

from collections.abc import Callable
from typing import Any

from ..picture import Picture, Window
from .base import TREATMENTS, USUAL_TOLERANCE, ThroughParams, Treatment

Mixed = Callable[[Any, Picture, Picture | None, Window, int], Picture]


def colour_treatment(
    kind: str, title: str, params: type[ThroughParams], mixed: Mixed, neutral: Callable[[Any], bool], summary: str, **more: Any
) -> None:
    """Register a pointwise treatment of the colour stage; `mixed` limits it by a matte and its amount in the same pass."""

    def apply(settings: Any, own: Picture, window: Window, scale: int) -> Picture:
        return mixed(settings.model_copy(update={"amount": 1.0}), own, None, window, scale)

    TREATMENTS.register(
        Treatment(
            kind, title, "colour", params, 1, apply, neutral, lambda given, scale: 0, USUAL_TOLERANCE, grows=False, mixed=mixed,
            summary=summary, **more,
        )
    )  # fmt: skip
