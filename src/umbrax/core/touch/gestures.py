"""What a touch makes: a matte, or a matte and a treatment through it, as the edits of one revision."""

from dataclasses import dataclass
from typing import Any

from ..document.camera import Camera
from ..document.edits import Edit, InsertItem, SetValue, fresh_id, fresh_treatment_id
from ..document.references import build_with, stage_end
from ..document.shot import Shot
from ..document.timing import Keys
from ..errors import UmbraxError
from ..mattes import MATTES
from ..mattes.ids import last_part
from ..plan.depth import untold
from ..treatments import TREATMENTS
from ..treatments.defocus import DefocusParams
from .offers import Offer


@dataclass(frozen=True)
class Gesture:
    """What a touch makes: edits for one revision, none where all is there, and what to open afterwards."""

    edits: tuple[Edit, ...]
    matte: str | None
    card: str | None = None
    treatment: str | None = None


def make_matte(shot: Shot, offer: Offer) -> Gesture:
    """The edits that make the matte of what was offered, and nothing else."""
    edits: list[Edit] = []
    matte = _matte_of(shot, offer, edits)
    return Gesture(tuple(edits), matte)


def treat_touched(
    shot: Shot, card_id: str | None, offer: Offer, action: str, settings: dict[str, Any] | None = None, at: tuple[int, int] | None = None
) -> Gesture:  # fmt: skip
    """The edits that make a matte of what was offered and a treatment through it, in its stage on the touched card.

    A matte that means the same and has no refinements is used again. `at` is where it was touched.
    """
    if card_id is None:
        raise UmbraxError("no-card", "no card shows this; put its source into the build first, or make just its matte")
    treatment = TREATMENTS.get(action)
    edits: list[Edit] = []
    matte = _matte_of(shot, offer, edits)
    card = shot.card(card_id)
    treatment_id = fresh_treatment_id(shot.treatment_ids())
    use: dict[str, Any] = {"feed": {"matte": matte}} if treatment.matte_key == "feed" else {treatment.matte_key: matte}
    item = {"id": treatment_id, "kind": treatment.kind, **use, **(settings or starting_point(action))}
    if treatment.touch is not None and treatment.touch.place is not None and at is not None:
        item[treatment.touch.place] = list(at)
    edits.append(InsertItem(op="insert", path=(*shot.path_of(card.id), "treatments"), item=item, before=stage_end(card, treatment.stage)))
    return Gesture(tuple(edits), matte, card.id, treatment_id)


def focus_on(shot: Shot, card_id: str | None, depth: float | None, frame: int) -> Gesture:
    """The edits that make what was touched sharp: the shot's camera is focused there, at this frame where its focus has keys.

    A defocus that the shot has is used: one that has values of its own is focused itself. Without one the touched card gets one.
    """
    if depth is None:
        raise untold()
    found = [(card, one) for card in shot.cards() for one in card.treatments if isinstance(one, DefocusParams) and one.enabled]
    own = [(card, one) for card, one in found if card.id == card_id] or found
    if not own:
        if card_id is None:
            raise UmbraxError("no-card", "no card shows this; put its source into the build first")
        treatment_id = fresh_treatment_id(shot.treatment_ids())
        item = {"id": treatment_id, "kind": "defocus", **starting_point("defocus")}
        path, before = (*shot.path_of(card_id), "treatments"), stage_end(shot.card(card_id), "spatial")
        edits: tuple[Edit, ...] = (
            InsertItem(op="insert", path=path, item=item, before=before),
            _focused(shot.camera, ("camera",), depth, frame),
        )
        return Gesture(edits, None, card_id, treatment_id)
    card, treatment = own[0]
    path = ("camera",) if treatment.camera == "shot" else (*shot.path_of(card.id), "treatments", treatment.id)
    return Gesture((_focused(shot.camera if treatment.camera == "shot" else treatment, path, depth, frame),), None, card.id, treatment.id)


def _focused(of: Camera | DefocusParams, path: tuple[str, ...], depth: float, frame: int) -> SetValue:
    focus: Any = of.focus
    value = focus.with_key(frame, depth).model_dump(mode="json") if isinstance(focus, Keys) else depth
    return SetValue(op="set", path=(*path, "focus"), value=value)


def tuckable(shot: Shot, card_id: str | None) -> list[str]:
    """The cards that can be sent behind something on this one: elements in front of it in its build that are joined by over."""
    cards = () if card_id is None else build_with(shot, card_id)
    at = next((place for place, card in enumerate(cards) if card.id == card_id), len(cards))
    return [card.id for card in cards[at + 1 :] if not card.treat and card.join == "over" and card.enabled]


def tuck_behind(shot: Shot, card_id: str | None, offer: Offer, tucked: str) -> Gesture:
    """The edits that make a matte of what was offered and hold another card behind it; its frames are all, until they are set."""
    if card_id is None or tucked not in tuckable(shot, card_id):
        raise UmbraxError("not-in-front", f"{tucked!r} does not lie in front of this; bring its card to the front of it, joined by over")
    edits: list[Edit] = []
    matte = _matte_of(shot, offer, edits)
    card = shot.card(tucked)
    held = [tuck.model_dump(mode="json") for tuck in card.tuck]
    edits.append(SetValue(op="set", path=(*shot.path_of(tucked), "tuck"), value=[*held, {"behind": matte, "card": card_id}]))
    return Gesture(tuple(edits), matte, tucked)


def starting_point(action: str) -> dict[str, Any]:
    """Settings at which a touch shows at once that something happened: common practice for isolated sources."""
    offered = TREATMENTS.get(action).touch
    return {} if offered is None else dict(offered.start)


def _matte_of(shot: Shot, offer: Offer, edits: list[Edit]) -> str:
    made: list[str] = []
    for title, part in zip(offer.titles, offer.parts, strict=True):
        made.append(
            _used_again(shot, part)
            or _inserted(edits, part, fresh_id([*shot.mattes, *made], last_part(title) if part["kind"] == "id" else title))
        )
    if len(made) == 1:
        return made[0]
    for matte_id, params in shot.mattes.items():
        used = tuple(ref.matte for ref in getattr(params, "mattes", ()))
        if getattr(params, "how", None) == "all_of" and sorted(used) == sorted(made) and not params.model_dump(mode="json").get("refine"):
            return matte_id
    crossed = {"kind": "combined", "how": "all_of", "mattes": made}
    return _inserted(edits, crossed, fresh_id([*shot.mattes, *made], " x ".join(made)))


def _inserted(edits: list[Edit], part: dict[str, Any], matte_id: str) -> str:
    edits.append(InsertItem(op="insert", path=("mattes",), item={"id": matte_id, **part}))
    return matte_id


def _used_again(shot: Shot, part: dict[str, Any]) -> str | None:
    wanted = MATTES.get(part["kind"]).params.model_validate(part)
    for matte_id, params in shot.mattes.items():
        if params.apart().model_copy(update={"name": None}) == wanted:
            return matte_id
    return None
