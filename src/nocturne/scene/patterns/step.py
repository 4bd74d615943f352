"""What every step of a pattern has: which parameter it drives, how much it counts, and where it lies on the surface."""

import math
from typing import ClassVar

import numpy as np
from pydantic import model_validator

from nocturne.scene.fields import Model, described

DRIVEN = (
    "base_color",
    "base_metalness",
    "specular_roughness",
    "specular_color",
    "specular_weight",
    "specular_ior",
    "transmission_weight",
    "transmission_color",
    "coat_weight",
    "coat_color",
    "coat_roughness",
    "coat_ior",
    "emission_color",
    "geometry_normal",
)


class Step(Model):
    """One step of what drives a parameter of a material; later ones lie over earlier ones."""

    title: ClassVar[str] = ""

    parameter: str = described(
        "base_color",
        "Drives",
        "The parameter this step replaces.",
        kind="choice",
        choices=tuple((name, name) for name in DRIVEN),
    )
    amount: float = described(
        1.0,
        "Amount",
        "How much the step counts over what lies under it; of a normal map, its strength.",
        low=0,
        high=4,
    )
    on: bool = described(True, "Counts", "Off: the material looks as it would without this step.", kind="switch")
    multiply: bool = described(
        False, "Multiplies", "What lies under it is tinted by the step, not replaced.", kind="switch"
    )
    invert: bool = described(False, "Invert", "Dark becomes light and light dark.", kind="switch")
    repeat: tuple[float, float] = described(
        (1.0, 1.0), "Repeats", "How often the step repeats across the UVs.", kind="vector"
    )
    offset: tuple[float, float] = described(
        (0.0, 0.0), "Offset", "Moves the step, in parts of its size.", kind="vector"
    )
    uv_set: int = described(
        1,
        "UV set",
        "Which texture coordinates it lies by: the mesh's first or its second.",
        kind="whole",
        low=1,
        high=2,
    )
    turn_deg: float = described(0.0, "Turn", "Turns the step about its corner.", unit="°", low=-360, high=360)

    @property
    def share(self) -> float:
        """Return how much of the parameter the step replaces, 0..1; the strength of a normal map is apart."""
        return 1.0 if self.parameter == "geometry_normal" else min(self.amount, 1.0)

    @property
    def picture(self) -> tuple[str, str] | None:
        """Return (path, space) of the picture that the step needs, as `Assets.images` is keyed, None if none."""
        return None

    @property
    def is_colour(self) -> bool:
        """Return True if what it puts out is colour, not numbers."""
        return self.parameter.endswith("_color")

    def affine(self) -> np.ndarray:
        """Return the (2, 3) matrix from texture coordinates of the surface to those of the step."""
        c, s = math.cos(math.radians(self.turn_deg)), math.sin(math.radians(self.turn_deg))
        rx, ry = self.repeat
        return np.array([[rx * c, -ry * s, self.offset[0]], [rx * s, ry * c, self.offset[1]]])

    def values(self, u: np.ndarray, v: np.ndarray, image: np.ndarray | None) -> np.ndarray:
        """Return (..., 3) values at the step's own coordinates, before it is inverted: as the kernels do at each hit.

        image: (h, w, 3) linear values of its picture, if it needs one.
        """
        raise NotImplementedError

    @model_validator(mode="after")
    def _known_parameter(self):
        if self.parameter not in DRIVEN:
            raise ValueError(f"no parameter “{self.parameter}” can be driven")
        return self


def sampled(step: Step, image: np.ndarray | None, size: int) -> np.ndarray:
    """Return (size, size, 3) values of a step over one unit of texture space, the top row at v = 1.

    image: (h, w, 3) linear values of its picture. The amount is left out: it mixes with what lies under the step.
    """
    at = (np.arange(size) + 0.5) / size
    u, v = np.meshgrid(at, at[::-1])
    if image is not None:
        # A picture that is far larger than the small one is thinned out first, else it would be nothing but noise.
        thin = max(1, int(max(image.shape[:2]) * max(map(abs, step.repeat)) / (2 * size)))
        image = np.asarray(image[::thin, ::thin], float)
    (a, b, c), (d, e, f) = step.affine()
    values = step.values(a * u + b * v + c, d * u + e * v + f, image)
    return 1 - values if step.invert else values
