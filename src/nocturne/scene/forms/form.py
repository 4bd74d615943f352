"""What every shape that is made here has: numbers that stay editable, and a mesh made of them."""

from typing import ClassVar

from nocturne.scene.fields import Model, described
from nocturne.scene.shapes import Mesh

FINEST = 512  # sides of what is round, at most


class Form(Model):
    """A shape from numbers. Each kind is a class of its own, see `nocturne.scene.forms`."""

    title: ClassVar[str]
    own: ClassVar[tuple[str, ...]]  # its fields in the order of the sheet

    kind: str

    def build(self) -> Mesh:
        """Return its mesh: metres, standing on z = 0 about the origin unless its kind says otherwise, UVs in metres."""
        raise NotImplementedError


def length(default: float, label: str, help: str = "", *, low: float = 1e-5, high: float = 1e6):
    """Return the field of a length, metres."""
    return described(default, label, help, unit="m", low=low, high=high, soft_high=max(10 * default, 1.0), log=low > 0)


def sides(default: int = 96):
    """Return the field of how many sides stand for what is round."""
    return described(default, "Sides", "Of what is round. More are rounder.", kind="whole", low=3, high=FINEST)


def edge(default: float = 0.0):
    """Return the field of a rounded edge, metres."""
    return described(
        default,
        "Rounded edge",
        "Radius. Real edges are never sharp: 1 mm already catches light.",
        unit="m",
        low=0,
        high=1e4,
        soft_high=0.05,
    )
