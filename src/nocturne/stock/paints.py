"""Paints, lacquers and ceramics."""

from nocturne.scene.patterns import Cells, Edges, Fractal, Levels, Mix, Spots, Tile
from nocturne.stock.ready import Ready, below, ranged, ready, rgb, tinted

PAINT, CERAMIC = "Paint", "Ceramic"
_SMUDGE = Fractal(scale=0.06, octaves=4)
_COPPER = below(
    "Bare copper",
    base_metalness=1.0,
    metal_from="table",
    metal_name="copper",
    specular_roughness=0.3,
    steps=ranged(Fractal(scale=0.03, octaves=5), "specular_roughness", 0.22, 0.42),
)
_IRON = below("Bare iron", base_metalness=1.0, metal_from="table", metal_name="iron", specular_roughness=0.4)
# Each flake a small mirror, turned a little its own way, under a lacquer that lies smooth.
_FLAKES = Mix(
    parameter="geometry_normal",
    bg=(0.5, 0.5, 1.0),
    mix=0.2,
    steps=(Cells(parameter="fg", scale=0.0007, output="colour"),),
)
_TILE = Tile(length=0.1, height=0.1)


def _paint(name: str, tags: str, colour: str, roughness: float, **values) -> Ready:
    steps = values.pop("steps", ())
    steps += ranged(_SMUDGE, "specular_roughness", max(roughness - 0.04, 0.0), min(roughness + 0.06, 1.0))
    return ready(PAINT, name, tags, base_color=rgb(colour), specular_roughness=roughness, steps=steps, **values)


def _flaked(name: str, tags: str, colour: str, coat: str) -> Ready:
    return ready(
        PAINT,
        name,
        tags,
        size=0.1,
        base_color=rgb(colour),
        base_metalness=0.85,
        specular_roughness=0.3,
        coat_weight=1.0,
        coat_color=rgb(coat),
        coat_roughness=0.015,
        coat_ior=1.52,
        coat_levelling=1.0,
        steps=(_FLAKES,),
    )


def _enamel(name: str, tags: str, colour: str) -> Ready:
    """Return enamel over copper, chipped at rims and here and there."""
    chips = (
        Fractal(parameter="layer_cover", scale=0.02, octaves=6, warp=0.6, invert=True),
        Edges(parameter="layer_cover", radius=0.003, blend="minus", invert=False),
        Levels(parameter="layer_cover", inlow=0.26, inhigh=0.3),
    )
    return ready(
        PAINT,
        name,
        tags,
        below=(_COPPER,),
        stand="cube",
        base_color=rgb(colour),
        specular_roughness=0.1,
        specular_ior=1.6,
        coat_weight=1.0,
        coat_roughness=0.02,
        layer_thickness_mm=0.35,
        steps=chips,
    )


PAINTS = (
    _paint(
        "White wall paint",
        "matt interior emulsion",
        "e8e6e0",
        0.8,
        specular_weight=0.5,
        base_diffuse_roughness=0.3,
        size=0.5,
    ),
    _paint(
        "Grey wall paint", "matt interior", "8f9190", 0.8, specular_weight=0.5, base_diffuse_roughness=0.3, size=0.5
    ),
    _paint(
        "Green wall paint", "matt interior", "55685a", 0.75, specular_weight=0.5, base_diffuse_roughness=0.3, size=0.5
    ),
    _paint("Red satin paint", "door furniture", "8f1f1a", 0.35),
    _paint("Blue gloss paint", "door enamel boat", "143a6e", 0.12, coat_weight=0.8, coat_roughness=0.04),
    _paint("Black gloss lacquer", "piano", "060606", 0.2, coat_weight=1.0, coat_roughness=0.01, coat_levelling=1.0),
    _paint("Primer grey", "matt filler car", "77787a", 0.65),
    _paint(
        "Chalkboard",
        "black matt school",
        "1f2522",
        0.7,
        base_diffuse_roughness=0.6,
        steps=(*tinted(Fractal(scale=0.15, octaves=6, warp=1.0), (0.3, "1c2220"), (0.6, "262d2a"), (0.85, "4a524e")),),
        size=0.5,
    ),
    _paint(
        "Hammered paint",
        "tool machine grey",
        "5d6a70",
        0.2,
        relief_depth=0.0006,
        coat_weight=0.6,
        coat_roughness=0.08,
        steps=(Cells(parameter="geometry_height", scale=0.007, output="distance"),),
    ),
    _flaked("Red flake lacquer", "car metallic sparkle", "c02a22", "d8423a"),
    _flaked("Silver flake lacquer", "car metallic sparkle", "c4c7ca", "f4f5f6"),
    _flaked("Green flake lacquer", "car metallic sparkle guitar", "2f7a4c", "6fc08c"),
    ready(
        PAINT,
        "Pearl lacquer",
        "car white iridescent film",
        base_color=rgb("dedbe2"),
        specular_roughness=0.3,
        thin_film_weight=0.8,
        thin_film_thickness_nm=320.0,
        thin_film_ior=1.8,
        coat_weight=1.0,
        coat_roughness=0.02,
        coat_levelling=1.0,
        steps=(_FLAKES.model_copy(update={"mix": 0.1}),),
    ),
    _enamel("Chipped blue enamel", "copper pot old layer", "1c4a86"),
    _enamel("Chipped white enamel", "mug pot old layer", "e6e3da"),
    ready(
        PAINT,
        "Chipped red paint on iron",
        "machine old layer worn edges",
        below=(_IRON,),
        stand="cube",
        base_color=rgb("8a1b15"),
        specular_roughness=0.35,
        layer_thickness_mm=0.2,
        steps=(
            Fractal(parameter="layer_cover", scale=0.03, octaves=6, warp=0.5, invert=True),
            Edges(parameter="layer_cover", radius=0.004, blend="minus"),
            Levels(parameter="layer_cover", inlow=0.27, inhigh=0.31),
            *ranged(_SMUDGE, "specular_roughness", 0.3, 0.5),
        ),
    ),
)

CERAMICS = (
    ready(
        CERAMIC,
        "White porcelain",
        "cup plate glaze",
        base_color=rgb("eceae4"),
        specular_roughness=0.3,
        subsurface_weight=0.5,
        subsurface_color=rgb("f1eee6"),
        subsurface_radius_mm=1.0,
        subsurface_radius_scale=(1.0, 0.8, 0.6),
        coat_weight=1.0,
        coat_roughness=0.03,
        coat_ior=1.52,
    ),
    ready(
        CERAMIC,
        "Celadon glaze",
        "green vase crackle",
        base_color=rgb("9fb8a0"),
        specular_roughness=0.3,
        coat_weight=1.0,
        coat_color=rgb("d2e4d2"),
        coat_roughness=0.04,
        steps=(
            *tinted(Fractal(scale=0.04, octaves=4), (0.25, "86a48b"), (0.75, "b5c9b3")),
            Mix(
                parameter="base_color",
                bg=rgb("5c7260"),
                fg=rgb("5c7260"),
                amount=0.0,
                steps=(
                    Cells(parameter="amount", scale=0.012, output="edge"),
                    Levels(parameter="amount", inlow=0.0, inhigh=0.05, outlow=0.8, outhigh=0.0),
                ),
            ),
        ),
    ),
    ready(
        CERAMIC,
        "Speckled stoneware",
        "bowl rustic glaze",
        base_color=rgb("b9a88c"),
        specular_roughness=0.4,
        coat_weight=0.8,
        coat_roughness=0.14,
        steps=(
            *tinted(Fractal(scale=0.05, octaves=5), (0.25, "a8967a"), (0.75, "cbbca2")),
            Spots(
                parameter="base_color",
                scale=0.004,
                radius=0.28,
                density=0.5,
                invert=True,
                blend="multiply",
                amount=0.75,
            ),
        ),
    ),
    ready(
        CERAMIC,
        "Terracotta",
        "clay pot unglazed",
        base_color=rgb("b0623f"),
        base_diffuse_roughness=0.6,
        specular_roughness=0.8,
        specular_weight=0.5,
        relief_depth=0.0002,
        steps=(
            *tinted(Fractal(scale=0.05, octaves=6), (0.25, "98512f"), (0.5, "b0633f"), (0.75, "c68463")),
            Fractal(parameter="geometry_height", scale=0.003, octaves=4),
        ),
    ),
    ready(
        CERAMIC,
        "White tiles",
        "bathroom kitchen glazed wall",
        stand="cube",
        size=0.5,
        base_color=rgb("e9e8e4"),
        specular_roughness=0.1,
        relief_depth=0.002,
        steps=(
            Mix(
                parameter="base_color",
                bg=rgb("a19d96"),
                fg=rgb("e9e8e4"),
                steps=(_TILE.model_copy(update={"output": "face", "parameter": "mix"}),),
            ),
            *ranged(_TILE.model_copy(update={"output": "face"}), "specular_roughness", 0.85, 0.08),
            _TILE.model_copy(update={"output": "height", "parameter": "geometry_height"}),
        ),
    ),
    ready(
        CERAMIC,
        "Black glaze",
        "tenmoku bowl",
        base_color=rgb("120c0a"),
        specular_roughness=0.3,
        coat_weight=1.0,
        coat_color=rgb("c98a5a"),
        coat_roughness=0.04,
        steps=tinted(Fractal(scale=0.03, octaves=5, warp=0.8), (0.35, "0b0807"), (0.7, "26140c"), (0.9, "6b3515")),
    ),
)
