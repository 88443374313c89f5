"""Grain: whether an element is as noisy as what is behind it."""

import numpy as np

from .base import Answer, Remedy, Seated, untold

KIND, TITLE = "grain", "Grain"
MIDDLE = 0.18  # luma at which the treatment has its strength
SEEN = 0.4  # codes of 255 that a deviation must be to be seen
STRONGEST = 10.0  # that the treatment takes
LESS, MORE = 0.6, 1.6


def grain(seated: Seated) -> Answer:
    own, behind = seated.own.noise, seated.behind.noise
    if own is None or behind is None:
        return untold(KIND, TITLE, "the element is too small to tell" if own is None else "too little behind it is even")
    # where both are as bright as the element
    wanted, seen, own_seen = behind.strength_at(own.at), behind.seen(own.at), own.seen(own.at)
    values = (own.strength,), (wanted,)
    if seen < SEEN and own_seen < SEEN:
        return Answer(KIND, TITLE, True, "neither has grain that is seen", *values, "deviation")
    if own.strength < LESS * wanted:
        missing = float(np.sqrt(wanted**2 - own.strength**2)) * (MIDDLE / own.at) ** behind.response
        settings = {"size": round(behind.size, 2), "strength": round(min(missing, STRONGEST), 5), "response": behind.response}
        remedy = Remedy("Give it the same grain", {"kind": "grain", **settings})
        return Answer(KIND, TITLE, False, "what is behind it has grain that it lacks", *values, "deviation", remedy)
    if own.strength > MORE * wanted and own_seen >= SEEN:
        message = "it is noisier than what is behind; render it with more samples"
        return Answer(KIND, TITLE, False, message, *values, "deviation")
    return Answer(KIND, TITLE, True, "its grain is that of what is behind", *values, "deviation")
