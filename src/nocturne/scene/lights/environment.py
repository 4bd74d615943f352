"""Pictures of what lies all round."""

from typing import ClassVar, Literal

from nocturne.scene.fields import described
from nocturne.scene.lights.light import Light, azimuth_field

MOST_NIT = 50_000.0


class Environment(Light):
    """A latitude-longitude picture at infinity."""

    title: ClassVar[str] = "Environment"
    units: ClassVar[tuple[str, ...]] = ("nit",)
    usual: ClassVar[tuple[float, str]] = (100.0, "nit")
    own: ClassVar[tuple[str, ...]] = ("image", "azimuth_deg")
    is_infinite: ClassVar[bool] = True

    kind: Literal["environment"] = "environment"
    image: str = described("", "Picture", "Latitude-longitude picture, EXR or HDR.", kind="file", holds="picture")
    azimuth_deg: float = azimuth_field()

    def strength(self) -> float:
        """Return the luminance of white in the picture, nit."""
        return self.power

    def too_bright_by(self) -> float:
        """Return the power against a bright sky's."""
        return self.power / MOST_NIT
