"""Keys's cubic between pixels, as several kernels weigh the four pixels around a place."""

from typing import Any

import numpy as np

from . import part


@part
def cubic_taps(t: Any) -> Any:
    """The four taps at a phase of 0..1 after the second (R. G. Keys, 1981, a = -1/2)."""
    half, one = np.float32(0.5), np.float32(1.0)
    more, two = np.float32(1.5), np.float32(2.0)
    tt = t * t
    first, second = ((one - half * t) * t - half) * t, (more * t - np.float32(2.5)) * tt + one
    return first, second, ((two - more * t) * t + half) * t, (half * t - half) * tt
