"""Glowing tubes: their side shines, their ends do not."""

import math
from typing import ClassVar, Literal

import numpy as np

from nocturne.scene.lights.light import Surface, Turned, circle, length_field


class Tube(Surface, Turned):
    """A straight tube along its own x."""

    title: ClassVar[str] = "Tube light"
    usual: ClassVar[tuple[float, str]] = (1500.0, "lm")
    own: ClassVar[tuple[str, ...]] = ("place", "turn_deg", "length", "radius")
    can_aim: ClassVar[bool] = False
    handles: ClassVar[tuple[tuple[int, str], ...]] = ((0, "length"), (1, "radius"))

    kind: Literal["tube"] = "tube"
    length: float = length_field(1.2, "Length")
    radius: float = length_field(0.013, "Radius")

    @property
    def area(self) -> float:
        """Return the area that shines, m2."""
        return 2 * math.pi * self.radius * self.length

    @property
    def facing_area(self) -> float:
        """Return the area of its outline from the side, m2."""
        return 2 * self.radius * self.length

    def lines(self, reach: float) -> list[np.ndarray]:
        """Return both ends, and two lines between them."""
        half, r = self.length / 2, self.radius
        end = circle(r)[:, (2, 0, 1)]
        sides = [np.array([(-half, y, 0), (half, y, 0)], float) for y in (-r, r)]
        return [end - (half, 0, 0), end + (half, 0, 0), *sides]
