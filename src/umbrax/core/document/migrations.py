"""Forward migrations of the shot document: each takes plain data of one version to the next."""

from collections.abc import Callable
from typing import Any

from ..errors import UmbraxError

VERSION = 1
Data = dict[str, Any]


def _0_to_1(data: Data) -> Data:
    """Version 0 kept the build under `cards` and named the frame range `range`."""
    result = dict(data)
    if "cards" in result:
        result["build"] = result.pop("cards")
    layout = dict(result.get("format", {}))
    if "range" in layout:
        layout["first"], layout["last"] = layout.pop("range")
    result["format"] = layout
    return result | {"umbrax": 1}


STEPS: dict[int, Callable[[Data], Data]] = {0: _0_to_1}


def migrate(data: Data) -> Data:
    """The document brought to the version this program writes; newer ones are refused."""
    version = data.get("umbrax")
    if not isinstance(version, int) or isinstance(version, bool) or version < 0:
        raise UmbraxError("bad-version", f'expected "umbrax" to be a version number up to {VERSION}, got {version!r}')
    if version > VERSION:
        raise UmbraxError("newer", f"document version {version} is newer than {VERSION}; open it with a newer Umbrax")
    while version < VERSION:
        data = STEPS[version](data)
        version = data["umbrax"]
    return data
