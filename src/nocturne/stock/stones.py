"""Stones, plasters and masonry."""

from nocturne.scene.patterns import Brick, Cells, Fractal, Levels, Marble, Mix, Spots
from nocturne.stock.ready import Ready, ranged, ready, rgb, tinted

STONE, PLASTER = "Stone", "Plaster and masonry"
_BRICK = Brick()
_ROUGH = Fractal(scale=0.004, octaves=5)


def _marble(name: str, tags: str, ground: str, cloud: str, vein: str, **values) -> Ready:
    veins = Marble(scale=0.12, sharpness=7.0, turbulence=2.2)
    clouds = Fractal(scale=0.09, octaves=5, warp=0.6)
    parameter = "subsurface_color" if values.get("subsurface_weight") else "base_color"
    base = tinted(clouds, (0.25, cloud), (0.7, ground), parameter="bg")
    mix = Mix(parameter=parameter, fg=rgb(vein), steps=(*base, veins.model_copy(update={"parameter": "mix"})))
    return ready(
        STONE,
        name,
        tags,
        base_color=rgb(ground),
        specular_roughness=0.12,
        steps=(mix, *ranged(clouds, "specular_roughness", 0.08, 0.18)),
        **values,
    )


def _ground(kind: str, name: str, tags: str, tones: tuple, *, lump: float, depth_mm: float = 0.0, **values) -> Ready:
    """Return something matt with tones from dark to light in lumps, and a rough face of a depth."""
    pattern = Fractal(scale=lump, octaves=6, warp=0.4)
    steps = tinted(pattern, *((0.25 + 0.5 * i / (len(tones) - 1), tone) for i, tone in enumerate(tones)))
    steps += values.pop("steps", ())
    if depth_mm:
        values["relief_depth"] = depth_mm / 1000
        steps += (_ROUGH.model_copy(update={"parameter": "geometry_height"}),)
    roughness = values.setdefault("specular_roughness", 0.8)
    steps += ranged(pattern, "specular_roughness", roughness - 0.08, min(roughness + 0.08, 1.0))
    return ready(kind, name, tags, base_color=rgb(tones[len(tones) // 2]), steps=steps, **values)


STONES = (
    _marble(
        "White marble",
        "statue floor veins subsurface",
        "ece9e4",
        "d2d0cd",
        "8f9298",
        subsurface_weight=0.8,
        subsurface_color=rgb("ece9e4"),
        subsurface_radius_mm=2.5,
        subsurface_radius_scale=(1.0, 0.8, 0.65),
    ),
    _marble("Black marble", "floor veins", "121214", "1d1d20", "c8c2b4"),
    _marble("Green marble", "verde veins", "1f3a2c", "152a20", "8fae98"),
    ready(
        STONE,
        "Granite",
        "polished speckled worktop",
        base_color=rgb("8a8580"),
        specular_roughness=0.14,
        steps=(
            *tinted(
                Cells(scale=0.005, output="id"), (0.0, "1c1b1b"), (0.18, "4b4744"), (0.5, "a69c94"), (1.0, "d9d2c9")
            ),
            *ranged(Fractal(scale=0.04, octaves=4), "specular_roughness", 0.08, 0.2),
        ),
    ),
    _ground(
        STONE,
        "Sandstone",
        "yellow wall",
        ("a98255", "c9a877", "dcc199"),
        lump=0.05,
        depth_mm=0.6,
        base_diffuse_roughness=0.6,
    ),
    _ground(
        STONE,
        "Limestone",
        "pale wall",
        ("b9ae9a", "d2c8b4", "e2dac9"),
        lump=0.08,
        depth_mm=0.3,
        base_diffuse_roughness=0.4,
    ),
    _ground(
        STONE,
        "Slate",
        "dark grey roof blackboard",
        ("22262a", "343a3f", "4a5157"),
        lump=0.05,
        depth_mm=0.4,
        specular_roughness=0.55,
    ),
    _ground(
        STONE,
        "Basalt",
        "dark rough",
        ("1c1c1d", "2b2b2c", "3d3c3b"),
        lump=0.02,
        depth_mm=1.0,
        base_diffuse_roughness=0.5,
    ),
    ready(
        STONE,
        "Terrazzo",
        "floor chips polished",
        stand="slab",
        size=0.5,
        base_color=rgb("d9d2c6"),
        specular_roughness=0.16,
        steps=(
            *tinted(
                Cells(scale=0.018, output="id"),
                (0.0, "5a4a40"),
                (0.25, "a9745a"),
                (0.5, "cfc3b0"),
                (0.75, "7d8a83"),
                (1.0, "efe9dd"),
            ),
            Mix(
                parameter="base_color",
                fg=rgb("ddd6c9"),
                bg=rgb("ddd6c9"),
                mix=1.0,
                amount=0.0,
                steps=(
                    Cells(parameter="amount", scale=0.018, output="edge"),
                    Levels(parameter="amount", inlow=0.1, inhigh=0.14, outlow=1.0, outhigh=0.0),
                ),
            ),
        ),
    ),
    ready(
        STONE,
        "Jade",
        "gem green translucent carving",
        base_color=rgb("4f8f66"),
        specular_roughness=0.1,
        specular_ior=1.61,
        subsurface_weight=1.0,
        subsurface_color=rgb("5fa377"),
        subsurface_radius_mm=4.0,
        subsurface_radius_scale=(0.5, 1.0, 0.6),
        steps=(
            *tinted(
                Fractal(scale=0.05, octaves=5, warp=1.2),
                (0.25, "2f7350"),
                (0.55, "63a67b"),
                (0.8, "b9d9c0"),
                parameter="subsurface_color",
            ),
            *ranged(Fractal(scale=0.03, octaves=4), "specular_roughness", 0.06, 0.16),
        ),
    ),
    ready(
        STONE, "Obsidian", "black volcanic glass", base_color=rgb("08080a"), specular_roughness=0.02, specular_ior=1.5
    ),
)

PLASTERS = (
    _ground(
        PLASTER,
        "White plaster",
        "wall gypsum smooth",
        ("d8d4cb", "e3e0d8", "ebe8e2"),
        lump=0.25,
        size=0.5,
        base_diffuse_roughness=0.5,
    ),
    _ground(
        PLASTER,
        "Rough render",
        "wall facade",
        ("b7ad9c", "c9c0b0", "d8d1c4"),
        lump=0.2,
        depth_mm=2.0,
        size=0.5,
        base_diffuse_roughness=0.7,
    ),
    _ground(
        PLASTER,
        "Clay plaster",
        "earth wall brown",
        ("8a6849", "a27e5c", "b8976f"),
        lump=0.15,
        depth_mm=0.5,
        size=0.5,
        base_diffuse_roughness=0.8,
    ),
    ready(
        PLASTER,
        "Concrete",
        "grey wall floor pores",
        size=0.5,
        base_color=rgb("8d8b86"),
        base_diffuse_roughness=0.5,
        specular_roughness=0.7,
        relief_depth=0.0015,
        steps=(
            *tinted(Fractal(scale=0.18, octaves=7, warp=0.3), (0.25, "74726d"), (0.5, "8f8d88"), (0.75, "a6a49e")),
            Spots(
                parameter="base_color", scale=0.03, radius=0.12, density=0.35, invert=True, blend="multiply", amount=0.7
            ),
            Spots(parameter="geometry_height", scale=0.03, radius=0.12, density=0.35, invert=True),
            Fractal(parameter="geometry_height", scale=0.01, octaves=4, blend="multiply", amount=0.3),
            *ranged(Fractal(scale=0.1, octaves=4), "specular_roughness", 0.55, 0.85),
        ),
    ),
    ready(
        PLASTER,
        "Red brick wall",
        "masonry facade",
        stand="cube",
        size=2.0,
        base_color=rgb("8a4634"),
        base_diffuse_roughness=0.6,
        specular_roughness=0.85,
        specular_weight=0.5,
        relief_depth=0.008,
        steps=(
            Mix(
                parameter="base_color",
                bg=rgb("a59c8f"),
                steps=(
                    *tinted(
                        _BRICK.model_copy(update={"output": "id"}),
                        (0.0, "5f2c22"),
                        (0.4, "8b4433"),
                        (0.75, "a65a41"),
                        (1.0, "b9795a"),
                        parameter="fg",
                    ),
                    Fractal(parameter="fg", scale=0.02, octaves=5, blend="overlay", amount=0.5),
                    _BRICK.model_copy(update={"output": "face", "parameter": "mix"}),
                ),
            ),
            _BRICK.model_copy(update={"output": "height", "parameter": "geometry_height"}),
            Fractal(parameter="geometry_height", scale=0.008, octaves=4, blend="multiply", amount=0.35),
        ),
    ),
    ready(
        PLASTER,
        "Whitewashed brick",
        "masonry wall painted",
        stand="cube",
        size=2.0,
        base_color=rgb("dcd8cf"),
        base_diffuse_roughness=0.5,
        specular_roughness=0.7,
        relief_depth=0.006,
        steps=(
            *tinted(Fractal(scale=0.2, octaves=6), (0.25, "c6c0b4"), (0.6, "e0dcd3"), (0.8, "ebe8e1")),
            _BRICK.model_copy(update={"output": "height", "parameter": "geometry_height"}),
            Fractal(parameter="geometry_height", scale=0.01, octaves=4, blend="multiply", amount=0.3),
        ),
    ),
)
