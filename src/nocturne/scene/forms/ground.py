"""A flat ground."""

from typing import ClassVar, Literal

from nocturne.scene.forms.form import Form, length
from nocturne.scene.shapes import Mesh
from nocturne.scene.solids import panel


class Ground(Form):
    """A level rectangle about the origin, facing up."""

    title: ClassVar[str] = "Ground"
    own: ClassVar[tuple[str, ...]] = ("width", "depth")

    kind: Literal["ground"] = "ground"
    width: float = length(10.0, "Width", "Along x.")
    depth: float = length(10.0, "Depth", "Along y.")

    def build(self) -> Mesh:
        """Return two triangles."""
        x, y = self.width / 2, self.depth / 2
        return panel([(-x, -y, 0), (x, -y, 0), (x, y, 0), (-x, y, 0)])
