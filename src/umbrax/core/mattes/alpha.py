"""Mattes by alpha: everything that a source shows."""

from typing import Literal

import numpy as np
from pydantic import Field

from ..errors import UmbraxError
from ..picture import Picture
from ..pictures.base import alpha_of
from ..steps import Planner, Step, pointwise
from .base import MATTES, MatteKind, MatteParams
from .membership import edge_of


class AlphaMatte(MatteParams):
    """The alpha of a pass, by default of the source's beauty."""

    kind: Literal["alpha"]
    source: str
    pass_: str | None = Field(None, alias="pass")


def _planes(planner: Planner, params: AlphaMatte, matte_id: str) -> Step:
    info = planner.source(params.source)
    alpha = alpha_of(planner, params.source, 1, params.pass_)
    if alpha is None:
        raise UmbraxError("no-alpha", f"matte {matte_id!r}: {params.source!r} has no alpha; take it from another pass")

    def compute(given: tuple[Picture, ...]) -> np.ndarray:
        a = np.clip(np.nan_to_num(given[0].pixels), 0, 1)
        return np.concatenate([a, (a > 0).astype(np.float32), a], axis=2)

    edge = edge_of(info.find(params.pass_ or "beauty"), info)
    return pointwise("alpha matte 1", None, [alpha], compute, channels=3, edge=edge, domain=alpha.domain, where=planner.where)


MATTES.register(MatteKind("alpha", "Alpha", AlphaMatte, _planes, lambda _: (), lambda params: (params.source,)))
