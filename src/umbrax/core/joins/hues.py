"""Joins that take hue, saturation or brightness from either picture (W3C Compositing and Blending Level 1, 9.2)."""

from typing import Any

import numpy as np

from ..kernels.pairing import colour_join, rule
from .base import JOINS, Join

OUTSIDE = "negatives count as 0 and stay; what is brighter than 1 is scaled to fit and back"


@rule
def _lum(r: Any, g: Any, b: Any) -> Any:
    """The specification's own weights."""
    return np.float32(0.3) * r + np.float32(0.59) * g + np.float32(0.11) * b


@rule
def _sat(r: Any, g: Any, b: Any) -> Any:
    return max(max(r, g), b) - min(min(r, g), b)


@rule
def _with_lum(r: Any, g: Any, b: Any, lum: Any) -> Any:
    """A colour moved along grey to a brightness, then towards its grey until it lies within 0 and 1."""
    one = np.float32(1.0)
    grey, tiny = _lum(r, g, b), np.float32(1e-12)
    low, high = min(min(r, g), b) - grey, max(max(r, g), b) - grey
    k = min(one, min(lum / max(-low, tiny), (one - lum) / max(high, tiny)))
    return lum + (r - grey) * k, lum + (g - grey) * k, lum + (b - grey) * k


@rule
def _with_sat(r: Any, g: Any, b: Any, sat: Any) -> Any:
    low, span = min(min(r, g), b), _sat(r, g, b)
    k = sat / max(span, np.float32(1e-12))  # of grey nothing is left either way
    return (r - low) * k, (g - low) * k, (b - low) * k


@rule
def _hue(r: Any, g: Any, b: Any, red: Any, green: Any, blue: Any) -> Any:
    one, two, three = _with_sat(red, green, blue, _sat(r, g, b))
    return _with_lum(one, two, three, _lum(r, g, b))


@rule
def _saturation(r: Any, g: Any, b: Any, red: Any, green: Any, blue: Any) -> Any:
    one, two, three = _with_sat(r, g, b, _sat(red, green, blue))
    return _with_lum(one, two, three, _lum(r, g, b))


@rule
def _colour(r: Any, g: Any, b: Any, red: Any, green: Any, blue: Any) -> Any:
    return _with_lum(red, green, blue, _lum(r, g, b))


@rule
def _luminosity(r: Any, g: Any, b: Any, red: Any, green: Any, blue: Any) -> Any:
    return _with_lum(r, g, b, _lum(red, green, blue))


def _register(kind: str, formula: str, blend: Any, *aliases: str) -> None:
    linear, display = colour_join(blend, display=False), colour_join(blend, display=True)
    JOINS.register(Join(kind, kind, "colour", linear, display, formula, OUTSIDE, lays=True, aliases=aliases))


_register("hue", "the card's hue; saturation and brightness of the picture", _hue)
_register("saturation", "the card's saturation; hue and brightness of the picture", _saturation)
_register("colour", "the card's hue and saturation; brightness of the picture", _colour, "color")
_register("luminosity", "the card's brightness; hue and saturation of the picture", _luminosity)
