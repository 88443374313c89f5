"""Whether an edit changed what a document refers to: most change numbers, and need not be checked for that."""

from typing import Any

from ..treatments import TREATMENTS
from ..treatments.base import TreatmentParams
from .cards import Card
from .references import treatment_card, treatment_references
from .shot import Shot


def refers_as(shot: Shot, known: Shot) -> bool:
    """Whether a document refers to what another one, which was checked, refers to; False where it takes long to tell. Parts that they have in
    common are the same objects."""
    if len(shot.build) != len(known.build) or list(shot.sources) != list(known.sources) or list(shot.mattes) != list(known.mattes):
        return False
    mattes = all(one is known.mattes[name] for name, one in shot.mattes.items())
    return mattes and all(one is other or _card_refers_as(one, other) for one, other in zip(shot.build, known.build, strict=True))


def _card_refers_as(card: Card, known: Card) -> bool:
    told, before = ((one.id, one.treat, one.follow, one.cut, one.tuck, one.picture, len(one.treatments)) for one in (card, known))
    pairs = zip(card.treatments, known.treatments, strict=False)
    return told == before and all(one is other or _ties(one) == _ties(other) for one, other in pairs)


def _ties(treatment: TreatmentParams) -> list[Any]:
    """What a treatment is called, and what it refers to."""
    sources = TREATMENTS.get(treatment.kind).sources(treatment)
    return [treatment.id, sources, treatment_card(treatment), treatment_references(treatment)]
