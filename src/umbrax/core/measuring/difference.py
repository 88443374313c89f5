"""How far two pictures are apart, to be looked at."""

import numpy as np

from umbrax.core.picture import Picture


def difference(one: Picture, other: Picture) -> Picture:
    """`|one - other|` of each channel, `float32[h, w, c]`; both on the same window. Colours of what has more channels are compared alone.

    What is no number in either is 0 in both: it is told elsewhere.
    """
    channels = min(one.channels, other.channels)
    if one.channels != other.channels:
        channels = min(channels, 3)
    apart = np.abs(np.nan_to_num(one.pixels[..., :channels]) - np.nan_to_num(other.pixels[..., :channels]))
    return Picture(apart.astype(np.float32), one.window)
