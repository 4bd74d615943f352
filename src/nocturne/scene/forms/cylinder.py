"""A cylinder."""

from typing import ClassVar, Literal

from nocturne.scene.forms.form import Form, edge, length, sides
from nocturne.scene.shapes import Mesh
from nocturne.scene.solids import lathe, rounded_profile


class Cylinder(Form):
    """An upright cylinder that stands on the ground."""

    title: ClassVar[str] = "Cylinder"
    own: ClassVar[tuple[str, ...]] = ("diameter", "height", "edge", "sides")

    kind: Literal["cylinder"] = "cylinder"
    diameter: float = length(1.0, "Diameter")
    height: float = length(1.0, "Height", "Along z.")
    edge: float = edge(0.002)
    sides: int = sides()

    def build(self) -> Mesh:
        """Return the turned profile."""
        r = self.diameter / 2
        profile = [(0.0, 0.0), (r, 0.0), (r, self.height), (0.0, self.height)]
        return lathe(rounded_profile(profile, self.edge) if self.edge > 0 else profile, segments=self.sides)
