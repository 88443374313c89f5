"""One file a family of pictures that an element card can show."""

from . import designed, passes, rebuild, shadow, text, texture
from .base import PICTURES, PictureKind, PictureParams

__all__ = ["PICTURES", "PictureKind", "PictureParams", "designed", "passes", "rebuild", "shadow", "text", "texture"]
