"""What the values of a depth pass mean."""

import cv2
import numpy as np
from numpy.typing import NDArray

from ..pictures.data_values import NOTHING, is_nothing
from ..plan.reader import PassInfo
from .along_ray import along_ray
from .base import RULES, Examined, Fault, Plane, Rule, percent, share

LEADS_UP = 0.2  # of what surrounds a clipped end; a wall that stands on a floor touches it along one side
CLIPPED = 0.02  # of the objects at exactly one end of the range
JUMP = 0.25  # relative difference of two neighbours from which an edge lies between them
GOES_ON = 0.25  # of such a difference: how much depth changes from pixel to pixel beside a slope and not beside an edge


def _depth_meaning(frame: Examined) -> list[Fault]:
    faults = []
    for found in frame.of_kind("depth"):
        if frame.raw(found.name).constant:
            continue
        depth = frame.whole(found.name)[..., 0]
        there = ~is_nothing(depth)
        alpha = frame.alpha_on(found.window)
        inside = there & (alpha > 0.99) if alpha is not None else there
        if np.count_nonzero(inside) < 100:
            continue
        values = depth[inside]
        low, high = float(values.min()), float(values.max())
        measure = {"near": round(low, 5), "far": round(high, 5)}
        if high - low <= 1e-6 * max(abs(high), 1e-6):
            faults.append(Fault(found.name, f"every object has the depth {high:g}: the pass is flat; render it again", measure, what="flat"))
            continue
        if low >= 0 and high <= 1.0 + 1e-4:
            message = f"depth runs from {low:.3g} to {high:.3g}: it is normalised, not in scene units; give near and far, or render it again"
            faults.append(Fault(found.name, message, measure, "note", what="normalised"))
        for value in clipped_ends(frame, found, depth, inside):
            clipped, end = share(values == value), "nearest" if value == low else "farthest"
            message = f"{percent(clipped)} of the objects have exactly the {end} depth {value:g}: the pass is clipped"
            faults.append(
                Fault(
                    found.name, message, measure | {"share": round(clipped, 4), "end": end}, what=f"clipped {end}", weight=clipped, placed=True
                )
            )
        if _inverted(depth, there, alpha):
            message = "depth falls towards what is far: the pass is inverted (near is white)"
            remedy = {"do": "set", "polarity": "shadow"} if low >= 0 and high <= 1.0 + 1e-4 else None
            faults.append(Fault(found.name, message, measure, remedy=remedy, what="inverted"))
        smoothed = _smoothed(depth)
        if smoothed > 0.35:
            message = f"{percent(smoothed)} of the edges pass through depths between near and far: the pass was anti-aliased"
            faults.append(
                Fault(
                    found.name,
                    message,
                    {"share": round(smoothed, 3)},
                    remedy={"do": "set", "snap": True},
                    what="smoothed",
                    weight=smoothed,
                    placed=True,
                )
            )
        faults += _along_ray(frame, found, depth, inside)
    return faults


def clipped_ends(frame: Examined, found: PassInfo, depth: Plane, inside: NDArray[np.bool_]) -> list[float]:
    """The lowest and the highest depth `[h, w]` where too many pixels have exactly it: what lies beyond was clipped.

    A flat object that faces the camera has one depth as well, but all of it has, and nothing leads up to it.
    """
    values = depth[inside]
    if not values.size or values.min() == values.max():
        return []
    low, high = float(values.min()), float(values.max())
    clipped = []
    for end in (low, high):
        flat = inside & (depth == end)
        if np.count_nonzero(flat) > CLIPPED * values.size and not _is_one_object(frame, found, flat, inside):
            around = inside & ~flat & (cv2.dilate(flat.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0)
            if share(np.abs(depth[around] - end) < 0.05 * (high - low)) > LEADS_UP:
                clipped.append(end)
    return clipped


def _is_one_object(frame: Examined, found: PassInfo, flat: NDArray[np.bool_], inside: NDArray[np.bool_]) -> bool:
    """Whether what is flat is one object, with nearly all that is seen of it."""
    layer = frame.covering_layer(found.window)
    if layer is None:
        return False
    first = frame.ranks(layer)[0][0]
    ids, counts = np.unique(first[flat], return_counts=True)
    usual = ids[counts.argmax()]
    whole = float(np.count_nonzero(inside & (first == usual)))
    most = float(counts.max())
    return bool(most > 0.98 * float(counts.sum()) and most > 0.98 * whole)


def _along_ray(frame: Examined, found: PassInfo, depth: Plane, inside: NDArray[np.bool_]) -> list[Fault]:
    positions = next((one for one in frame.of_kind("position") if one.window == found.window and len(one.channels) >= 3), None)
    if positions is None:
        return []
    where = frame.whole(positions.name)[..., :3]
    good = inside & np.isfinite(where).all(axis=2)
    ys, xs = np.nonzero(good)
    display = frame.info.display
    places = np.column_stack([xs + found.window.x0 + 0.5 - display.width / 2, ys + found.window.y0 + 0.5 - display.height / 2])
    told = along_ray(depth[good].astype(np.float64), where[good].astype(np.float64), places.astype(np.float64))
    if told is None:
        return []
    message = "depth is the distance along each ray, not along the axis: what stands at the side seems farther away than it is"
    measure = {"error_ray": round(told.error_ray, 6), "error_axis": round(told.error_axis, 6), "focal_px": round(told.focal_px, 2)}
    return [Fault(found.name, message, measure, "note", {"do": "set", "ray_focal": round(told.focal_px, 2)}, what="ray")]


def _inverted(depth: Plane, there: NDArray[np.bool_], alpha: Plane | None) -> bool:
    """Where nothing stands a pass says the farthest it knows; 0 there while objects have more means near is white."""
    if alpha is None:
        return False
    empty = alpha == 0
    solid = there & (alpha > 0.99)
    if share(empty) < 0.02 or not solid.any():
        return False
    behind = depth[empty]
    behind = behind[np.isfinite(behind)]
    return behind.size > 0 and float(np.median(behind)) < float(depth[solid].min()) and float(np.median(behind)) >= 0


def _smoothed(depth: Plane) -> float:
    """Of the places where depth jumps across two pixels, the share with a depth between in the middle.

    A slope that goes on beyond them is no jump: ground just before the camera is that steep.
    """
    far = np.where(np.isfinite(depth), depth, 1e30)
    jumps = between = 0
    for plane in (far, far.T):
        wide = plane.shape[1] - 6
        if wide < 1:
            continue
        before, by, a, b, c, past, after = (plane[:, place : place + wide] for place in range(7))
        low, high = np.minimum(a, c), np.maximum(a, c)
        gap = high - low
        edge = gap > JUMP * np.maximum(np.abs(low), 1e-3)
        edge &= np.maximum(np.abs(by - before), np.abs(after - past)) < GOES_ON * gap
        inside = edge & (b > low + 0.08 * gap) & (b < high - 0.08 * gap)
        # a depth near the far end of a jump to infinity is a mean of both as well
        inside |= edge & (high > NOTHING) & (b > low * 1.5 + 1) & (b < 0.92 * high)
        jumps += int(np.count_nonzero(edge))
        between += int(np.count_nonzero(inside))
    return min(1.0, 2 * between / jumps) if jumps >= 60 else 0.0  # a sharp edge lies in two triples


RULES.register(Rule("depth-meaning", "What depth means", _depth_meaning))
