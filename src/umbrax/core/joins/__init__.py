"""How a card meets the picture so far: joins by family, and the registry that finds them."""

from . import blends, porter_duff
from .base import JOINS, Join, join, laid

__all__ = ["JOINS", "Join", "blends", "join", "laid", "porter_duff"]
