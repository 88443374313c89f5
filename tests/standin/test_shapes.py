"""Where packets of rays meet primitives, against the surfaces' own equations walked along each ray in small steps."""

import numpy as np
import pytest

from umbrax.standin.casting import packets, shapes
from umbrax.standin.casting.packets import DX, FAR, NEAR, NOTHING, OX, PACKET, SAMPLES, WHO
from umbrax.standin.frames import things_table
from umbrax.standin.scene import EVERYWHERE, Scene, Thing, move, scale, turn

PLACE = move(0.4, -0.3, 0.2) @ turn("y", 30) @ turn("x", 20) @ scale(1.2, 0.8, 1.1)
STEPS = np.linspace(0, 12, 24001)


def depth_inside(shape: int, x: np.ndarray, y: np.ndarray, z: np.ndarray) -> np.ndarray:
    """Above zero inside the shape, below it outside (implicit equations of the solids)."""
    around = np.hypot(x, z)
    if shape == shapes.SPHERE:
        return 1 - (x * x + y * y + z * z)
    if shape == shapes.CYLINDER:
        return np.minimum(1 - around, np.minimum(y, 1 - y))
    if shape == shapes.BOX:
        return 1 - np.maximum(np.abs(x), np.maximum(np.abs(y), np.abs(z)))
    if shape == shapes.CONE:
        return np.minimum(np.minimum(y, 1 - y), 1 - y - around)
    return shapes.TUBE - np.hypot(around - 1, y)


def packet(seed: int) -> np.ndarray:
    """Rays from all around towards the neighbourhood of the origin."""
    random = np.random.default_rng(seed)
    start = random.normal(size=(SAMPLES, 3))
    start *= 5 / np.linalg.norm(start, axis=1, keepdims=True)
    way = random.uniform(-1, 1, (SAMPLES, 3)) - start
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    rays = np.zeros(PACKET)
    rays[OX : OX + 3 * SAMPLES], rays[DX : DX + 3 * SAMPLES] = start.T.ravel(), way.T.ravel()
    rays[NEAR : NEAR + SAMPLES], rays[WHO : WHO + SAMPLES] = FAR, NOTHING
    packets.prepare(rays)
    return rays


def along(rays: np.ndarray, t: np.ndarray) -> np.ndarray:
    """Places `[3, ray, ...]` at distances along the rays."""
    start, way = rays[OX : OX + 3 * SAMPLES].reshape(3, SAMPLES, 1), rays[DX : DX + 3 * SAMPLES].reshape(3, SAMPLES, 1)
    return start + way * t


def table(shape: int, clip: tuple[float, ...] = EVERYWHERE) -> np.ndarray:
    thing = Thing("thing", "stone", shape, PLACE, clip)  # type: ignore[arg-type]
    return things_table(Scene(things=[thing]), Scene(things=[thing]), ["stone"], {})


def local(places: np.ndarray) -> np.ndarray:
    inverse = np.linalg.inv(PLACE)
    return np.einsum("ij,j...->i...", inverse[:3, :3], places) + inverse[:3, 3].reshape(3, *[1] * (places.ndim - 1))


@pytest.mark.parametrize("shape", [shapes.SPHERE, shapes.CYLINDER, shapes.BOX, shapes.CONE, shapes.TORUS])
@pytest.mark.parametrize("seed", range(8))
def test_a_hit_is_where_the_ray_first_enters_the_solid(shape: int, seed: int) -> None:
    rays = packet(seed)
    shapes.meet(rays, table(shape), 0)
    inside = depth_inside(shape, *local(along(rays, STEPS[None]))) > 0
    first = np.where(inside.any(axis=1), STEPS[inside.argmax(axis=1)], FAR)
    near, hit = rays[NEAR : NEAR + SAMPLES], rays[WHO : WHO + SAMPLES] == 0
    assert hit[first < FAR].all()
    both = hit & (first < FAR)
    assert np.abs(near[both] - first[both]).max(initial=0) <= 2 * STEPS[1]
    # what only grazes the solid between two steps still lies on its surface
    assert np.abs(depth_inside(shape, *local(along(rays, near[:, None])))[hit]).max(initial=0) < 1e-4


@pytest.mark.parametrize("shape", [shapes.SPHERE, shapes.CYLINDER, shapes.BOX, shapes.CONE, shapes.TORUS])
def test_normals_point_the_way_the_solid_falls_off_fastest(shape: int) -> None:
    found = 0
    for seed in range(24):
        rays = packet(seed)
        shapes.meet(rays, table(shape), 0)
        for s in np.flatnonzero(rays[WHO : WHO + SAMPLES] == 0):
            at = along(rays, rays[NEAR : NEAR + SAMPLES, None])[:, s, 0]
            normal = np.array(shapes.normal(table(shape), 0, *at))
            normal /= np.linalg.norm(normal)
            step = 1e-5
            slope = np.array([
                depth_inside(shape, *local(at + step * axis)) - depth_inside(shape, *local(at - step * axis)) for axis in np.eye(3)
            ]) / (2 * step)  # fmt: skip
            found += 1
            assert abs(normal @ slope) / np.linalg.norm(slope) > 0.999
    assert found > 20


def test_clips_leave_the_far_side_of_an_open_shell() -> None:
    rays = packet(3)
    shapes.meet(rays, table(shapes.SPHERE, (-9, 9, 0.0, 9, -9, 9)), 0)
    hit = rays[WHO : WHO + SAMPLES] == 0
    places = local(along(rays, rays[NEAR : NEAR + SAMPLES, None]))[:, :, 0]
    assert hit.sum() > 3
    assert (places[1, hit] >= -1e-9).all()
    assert np.linalg.norm(places[:, hit], axis=0) == pytest.approx(1)


def test_a_disc_ends_at_its_rim_and_a_plane_does_not() -> None:
    disc, plane = packet(5), packet(5)
    shapes.meet(disc, table(shapes.DISC), 0)
    shapes.meet(plane, table(shapes.PLANE), 0)
    on_plane = plane[WHO : WHO + SAMPLES] == 0
    places = local(along(plane, plane[NEAR : NEAR + SAMPLES, None]))[:, :, 0]
    assert np.abs(places[1, on_plane]).max() < 1e-9
    within = on_plane & (np.hypot(places[0], places[2]) <= 1)
    assert 0 < within.sum() < on_plane.sum()
    assert np.array_equal(disc[WHO : WHO + SAMPLES] == 0, within)


def test_a_packet_asks_a_box_only_before_its_nearest_hits() -> None:
    rays, things = packet(1), table(shapes.BOX)
    things[0, packets.BOX_AT : packets.BOX_AT + 6] = (-2, -2, -2, 2, 2, 2)
    assert packets.any_meets(rays, things, 0, packets.BOX_AT)
    rays[NEAR : NEAR + SAMPLES] = 0.5  # nearer than the box is
    assert not packets.any_meets(rays, things, 0, packets.BOX_AT)
