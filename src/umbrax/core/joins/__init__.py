"""How a card meets the picture so far: joins by family, and the registry that finds them."""

from . import blends, hues, porter_duff
from .base import JOINS, PURPOSES, BlendIn, Join, join, laid, laid_as_second, opaque

__all__ = ["JOINS", "PURPOSES", "BlendIn", "Join", "blends", "hues", "join", "laid", "laid_as_second", "opaque", "porter_duff"]
