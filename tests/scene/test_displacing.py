"""Relief as geometry: nothing tears, sizes in closed form, as fine as asked for where it is asked, never too large."""

import numpy as np
import pytest

from nocturne.scene import solids
from nocturne.scene.displacing import MOST_TRIANGLES, Displaced, Relief, displaced, divided, welded
from nocturne.scene.patterns import Constant, Fractal, Gradient, Picture
from nocturne.scene.shapes import Mesh
from tests.scene.test_forms import volume

STANDS = np.eye(4)
BALL = solids.ball(1.0, segments=24)
BOX = solids.rounded_box((2.0, 1.0, 1.5), 0.0)
LUMPS = (Fractal(parameter="geometry_height", scale=0.4),)


def even(length: float):
    """Return a fineness that is the same everywhere."""
    return lambda places: np.full(len(places), length)


def made_of(mesh: Mesh, of_face, reliefs: tuple, fineness, matrix=STANDS, images=(), most=MOST_TRIANGLES) -> Displaced:
    """Return a mesh divided and moved."""
    moves = np.array([relief is not None for relief in reliefs])
    wanted = moves[np.zeros(len(mesh.triangles), int) if of_face is None else of_face]
    return displaced(mesh, divided(mesh, wanted, matrix, fineness, most), of_face, reliefs, matrix, dict(images))


def moved(
    mesh: Mesh, steps: tuple, depth: float = 0.1, length: float = 0.1, middle: float = 0.0, **values
) -> Displaced:
    return made_of(mesh, None, (Relief(steps, depth, middle),), even(length), **values)


def edges_of(mesh: Mesh) -> tuple[np.ndarray, np.ndarray]:
    """Return the edges of a mesh, (e, 2) places, each way round, and how often each is there."""
    _, points = welded(mesh.vertices)
    t = points[mesh.triangles]
    t = t[(t != np.roll(t, 1, axis=1)).all(1)]  # poles of a ball have triangles without area
    sides = np.concatenate([t[:, [0, 1]], t[:, [1, 2]], t[:, [2, 0]]])
    return np.unique(sides, axis=0, return_counts=True)


def is_closed(mesh: Mesh) -> bool:
    """Return True if each edge is there once each way round: a surface without holes or cracks."""
    sides, counts = edges_of(mesh)
    both = {tuple(side) for side in sides}
    return bool((counts == 1).all()) and all((b, a) in both for a, b in both)


def test_an_even_height_moves_a_ball_and_a_place_of_that_stays():
    made = moved(BALL, (Constant(parameter="geometry_height", value=(0.5, 0.5, 0.5)),), depth=0.4, length=0.08)
    r = np.linalg.norm(made.mesh.vertices, axis=1)
    # On what was a facet the ball is as flat as it was: it moves, it gets no rounder.
    assert np.linalg.norm(made.mesh.rest, axis=1).max() == pytest.approx(1.0, abs=1e-6)
    assert (r - np.linalg.norm(made.mesh.rest, axis=1)) == pytest.approx(0.2, abs=0.005)
    still = moved(BALL, (Constant(parameter="geometry_height", value=(0.5, 0.5, 0.5)),), depth=0.4, middle=0.5)
    assert still.mesh.vertices == pytest.approx(still.mesh.rest, abs=1e-6)
    assert volume(still.mesh) == pytest.approx(volume(BALL), rel=1e-5), "dividing changes nothing"


def test_nothing_tears_at_seams_and_hard_edges():
    rng = np.random.default_rng(3)
    image = rng.random((16, 16, 3)).astype(np.float32)
    by_uv = Picture(parameter="geometry_height", path="p.png", space="red", repeat=(3.1, 2.3))
    for mesh in (BALL, BOX, solids.rounded_box((1.0, 1.0, 1.0), 0.1)):
        assert is_closed(mesh)
        for steps, images in ((LUMPS, {}), ((by_uv,), {by_uv.picture: image})):
            made = moved(mesh, steps, depth=0.05, images=images)
            assert is_closed(made.mesh)
            assert len(made.mesh.triangles) > 4 * len(mesh.triangles) or len(mesh.triangles) > 1000
            assert np.abs(volume(made.mesh) - volume(mesh)) < 0.1 * volume(mesh) + 0.3


def test_edges_are_short_where_they_should_be_and_no_shorter_than_needed():
    plane = solids.panel([(-4, -4, 0), (4, -4, 0), (4, 4, 0), (-4, 4, 0)])

    def near_is_fine(places):
        return 0.05 + 0.4 * np.linalg.norm(places - (4, 4, 0), axis=1)

    made = made_of(plane, None, (Relief(LUMPS, 0.0),), near_is_fine)
    sides, _ = edges_of(made.mesh)
    places, _ = welded(made.mesh.vertices)
    a, b = places[sides[:, 0]], places[sides[:, 1]]
    share = np.linalg.norm(b - a, axis=1) / near_is_fine(0.5 * (a + b))
    assert share.max() <= 1 + 1e-9
    assert np.median(share) > 0.4
    area = (
        np.linalg.norm(
            np.cross(
                *(
                    made.mesh.vertices[made.mesh.triangles[:, k]] - made.mesh.vertices[made.mesh.triangles[:, 0]]
                    for k in (1, 2)
                )
            ),
            axis=1,
        )
        / 2
    )
    assert area.sum() == pytest.approx(64.0, rel=1e-5), "divided, it covers what it covered, once"
    of_parent = np.bincount(made.parents, area)
    assert of_parent == pytest.approx([32.0, 32.0], rel=1e-5)


def test_a_mesh_never_becomes_larger_than_it_may():
    made = moved(BALL, LUMPS, length=0.002, most=20_000)
    assert made.is_cut
    assert 15_000 < len(made.mesh.triangles) <= 20_000
    assert is_closed(made.mesh)
    assert not moved(BALL, LUMPS, length=0.2, most=20_000).is_cut


def test_a_height_of_a_placed_and_stretched_thing_is_in_metres_of_the_set():
    plane = solids.panel([(-1, -1, 0), (1, -1, 0), (1, 1, 0), (-1, 1, 0)])
    stands = np.diag([3.0, 2.0, 0.5, 1.0])
    stands[:3, 3] = (5, 6, 7)
    rise = Gradient(parameter="geometry_height", where="solid", anchor="set", length=10.0)
    made = moved(plane, (rise,), depth=0.8, matrix=stands, length=0.5)
    seen = made.mesh.vertices @ stands[:3, :3].T + stands[:3, 3]
    assert seen[:, 2] - 7 == pytest.approx(0.8 * seen[:, 0] / 10, abs=1e-4)


def test_what_moves_nothing_stays_and_is_joined_to_what_moves():
    of_face = (BALL.vertices[BALL.triangles].mean(1)[:, 2] > 0).astype(np.uint16)
    white = Relief((Constant(parameter="geometry_height", value=(1, 1, 1)),), 0.3)
    made = made_of(BALL, of_face, (None, white), even(0.1))
    kinds = of_face[made.parents]
    moved_by = np.linalg.norm(made.mesh.vertices - made.mesh.rest, axis=1)
    assert is_closed(made.mesh)
    inner = np.setdiff1d(made.mesh.triangles[kinds == 1], made.mesh.triangles[kinds == 0])
    deep = inner[made.mesh.rest[inner, 2] > 0.2]
    assert moved_by[deep] == pytest.approx(0.3, abs=2e-3)
    assert moved_by[made.mesh.rest[:, 2] < -0.2].max() == 0
