"""Openings that light from outside comes in by: they shine not, they say where to look for light."""

from typing import ClassVar, Literal

import numpy as np

from nocturne.scene.lights.light import Turned, length_field


class Portal(Turned):
    """A rectangle, in its own x and y, that light at infinity comes in through, along its own minus z."""

    title: ClassVar[str] = "Portal"
    units: ClassVar[tuple[str, ...]] = ("lm",)
    usual: ClassVar[tuple[float, str]] = (1.0, "lm")
    own: ClassVar[tuple[str, ...]] = ("place", "turn_deg", "width", "height")
    handles: ClassVar[tuple[tuple[int, str], ...]] = ((0, "width"), (1, "height"))
    gives_light: ClassVar[bool] = False
    has_own_colour: ClassVar[bool] = False
    can_aim: ClassVar[bool] = False

    kind: Literal["portal"] = "portal"
    width: float = length_field(1.0, "Width")
    height: float = length_field(1.0, "Height")

    def strength(self) -> float:
        """Return 0: it gives no light of its own."""
        return 0.0

    def too_bright_by(self) -> float:
        """Return 0."""
        return 0.0

    def lines(self, reach: float) -> list[np.ndarray]:
        """Return its edge with a cross, and where the light goes that comes in."""
        w, h = self.width / 2, self.height / 2
        edge = np.array([(-w, -h, 0), (w, -h, 0), (w, h, 0), (-w, h, 0), (-w, -h, 0)], float)
        crossed = [np.array([(-w, 0, 0), (w, 0, 0)], float), np.array([(0, -h, 0), (0, h, 0)], float)]
        return [edge, *crossed, np.array([(0, 0, 0), (0, 0, -reach)], float)]
