"""A backdrop sweep: a floor that turns into a wall without an edge."""

from typing import ClassVar, Literal

import numpy as np

from nocturne.scene.forms.form import Form, length
from nocturne.scene.shapes import Mesh
from nocturne.scene.solids import grid


class Backdrop(Form):
    """A floor before the origin and a wall behind it, joined by a quarter circle; it faces minus y and up."""

    title: ClassVar[str] = "Backdrop sweep"
    own: ClassVar[tuple[str, ...]] = ("width", "depth", "height", "bend")

    kind: Literal["backdrop"] = "backdrop"
    width: float = length(4.0, "Width", "Along x.")
    depth: float = length(4.0, "Depth", "Of floor and bend together, along y.")
    height: float = length(3.0, "Height", "Of bend and wall together.")
    bend: float = length(1.0, "Bend", "Radius of the curve between floor and wall.", low=0)

    def build(self) -> Mesh:
        """Return the swept strip; its origin is in the middle of its floor's depth."""
        r = min(self.bend, self.depth, self.height)
        back = self.depth / 2
        points, normals = [(-self.depth / 2, 0.0)], [(0.0, 1.0)]
        for a in np.linspace(0, np.pi / 2, 33) if r > 0 else (0.0, np.pi / 2):
            points.append((back - r + r * np.sin(a), r - r * np.cos(a)))
            normals.append((-np.sin(a), np.cos(a)))
        points.append((back, self.height))
        normals.append((-1.0, 0.0))
        p, n = np.array(points), np.array(normals)
        along = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(p, axis=0), axis=1))])
        x = np.array([-self.width / 2, self.width / 2])
        rows, columns = len(p), 2
        place = np.zeros((rows, columns, 3))
        place[..., 0], place[..., 1], place[..., 2] = x, p[:, :1], p[:, 1:]
        normal = np.zeros_like(place)
        normal[..., 1], normal[..., 2] = n[:, :1], n[:, 1:]
        u, v = np.meshgrid(x + self.width / 2, along)
        return grid(place, normal, np.stack([u, v], axis=-1))
