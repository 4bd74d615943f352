"""A ring: a torus."""

from typing import ClassVar, Literal

import numpy as np

from nocturne.scene.forms.form import Form, length, sides
from nocturne.scene.shapes import Mesh
from nocturne.scene.solids import moved, ring


class Ring(Form):
    """A round ring that lies on the ground."""

    title: ClassVar[str] = "Ring"
    own: ClassVar[tuple[str, ...]] = ("diameter", "thickness", "sides")

    kind: Literal["ring"] = "ring"
    diameter: float = length(1.0, "Diameter", "From middle to middle of its section.")
    thickness: float = length(0.1, "Thickness", "Diameter of its section.")
    sides: int = sides(128)

    def build(self) -> Mesh:
        """Return the ring."""
        up = np.eye(4)
        up[2, 3] = self.thickness / 2
        return moved(ring(self.diameter / 2, self.thickness / 2, segments=self.sides), up)
