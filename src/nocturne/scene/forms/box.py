"""A box with rounded edges."""

from typing import ClassVar, Literal

from nocturne.scene.forms.form import Form, edge, length
from nocturne.scene.shapes import Mesh
from nocturne.scene.solids import rounded_box


class Box(Form):
    """A box that stands on the ground."""

    title: ClassVar[str] = "Box"
    own: ClassVar[tuple[str, ...]] = ("width", "depth", "height", "edge")

    kind: Literal["box"] = "box"
    width: float = length(1.0, "Width", "Along x.")
    depth: float = length(1.0, "Depth", "Along y.")
    height: float = length(1.0, "Height", "Along z.")
    edge: float = edge(0.002)

    def build(self) -> Mesh:
        """Return the box; without a rounded edge its edges are sharp."""
        return rounded_box((self.width, self.depth, self.height), self.edge)
