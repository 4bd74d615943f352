"""Glowing balls."""

import math
from typing import ClassVar, Literal

import numpy as np

from nocturne.scene.lights.light import Surface, circle, length_field


class Sphere(Surface):
    """A ball that shines to all sides."""

    title: ClassVar[str] = "Sphere light"
    usual: ClassVar[tuple[float, str]] = (800.0, "lm")
    own: ClassVar[tuple[str, ...]] = ("place", "radius")
    handles: ClassVar[tuple[tuple[int, str], ...]] = ((0, "radius"),)

    kind: Literal["sphere"] = "sphere"
    radius: float = length_field(0.05, "Radius")

    @property
    def area(self) -> float:
        """Return the area that shines, m2."""
        return 4 * math.pi * self.radius**2

    @property
    def facing_area(self) -> float:
        """Return the area of its outline, m2."""
        return math.pi * self.radius**2

    def lines(self, reach: float) -> list[np.ndarray]:
        """Return three great circles."""
        ring = circle(self.radius)
        return [ring, ring[:, (0, 2, 1)], ring[:, (2, 0, 1)]]
