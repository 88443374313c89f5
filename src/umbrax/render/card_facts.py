"""What a card does to the picture: what the lights of a rebuild leave, what a shadow falls on, and whose light it adds once more."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from umbrax.core.document.cards import Card
from umbrax.core.document.doubled_light import doubled_by
from umbrax.core.document.edits import SetValue, apply
from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError
from umbrax.core.pictures.passes import PassPicture
from umbrax.core.pictures.rebuild import RebuildPicture, residue
from umbrax.core.pictures.shadow import ShadowPicture
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner

from .engine import Engine, Want

SHADOW_SCALE = 4
DARKER = 1 / 256  # what a shadow must change of a value of 1 to be seen

Watch = Callable[[], None]


@dataclass(frozen=True)
class ResidueTold:
    """Of the beauty less the lights: the largest and the mean of its absolute values, and that mean to the mean of the beauty."""

    largest: float
    mean: float
    share: float


def residue_told(engine: Engine, shot: Shot, roots: list[Path], frame: int, card: Card, watch: Watch) -> ResidueTold | None:
    """None where the card is no rebuild, or its source has no beauty."""
    if not isinstance(card.picture, RebuildPicture):
        return None
    planner, display = ShotPlanner(shot, frame, engine.reader(shot, roots)), shot.format.display
    step = residue(planner, card.picture, 1)
    if step is None:
        return None
    left = np.abs(evaluate(step, display, engine.cache, watch=watch).pixels)
    beauty = planner.read(card.picture.source, planner.source(card.picture.source).find("beauty").name, 1)
    whole = float(np.abs(evaluate(beauty, display, engine.cache, watch=watch).pixels[..., :3]).mean())
    mean = float(left.mean())
    return ResidueTold(float(left.max(initial=0)), mean, mean / whole if whole > 0 else 0.0)


@dataclass(frozen=True)
class ShadowTold:
    """Parts of the frame, 0..1: that the pass darkens by itself, that the card draws of it, and that end up darker in the picture.

    `behind` is the card that hides all of it, where one does.
    """

    in_pass: float
    drawn: float
    falls: float
    behind: str | None = None


def shadow_told(engine: Engine, shot: Shot, roots: list[Path], frame: int, card: Card, watch: Watch) -> ShadowTold | None:
    """None where the card is not there to darken: neither a shadow picture nor a pass laid on by multiply.

    Its picture is looked at by itself, and the shot with it and without.
    """
    picture = card.picture
    if not (isinstance(picture, ShadowPicture) or (isinstance(picture, PassPicture) and card.join == "multiply")):
        return None
    off = apply(shot, [SetValue(op="set", path=(*shot.path_of(card.id), "enabled"), value=False)])

    def seen(of: Shot, want: Want) -> np.ndarray:
        return engine.make(of, roots, frame, want, scale=SHADOW_SCALE, watch=watch, keep_going=True).picture.pixels

    def darkened(upto: str | None) -> float:
        want = Want("picture", card=upto)
        return _share(np.abs(seen(shot, want) - seen(off, want)).max(axis=2))

    name = engine.reader(shot, roots).describe(picture.source, frame).find(picture.pass_ or "shadow").name
    in_pass = _share(1 - seen(shot, Want("pass", source=picture.source, name=name))[..., :3].min(axis=2))
    own = seen(shot, Want("card", card=card.id))
    drawn = _share(own[..., 3]) if isinstance(picture, ShadowPicture) else _share(own[..., 3] - own[..., :3].min(axis=2))
    falls = darkened(None)
    if falls > 0 or drawn == 0:
        return ShadowTold(in_pass, drawn, falls)
    # the first card in front of which nothing of it is left
    order = [one.id for one in shot.build]
    after = order[order.index(card.id) :] if card.id in order else []
    hidden = next((one for one in after if shot.card(one).enabled and darkened(one) == 0), None)
    return ShadowTold(in_pass, drawn, falls, hidden if hidden != card.id else None)


def doubled_told(engine: Engine, shot: Shot, roots: list[Path], frame: int, card: Card) -> str | None:
    """The name of the card behind whose light this one adds once more; None where none is, or the files do not tell."""
    reader = engine.reader(shot, roots)
    try:
        behind = doubled_by(shot, card.id, lambda source: reader.describe(source, frame))
    except UmbraxError:  # what is wrong with the file is told where the card is made
        return None
    return None if behind is None else behind.shown_name


def _share(darkness: np.ndarray) -> float:
    return float(np.count_nonzero(darkness > DARKER) / max(1, darkness.size))


def card_of(shot: Shot, card_id: str) -> Card:
    """An element card, or a refusal."""
    card = shot.card(card_id)
    if card.picture is None:
        raise UmbraxError("no-picture", f"card {card.shown_name!r} has no picture of its own; choose an element card")
    return card
