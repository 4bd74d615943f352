"""Points: lamps too small for their size to matter, or small balls."""

import math
from typing import ClassVar, Literal

import numpy as np

from nocturne.scene.fields import described
from nocturne.scene.lights.light import MOST_LUMEN, Placed, circle

_SIZE = "0: a point, with hard shadows; it shows in no mirror, and gives nothing through solid glass."


def small_radius():
    """Return the field of the size of a lamp that is a point by default, metres."""
    return described(0.0, "Radius", _SIZE, unit="m", low=0, high=10)


class Point(Placed):
    """A point that shines evenly to all sides."""

    title: ClassVar[str] = "Point light"
    units: ClassVar[tuple[str, ...]] = ("lm", "W", "cd")
    usual: ClassVar[tuple[float, str]] = (800.0, "lm")
    own: ClassVar[tuple[str, ...]] = ("place", "bulb_radius")

    kind: Literal["point"] = "point"
    bulb_radius: float = small_radius()

    @property
    def can_be_seen(self) -> bool:
        """Return True if it has a size."""
        return self.bulb_radius > 0

    def strength(self) -> float:
        """Return the intensity, cd."""
        return self.flux / (4 * math.pi) if self.unit in ("W", "lm") else self.power

    def too_bright_by(self) -> float:
        """Return its flux against a stadium floodlight's."""
        return self.strength() * 4 * math.pi / MOST_LUMEN

    def lines(self, reach: float) -> list[np.ndarray]:
        """Return three circles."""
        ring = circle(self.bulb_radius or reach * 0.05)
        return [ring, ring[:, (0, 2, 1)], ring[:, (2, 0, 1)]]
