"""Touch: what lies under a point of the picture, what can be isolated there, and what one gesture makes of it."""

from .gathering import Gathered, areas, boxed, gathered
from .gestures import Gesture, focus_on, make_matte, starting_point, treat_touched, tuck_behind, tuckable
from .hits import Hit, Touched, touch
from .how_far import how_far
from .offers import Offer, named, of_ids, of_passes
from .proposing import Proposal, propose
from .wishes import at_touch

__all__ = [
    "Gathered",
    "Gesture",
    "Hit",
    "Offer",
    "Proposal",
    "Touched",
    "areas",
    "at_touch",
    "boxed",
    "focus_on",
    "gathered",
    "how_far",
    "make_matte",
    "named",
    "of_ids",
    "of_passes",
    "propose",
    "starting_point",
    "touch",
    "treat_touched",
    "tuck_behind",
    "tuckable",
]  # fmt: skip
