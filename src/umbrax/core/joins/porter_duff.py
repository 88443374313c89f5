"""Joins by how much of each picture is seen (T. Porter and T. Duff, Compositing Digital Images, 1984)."""

from typing import Any

import numpy as np

from ..kernels.pairing import pair_join, rule
from .base import JOINS, Join

ANY = "kept as it is"


@rule
def _over(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    return opacity * a + (np.float32(1.0) - opacity * aa) * b


@rule
def _under(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    return b + ((np.float32(1.0) - ba) * opacity) * a


@rule
def _in(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    return (np.float32(1.0) - opacity) * b + opacity * a * ba


@rule
def _out(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    return (np.float32(1.0) - opacity) * b + opacity * a * (np.float32(1.0) - ba)


@rule
def _atop(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    return opacity * a * ba + (np.float32(1.0) - opacity * aa) * b


@rule
def _same(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    return b


@rule
def _xor(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    return opacity * a * (np.float32(1.0) - ba) + (np.float32(1.0) - opacity * aa) * b


@rule
def _plus(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    return opacity * a + b


@rule
def _limited(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    """Alpha of a sum: at most 1, or what it was if above; light itself is not limited."""
    return max(min(opacity * a + b, np.float32(1.0)), b)


def _register(kind: str, title: str, formula: str, value: Any, alpha: Any = None, keeps: bool = True, **more: Any) -> None:
    loop = pair_join(value, alpha or value, keeps=keeps)
    JOINS.register(Join(kind, title, more.pop("purpose", "place"), loop, None, formula, ANY, **more))


_register("over", "over", "o A + (1 - o a) B", _over, lays=True)
_register("under", "under", "B + (1 - b) o A", _under)
_register("in", "in: only where there is a picture", "o b A + (1 - o) B", _in, keeps=False, keeps_nothing=False, edge_follows_top=False)
_register("out", "out: only where there is none", "o (1 - b) A + (1 - o) B", _out, keeps=False, edge_follows_top=False)
_register("atop", "atop: over, only where there is a picture", "o b A + (1 - o a) B; alpha stays", _atop, _same, keeps_nothing=False)
_register("xor", "either: where only one of them is", "o (1 - b) A + (1 - o a) B", _xor)
_register("plus", "add", "o A + B", _plus, _limited, purpose="lighten", lays=True, aliases=("add",))
