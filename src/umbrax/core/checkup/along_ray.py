"""Whether depth is the distance along the ray or along the camera's axis, told by the positions that were rendered with it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

SOME = 4000  # pixels looked at
EXACT = 2e-3  # median error, relative to depth, up to which one of the two explains the values
BETTER = 4.0  # how many times smaller the error of the right one has to be

Rows = NDArray[np.float64]


@dataclass(frozen=True)
class AlongRay:
    """Errors of both readings, relative to depth, and the focal length in pixels that the positions give."""

    error_ray: float
    error_axis: float
    focal_px: float


def along_ray(depth: Rows, positions: Rows, places: Rows) -> AlongRay | None:
    """A measure where depth `[n]` at positions `[n, 3]` is the distance from one point and not from one plane; else None.

    `places [n, 2]` are pixel centres from the middle of the picture. Along the axis depth is linear in the position,
    `d = a . P + b`; along the ray `|P|^2 - d^2 = 2 C . P - |C|^2` is, for a camera at C. Both are least squares.
    """
    if len(depth) < 50:
        return None
    step = max(1, len(depth) // SOME)
    d, p, xy = depth[::step], positions[::step], places[::step]
    rows = np.column_stack([p, np.ones(len(p))])
    plane = rows @ np.linalg.lstsq(rows, d, rcond=None)[0]
    squares = (p**2).sum(axis=1) - d**2
    camera = np.linalg.lstsq(rows, squares, rcond=None)[0][:3] / 2
    rays = p - camera
    error_axis = float(np.median(np.abs(plane - d) / np.maximum(d, 1e-9)))
    error_ray = float(np.median(np.abs(np.linalg.norm(rays, axis=1) - d) / np.maximum(d, 1e-9)))
    if not (error_ray < EXACT and error_axis > BETTER * max(error_ray, 1e-6)):
        return None
    focal = focal_of(rays, xy)
    return AlongRay(error_ray, error_axis, focal) if focal is not None else None


def focal_of(rays: Rows, places: Rows) -> float | None:
    """The focal length in pixels of rays `[n, 3]` through places `[n, 2]`: rays lie along `a + b x + c y`, f = |a| / |b|.

    The nine numbers are the null vector of the cross products of both, as in the direct linear transform
    (Hartley and Zisserman, Multiple View Geometry, section 4.1).
    """
    u = rays / np.linalg.norm(rays, axis=1)[:, None]
    size = float(np.abs(places).max()) or 1.0
    weights = np.column_stack([np.ones(len(u)), places / size])
    zero = np.zeros(len(u))
    cross = np.stack(
        [np.column_stack([zero, -u[:, 2], u[:, 1]]), np.column_stack([u[:, 2], zero, -u[:, 0]]), np.column_stack([-u[:, 1], u[:, 0], zero])]
    )
    design = np.einsum("rni,nk->rnki", cross, weights).reshape(-1, 9)
    a, b, c = np.linalg.svd(design.T @ design)[2][-1].reshape(3, 3)
    spread = (np.linalg.norm(b) + np.linalg.norm(c)) / 2
    return float(np.linalg.norm(a) / spread * size) if spread > 0 else None
