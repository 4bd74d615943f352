"""The sun."""

from typing import ClassVar, Literal

from nocturne.scene.lights.sunlike import Sunlike


class Sun(Sunlike):
    """The sun's disc, coloured by the air it shines through."""

    title: ClassVar[str] = "Sun"
    units: ClassVar[tuple[str, ...]] = ("x", "lx")
    usual: ClassVar[tuple[float, str]] = (1.0, "x")
    own: ClassVar[tuple[str, ...]] = ("azimuth_deg", "elevation_deg", "turbidity", "together")

    kind: Literal["sun"] = "sun"
