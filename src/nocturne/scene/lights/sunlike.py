"""What the sun and the physical sky share."""

from typing import ClassVar

from nocturne.scene.fields import described
from nocturne.scene.lights.light import Light, azimuth_field


class Sunlike(Light):
    """The sun, or the sky that it makes."""

    is_infinite: ClassVar[bool] = True
    has_own_colour: ClassVar[bool] = False

    azimuth_deg: float = azimuth_field()
    elevation_deg: float = described(
        30.0, "Elevation", "Height of the sun above the horizon.", unit="°", low=0.5, high=90
    )
    turbidity: float = described(3.0, "Turbidity", "2: very clear. 4: light haze. 10: hazy.", low=1.8, high=10)
    together: bool = described(
        True,
        "Sun and sky together",
        "One edit of the sun's place moves the sun and the sky that share it.",
        kind="switch",
    )

    def strength(self) -> float:
        """Return a factor of what nature gives, or the illuminance facing the sun, lx."""
        return self.power

    def too_bright_by(self) -> float:
        """Return the power against four times what nature gives."""
        return self.power / 4 if self.unit == "x" else self.power / 500_000
