"""Building for Embree, and what it answers."""

import numpy as np
import pytest

from nocturne.engine import embree
from nocturne.engine.layout import masks
from nocturne.engine.types import pack
from nocturne.film.film import Film
from nocturne.film.layout import ARRAYS
from nocturne.scene.shapes import transform
from tests import sets


def rows(*matrices: np.ndarray) -> np.ndarray:
    return np.stack([m[:3].ravel() for m in matrices]).astype(np.float32)


def test_instances_masks_and_sides():
    mesh = embree.Shape.mesh(sets.BALL.vertices, sets.BALL.triangles)
    sphere = embree.Shape.sphere()
    stage = embree.Stage(
        [mesh, sphere],
        rows(transform((0, 0, 0), (0, 0, 0)), transform((5, 0, 0), (0, 0, 0), (2, 2, 2))),
        np.array([masks.CAMERA_RAYS, masks.CAMERA_RAYS | masks.INDIRECT_RAYS], np.uint32),
    )
    x = np.array([1.0, 0, 0])
    instance, distance, leaving = stage.first_hit(np.array([-4.0, 0, 0]), x)
    assert (instance, leaving) == (0, False)
    assert distance == pytest.approx(3, abs=2e-3)
    assert stage.first_hit(np.zeros(3), x)[2], "from inside, the ray leaves"
    instance, distance, _ = stage.first_hit(np.array([-4.0, 0, 0]), x, masks.INDIRECT_RAYS)
    assert instance == 1, "a mask hides the first"
    assert distance == pytest.approx(7, abs=1e-4)
    assert stage.first_hit(np.zeros(3), np.array([0, 0, 1.0]), masks.SHADOW_RAYS) is None
    low, high = stage.bounds()
    assert (low, high) == (pytest.approx((-1, -2, -2), abs=1e-2), pytest.approx((7, 2, 2), abs=1e-2))


def test_mirrored_instances_keep_their_outside():
    mesh = embree.Shape.mesh(sets.BOX.vertices, sets.BOX.triangles)
    stage = embree.Stage([mesh], rows(transform((0, 0, 0), (0, 0, 0), (-1, 1, 1))), np.array([1], np.uint32))
    assert stage.first_hit(np.array([-4.0, 0.3, 1]), np.array([1.0, 0, 0]))[1] == pytest.approx(3, abs=1e-4)


def test_the_gate_refuses_what_kernels_could_not_read():
    film = Film.blank(8, 4, ("a",))
    assert len(pack(ARRAYS, film.arrays)) == sum(1 + len(f.shape) for f in ARRAYS)
    with pytest.raises(ValueError, match="samples"):
        pack(ARRAYS, {**film.arrays, "samples": film.samples.astype(np.int64)})
    with pytest.raises(ValueError, match="groups"):
        pack(ARRAYS, {**film.arrays, "groups": film.groups[..., ::-1]})
    with pytest.raises(ValueError, match="no array"):
        pack(ARRAYS, {})
