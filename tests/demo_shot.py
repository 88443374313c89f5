"""The demo's first shot without its balloon and without what a lens does: one graded render over a plate, as many tests want it."""

from typing import Any

from umbrax.core.document.edits import plain_data
from umbrax.core.document.shot import Shot
from umbrax.core.document.text import read_data


def without_balloon(document: dict[str, Any]) -> dict[str, Any]:
    """The same document without the balloon's card, its source, and the matte that it is tucked behind; the station is only graded."""
    cards = [card for card in document["build"] if card["id"] != "balloon"]
    graded = [one for card in cards if card["id"] == "station" for one in card["treatments"] if one["kind"] == "grade"]
    return document | {
        "sources": {name: source for name, source in document["sources"].items() if name != "balloon"},
        "mattes": {name: matte for name, matte in document["mattes"].items() if name != "nearer masts"},
        "build": [card | {"treatments": graded} if card["id"] == "station" else card for card in cards],
        "camera": {},
    }


def plain_shot(shot: Shot) -> Shot:
    return read_data(without_balloon(plain_data(shot)))
