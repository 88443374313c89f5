"""Whether an edit changed what a document refers to: most change numbers, and need not be checked for that."""

from typing import Any

from .cards import Card
from .references import card_references, card_sources, treatment_card
from .shot import Shot


def refers_as(shot: Shot, known: Shot) -> bool:
    """Whether a document refers to what another one, which was checked, refers to. Parts that they have in common are the same objects."""
    if len(shot.build) != len(known.build) or list(shot.sources) != list(known.sources) or list(shot.mattes) != list(known.mattes):
        return False
    mattes = all(one is known.mattes[name] for name, one in shot.mattes.items())
    return mattes and all(one is other or _ties(one) == _ties(other) for one, other in zip(shot.build, known.build, strict=True))


def _ties(card: Card) -> list[Any]:
    """What a card and all that lies in it are called, and what they refer to."""
    return [
        (
            one.id, one.treat, one.follow, len(one.inside()), [tuck.card for tuck in one.tuck], list(card_sources(one)),
            list(card_references(one)), [(treatment.id, treatment_card(treatment)) for treatment in one.treatments],
        )
        for one in card.with_inside()
    ]  # fmt: skip
