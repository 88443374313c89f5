"""Deleting a matte with what uses it: the edits, and in words what goes with it."""

from dataclasses import dataclass

from ..mattes import MATTES
from .edits import Edit, RemoveItem, SetValue
from .references import treatment_mattes
from .shot import Shot


@dataclass(frozen=True)
class Removal:
    """Edits that leave no reference to a matte behind; `with_it` names what is deleted or changed besides."""

    edits: tuple[Edit, ...]
    with_it: tuple[str, ...]


def matte_removal(shot: Shot, matte_id: str) -> Removal:
    """Delete a matte, the mattes combined of it, the treatments through any of them, and their cuts."""
    gone = [shot.matte(matte_id)]
    for name in gone:
        gone += [other for other, params in shot.mattes.items() if name in MATTES.get(params.kind).uses(params) and other not in gone]
    edits: list[Edit] = []
    with_it = [f"matte {shot.mattes[name].name or name}" for name in gone[1:]]
    for card in shot.cards():
        path = shot.path_of(card.id)
        for treatment in card.treatments:
            if set(treatment_mattes(treatment)) & set(gone):
                edits.append(RemoveItem(op="remove", path=(*path, "treatments", treatment.id)))
                with_it.append(f"{treatment.name or treatment.kind} of card {card.shown_name}")
        kept = [
            reference.model_dump(mode="json", by_alias=True, exclude_defaults=True) for reference in card.cut if reference.matte not in gone
        ]
        if len(kept) < len(card.cut):
            edits.append(SetValue(op="set", path=(*path, "cut"), value=kept or None))
            with_it.append(f"the cut of card {card.shown_name}")
    # combined mattes go before what they are made of, so that each step could stand alone
    edits += [RemoveItem(op="remove", path=("mattes", name)) for name in reversed(gone)]
    return Removal(tuple(edits), tuple(with_it))
