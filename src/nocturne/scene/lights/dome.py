"""Even light from everywhere."""

import math
from typing import ClassVar, Literal

from nocturne.scene.lights.environment import MOST_NIT
from nocturne.scene.lights.light import Light


class Dome(Light):
    """An even shell at infinity."""

    title: ClassVar[str] = "Dome"
    units: ClassVar[tuple[str, ...]] = ("nit", "lx")
    usual: ClassVar[tuple[float, str]] = (50.0, "nit")
    own: ClassVar[tuple[str, ...]] = ()
    is_infinite: ClassVar[bool] = True

    kind: Literal["dome"] = "dome"

    def strength(self) -> float:
        """Return the luminance, nit."""
        return self.power / math.pi if self.unit == "lx" else self.power

    def too_bright_by(self) -> float:
        """Return its luminance against a bright sky's."""
        return self.strength() / MOST_NIT
