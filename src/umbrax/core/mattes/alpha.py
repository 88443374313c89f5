"""Mattes by alpha: everything that a source, or an element as its card makes it, shows."""

from typing import Literal

import numpy as np
from pydantic import Field, model_validator

from ..errors import UmbraxError
from ..picture import Edge, Picture
from ..pictures.base import alpha_of
from ..plan.steps import Planner, Step, pointwise
from .base import MATTES, MatteKind, MatteParams
from .membership import edge_of


class AlphaMatte(MatteParams):
    """The alpha of a pass, by default of the source's beauty; or that of an element card's picture, cut and treated."""

    kind: Literal["alpha"]
    source: str | None = None
    pass_: str | None = Field(None, alias="pass")
    card: str | None = None

    @model_validator(mode="after")
    def _one_of_both(self) -> "AlphaMatte":
        if (self.source is None) == (self.card is None):
            raise ValueError("expected a source or a card, and not both")
        return self


def _planes(planner: Planner, params: AlphaMatte, matte_id: str) -> Step:
    if params.card is not None:
        return _of_alpha(planner, planner.element_alpha(params.card), "empty")
    assert params.source is not None
    info = planner.source(params.source)
    found = info.find(params.pass_ or "beauty")
    alpha = alpha_of(planner, params.source, 1, params.pass_)
    if alpha is None:
        raise UmbraxError("no-alpha", f"matte {matte_id!r}: {params.source!r} has no alpha; take it from another pass")
    return _of_alpha(planner, alpha, edge_of(found, info))


def _of_alpha(planner: Planner, alpha: Step, edge: Edge) -> Step:
    def compute(given: tuple[Picture, ...]) -> np.ndarray:
        a = np.clip(np.nan_to_num(given[0].pixels), 0, 1)
        return np.concatenate([a, (a > 0).astype(np.float32), a], axis=2)

    return pointwise("alpha matte 1", None, [alpha], compute, channels=3, edge=edge, domain=alpha.domain, where=planner.where)


def _sources(params: AlphaMatte) -> tuple[str, ...]:
    return () if params.source is None else (params.source,)


def _cards(params: AlphaMatte) -> tuple[str, ...]:
    return () if params.card is None else (params.card,)


MATTES.register(MatteKind("alpha", "Alpha", AlphaMatte, _planes, lambda _: (), _sources, cards=_cards))
