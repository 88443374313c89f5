"""What can be done to what is touched, drawn from what treatments declare."""

from ..document.cards import Card
from ..treatments import TREATMENTS, WISHES, Treatment


def at_touch(card: Card | None, has_depth: bool = True) -> list[Treatment]:
    """Treatments that are offered where a card is touched, by what people want of them and the most usual first; on none, none.

    Those that take how far away it is only where something tells.
    """
    if card is None:
        return []
    offered = [(one.touch, one) for one in TREATMENTS if one.touch is not None and not (card.treat and one.elements_only)]
    offered = [(touch, one) for touch, one in offered if has_depth or touch.takes != "depth"]
    return [one for _, one in sorted(offered, key=lambda pair: (WISHES.index(pair[0].wish), pair[0].rank))]
