"""How far a thin lens spreads a point that it is not focused on.

W. J. Smith, Modern Optical Engineering: by similar triangles behind a lens of diameter A = f / N that is focused on s, a point at d
is spread to a circle of diameter c = A f |d - s| / (d (s - f)). The hyperfocal distance H = f^2 / (N c) + f is the focus from which
on everything behind, and from half of it in front, is spread to at most c.
"""

import numpy as np
from numpy.typing import NDArray

from ..kernels.radii import by_depth
from ..pictures.data_values import NOTHING

Values = NDArray[np.float32]
JUST_BEYOND = 1.001  # focal lengths: nothing nearer has an image


def circle_of_confusion(depth: float, focus: float, focal: float, f_stop: float) -> float:
    """Diameter of the circle on the sensor, in the unit of the lengths given; positive behind the focus, negative before it.

    >>> round(circle_of_confusion(10_000, 5_000, 50, 2.0), 4)
    0.1263
    """
    return focal / f_stop * focal * (depth - focus) / (depth * (focus - focal))


def hyperfocal(focal: float, f_stop: float, circle: float) -> float:
    """The hyperfocal distance, in the unit of the lengths given.

    >>> round(hyperfocal(50, 8, 0.03) / 1000, 2)
    10.47
    """
    return focal * focal / (f_stop * circle) + focal


def beyond_everything(focus: float, focal: float, f_stop: float) -> float:
    """The diameter of that circle for a point that is infinitely far."""
    return focal / f_stop * focal / (focus - focal)


def spread_by(depth: Values, focus: float, endless: float, most: float) -> Values:
    """Radius `float32[h, w]` in pixels to which each pixel is spread, negative before the focus.

    endless x (d - s) / d, which is what the thin lens gives if `endless` is the radius of what is infinitely far; where depth says
    that nothing is there it is that. Nothing is spread farther than `most`. Distances count whichever sign they are written with.
    """
    return by_depth(depth, focus, endless, most, NOTHING)
