"""Mattes by number: pixels of an index pass that hold one of a set of whole numbers, their edges found in the picture."""

from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..picture import Picture, Window
from ..pictures.base import alpha_of
from ..plan.steps import Planner, Step, content_key
from .base import MATTES, MatteKind, MatteParams
from .membership import edge_of, straight

Plane = NDArray[np.float32]
REACH = 3  # pixels around a pixel that tell how much of it belongs


class IndexMatte(MatteParams):
    """Pixels whose number is one of `numbers`. A number has no soft edge: `smooth` estimates it from alpha and colour."""

    kind: Literal["index"]
    source: str
    pass_: str = Field("object_index", alias="pass", min_length=1)
    numbers: tuple[int, ...] = Field(min_length=1)
    smooth: bool = True


def smoothed(belongs: NDArray[np.bool_], empty: NDArray[np.bool_], colour: Plane) -> Plane:
    """How much of each pixel's object light belongs, `float32[h, w]`, from pixels that hold one number each.

    Beside an edge a pixel's colour is a mix of both sides, `C = t A + (1 - t) B`: t is C's place between their means A and B,
    taken over 7 x 7 without the edge itself. Where the sides look alike, t is the part of the 3 x 3 around that belongs.
    """
    size = 2 * REACH + 1
    ones = belongs.astype(np.float32)
    others = (~belongs & ~empty).astype(np.float32)
    around = np.ones((3, 3), np.uint8)
    near_in, near_out = cv2.dilate(ones, around), cv2.dilate(others, around)
    edge = (near_in > 0) & (near_out > 0)
    part_in, part_out = cv2.blur(ones, (3, 3)), cv2.blur(others, (3, 3))
    share = np.where(part_in + part_out > 0, part_in / np.maximum(part_in + part_out, 1e-9), 0)
    inner, outer = ones * ~edge, others * ~edge
    weight_in, weight_out = cv2.blur(inner, (size, size)), cv2.blur(outer, (size, size))
    a = cv2.blur(colour * inner[..., None], (size, size)) / np.maximum(weight_in, 1e-9)[..., None]
    b = cv2.blur(colour * outer[..., None], (size, size)) / np.maximum(weight_out, 1e-9)[..., None]
    apart = ((a - b) ** 2).sum(axis=2)
    told = (weight_in > 1e-6) & (weight_out > 1e-6) & (apart > 1e-4)
    t = np.clip(((colour - b) * (a - b)).sum(axis=2) / np.maximum(apart, 1e-9), 0, 1)
    # a pixel whose number says one side is at least half of it
    t = np.where(belongs, np.maximum(t, 0.5), np.minimum(t, 0.5))
    found = np.where(edge, np.where(told & ~empty, t, share), np.where(empty, share, ones))
    return np.asarray(found, np.float32)


def _planes(planner: Planner, params: IndexMatte, matte_id: str) -> Step:
    info = planner.source(params.source)
    found = info.find(params.pass_)
    index, alpha = planner.read(params.source, found.name, 1), alpha_of(planner, params.source, 1)
    beauty = planner.read(params.source, info.find("beauty").name, 1) if info.has("beauty") and params.smooth else None
    inputs = tuple(step for step in (index, alpha, beauty) if step is not None)
    wanted, reach, edge = np.array(params.numbers, np.float64), REACH + 1 if params.smooth else 0, edge_of(found, info)

    def run(window: Window, given: tuple[Picture, ...]) -> Picture:
        wide = window.grown(reach)
        numbers = given[0].crop(wide).pixels[..., 0]
        belongs = np.isin(np.rint(np.nan_to_num(numbers)).astype(np.float64), wanted)
        cover = np.clip(given[1].crop(wide).pixels[..., 0], 0, 1) if alpha is not None else np.ones_like(numbers)
        member = belongs.astype(np.float32)
        if params.smooth:
            light = given[-1].crop(wide).pixels[..., :3] if beauty is not None else numbers[..., None]
            plain = straight(np.nan_to_num(light), cover[..., None])
            member = smoothed(belongs, (np.rint(numbers) == 0) & ~belongs, np.ascontiguousarray(plain))
        share = np.where(cover > 0, member, 0)
        planes = np.stack([share * cover, share, cover], axis=2).astype(np.float32)
        inside = planes[reach : reach + window.height, reach : reach + window.width]
        return Picture(np.ascontiguousarray(inside), window, edge)

    # a rim whose middle saw nothing lies beside what has a number
    domain = index.domain.grown(1) if params.smooth and edge == "empty" else index.domain
    return Step(
        content_key("index 2", [sorted(params.numbers), params.smooth], inputs), "index matte", domain, 3, inputs,
        lambda window: (window.grown(reach),) * len(inputs), run, edge, planner.where,
    )  # fmt: skip


MATTES.register(MatteKind("index", "Index", IndexMatte, _planes, lambda _: (), lambda params: (params.source,)))
