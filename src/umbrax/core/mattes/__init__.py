"""One file a kind of matte; `refining` and `base` are what they share."""

from . import combined, ids
from .base import MATTES, MatteKind, MatteParams, Refine

__all__ = ["MATTES", "MatteKind", "MatteParams", "Refine", "combined", "ids"]
