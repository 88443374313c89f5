"""Planes of a matte as they may be averaged between pixels, and back."""

from typing import Any

import numpy as np

from ..picture import Picture
from .steps import Step, pointwise


def weighted(planes: Step) -> Step:
    """Coverage, share times sum, and sum: what may be averaged between pixels."""

    def compute(given: tuple[Picture, ...]) -> Any:
        p = given[0].pixels
        return np.concatenate([p[..., :1], p[..., 1:2] * p[..., 2:], p[..., 2:]], axis=2)

    return pointwise("weighted shares 1", None, [planes], compute, channels=3, edge=planes.edge, domain=planes.domain, where=planes.where)


def shared(planes: Step) -> Step:
    """The way back from that."""

    def compute(given: tuple[Picture, ...]) -> Any:
        p = np.clip(given[0].pixels, 0, 1)
        total = p[..., 2:]
        share = np.where(total > 1e-6, np.minimum(p[..., 1:2] / np.maximum(total, 1e-6), 1), p[..., 1:2])
        return np.concatenate([p[..., :1], share, total], axis=2).astype(np.float32, copy=False)

    return pointwise("shares 1", None, [planes], compute, channels=3, edge=planes.edge, domain=planes.domain, where=planes.where)
