"""Metals by measured indices: polished, brushed, cast, hot, and gone old."""

from nocturne.scene.patterns import Brushed, Cells, Fractal, Hollows, Knurl, Levels, Perforated, Scratches, Spots
from nocturne.stock.ready import Ready, below, ranged, ready, rgb, tinted

KIND = "Metal"
_GRIME = Fractal(scale=0.03, octaves=5, warp=0.5)


def _metal(name: str, tags: str, key: str, roughness: float, **values) -> Ready:
    """Return a measured metal; rough by an even amount, broken up a little unless steps say how."""
    smudged = ranged(_GRIME, "specular_roughness", max(roughness - 0.03, 0.0), roughness + 0.05)
    values.setdefault("steps", smudged)
    return ready(
        KIND, name, tags, base_metalness=1.0, metal_from="table", metal_name=key, specular_roughness=roughness, **values
    )


def _brushed(roughness: float) -> tuple:
    lines = Brushed(length=0.06, width=0.0003, where="sides")
    return (
        *ranged(lines, "specular_roughness", roughness - 0.06, roughness + 0.1),
        *ranged(lines, "geometry_height", 0, 1),
    )


_STEEL = below("Bare steel", base_metalness=1.0, metal_from="table", metal_name="iron", specular_roughness=0.35)
_COPPER = below(
    "Browned copper",
    base_metalness=1.0,
    metal_from="table",
    metal_name="copper",
    specular_roughness=0.38,
    coat_weight=0.5,
    coat_color=rgb("7a4a2c"),
    coat_roughness=0.4,
)
_TARNISH = below(
    "Polished brass",
    base_metalness=1.0,
    metal_from="table",
    metal_name="brass",
    specular_roughness=0.16,
    specular_tail=0.2,
    steps=ranged(_GRIME, "specular_roughness", 0.1, 0.28),
)

METALS = (
    _metal("Polished gold", "jewel yellow", "gold", 0.05),
    _metal("Rose gold", "jewel red pink", "red-brass", 0.08),
    _metal("Polished silver", "jewel white", "silver", 0.05),
    _metal("Polished copper", "red", "copper", 0.07),
    _metal("Polished brass", "instrument yellow", "brass", 0.08, specular_tail=0.15),
    ready(
        KIND,
        "Old brass",
        "instrument worn dull tarnish layer",
        below=(_TARNISH,),
        base_metalness=0.85,
        metal_from="table",
        metal_name="red-brass",
        specular_roughness=0.5,
        coat_weight=0.7,
        coat_color=rgb("8a6536"),
        coat_roughness=0.5,
        layer_thickness_mm=0.01,
        steps=(
            Fractal(parameter="layer_cover", scale=0.035, octaves=6, warp=0.7),
            Levels(parameter="layer_cover", inlow=0.34, inhigh=0.6),
            Hollows(parameter="layer_cover", radius=0.006, blend="lighten"),
            *ranged(Fractal(scale=0.012, octaves=4), "specular_roughness", 0.36, 0.62),
        ),
    ),
    _metal("Chrome", "mirror car bathroom", "chromium", 0.02, steps=()),
    _metal(
        "Brushed steel",
        "stainless kitchen anisotropic",
        "stainless-steel",
        0.28,
        specular_roughness_anisotropy=0.75,
        relief_depth=0.00002,
        steps=_brushed(0.28),
    ),
    _metal(
        "Brushed aluminium",
        "anisotropic panel",
        "aluminium",
        0.3,
        specular_roughness_anisotropy=0.7,
        relief_depth=0.00002,
        steps=_brushed(0.3),
    ),
    _metal(
        "Blasted aluminium",
        "matt device",
        "aluminium",
        0.45,
        relief_depth=0.00004,
        steps=(Fractal(parameter="geometry_height", scale=0.0006, octaves=3),),
    ),
    ready(
        KIND,
        "Anodised aluminium",
        "blue dyed device",
        base_metalness=1.0,
        metal_from="table",
        metal_name="aluminium",
        specular_roughness=0.3,
        coat_weight=1.0,
        coat_color=rgb("2f64b8"),
        coat_roughness=0.28,
        coat_ior=1.65,
        steps=ranged(Fractal(scale=0.002, octaves=3), "specular_roughness", 0.26, 0.34),
    ),
    _metal(
        "Cast iron",
        "black pan stove rough",
        "iron",
        0.55,
        base_color=rgb("303030"),
        coat_weight=0.8,
        coat_color=rgb("6a625c"),
        coat_roughness=0.5,
        relief_depth=0.0005,
        steps=(
            Fractal(parameter="geometry_height", scale=0.004, octaves=4),
            *ranged(_GRIME, "specular_roughness", 0.45, 0.7),
        ),
    ),
    _metal(
        "Blued steel",
        "hot temper film colours spring",
        "iron",
        0.18,
        thin_film_weight=1.0,
        thin_film_ior=2.4,
        thin_film_thickness_nm=55.0,
        steps=(
            *ranged(Fractal(scale=0.07, octaves=3), "thin_film_thickness_nm", 30.0, 85.0, cut=(0.25, 0.75)),
            *ranged(_GRIME, "specular_roughness", 0.14, 0.26),
        ),
    ),
    ready(
        KIND,
        "Rusty steel",
        "rust iron old orange layer",
        below=(_STEEL,),
        size=0.5,
        base_color=rgb("7a3c1c"),
        base_diffuse_roughness=0.6,
        specular_roughness=0.85,
        specular_weight=0.5,
        layer_thickness_mm=0.5,
        relief_depth=0.0008,
        steps=(
            Fractal(parameter="layer_cover", scale=0.14, octaves=7, warp=0.9),
            Levels(parameter="layer_cover", inlow=0.42, inhigh=0.52),
            *tinted(Fractal(scale=0.02, octaves=5), (0.2, "2c1610"), (0.5, "5f2f1b"), (0.8, "8f5027")),
            Fractal(parameter="geometry_height", scale=0.006, octaves=4),
        ),
    ),
    ready(
        KIND,
        "Copper with verdigris",
        "green roof patina old layer",
        below=(_COPPER,),
        size=0.5,
        base_color=rgb("6fa694"),
        base_diffuse_roughness=0.5,
        specular_roughness=0.8,
        specular_weight=0.5,
        layer_thickness_mm=0.2,
        steps=(
            Fractal(parameter="layer_cover", scale=0.12, octaves=6, warp=1.2),
            Levels(parameter="layer_cover", inlow=0.4, inhigh=0.56),
            *tinted(Fractal(scale=0.03, octaves=5), (0.25, "3f7a6c"), (0.55, "6fa694"), (0.8, "a9cdbb")),
        ),
    ),
    _metal(
        "Galvanised steel",
        "zinc spangle bucket gutter",
        "zinc",
        0.35,
        size=0.5,
        steps=(
            *ranged(Cells(scale=0.02, output="id"), "specular_roughness", 0.22, 0.5),
            *tinted(Cells(scale=0.02, output="id"), (0.0, "9aa0a6"), (1.0, "dfe3e6"), parameter="specular_color"),
        ),
    ),
    _metal(
        "Hammered copper",
        "beaten pot kettle",
        "copper",
        0.16,
        relief_depth=0.0012,
        steps=(
            Cells(parameter="geometry_height", scale=0.014, output="distance"),
            *ranged(_GRIME, "specular_roughness", 0.12, 0.26),
        ),
    ),
    _metal(
        "Knurled steel",
        "grip handle tool",
        "stainless-steel",
        0.22,
        size=0.02,
        relief_depth=0.0004,
        steps=(Knurl(parameter="geometry_height", pitch=0.0014, where="sides"),),
    ),
    _metal(
        "Perforated sheet",
        "holes grille speaker",
        "stainless-steel",
        0.3,
        stand="cloth",
        steps=(
            Perforated(parameter="geometry_opacity", pitch=0.006, hole=0.0035, where="sides", invert=True),
            *ranged(_GRIME, "specular_roughness", 0.25, 0.4),
        ),
    ),
    _metal(
        "Scratched steel",
        "worn table sink",
        "stainless-steel",
        0.2,
        steps=(
            *ranged(_GRIME, "specular_roughness", 0.14, 0.3),
            Scratches(parameter="specular_roughness", length=0.03, width=0.0002, density=0.9, blend="plus", amount=0.3),
        ),
    ),
    _metal("Lead", "dull grey roof", "lead", 0.5),
    _metal(
        "Bronze, cast",
        "statue brown",
        "gilding-metal",
        0.34,
        coat_weight=0.8,
        coat_color=rgb("8a5a34"),
        coat_roughness=0.35,
        relief_depth=0.0003,
        steps=(
            Spots(parameter="geometry_height", scale=0.004, radius=0.3, softness=0.9, invert=True),
            *ranged(_GRIME, "specular_roughness", 0.25, 0.45),
        ),
    ),
)
