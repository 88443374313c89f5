"""Findings that the shot has dealt with in its build, so that they need not be told any more."""

from collections.abc import Iterable
from typing import Any

from ..pictures.rebuild import RebuildPicture
from .shot import Shot


def open_findings(shot: Shot, findings: Iterable[dict[str, Any]]) -> list[dict[str, Any]]:
    """Findings without those that lights do not add up where every rebuild of the source adds the rest."""
    rebuilt: dict[str, bool] = {}
    for card in shot.cards():
        if isinstance(card.picture, RebuildPicture):
            rest = card.picture.rest
            rebuilt[card.picture.source] = rebuilt.get(card.picture.source, True) and rest is not None and rest.enabled
    return [one for one in findings if not (one["rule"] == "sum-residue" and rebuilt.get(one["source"], False))]
