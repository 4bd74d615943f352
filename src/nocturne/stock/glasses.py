"""Glasses, liquids, ice and gems: closed shapes, by measured index and dispersion."""

from nocturne.colour.clears import clears
from nocturne.scene.patterns import Fractal
from nocturne.stock.ready import Ready, ranged, ready, rgb

GLASS, LIQUID = "Glass", "Liquid"


def _clear(kind: str, name: str, tags: str, substance: str, colour: str, depth: float, **values) -> Ready:
    """Return a clear substance; depth: metres of it that give the colour."""
    known = clears()[substance]
    if known.abbe is not None:
        values.setdefault("transmission_dispersion_abbe_number", round(known.abbe, 3))
    return ready(
        kind,
        name,
        tags,
        **{"specular_roughness": 0.0, "specular_ior": known.index, **values},
        transmission_weight=1.0,
        transmission_color=rgb(colour),
        transmission_depth=depth,
    )


GLASSES = (
    _clear(GLASS, "Window glass", "soda lime pane bottle", "window-glass", "c9e8dc", 0.1, light_passes=True),
    _clear(GLASS, "Clear glass", "crown laboratory flask", "crown", "eef7f3", 0.1),
    _clear(GLASS, "Green bottle glass", "wine", "window-glass", "7fc487", 0.012, size=0.02),
    _clear(GLASS, "Amber glass", "brown bottle medicine", "window-glass", "d98a3a", 0.01, size=0.02),
    _clear(GLASS, "Cobalt glass", "blue", "window-glass", "5a7fe0", 0.012, size=0.02),
    _clear(GLASS, "Ruby glass", "red signal", "flint", "e0484a", 0.012, size=0.02),
    _clear(GLASS, "Lead crystal", "cut flint dispersion", "flint", "fbfdfc", 0.2, transmission_dispersion_scale=1.0),
    _clear(
        GLASS,
        "Frosted glass",
        "etched matt bath",
        "window-glass",
        "dcefe8",
        0.1,
        specular_roughness=0.38,
        steps=ranged(Fractal(scale=0.02, octaves=4), "specular_roughness", 0.33, 0.43),
    ),
    _clear(
        GLASS,
        "Opal glass",
        "milk white lampshade",
        "window-glass",
        "f2f0ea",
        0.01,
        transmission_scatter=(3.0 / 4, 3.0 / 4, 3.0 / 4),
        specular_roughness=0.05,
    ),
    ready(
        GLASS,
        "Thin pane",
        "window sheet bell jar",
        specular_roughness=0.0,
        specular_ior=clears()["window-glass"].index,
        transmission_weight=1.0,
        transmission_color=rgb("e9f5f0"),
        geometry_thin_walled=True,
    ),
    _clear(
        GLASS, "Diamond", "gem jewel dispersion", "diamond", "fdfdfd", 0.1, transmission_dispersion_scale=1.0, size=0.02
    ),
    _clear(GLASS, "Ruby", "gem jewel red", "sapphire", "d83a58", 0.008, transmission_dispersion_scale=1.0, size=0.02),
    _clear(GLASS, "Emerald", "gem jewel green", "quartz", "4ac98a", 0.01, specular_ior=1.578, size=0.02),
)

LIQUIDS = (
    _clear(LIQUID, "Water", "clear", "water", "d5eef2", 2.0),
    _clear(LIQUID, "Tea", "brown drink", "water", "d98a3a", 0.03, size=0.02),
    _clear(LIQUID, "Coffee", "black drink", "water", "8a4a22", 0.006, size=0.02),
    _clear(LIQUID, "Red wine", "drink", "ethanol", "a8283c", 0.012, specular_ior=1.345, size=0.02),
    _clear(LIQUID, "Olive oil", "yellow", "vegetable-oil", "d8c850", 0.03, size=0.02),
    _clear(LIQUID, "Honey", "amber sweet", "glycerol", "e0a040", 0.02, specular_ior=1.49, size=0.02),
    _clear(LIQUID, "Blue ink", "dye", "water", "5a6ae0", 0.002, size=0.02),
    _clear(LIQUID, "Alcohol", "spirit clear", "ethanol", "f3fbfb", 1.0),
    ready(
        LIQUID,
        "Milk",
        "white drink scatter",
        specular_roughness=0.0,
        specular_ior=1.348,
        base_color=rgb("f4f1e6"),
        subsurface_weight=1.0,
        subsurface_color=rgb("f6f2e4"),
        subsurface_radius_mm=3.0,
        subsurface_radius_scale=(1.0, 0.75, 0.45),
    ),
    ready(
        LIQUID,
        "Murky water",
        "pond cloudy green",
        specular_roughness=0.0,
        specular_ior=clears()["water"].index,
        transmission_weight=1.0,
        transmission_color=rgb("7a8a4a"),
        transmission_depth=0.05,
        transmission_scatter=(0.35, 0.4, 0.22),
        transmission_scatter_anisotropy=0.6,
    ),
    _clear(
        LIQUID,
        "Ice",
        "frozen cold",
        "ice",
        "d9f0f5",
        0.5,
        relief_depth=0.0008,
        steps=(
            Fractal(parameter="geometry_height", scale=0.03, octaves=4),
            *ranged(Fractal(scale=0.02, octaves=5), "specular_roughness", 0.0, 0.25, cut=(0.5, 0.8)),
        ),
    ),
    ready(
        LIQUID,
        "Air bubble",
        "gas inside",
        light_passes=True,
        specular_roughness=0.0,
        specular_ior=1.0,
        transmission_weight=1.0,
        precedence=1,
    ),
    ready(
        LIQUID,
        "Soap film",
        "bubble iridescent thin",
        specular_roughness=0.0,
        specular_ior=1.333,
        transmission_weight=1.0,
        geometry_thin_walled=True,
        thin_film_weight=1.0,
        thin_film_ior=1.333,
        thin_film_thickness_nm=420.0,
        steps=ranged(Fractal(scale=0.06, octaves=4, warp=1.5), "thin_film_thickness_nm", 150.0, 700.0, cut=(0.2, 0.8)),
    ),
)
