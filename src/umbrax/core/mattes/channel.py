"""Mattes by one channel of a pass: red, green, blue or alpha, luma, colour differences, hue or saturation."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..colour import LUMA_BT709, Weights
from ..document.parameters import number
from ..document.timing import Number
from ..errors import UmbraxError
from ..picture import Picture
from ..plan.reader import PICTURE_KINDS
from ..plan.steps import Planner, Step, pointwise
from .base import MATTES, MatteKind, MatteParams
from .membership import edge_of, planes_of_coverage, planes_of_membership, ramped, straight

Plane = NDArray[np.float32]
Channel = Literal["red", "green", "blue", "alpha", "luma", "cb", "cr", "hue", "saturation"]
OVER_ALL = ("shadow", "line")
BY_LUMA = ("luma", "cb", "cr")


class ChannelMatte(MatteParams):
    """A matte by one channel of a pass, between a black and a white point; white below black turns it over.

    Light is looked at without its alpha, so that rims keep their colour; mattes and data as they are.
    """

    kind: Literal["channel"]
    source: str
    pass_: str = Field(alias="pass", min_length=1)
    channel: Channel = "luma"
    black: Number = number(0.0, "Black", formula="(v - black) / (white - black), limited to 0..1", soft=(0, 1))
    white: Number = number(1.0, "White", soft=(0, 1))


def channel_values(colour: Plane, channel: str, luma_of: Weights = LUMA_BT709) -> Plane:
    """One value a pixel `float32[h, w, 1]` of linear colour `float32[h, w, 3]`.

    luma, Cb and Cr by BT.709, or by other weights, on linear light, Cb and Cr in -0.5..0.5 for colours in 0..1; hue 0..1 from red over
    green and blue, saturation 0..1, both of the hexcone (A. R. Smith, Color Gamut Transform Pairs, 1978).
    """
    if channel in ("red", "green", "blue"):
        return colour[..., ("red", "green", "blue").index(channel), None]
    # not a matrix product: its order of adding depends on the size of the window
    weights = np.array(luma_of, np.float32)
    luma: Plane = (colour[..., :1] * weights[0] + colour[..., 1:2] * weights[1]) + colour[..., 2:3] * weights[2]
    if channel == "luma":
        return luma
    if channel == "cb":
        return (colour[..., 2:3] - luma) / np.float32(2 * (1 - luma_of[2]))
    if channel == "cr":
        return (colour[..., :1] - luma) / np.float32(2 * (1 - luma_of[0]))
    high, low = colour.max(axis=2, keepdims=True), colour.min(axis=2, keepdims=True)
    chroma = high - low
    if channel == "saturation":
        return np.asarray(np.where(high > 0, chroma / np.where(high > 0, high, 1), 0), np.float32)
    red, green, blue = colour[..., :1], colour[..., 1:2], colour[..., 2:3]
    span = np.where(chroma > 0, chroma, 1)
    sixth = np.where(high == red, ((green - blue) / span) % 6, np.where(high == green, (blue - red) / span + 2, (red - green) / span + 4))
    return np.asarray(np.where(chroma > 0, sixth / 6, 0), np.float32)


def _planes(planner: Planner, params: ChannelMatte, matte_id: str) -> Step:
    info = planner.source(params.source)
    found = info.find(params.pass_)
    own = planner.read(params.source, found.name, 1)
    light = found.kind in PICTURE_KINDS
    if params.channel == "alpha" and not found.has_alpha:
        raise UmbraxError("no-alpha", f"matte {matte_id!r}: pass {found.name!r} has no alpha; choose another channel or pass")

    def compute(given: tuple[Picture, ...]) -> Plane:
        pixels = given[0].pixels
        if params.channel == "alpha":
            return ramped(pixels[..., -1:], params.black, params.white)
        colour = pixels[..., : pixels.shape[2] - int(found.has_alpha)]
        if colour.shape[2] == 1:
            colour = np.repeat(colour, 3, axis=2)
        elif colour.shape[2] == 2:
            colour = np.concatenate([colour, np.zeros_like(colour[..., :1])], axis=2)
        if light and found.has_alpha:
            colour = straight(colour, pixels[..., -1:])
        with np.errstate(invalid="ignore", over="ignore"):  # of data without end nothing is left, which is 0
            values = channel_values(colour[..., :3], params.channel, planner.luma)
        return ramped(values, params.black, params.white)

    told = [params.channel, params.black, params.white, light, *([planner.luma] if params.channel in BY_LUMA else [])]
    member = pointwise("channel 1", told, [own], compute, channels=1, edge=edge_of(found, info), domain=own.domain, where=planner.where)
    # a shadow or a line means something where the beauty covers nothing as well
    as_light = light and params.channel != "alpha" and found.kind not in OVER_ALL
    return (planes_of_membership if as_light else planes_of_coverage)(planner, params.source, member)


MATTES.register(MatteKind("channel", "Channel", ChannelMatte, _planes, lambda _: (), lambda params: (params.source,)))
