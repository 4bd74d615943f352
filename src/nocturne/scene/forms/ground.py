"""A flat ground."""

from typing import ClassVar, Literal

import numpy as np

from nocturne.scene.forms.form import Form, length
from nocturne.scene.shapes import Mesh
from nocturne.scene.solids import grid

_WHOLE = 32.0  # metres: a larger one is cut into cells
_LEAST = 0.5  # metres from the middle to the sides of its smallest cell


class Ground(Form):
    """A level rectangle about the origin, facing up.

    A large one is cut into cells that grow with their distance from the middle: where a ray meets one is as exact
    as the cell is small, and on one of 30 km a millimetre would be lost.
    """

    title: ClassVar[str] = "Ground"
    own: ClassVar[tuple[str, ...]] = ("width", "depth")

    kind: Literal["ground"] = "ground"
    width: float = length(10.0, "Width", "Along x.")
    depth: float = length(10.0, "Depth", "Along y.")

    def build(self) -> Mesh:
        """Return two triangles, or cells; UVs are metres from the corner."""
        xs, ys = _lines(self.width), _lines(self.depth)
        x, y = np.meshgrid(xs, ys)
        points = np.stack([x, y, np.zeros_like(x)], axis=-1)
        uvs = np.stack([x + self.width / 2, y + self.depth / 2], axis=-1)
        return grid(points, np.zeros_like(points) + (0, 0, 1), uvs)


def _lines(size: float) -> np.ndarray:
    """Return where a side of a length is cut, from one end to the other."""
    half = size / 2
    if size <= _WHOLE:
        return np.array([-half, half])
    cuts = [half]
    while cuts[-1] / 2 >= _LEAST:
        cuts.append(cuts[-1] / 2)
    return np.array([-c for c in cuts] + cuts[::-1])
