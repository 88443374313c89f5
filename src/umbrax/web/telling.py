"""What is said to people, without where this computer keeps its files: a path begins at its folder's name."""

from pathlib import Path
from typing import Any

from umbrax.core.errors import UmbraxError

from .state import state


def told_of(error: UmbraxError) -> dict[str, Any]:
    """What a machine is told of an error."""
    told = error.payload()
    told["message"] = without_folders(told["message"])
    if told["file"]:
        told["file"] = Path(told["file"]).name
    return told


def without_folders(text: str) -> str:
    """A sentence in which every path begins at the media folder, or the folder of state, that it lies in."""
    for folder in sorted(map(str, state().known_folders()), key=len, reverse=True):
        text = text.replace(folder, Path(folder).name)
    return text
