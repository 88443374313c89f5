"""Examining passes: what was measured, where, how bad, what to do. Findings never block the work."""

from . import constant, depth, ids, kinds, light, mattes, sequence, sums  # noqa: F401
from .base import RULES, Examined, Finding, Raw, RawReader
from .examine import Examination, examine, worst_first
from .sums import LightSum, light_sum
from .versions import compare
from .where import SHOWN, where

__all__ = [
    "RULES", "SHOWN", "Examination", "Examined", "Finding", "LightSum", "Raw", "RawReader", "compare", "examine", "light_sum", "where",
    "worst_first",
]  # fmt: skip
