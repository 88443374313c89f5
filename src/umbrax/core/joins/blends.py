"""Joins that blend colours where both pictures are (W3C Compositing and Blending Level 1, 5 and 10)."""

from typing import Any

import numpy as np

from ..kernels.joining import rule
from .base import JOINS, Join


@rule
def _union(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    """Alpha of everything that either picture covers."""
    shown = opacity * a
    return shown + (np.float32(1.0) - shown) * b


@rule
def _multiply(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    shown, keep, room = opacity * a, np.float32(1.0) - opacity * aa, np.float32(1.0) - ba
    return shown * b + keep * b + room * shown


@rule
def _screen(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    """Where either un-associated value is above 1 the larger is kept, so brightness never folds back."""
    shown, covered = opacity * a, opacity * aa
    left, right = shown * ba, b * covered
    # light without alpha is brighter than any white: it is the limit of an alpha that goes to 0, and is added
    shared = max(left, right) if shown > covered or b > ba else left + right - shown * b
    return shared + (np.float32(1.0) - ba) * shown + (np.float32(1.0) - covered) * b


JOINS.register(Join("multiply", "multiply", _multiply, _union, "A B + (1 - a) B + (1 - b) A", keeps_nothing=False))
JOINS.register(Join("screen", "screen", _screen, _union, "A + B - A B; where a value is above 1 the larger is kept", lays=True))
