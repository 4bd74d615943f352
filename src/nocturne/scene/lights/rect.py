"""Rectangles that shine to one side."""

from typing import ClassVar, Literal

import numpy as np

from nocturne.scene.lights.light import Surface, Turned, length_field


class Rect(Surface, Turned):
    """A rectangle, in its own x and y."""

    title: ClassVar[str] = "Area light"
    usual: ClassVar[tuple[float, str]] = (1500.0, "lm")
    own: ClassVar[tuple[str, ...]] = ("place", "turn_deg", "width", "height")
    handles: ClassVar[tuple[tuple[int, str], ...]] = ((0, "width"), (1, "height"))

    kind: Literal["rect"] = "rect"
    width: float = length_field(0.5, "Width")
    height: float = length_field(0.5, "Height")

    @property
    def area(self) -> float:
        """Return the area that shines, m2."""
        return self.width * self.height

    facing_area = area

    def lines(self, reach: float) -> list[np.ndarray]:
        """Return its edge, and where it shines."""
        w, h = self.width / 2, self.height / 2
        edge = np.array([(-w, -h, 0), (w, -h, 0), (w, h, 0), (-w, h, 0), (-w, -h, 0)], float)
        return [edge, np.array([(0, 0, 0), (0, 0, -reach)], float)]
