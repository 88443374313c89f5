"""The seat check of a card: whether it sits in what is behind it, with the treatments that mend what does not."""

from typing import Any

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel

from umbrax.core.measuring.seat import Answer, seat_check
from umbrax.render.seat import seated

from .card_facts import CardQuery
from .shots import ShotPath, answered
from .state import state

api = APIBlueprint("seat", __name__, url_prefix="/api", abp_tags=[Tag(name="cards")])


class SeatRemedy(BaseModel):
    """What a button says, and the treatment that it puts on the card, but for its id."""

    title: str
    treatment: dict[str, Any]


class SeatAnswer(BaseModel):
    """One thing measured of the card and of what is behind it; `sits` is null where it cannot be told, and the message says why."""

    kind: str
    title: str
    sits: bool | None
    message: str
    own: list[float]
    behind: list[float]
    unit: str
    remedy: SeatRemedy | None


class SeatData(BaseModel):
    answers: list[SeatAnswer]


@api.get("/shots/<int:shot_id>/cards/seat", responses={200: SeatData})
def card_seat(path: ShotPath, query: CardQuery) -> Response:
    """Whether a card sits in what is behind it, measured at full size on a frame."""
    shared = state()
    shot = shared.shot(path.shot_id, query.revision)
    with shared.gate.enter("", 0, "thumbnail") as ticket:
        both = seated(shared.engine, shot, shared.roots(path.shot_id), query.frame, query.card, ticket.watch)
    # looks need not wait for what is measured of them
    return answered(SeatData(answers=[_data(one) for one in seat_check(both)]))


def _data(one: Answer) -> SeatAnswer:
    remedy = None if one.remedy is None else SeatRemedy(**vars(one.remedy))
    return SeatAnswer(**vars(one) | {"own": list(one.own), "behind": list(one.behind), "remedy": remedy})
