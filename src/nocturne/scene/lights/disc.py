"""Discs that shine to one side."""

import math
from typing import ClassVar, Literal

import numpy as np

from nocturne.scene.lights.light import Surface, Turned, circle, length_field


class Disc(Surface, Turned):
    """A round area light."""

    title: ClassVar[str] = "Disc light"
    usual: ClassVar[tuple[float, str]] = (1200.0, "lm")
    own: ClassVar[tuple[str, ...]] = ("place", "turn_deg", "radius")
    handles: ClassVar[tuple[tuple[int, str], ...]] = ((0, "radius"),)

    kind: Literal["disc"] = "disc"
    radius: float = length_field(0.25, "Radius")

    @property
    def area(self) -> float:
        """Return the area that shines, m2."""
        return math.pi * self.radius**2

    facing_area = area

    def lines(self, reach: float) -> list[np.ndarray]:
        """Return its edge, and where it shines."""
        return [circle(self.radius), np.array([(0, 0, 0), (0, 0, -reach)], float)]
