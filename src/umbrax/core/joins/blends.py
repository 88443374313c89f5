"""Joins that blend colours where both pictures are, channel by channel (W3C Compositing and Blending Level 1, 5, 9.1 and 10).

A blend f of the colour below and the one on top, without their alphas, goes into the picture as
(1 - b) A + (1 - a) B + a b f. Where the formula can be had without dividing by alpha, it is.
"""

from collections.abc import Callable
from math import sqrt
from typing import Any

import numpy as np

from ..kernels.pairing import blend_join, pair_join, rule
from .base import JOINS, Join, Purpose

EXACT = "the formula holds for every value"
UNIT = "worked out between 0 and 1: what the picture has beyond stays, what the card has above 1 is added"
Blend = Callable[..., Any]


@rule
def _union(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    """Alpha of everything that either picture covers."""
    shown = opacity * a
    return shown + (np.float32(1.0) - shown) * b


@rule
def _apart(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    """What of both is seen where the other is not."""
    return (np.float32(1.0) - ba) * (opacity * a) + (np.float32(1.0) - opacity * aa) * b


# without dividing by alpha


@rule
def _pair_multiply(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    shown, keep, room = opacity * a, np.float32(1.0) - opacity * aa, np.float32(1.0) - ba
    return shown * b + keep * b + room * shown


@rule
def _pair_screen(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    """Where either un-associated value is above 1 the larger is kept, so brightness never folds back."""
    shown, covered = opacity * a, opacity * aa
    left, right = shown * ba, b * covered
    # light without alpha is brighter than any white: it is the limit of an alpha that goes to 0, and is added
    shared = max(left, right) if shown > covered or b > ba else left + right - shown * b
    return shared + (np.float32(1.0) - ba) * shown + (np.float32(1.0) - covered) * b


@rule
def _pair_darken(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    return _apart(a, aa, b, ba, opacity) + min(opacity * a * ba, b * (opacity * aa))


@rule
def _pair_lighten(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    return _apart(a, aa, b, ba, opacity) + max(opacity * a * ba, b * (opacity * aa))


@rule
def _pair_difference(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    return _apart(a, aa, b, ba, opacity) + abs(opacity * a * ba - b * (opacity * aa))


@rule
def _pair_subtract(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    return _apart(a, aa, b, ba, opacity) + (b * (opacity * aa) - opacity * a * ba)


@rule
def _pair_average(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    return _apart(a, aa, b, ba, opacity) + (b * (opacity * aa) + opacity * a * ba) * np.float32(0.5)


@rule
def _least(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    return b + opacity * (min(a, b) - b)


@rule
def _most(a: Any, aa: Any, b: Any, ba: Any, opacity: Any) -> Any:
    return b + opacity * (max(a, b) - b)


# of colours without their alphas


@rule
def _multiply(below: Any, top: Any) -> Any:
    return below * top


@rule
def _screen(below: Any, top: Any) -> Any:
    return max(below, top) if max(below, top) > np.float32(1.0) else below + top - below * top


@rule
def _darken(below: Any, top: Any) -> Any:
    return min(below, top)


@rule
def _lighten(below: Any, top: Any) -> Any:
    return max(below, top)


@rule
def _difference(below: Any, top: Any) -> Any:
    return abs(below - top)


@rule
def _subtract(below: Any, top: Any) -> Any:
    return below - top


@rule
def _average(below: Any, top: Any) -> Any:
    return (below + top) * np.float32(0.5)


@rule
def _divide(below: Any, top: Any) -> Any:
    return below if top <= np.float32(0.0) else below / max(top, np.float32(1 / 256))


@rule
def _exclusion(below: Any, top: Any) -> Any:
    return below + top - np.float32(2.0) * below * top


@rule
def _hard_light(below: Any, top: Any) -> Any:
    dark = np.float32(2.0) * below * top
    return dark if top <= np.float32(0.5) else np.float32(2.0) * (below + top) - dark - np.float32(1.0)


@rule
def _overlay(below: Any, top: Any) -> Any:
    return _hard_light(top, below)


@rule
def _soft_light(below: Any, top: Any) -> Any:
    one, two, four = np.float32(1.0), np.float32(2.0), np.float32(4.0)
    low = ((np.float32(16.0) * below - np.float32(12.0)) * below + four) * below
    bent = low if below <= np.float32(0.25) else np.float32(sqrt(below))
    lean = two * top - one
    return below + lean * (below * (one - below) if top <= np.float32(0.5) else bent - below)


@rule
def _colour_dodge(below: Any, top: Any) -> Any:
    one, zero = np.float32(1.0), np.float32(0.0)
    room = one - top
    raised = min(one, below / (room if room > zero else one))
    return zero if below <= zero else raised if room > zero else one


@rule
def _colour_burn(below: Any, top: Any) -> Any:
    one, zero = np.float32(1.0), np.float32(0.0)
    lowered = one - min(one, (one - below) / (top if top > zero else one))
    return one if below >= one else lowered if top > zero else zero


def _register(
    kind: str, purpose: Purpose, formula: str, blend: Blend, pair: Blend | None = None, *, outside: str = EXACT, unit: bool = False,
    **more: Any,
) -> None:  # fmt: skip
    linear = blend_join(blend, unit=unit, display=False) if pair is None else pair_join(pair, _union)
    display = blend_join(blend, unit=unit, display=True)
    title = more.pop("title", kind.replace("_", " "))
    JOINS.register(Join(kind, title, purpose, linear, display, formula, outside, lays=True, **more))


_register(
    "multiply", "darken", "A B; outside the card's picture times 1", _multiply, _pair_multiply, keeps_nothing=False,
    outside="a value above 1 brightens; below 0 the formula holds",
)  # fmt: skip
_register("darken", "darken", "min(A, B)", _darken, _pair_darken)
_register("colour_burn", "darken", "1 - (1 - B) / A", _colour_burn, unit=True, usual="display", outside=UNIT, aliases=("color_burn",))
_register("subtract", "darken", "B - A", _subtract, _pair_subtract, outside="the formula holds for every value: what is left may be below 0")
_register("screen", "lighten", "A + B - A B", _screen, _pair_screen, outside="where a value is above 1 the larger is kept")
_register("lighten", "lighten", "max(A, B)", _lighten, _pair_lighten)
_register("colour_dodge", "lighten", "B / (1 - A)", _colour_dodge, unit=True, usual="display", outside=UNIT, aliases=("color_dodge",))
_register("overlay", "contrast", "2 A B where B <= 1/2, else 1 - 2 (1 - A)(1 - B)", _overlay, unit=True, usual="display", outside=UNIT)
_register(
    "soft_light", "contrast", "B + (2 A - 1)(B - B^2) where A <= 1/2, else B + (2 A - 1)(D(B) - B)", _soft_light, unit=True,
    usual="display", outside=UNIT,
)  # fmt: skip
_register("hard_light", "contrast", "2 A B where A <= 1/2, else 1 - 2 (1 - A)(1 - B)", _hard_light, unit=True, usual="display", outside=UNIT)
_register("difference", "compare", "|A - B|", _difference, _pair_difference)
_register("exclusion", "compare", "A + B - 2 A B", _exclusion, unit=True, outside=UNIT)
_register(
    "divide", "compare", "B / A", _divide,
    outside="a divisor below 1/256 counts as that; one of 0 or below leaves the picture as it is",
)  # fmt: skip
_register("average", "compare", "(A + B) / 2", _average, _pair_average)


def _register_plain(kind: str, purpose: Purpose, title: str, formula: str, rule_of: Blend) -> None:
    JOINS.register(Join(kind, title, purpose, pair_join(rule_of, rule_of, keeps=False), None, formula, EXACT, keeps_nothing=False))


_register_plain("min", "darken", "smaller, alpha too", "B + o (min(A, B) - B), alpha the same", _least)
_register_plain("max", "lighten", "larger, alpha too", "B + o (max(A, B) - B), alpha the same", _most)
