"""A ball."""

from typing import ClassVar, Literal

import numpy as np

from nocturne.scene.forms.form import Form, length, sides
from nocturne.scene.shapes import Mesh
from nocturne.scene.solids import ball, moved


class Ball(Form):
    """A ball that stands on the ground; its UVs are metres along its equator and up its side."""

    title: ClassVar[str] = "Ball"
    own: ClassVar[tuple[str, ...]] = ("diameter", "sides")

    kind: Literal["ball"] = "ball"
    diameter: float = length(1.0, "Diameter")
    sides: int = sides(128)

    def build(self) -> Mesh:
        """Return the ball."""
        r = self.diameter / 2
        up = np.eye(4)
        up[2, 3] = r
        made = moved(ball(r, segments=self.sides), up)
        return Mesh(made.vertices, made.triangles, made.normals, made.uvs * (2 * np.pi * r, np.pi * r))
