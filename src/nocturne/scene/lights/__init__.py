"""Lights and environments: each kind a class, together a union told apart by `kind`; what their power means."""

import math
from typing import Annotated, Any

from pydantic import Field

from nocturne.errors import SceneError
from nocturne.scene.fields import within
from nocturne.scene.lights.disc import Disc
from nocturne.scene.lights.distant import Distant
from nocturne.scene.lights.dome import Dome
from nocturne.scene.lights.environment import Environment
from nocturne.scene.lights.light import Light, Placed, Surface, Turned, chroma
from nocturne.scene.lights.point import Point
from nocturne.scene.lights.portal import Portal
from nocturne.scene.lights.rect import Rect
from nocturne.scene.lights.sky import Sky
from nocturne.scene.lights.sphere import Sphere
from nocturne.scene.lights.spot import Spot, beam_solid_angle
from nocturne.scene.lights.sun import Sun
from nocturne.scene.lights.sunlike import Sunlike
from nocturne.scene.lights.tube import Tube

__all__ = [
    "KINDS",
    "AnyLight",
    "Light",
    "Placed",
    "Sunlike",
    "Surface",
    "Turned",
    "beam_solid_angle",
    "chroma",
    "make_light",
    "strength",
    "with_unit",
]

_CLASSES = (Rect, Disc, Sphere, Tube, Spot, Point, Distant, Environment, Dome, Sun, Sky, Portal)
KINDS: dict[str, type[Light]] = {kind.model_fields["kind"].default: kind for kind in _CLASSES}
AnyLight = Annotated[
    Rect | Disc | Sphere | Tube | Spot | Point | Distant | Environment | Dome | Sun | Sky | Portal,
    Field(discriminator="kind"),
]


def make_light(*, kind: str = "rect", **values: Any) -> Light:
    """Return a light of a kind, its power in the kind's first unit if none is given.

    Raises
    ------
    KeyError
        If there is no such kind.
    ValueError
        If a value does not fit it.
    """
    return KINDS[kind](**{"unit": KINDS[kind].units[0], **values})


def strength(light: Light) -> float:
    """Return what the light's power means: luminance in cd/m2 for lights with a surface and for environments,
    intensity in cd for points and spots, a factor for the physical sky, illuminance in lx (or a factor) for the sun.

    Raises
    ------
    SceneError
        If the power's unit has no meaning for this kind of light.

    References
    ----------
    CIE S 017 for the units.
    """
    if light.unit not in light.units:
        raise SceneError(
            f"“{light.name}” gives its power in {light.unit}, which a {light.title.lower()} does not have.",
            where=f"lights/{light.id}/unit",
            hint=f"Use {' or '.join(light.units)}.",
        )
    return light.strength()


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
