"""Spots: a cone of light with a soft edge, from a point or a small opening."""

import math
from typing import ClassVar, Literal

import numpy as np

from nocturne.scene.fields import described
from nocturne.scene.lights.light import Turned, circle
from nocturne.scene.lights.point import small_radius

_MOST_CANDELA = 2.0e6  # a follow spot


def beam_solid_angle(inner: float, outer: float) -> float:
    """Return the integral of the spot's profile over solid angle, sr.

    The profile is 1 inside `inner`, 0 outside `outer` (radians), and a cubic step of the cosine between, whose mean
    is one half: 2 pi ((1 - cos inner) + (cos inner - cos outer) / 2).
    """
    ci, co = math.cos(inner), math.cos(max(outer, inner))
    return 2 * math.pi * ((1 - ci) + (ci - co) / 2)


class Spot(Turned):
    """A lamp whose intensity falls from its axis to its edge."""

    title: ClassVar[str] = "Spot light"
    units: ClassVar[tuple[str, ...]] = ("cd", "lm", "W")
    usual: ClassVar[tuple[float, str]] = (1200.0, "cd")
    own: ClassVar[tuple[str, ...]] = ("place", "turn_deg", "inner_deg", "outer_deg", "bulb_radius")

    kind: Literal["spot"] = "spot"
    inner_deg: float = described(
        20.0, "Inner angle", "Full brightness within this angle from the axis.", unit="°", low=0, high=89
    )
    outer_deg: float = described(
        35.0, "Outer angle", "Dark beyond this angle from the axis.", unit="°", low=0.1, high=90
    )
    bulb_radius: float = small_radius()

    @property
    def can_be_seen(self) -> bool:
        """Return True if it has a size."""
        return self.bulb_radius > 0

    def strength(self) -> float:
        """Return the intensity along the axis, cd."""
        if self.unit in ("W", "lm"):
            return self.flux / beam_solid_angle(math.radians(self.inner_deg), math.radians(self.outer_deg))
        return self.power

    def too_bright_by(self) -> float:
        """Return its intensity against a follow spot's."""
        return self.strength() / _MOST_CANDELA

    def lines(self, reach: float) -> list[np.ndarray]:
        """Return its axis, both cones, and its opening."""
        lines = [np.array([(0, 0, 0), (0, 0, -reach)], float)]
        for angle in (self.inner_deg, self.outer_deg):
            r = reach * math.tan(math.radians(min(angle, 80.0)))
            lines.append(circle(r) - (0, 0, reach))
        r = reach * math.tan(math.radians(min(self.outer_deg, 80.0)))
        for x, y in ((r, 0), (-r, 0), (0, r), (0, -r)):
            lines.append(np.array([(0, 0, 0), (x, y, -reach)], float))
        if self.bulb_radius > 0:
            lines.append(circle(self.bulb_radius))
        return lines
