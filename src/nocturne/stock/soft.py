"""Waxes, soaps and what lives: light goes in and comes out elsewhere."""

from nocturne.scene.patterns import Fractal
from nocturne.stock.ready import Ready, ranged, ready, rgb, tinted

KIND = "Wax and living things"
_UNEVEN = Fractal(scale=0.03, octaves=4)


def _soft(name: str, tags: str, colour: str, radius_mm: float, scale: tuple, roughness: float, **values) -> Ready:
    steps = values.pop("steps", ())
    steps += ranged(_UNEVEN, "specular_roughness", max(roughness - 0.05, 0.0), roughness + 0.08)
    return ready(
        KIND,
        name,
        tags,
        base_color=rgb(colour),
        specular_roughness=roughness,
        subsurface_weight=1.0,
        subsurface_color=rgb(colour),
        subsurface_radius_mm=radius_mm,
        subsurface_radius_scale=scale,
        steps=steps,
        **values,
    )


SOFT = (
    _soft("Candle wax", "white paraffin", "f1ece0", 6.0, (1.0, 0.7, 0.45), 0.3),
    _soft("Beeswax", "yellow candle", "c98f2c", 4.0, (1.0, 0.55, 0.2), 0.35),
    _soft("Red sealing wax", "seal letter", "8c0f12", 1.2, (1.0, 0.25, 0.2), 0.25),
    _soft("White soap", "bath bar", "efe9da", 3.0, (1.0, 0.8, 0.6), 0.4),
    _soft(
        "Skin",
        "body hand face",
        "c98e74",
        2.0,
        (1.0, 0.38, 0.2),
        0.38,
        specular_ior=1.4,
        relief_depth=0.00015,
        steps=(
            *tinted(Fractal(scale=0.02, octaves=4), (0.2, "bf846c"), (0.8, "d0977f"), parameter="subsurface_color"),
            Fractal(parameter="geometry_height", scale=0.0012, octaves=3),
        ),
    ),
    _soft("Cheese", "food yellow", "e3b75a", 3.0, (1.0, 0.7, 0.3), 0.35),
    _soft(
        "Apple skin",
        "fruit red gloss",
        "8f1a1c",
        1.5,
        (1.0, 0.4, 0.3),
        0.22,
        coat_weight=0.5,
        coat_roughness=0.12,
        steps=(
            *tinted(
                Fractal(scale=0.025, octaves=6, warp=1.0),
                (0.25, "6e0f14"),
                (0.6, "a02320"),
                (0.85, "c9903a"),
                parameter="subsurface_color",
            ),
        ),
    ),
    ready(
        KIND,
        "Green leaf",
        "plant thin translucent",
        stand="cloth",
        base_color=rgb("3c5e22"),
        specular_roughness=0.38,
        geometry_thin_walled=True,
        subsurface_weight=0.6,
        subsurface_color=rgb("5f8f2a"),
        subsurface_scatter_anisotropy=0.3,
        steps=tinted(Fractal(scale=0.03, octaves=5), (0.25, "2f4d1b"), (0.75, "4f7430")),
    ),
)
