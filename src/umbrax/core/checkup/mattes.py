"""Rules about mattes that came as passes: RGB mattes and single mattes."""

from dataclasses import dataclass

import cv2
import numpy as np

from .base import LUMA, RULES, Examined, Fault, Finding, Measures, Plane, Rule, gathered, percent, share


def _leaks(frame: Examined) -> list[Fault]:
    faults = []
    for found in frame.of_kind("rgb_matte"):
        values = frame.colours(found)
        total = values.sum(axis=2)
        beyond = share(total > 1.02)
        if beyond > 1e-3:
            message = f"the mattes overlap on {percent(beyond)} of the frame: their sum is above 1"
            measure = {"share": round(beyond, 5), "largest": round(float(total.max()), 4)}
            faults.append(Fault(found.name, message, measure, what="overlap", weight=beyond, placed=True))
        alpha = frame.alpha_on(found.window)
        if alpha is None or share(alpha == 0) < 0.01:
            continue
        for index, channel in enumerate(found.channels[: values.shape[2]]):
            level = float(np.median(values[..., index][alpha == 0]))
            if 0.01 < level < 0.98:
                message = f"{channel} is {level:.2f} where there is no object: the background was left in"
                remedy = {"do": "set", "black": round(level, 4)}
                faults.append(
                    Fault(found.name, message, {"background": round(level, 4), "channel": channel}, remedy=remedy, what=channel, placed=True)
                )
    return faults


RULES.register(Rule("matte-leak", "Leaking mattes", _leaks))


def _matte_levels(frame: Examined) -> dict[str, float]:
    """The largest value of each matte that came as a pass."""
    found = {}
    for info in frame.of_kind("rgb_matte", "single_matte"):
        raw = frame.raw(info.name)
        for index, channel in enumerate(info.channels):
            inside = 0.0 if raw.constant else float(raw.values[..., index].max())
            found[f"{info.name} {channel.rsplit('.', 1)[-1]}" if info.kind == "rgb_matte" else info.name] = max(
                inside, float(raw.outside[index])
            )
    return found


def _judge_empty(source: str, measures: Measures) -> list[Finding]:
    findings = []
    for name in dict.fromkeys(name for levels in measures.values() for name in levels):
        empty = [frame for frame, levels in sorted(measures.items()) if levels.get(name, 1.0) < 1 / 512]
        if empty and len(empty) < len(measures):
            message = f"the matte is empty on {len(empty)} of {len(measures)} frames"
            findings.append(Finding("matte-empty", source, name, tuple(empty), "note", message, {"empty": len(empty)}))
    return findings


RULES.register(Rule("matte-empty", "Empty mattes", _matte_levels, _judge_empty))


REACH = 8  # pixels that a late matte is looked for around the picture's edges
SMALL = 320  # width at which edges of different frames are compared
LATE = 3  # frames


@dataclass(frozen=True)
class _Late:
    """What one frame says of a late matte: its faults, and small edge pictures of it and of the beauty."""

    faults: list[Fault]
    own: Plane
    beauty: Plane


def _late(frame: Examined) -> dict[str, _Late]:
    result = {}
    light = _light(frame)
    for found in frame.of_kind("single_matte"):
        raw = frame.raw(found.name)
        if raw.constant:
            continue
        matte = frame.whole(found.name)[..., 0]
        faults = _plateaus(found.name, matte)
        nothing = np.zeros((0, 0), np.float32)
        if frame.beauty is not None and light is not None:
            if found.window != frame.beauty.window:
                size, other = (found.window.width, found.window.height), (frame.beauty.window.width, frame.beauty.window.height)
                message = f"the matte is {size[0]} x {size[1]}, the beauty {other[0]} x {other[1]}; render it at the same size"
                faults.append(Fault(found.name, message, {"size": list(size), "beauty": list(other)}, what="size"))
            else:
                faults += _offset(found.name, matte, light)
                result[found.name] = _Late(faults, _small(_edges(matte)), _small(_edges(light)))
                continue
        result[found.name] = _Late(faults, nothing, nothing)
    return result


def _light(frame: Examined) -> Plane | None:
    if frame.beauty is None:
        return None
    colours = np.clip(np.nan_to_num(frame.colours(frame.beauty), posinf=0, neginf=0), 0, 4)
    return np.ascontiguousarray(colours @ LUMA if colours.shape[2] == 3 else colours[..., 0])


def _plateaus(name: str, matte: Plane) -> list[Fault]:
    low, high = float(np.quantile(matte, 0.01)), float(np.quantile(matte, 0.999))
    if low <= 0.015 and 0.985 <= high <= 1.015:
        return []
    message = f"the matte runs from {low:.3f} to {high:.3f} instead of from 0 to 1"
    measure = {"black": round(low, 4), "white": round(high, 4)}
    return [Fault(name, message, measure, remedy={"do": "set", **measure}, what="levels")]


def _edges(plane: Plane) -> Plane:
    """How much of an edge lies at each pixel, 0..1; weak edges count nearly as much as strong ones."""
    size = np.hypot(cv2.Sobel(plane, cv2.CV_32F, 1, 0), cv2.Sobel(plane, cv2.CV_32F, 0, 1))
    return np.asarray(size / (size + 0.15 * max(float(size.max()), 1e-6)), np.float32)


def _small(plane: Plane) -> Plane:
    n = max(1, plane.shape[1] // SMALL)
    return np.asarray(cv2.resize(plane, (plane.shape[1] // n, plane.shape[0] // n), interpolation=cv2.INTER_AREA), np.float32)


def _offset(name: str, matte: Plane, light: Plane) -> list[Fault]:
    """Where the matte's edges fit the picture's best: the peak of their correlation over shifts, refined by a parabola."""
    ys, xs = np.nonzero(matte > 0.5)
    if len(ys) < 50:
        return []
    pad = 3 * REACH
    rows, columns = slice(max(0, ys.min() - pad), ys.max() + pad), slice(max(0, xs.min() - pad), xs.max() + pad)
    own, other = _edges(np.ascontiguousarray(matte[rows, columns])), _edges(np.ascontiguousarray(light[rows, columns]))
    around = cv2.copyMakeBorder(other, REACH, REACH, REACH, REACH, cv2.BORDER_CONSTANT)
    scores = cv2.matchTemplate(around, own, cv2.TM_CCOEFF_NORMED)
    _, best, _, (px, py) = cv2.minMaxLoc(scores)
    if best < 0.3 or not (0 < px < 2 * REACH and 0 < py < 2 * REACH):
        return []
    x = REACH - px - _peak(scores[py, px - 1 : px + 2])
    y = REACH - py - _peak(scores[py - 1 : py + 2, px])
    if np.hypot(x, y) < 0.35 or best < scores[REACH, REACH] + 0.004:
        return []
    message = f"the matte lies {x:+.2f} px across and {y:+.2f} px down of the beauty's edges"
    remedy = {"do": "set", "shift": [round(-x, 2), round(-y, 2)]}
    return [Fault(name, message, {"x_px": round(x, 2), "y_px": round(y, 2)}, remedy=remedy, what="offset", weight=float(np.hypot(x, y)))]


def _peak(three: Plane) -> float:
    """Where a parabola through three neighbours has its top, in pixels from the middle one."""
    left, middle, right = (float(v) for v in three)
    bend = left - 2 * middle + right
    return 0.0 if bend == 0 else 0.5 * (left - right) / bend


def _judge_late(source: str, measures: Measures) -> list[Finding]:
    findings = gathered("late-matte", source, {frame: [f for late in found.values() for f in late.faults] for frame, found in measures.items()})
    for name in dict.fromkeys(name for found in measures.values() for name in found):
        shift = _frames_off(name, measures)
        if shift:
            message = f"the matte fits the beauty {abs(shift)} {'frame' if abs(shift) == 1 else 'frames'} {'earlier' if shift < 0 else 'later'}"
            findings.append(
                Finding(
                    "late-matte",
                    source,
                    name,
                    tuple(sorted(measures)),
                    "warning",
                    message,
                    {"frames": shift},
                    {"do": "attached-offset", "offset": shift},
                )
            )
    return findings


def _frames_off(name: str, measures: Measures) -> int:
    """By how many frames the matte fits the picture better than at its own frame; 0 where it fits best there."""
    scores: dict[int, list[float]] = {}
    for frame, found in measures.items():
        for shift in range(-LATE, LATE + 1):
            other = measures.get(frame + shift, {}).get(name)
            if name in found and other is not None and found[name].own.size and other.beauty.shape == found[name].own.shape:
                scores.setdefault(shift, []).append(float(cv2.matchTemplate(other.beauty, found[name].own, cv2.TM_CCOEFF_NORMED)[0, 0]))
    usual = {shift: float(np.mean(values)) for shift, values in scores.items() if len(values) >= max(3, len(measures) // 2)}
    if 0 not in usual:
        return 0
    best = max(usual, key=lambda shift: usual[shift])
    return best if usual[best] > usual[0] + 0.05 else 0


RULES.register(Rule("late-matte", "Matte beside the picture", _late, _judge_late))
