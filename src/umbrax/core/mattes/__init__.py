"""One file a kind of matte; `refining` and `base` are what they share."""

from . import alpha, channel, combined, depth, ids, index, key, shape
from .base import MATTES, MatteKind, MatteParams, Refine

__all__ = ["MATTES", "MatteKind", "MatteParams", "Refine", "alpha", "channel", "combined", "depth", "ids", "index", "key", "shape"]
