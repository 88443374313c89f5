"""Joins by how much of each picture is seen (T. Porter and T. Duff, Compositing Digital Images, 1984)."""

from typing import Any

import numpy as np

from ..kernels.joining import rule
from .base import JOINS, Join


@rule
def _over(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    return opacity * a + (np.float32(1.0) - opacity * aa) * b


@rule
def _under(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    return b + ((np.float32(1.0) - ba) * opacity) * a


@rule
def _plus(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    return opacity * a + b


@rule
def _limited(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    """Alpha of a sum: at most 1, or what it was if above; light itself is not limited."""
    return max(min(opacity * a + b, np.float32(1.0)), b)


JOINS.register(Join("over", "over", _over, _over, "o A + (1 - o a) B", lays=True))
JOINS.register(Join("under", "under", _under, _under, "B + (1 - b) o A"))
JOINS.register(Join("plus", "add", _plus, _limited, "o A + B", lays=True, aliases=("add",)))
