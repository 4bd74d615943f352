"""Lights and environments, and what their power means in photometric units."""

import math
from typing import Literal

import numpy as np

from nocturne.colour.blackbody import blackbody
from nocturne.colour.spaces import luminance
from nocturne.errors import SceneError
from nocturne.scene.fields import Colour, Model, Vector, described, within

KINDS = ("rect", "sphere", "spot", "point", "environment", "dome", "sun", "sky")
INFINITE = ("environment", "dome", "sun", "sky")
# Which units a light's power can be given in; the first is the default.
UNITS = {
    "rect": ("lm", "W", "nit", "cd"),
    "sphere": ("lm", "W", "nit", "cd"),
    "spot": ("cd", "lm", "W"),
    "point": ("lm", "W", "cd"),
    "environment": ("nit",),
    "dome": ("nit", "lx"),
    "sun": ("x", "lx"),
    "sky": ("x",),
}
KIND_NAMES = {
    "rect": "Area light",
    "sphere": "Sphere light",
    "spot": "Spot light",
    "point": "Point light",
    "environment": "Environment",
    "dome": "Dome",
    "sun": "Sun",
    "sky": "Sky",
}


class Light(Model):
    """One light or environment; it shines along its own minus z."""

    id: str
    name: str = described("Light", "Name", kind="text")
    kind: Literal["rect", "sphere", "spot", "point", "environment", "dome", "sun", "sky"] = "rect"
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
    place: Vector = described((0.0, 0.0, 2.0), "Place", "Centre, in the set.", kind="lengths", unit="m")
    turn_deg: Vector = described((0.0, 0.0, 0.0), "Turn", "About x, then y, then z.", kind="angles", unit="°")
    width: float = described(
        0.5, "Width", "A larger source gives softer shadows.", unit="m", low=1e-4, high=1e4, log=True
    )
    height: float = described(
        0.5, "Height", "A larger source gives softer shadows.", unit="m", low=1e-4, high=1e4, log=True
    )
    radius: float = described(
        0.05, "Radius", "A larger source gives softer shadows.", unit="m", low=1e-4, high=1e4, log=True
    )
    inner_deg: float = described(
        20.0, "Inner angle", "Full brightness within this angle from the axis.", unit="°", low=0, high=89
    )
    outer_deg: float = described(
        35.0, "Outer angle", "Dark beyond this angle from the axis.", unit="°", low=0.1, high=90
    )
    image: str = described("", "Picture", "Latitude-longitude picture, EXR or HDR.", kind="file")
    azimuth_deg: float = described(
        0.0,
        "Direction",
        "Where the sun stands, or how far the picture is turned; from x towards y.",
        unit="°",
        low=-360,
        high=360,
    )
    elevation_deg: float = described(
        30.0, "Elevation", "Height of the sun above the horizon.", unit="°", low=0.5, high=90
    )
    turbidity: float = described(3.0, "Turbidity", "2: very clear. 4: light haze. 10: hazy.", low=1.8, high=10)
    ground: float = described(
        0.2, "Ground albedo", "How much light the ground below the horizon sends back.", low=0, high=1
    )
    together: bool = described(
        True,
        "Sun and sky together",
        "One edit of the sun's place moves the sun and the sky that share it.",
        kind="switch",
    )
    visible: bool = described(True, "Seen by camera", "Whether the camera sees the source itself.", kind="switch")

    @property
    def is_infinite(self) -> bool:
        """Return True if it has no place."""
        return self.kind in INFINITE


FIELDS_OF_KIND = {
    "rect": ("place", "turn_deg", "width", "height"),
    "sphere": ("place", "radius"),
    "spot": ("place", "turn_deg", "inner_deg", "outer_deg"),
    "point": ("place",),
    "environment": ("image", "azimuth_deg"),
    "dome": (),
    "sun": ("azimuth_deg", "elevation_deg", "turbidity", "together"),
    "sky": ("azimuth_deg", "elevation_deg", "turbidity", "ground", "together"),
}


def chroma(light: Light) -> np.ndarray:
    """Return the light's working-space colour scaled to luminance 1."""
    if light.colour_from == "kelvin":
        return blackbody(light.kelvin)
    rgb = np.maximum(np.array(light.colour, float), 0)
    y = float(luminance(rgb))
    return rgb / y if y > 0 else np.ones(3)


def beam_solid_angle(inner: float, outer: float) -> float:
    """Return the integral of the spot's profile over solid angle, sr.

    The profile is 1 inside `inner`, 0 outside `outer` (radians), and a cubic step of the cosine between, whose mean
    is one half: 2 pi ((1 - cos inner) + (cos inner - cos outer) / 2).
    """
    ci, co = math.cos(inner), math.cos(max(outer, inner))
    return 2 * math.pi * ((1 - ci) + (ci - co) / 2)


def emitting_area(light: Light) -> float:
    """Return the area that shines, m^2, of a rect or sphere."""
    return light.width * light.height if light.kind == "rect" else 4 * math.pi * light.radius**2


def strength(light: Light) -> float:
    """Return what the light's power means: luminance in cd/m2 for lights with a surface and for environments,
    intensity in cd for points and spots, a factor for the physical sky, illuminance in lx (or a factor) for the sun.

    Raises
    ------
    SceneError
        If the power's unit has no meaning for this kind of light.

    References
    ----------
    Lambertian emitter: flux = pi * area * luminance; CIE S 017 for the units.
    """
    if light.unit not in UNITS[light.kind]:
        raise SceneError(
            f"“{light.name}” gives its power in {light.unit}, which a {KIND_NAMES[light.kind].lower()} does not have.",
            where=f"lights/{light.id}/unit",
            hint=f"Use {' or '.join(UNITS[light.kind])}.",
        )
    flux = light.power * light.efficacy if light.unit == "W" else light.power
    if light.kind in ("rect", "sphere"):
        area = emitting_area(light)
        if light.unit in ("W", "lm"):
            return flux / (math.pi * area)
        if light.unit == "cd":
            return light.power / (area if light.kind == "rect" else math.pi * light.radius**2)
        return light.power
    if light.kind in ("point", "spot") and light.unit in ("W", "lm"):
        if light.kind == "point":
            return flux / (4 * math.pi)
        return flux / beam_solid_angle(math.radians(light.inner_deg), math.radians(light.outer_deg))
    if light.kind == "dome" and light.unit == "lx":
        return light.power / math.pi
    return light.power


def with_unit(light: Light, unit: str) -> Light:
    """Return the light with its power given in another unit, as bright as before."""
    if unit == light.unit:
        return light
    before = strength(light)
    one = strength(light.model_copy(update={"unit": unit, "power": 1.0}))
    if light.kind == "sun":  # a factor of the physical sun against lux
        from nocturne.scene.daylight import sun_illuminance

        physical = sun_illuminance(math.radians(light.elevation_deg), light.turbidity)
        before = before * physical if light.unit == "x" else before
        one = physical if unit == "x" else 1.0
    return light.model_copy(update={"unit": unit, "power": within(Light, "power", before / one)})
