"""Plastics and rubber."""

from nocturne.colour.clears import clears
from nocturne.scene.patterns import Fractal, Marble
from nocturne.stock.ready import Ready, ranged, ready, rgb, tinted

KIND = "Plastic"
_SMUDGE = Fractal(scale=0.05, octaves=4)
_FINE = Fractal(parameter="geometry_height", scale=0.0009, octaves=2)


def _plastic(name: str, tags: str, colour: str, roughness: float, **values) -> Ready:
    steps = values.pop("steps", ())
    steps += ranged(_SMUDGE, "specular_roughness", max(roughness - 0.03, 0.0), roughness + 0.05)
    return ready(
        KIND, name, tags, base_color=rgb(colour), specular_roughness=roughness, specular_ior=1.49, steps=steps, **values
    )


PLASTICS = (
    _plastic("White plastic, gloss", "device abs", "e6e4df", 0.12),
    _plastic("Black plastic, gloss", "device abs", "0c0c0d", 0.1),
    _plastic("Red plastic, gloss", "toy abs", "b3161b", 0.12),
    _plastic("Yellow plastic, satin", "tool toy", "e0a713", 0.28),
    _plastic("Black plastic, grained", "dashboard matt", "161616", 0.42, relief_depth=0.00012, steps=(_FINE,)),
    _plastic("Grey plastic, matt", "housing", "7b7d80", 0.5),
    _plastic("Black rubber", "tyre seal", "0e0e0e", 0.65, base_diffuse_roughness=0.4),
    _plastic("Red rubber", "stopper seal tube", "8f2a22", 0.55, base_diffuse_roughness=0.3),
    _plastic(
        "White nylon",
        "polyamide translucent",
        "e9e7de",
        0.38,
        subsurface_weight=0.8,
        subsurface_color=rgb("f0eee4"),
        subsurface_radius_mm=1.5,
        subsurface_radius_scale=(1.0, 0.8, 0.6),
    ),
    ready(
        KIND,
        "Silicone rubber",
        "translucent soft milky",
        specular_roughness=0.3,
        specular_ior=clears()["silicone"].index,
        transmission_weight=1.0,
        transmission_color=rgb("e6e6e0"),
        transmission_depth=0.02,
        transmission_scatter=(0.9, 0.9, 0.88),
    ),
    ready(
        KIND,
        "Frosted polycarbonate",
        "clear matt lampshade",
        specular_roughness=0.4,
        specular_ior=clears()["polycarbonate"].index,
        transmission_weight=1.0,
        transmission_color=rgb("eef2f4"),
        transmission_depth=0.05,
    ),
    ready(
        KIND,
        "Clear acrylic",
        "pmma transparent block",
        specular_roughness=0.0,
        specular_ior=clears()["acrylic"].index,
        transmission_weight=1.0,
        transmission_color=rgb("f6fbfb"),
        transmission_depth=0.2,
        transmission_dispersion_abbe_number=round(clears()["acrylic"].abbe, 2),
    ),
    ready(
        KIND,
        "Bakelite",
        "brown old radio telephone mottled",
        base_color=rgb("3a1a10"),
        specular_roughness=0.16,
        specular_ior=1.63,
        steps=(
            *tinted(
                Marble(scale=0.05, sharpness=0.8, turbulence=1.6), (0.0, "26110a"), (0.5, "381a0f"), (1.0, "4c2715")
            ),
            *ranged(_SMUDGE, "specular_roughness", 0.1, 0.24),
        ),
    ),
)
