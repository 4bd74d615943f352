"""A cone, whole or with its top cut off."""

from typing import ClassVar, Literal

from nocturne.scene.forms.form import Form, edge, length, sides
from nocturne.scene.shapes import Mesh
from nocturne.scene.solids import lathe, rounded_profile


class Cone(Form):
    """An upright cone that stands on the ground."""

    title: ClassVar[str] = "Cone"
    own: ClassVar[tuple[str, ...]] = ("diameter", "top", "height", "edge", "sides")

    kind: Literal["cone"] = "cone"
    diameter: float = length(1.0, "Diameter", "At its foot.")
    top: float = length(0.0, "Top diameter", "0: a point.", low=0)
    height: float = length(1.0, "Height", "Along z.")
    edge: float = edge(0.0)
    sides: int = sides()

    def build(self) -> Mesh:
        """Return the turned profile."""
        r, t = self.diameter / 2, self.top / 2
        profile = [(0.0, 0.0), (r, 0.0), (t, self.height)] + ([(0.0, self.height)] if t > 0 else [])
        return lathe(rounded_profile(profile, self.edge) if self.edge > 0 else profile, segments=self.sides)
