"""What all lights have: a name, a group, power in photometric units, a colour."""

import math
from typing import ClassVar, Literal

import numpy as np

from nocturne.colour.blackbody import blackbody
from nocturne.colour.spaces import luminance
from nocturne.scene.fields import Colour, Model, Vector, described


class Light(Model):
    """One light or environment. Each kind is a class of its own, see `nocturne.scene.lights`."""

    title: ClassVar[str]
    units: ClassVar[tuple[str, ...]]  # in which its power can be given; the first is the default
    usual: ClassVar[tuple[float, str]]  # a power that such a light often has
    own: ClassVar[tuple[str, ...]]  # the fields that only some kinds have, in the order of the sheet
    is_infinite: ClassVar[bool] = False
    has_own_colour: ClassVar[bool] = True  # False: nature gives it
    has_surface: ClassVar[bool] = False  # its strength is a luminance
    gives_light: ClassVar[bool] = True  # False: it only helps to find what others give
    handles: ClassVar[tuple[tuple[int, str], ...]] = ()  # which axis sizes which field

    kind: str
    id: str
    name: str = described("Light", "Name", kind="text")
    parent: str = described("", "Moves with", "The group it is in: it moves, turns and hides with it.", kind="thing")
    group: str = described("light", "Light group", "The fader of the light desk it belongs to.", kind="group")
    on: bool = described(True, "On", "Whether it shines.", kind="switch")
    power: float = described(
        800.0,
        "Power",
        "800 lm: a bright household bulb. 1,600 cd/m²: a paper lantern.",
        kind="power",
        low=0,
        high=1e12,
        log=True,
    )
    unit: Literal["W", "lm", "cd", "nit", "lx", "x"] = described(
        "lm", "Power in", "Watts are turned into lumens by the efficacy.", kind="unit"
    )
    efficacy: float = described(
        15.0,
        "Efficacy",
        "Lumens for each watt: incandescent 15, halogen 20, LED 100, perfect green 683.",
        unit="lm/W",
        low=0.1,
        high=683,
        log=True,
    )
    colour_from: Literal["kelvin", "colour"] = described(
        "kelvin",
        "Colour from",
        "Temperature, or any colour; the brightness stays.",
        kind="choice",
        choices=(("kelvin", "Kelvin"), ("colour", "Colour")),
    )
    kelvin: float = described(
        3000.0,
        "Temperature",
        "Candle 1,900 K; bulb 2,800 K; noon 5,500 K; blue sky 10,000 K.",
        unit="K",
        low=800,
        high=40000,
        soft_high=12000,
    )
    colour: Colour = described((1.0, 1.0, 1.0), "Colour", "Only hue and saturation count.", kind="colour", high=100)
    visible: bool = described(True, "Seen by camera", "Whether the camera sees the source itself.", kind="switch")

    @property
    def can_be_seen(self) -> bool:
        """Return True if a camera could see the source itself."""
        return self.has_surface or self.is_infinite

    @property
    def flux(self) -> float:
        """Return the power in lumens, if it is given in lumens or watts."""
        return self.power * self.efficacy if self.unit == "W" else self.power

    def strength(self) -> float:
        """Return what its power means, see `nocturne.scene.lights.strength`; the unit is one of the kind's."""
        raise NotImplementedError

    def too_bright_by(self) -> float:
        """Return how many times brighter it is than the brightest of its kind; 1 or less: there are such."""
        raise NotImplementedError

    def lines(self, reach: float) -> list[np.ndarray]:
        """Return polylines (n, 3) in its own frame that show its shape, and where it shines over `reach` metres."""
        return []


class Placed(Light):
    """A light that stands somewhere in the set."""

    place: Vector = described((0.0, 0.0, 2.0), "Place", "Centre, in the set.", kind="lengths", unit="m")


def turn_field():
    """Return the field of how a light is turned."""
    return described((0.0, 0.0, 0.0), "Turn", "About x, then y, then z.", kind="angles", unit="°")


def azimuth_field():
    """Return the field of a direction round the horizon."""
    return described(
        0.0,
        "Direction",
        "Where the sun stands, or how far the picture is turned; from x towards y.",
        unit="°",
        low=-360,
        high=360,
    )


class Turned(Placed):
    """A light that stands somewhere, and is turned; most shine along their own minus z and can be aimed."""

    can_aim: ClassVar[bool] = True

    turn_deg: Vector = turn_field()


class Surface(Placed):
    """A lamp with a luminous surface."""

    has_surface: ClassVar[bool] = True
    units: ClassVar[tuple[str, ...]] = ("lm", "W", "nit", "cd")

    @property
    def area(self) -> float:
        """Return the area that shines, m2."""
        raise NotImplementedError

    @property
    def facing_area(self) -> float:
        """Return the area as seen from where it looks largest, m2."""
        raise NotImplementedError

    def strength(self) -> float:
        """Return the luminance, nit (Lambertian emitter: flux = pi * area * luminance)."""
        if self.unit in ("W", "lm"):
            return self.flux / (math.pi * self.area)
        return self.power / self.facing_area if self.unit == "cd" else self.power

    def too_bright_by(self) -> float:
        """Return the larger of its luminance against the sun's, and its flux against a stadium floodlight's."""
        value = self.strength()
        lumen = value * math.pi * self.area
        return max(value / SUN_NIT, lumen / MOST_LUMEN / max(self.area, 1.0))


SUN_NIT = 1.6e9
MOST_LUMEN = 150_000.0  # a stadium floodlight


def length_field(default: float, label: str):
    """Return the field of a lamp's size, metres."""
    return described(default, label, "A larger source gives softer shadows.", unit="m", low=1e-4, high=1e4, log=True)


def circle(radius: float) -> np.ndarray:
    """Return a closed polyline (n, 3) of a circle about z."""
    a = np.linspace(0, 2 * math.pi, 49)
    return np.stack([radius * np.cos(a), radius * np.sin(a), np.zeros_like(a)], axis=1)


def chroma(light: Light) -> np.ndarray:
    """Return the light's working-space colour scaled to luminance 1."""
    if light.colour_from == "kelvin":
        return blackbody(light.kelvin)
    rgb = np.maximum(np.array(light.colour, float), 0)
    y = float(luminance(rgb))
    return rgb / y if y > 0 else np.ones(3)
