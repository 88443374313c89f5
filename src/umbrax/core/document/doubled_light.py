"""Light that a card adds once more to what shows it already."""

from collections.abc import Callable

from ..pictures.passes import PassPicture
from ..pictures.rebuild import RebuildPicture, all_lights, light_passes
from ..plan.reader import LIT, FrameInfo
from ..treatments.base import SpreadParams
from .cards import Card
from .shot import Shot

ADDING = ("plus", "screen")


def spreads_with_source(card: Card) -> bool:
    """Whether it adds light that it spreads together with what that comes from."""
    lights = (one for one in card.treatments if isinstance(one, SpreadParams))
    return card.join in ADDING and any(one.enabled and one.amount != 0 and one.output == "with_source" for one in lights)


def doubled_by(shot: Shot, card_id: str, info_of: Callable[[str], FrameInfo]) -> Card | None:
    """The frontmost card behind one that `spreads_with_source` whose picture holds some of the same light: there it shows twice.

    `info_of(source)`: what a source holds.
    """
    cards = list(shot.cards())
    at = next(index for index, card in enumerate(cards) if card.id == card_id)
    if not spreads_with_source(cards[at]) or not (added := _lights_in(cards[at], info_of)):
        return None
    shown = (card for card in reversed(cards[:at]) if card.enabled and card.opacity != 0)
    return next((card for card in shown if added & _lights_in(card, info_of)), None)


def _lights_in(card: Card, info_of: Callable[[str], FrameInfo]) -> set[tuple[str, str]]:
    """The passes of light that its picture shows: (source, pass). The beauty holds all that its source has."""
    picture = card.picture
    if isinstance(picture, PassPicture) and picture.channel is None:
        info = info_of(picture.source)
        found = info.find(picture.pass_) if info.has(picture.pass_) else None
        if found is None or found.kind not in LIT:
            return set()
        names = [found.name, *(light_passes(info) if found.kind == "beauty" else [])]
    elif isinstance(picture, RebuildPicture):
        info = info_of(picture.source)
        lit = {name for name, light in picture.lights.items() if light.enabled and light.gain != 0 and info.has(name)}
        names = [info.find(name).name for name in lit] if picture.lights else all_lights(info)
    else:
        return set()
    return {(picture.source, name) for name in names}
