"""A turned shape: a drawn profile about an upright axis."""

from typing import ClassVar, Literal

from pydantic import model_validator

from nocturne.scene.fields import described
from nocturne.scene.forms.form import Form, sides
from nocturne.scene.shapes import Mesh
from nocturne.scene.solids import lathe, rounded_profile

_VASE = ((0.0, 0.0), (0.06, 0.0), (0.1, 0.1), (0.05, 0.22), (0.065, 0.28), (0.06, 0.28), (0.045, 0.22), (0.0, 0.02))


class Turned(Form):
    """A profile of (distance from the axis, height), from below upwards on the outside, turned about z."""

    title: ClassVar[str] = "Turned shape"
    own: ClassVar[tuple[str, ...]] = ("profile", "round", "sides")

    kind: Literal["turned"] = "turned"
    profile: tuple[tuple[float, float], ...] = described(
        _VASE, "Profile", "Points by their distance from the axis and their height, metres.", kind="profile"
    )
    round: float = described(
        0.02, "Rounded corners", "Radius at the corners of the profile.", unit="m", low=0, high=1e4, soft_high=0.2
    )
    sides: int = sides()

    @model_validator(mode="after")
    def _is_a_profile(self):
        points = self.profile
        if not 2 <= len(points) <= 512:
            raise ValueError("a profile has 2 to 512 points")
        if any(not (0 <= r <= 1e6 and abs(z) <= 1e6) for r, z in points):
            raise ValueError("a profile's distances are 0 to 1,000,000 m")
        if all(a == b for a, b in zip(points, points[1:])):
            raise ValueError("the points of a profile are all in one place")
        return self

    def build(self) -> Mesh:
        """Return the turned profile."""
        points = [p for i, p in enumerate(self.profile) if i == 0 or p != self.profile[i - 1]]
        profile = rounded_profile(points, self.round, steps=9) if self.round > 0 and len(points) > 2 else points
        return lathe(profile, segments=self.sides)
