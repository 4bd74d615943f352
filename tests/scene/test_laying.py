"""Pictures moved, turned and sized where they are seen: what was under the pointer stays under it."""

import numpy as np
import pytest

from nocturne.scene import edit, laying
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.shapes import Mesh, transform
from nocturne.scene.thing import Thing


def sheet(mirrored: bool, skewed: float = 0.0) -> Mesh:
    """Return a square metre whose u runs along y, or against it, and v along x."""
    p = np.array([(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0)], float)
    uvs = np.stack([(-1 if mirrored else 1) * p[:, 1] * 3 + 0.2, p[:, 0] * 3 + skewed * p[:, 1]], axis=1)
    return Mesh(p, np.array([(0, 1, 2), (0, 2, 3)]), np.tile((0, 0, 1), (4, 1)), uvs)


class Lain:
    """A thing that stands askew, and its texture coordinates at points of its plane."""

    def __init__(self, mirrored: bool, skewed: float = 0.0) -> None:
        values = {"uv_size": 1.7, "uv_turn_deg": 33.0, "uv_shift": (0.4, -0.2)}
        self.thing = Thing(id="t", mesh="m", place=(3, 2, 1), turn_deg=(20, 40, 60), size=(2.0, 2.0, 2.0), **values)
        self.assets = Assets({"m": sheet(mirrored, skewed)})
        self.document = Document(things=(self.thing,))
        self.matrix = transform(self.thing.place, self.thing.turn_deg, self.thing.size)
        self.spot = self.spot_at((0.3, 0.2, 0.0))

    def uv(self, document: Document, metres) -> np.ndarray:
        """Return the placed coordinates at a way from the spot along its surface."""
        world = self.spot.point + self.spot.across * metres[0] + self.spot.up * metres[1]
        x, y, _, _ = np.linalg.inv(self.matrix) @ np.append(world, 1.0)
        uvs = self.assets.shape(document.find("things", "t")).uvs.astype(float)
        return uvs[0] + x * (uvs[1] - uvs[0]) + y * (uvs[3] - uvs[0])

    def spot_at(self, local) -> laying.Spot:
        mesh = self.assets.shape(self.thing)
        corners = mesh.vertices[mesh.triangles[0]].astype(float) @ self.matrix[:3, :3].T + self.matrix[:3, 3]
        point = self.matrix[:3, :3] @ np.array(local) + self.matrix[:3, 3]
        return laying.spot_at(corners, mesh.uvs[mesh.triangles[0]].astype(float), point)


@pytest.mark.parametrize("mirrored", [False, True])
def test_what_is_under_the_pointer_stays_there(mirrored):
    lain = Lain(mirrored)
    before, spot = lain.document, lain.spot
    assert lain.uv(before, (0, 0)) == pytest.approx(spot.uv, abs=1e-5)
    assert lain.uv(before, (0.1, 0.3)) == pytest.approx(spot.uv + spot.to_uv @ (0.1, 0.3), abs=1e-5)
    way = np.array((0.15, -0.08))
    moved = laying.moved(before, "t", spot, way)
    for start in ((0, 0), (0.2, 0.1)):
        assert lain.uv(moved, start + way) == pytest.approx(lain.uv(before, start), abs=1e-5)
    angle = 0.7
    c, s = np.cos(angle), np.sin(angle)
    turned = laying.turned(before, "t", spot, angle)
    sized = laying.sized(before, "t", spot, 2.5)
    for start in ((0.0, 0.0), (0.2, 0.1), (-0.1, 0.3)):
        there = np.array([[c, -s], [s, c]]) @ start
        assert lain.uv(turned, there) == pytest.approx(lain.uv(before, start), abs=1e-5)
        assert lain.uv(sized, np.array(start) * 2.5) == pytest.approx(lain.uv(before, start), abs=1e-5)
    assert turned.find("things", "t").uv_size == lain.thing.uv_size
    assert laying.turned(turned, "t", lain.spot_at((0.3, 0.2, 0)), -angle) is not turned


def test_skewed_coordinates_move_and_grow_right_and_none_have_no_spot():
    lain = Lain(False, skewed=0.8)
    before, spot = lain.document, lain.spot
    moved = laying.moved(before, "t", spot, np.array((0.1, 0.2)))
    assert lain.uv(moved, (0.3, 0.3)) == pytest.approx(lain.uv(before, (0.2, 0.1)), abs=1e-5)
    sized = laying.sized(before, "t", spot, 0.5)
    assert lain.uv(sized, (0.1, 0.05)) == pytest.approx(lain.uv(before, (0.2, 0.1)), abs=1e-5)
    assert laying.spot_at(np.eye(3), np.zeros((3, 2)), np.zeros(3)) is None
    assert edit.alter(before, "things", "t", uv_size=1.0) is not before
