"""Light from one direction, as from very far: parallel, or from a small disc in the sky."""

import math
from typing import ClassVar, Literal

from nocturne.scene.fields import Vector, described
from nocturne.scene.lights.light import Light, turn_field


class Distant(Light):
    """A disc at infinity that shines along its own minus z."""

    title: ClassVar[str] = "Distant light"
    units: ClassVar[tuple[str, ...]] = ("lx",)
    usual: ClassVar[tuple[float, str]] = (1000.0, "lx")
    own: ClassVar[tuple[str, ...]] = ("turn_deg", "angle_deg")
    is_infinite: ClassVar[bool] = True

    kind: Literal["distant"] = "distant"
    turn_deg: Vector = turn_field()
    angle_deg: float = described(
        0.5, "Angle", "How wide it looks: the sun and the moon 0.5. Wider gives softer shadows.", unit="°", low=0.1,
        high=90,
    )  # fmt: skip

    def strength(self) -> float:
        """Return the luminance of the disc, nit, from the illuminance of what faces it (pi * L * sin^2)."""
        return self.power / (math.pi * math.sin(math.radians(self.angle_deg) / 2) ** 2)

    def too_bright_by(self) -> float:
        """Return the illuminance against four suns'."""
        return self.power / 500_000
