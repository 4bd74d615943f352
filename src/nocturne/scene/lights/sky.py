"""The physical sky."""

from typing import ClassVar, Literal

from nocturne.scene.fields import described
from nocturne.scene.lights.sunlike import Sunlike


class Sky(Sunlike):
    """The sky that a sun makes, without the sun."""

    title: ClassVar[str] = "Sky"
    units: ClassVar[tuple[str, ...]] = ("x",)
    usual: ClassVar[tuple[float, str]] = (1.0, "x")
    own: ClassVar[tuple[str, ...]] = ("azimuth_deg", "elevation_deg", "turbidity", "ground", "together")

    kind: Literal["sky"] = "sky"
    ground: float = described(
        0.2, "Ground albedo", "How much light the ground below the horizon sends back.", low=0, high=1
    )
