"""Fabrics, leathers and papers."""

from nocturne.scene.patterns import Cells, Fibres, Fractal, Mix, Noise, Weave
from nocturne.stock.ready import Ready, ranged, ready, rgb, tinted

FABRIC, LEATHER, PAPER = "Fabric", "Leather", "Paper"


def _woven(name: str, tags: str, across: str, along: str, thread_mm: float, **values) -> Ready:
    """Return cloth of threads of two colours."""
    weave = Weave(thread=thread_mm / 1000, where="sides")
    cloth = Mix(
        parameter="base_color",
        bg=rgb(along),
        fg=rgb(across),
        steps=(weave.model_copy(update={"output": "way", "parameter": "mix"}),),
    )
    uneven = weave.model_copy(
        update={"output": "id", "parameter": "base_color", "blend": "overlay", "amount": values.pop("uneven", 0.15)}
    )
    steps = (cloth, uneven, weave.model_copy(update={"parameter": "geometry_height"}), *values.pop("steps", ()))
    return ready(
        FABRIC,
        name,
        tags,
        **{
            "stand": "cloth",
            "base_color": rgb(along),
            "base_diffuse_roughness": 0.5,
            "specular_roughness": 0.75,
            "specular_weight": 0.4,
            "relief_depth": thread_mm / 2500,
            **values,
        },
        steps=steps,
    )


def _grained(name: str, tags: str, dark: str, light: str, roughness: float, *, grain_mm: float, **values) -> Ready:
    """Return leather with its grain."""
    cells = Cells(scale=grain_mm / 1000, output="edge")
    steps = (
        *tinted(Fractal(scale=0.05, octaves=5), (0.25, dark), (0.75, light)),
        cells.model_copy(update={"parameter": "geometry_height"}),
        *ranged(Fractal(scale=0.03, octaves=4), "specular_roughness", roughness - 0.06, roughness + 0.1),
    )
    return ready(
        LEATHER,
        name,
        tags,
        base_color=rgb(light),
        specular_roughness=roughness,
        relief_depth=grain_mm / 4000,
        steps=steps,
        **values,
    )


FABRICS = (
    _woven("Linen", "flax natural cloth", "c9bda2", "bdb094", 0.7, uneven=0.3),
    _woven("Cotton canvas", "sail sack painting", "d6cfbf", "cdc5b3", 0.9),
    _woven("Denim", "blue jeans trousers", "2a3a5c", "b3b9c4", 0.6, uneven=0.35),
    _woven(
        "Wool tweed", "jacket brown", "6d5a45", "4b4236", 1.6, fuzz_weight=0.4, fuzz_color=rgb("8c7a66"), uneven=0.6
    ),
    _woven("Hessian", "sack jute coarse", "a58a5e", "997e54", 2.2, uneven=0.4),
    _woven(
        "White curtain",
        "thin translucent drape",
        "eceae4",
        "e6e3dc",
        0.5,
        geometry_thin_walled=True,
        subsurface_weight=0.7,
        subsurface_color=rgb("efece5"),
        subsurface_scatter_anisotropy=0.2,
    ),
    ready(
        FABRIC,
        "Red velvet",
        "curtain theatre plush fuzz",
        base_color=rgb("4a0710"),
        base_diffuse_roughness=0.5,
        specular_weight=0.2,
        specular_roughness=0.8,
        fuzz_weight=1.0,
        fuzz_color=rgb("c0323c"),
        fuzz_roughness=0.35,
        stand="cloth",
        steps=tinted(Fractal(scale=0.06, octaves=4, warp=0.8), (0.3, "33040b"), (0.7, "590a15")),
    ),
    ready(
        FABRIC,
        "Blue velvet",
        "plush fuzz",
        base_color=rgb("0b1436"),
        specular_weight=0.2,
        specular_roughness=0.8,
        fuzz_weight=1.0,
        fuzz_color=rgb("3c58b4"),
        fuzz_roughness=0.35,
        stand="cloth",
    ),
    ready(
        FABRIC,
        "Grey felt",
        "wool hat fuzz",
        base_color=rgb("6e6d6b"),
        base_diffuse_roughness=0.8,
        specular_weight=0.2,
        specular_roughness=0.9,
        fuzz_weight=0.7,
        fuzz_color=rgb("9b9a97"),
        fuzz_roughness=0.7,
        relief_depth=0.0003,
        stand="cloth",
        steps=(
            *tinted(Fractal(scale=0.01, octaves=5), (0.25, "5d5c5a"), (0.75, "83827f")),
            Fibres(parameter="base_color", length=0.006, width=0.00012, blend="screen", amount=0.25),
            Fractal(parameter="geometry_height", scale=0.002, octaves=4),
        ),
    ),
    ready(
        FABRIC,
        "Silk satin",
        "shiny ivory dress anisotropic",
        base_color=rgb("c9b48c"),
        specular_color=rgb("f4e6c8"),
        specular_roughness=0.34,
        specular_roughness_anisotropy=0.8,
        specular_ior=1.6,
        fuzz_weight=0.15,
        stand="cloth",
    ),
)

LEATHERS = (
    _grained("Brown leather", "saddle bag chair", "4a2a16", "6f4526", 0.4, grain_mm=1.4),
    _grained("Black leather", "car chair shoe", "0d0c0c", "1a1918", 0.34, grain_mm=1.1),
    _grained("Oxblood leather", "book red chair", "3a0d0c", "5c1c18", 0.36, grain_mm=0.9),
    _grained(
        "Patent leather",
        "shoe gloss lacquer",
        "0a0a0a",
        "101010",
        0.3,
        grain_mm=1.6,
        coat_weight=1.0,
        coat_roughness=0.03,
        coat_levelling=1.0,
    ),
    ready(
        LEATHER,
        "Suede",
        "rough soft shoe fuzz",
        base_color=rgb("8a6a49"),
        base_diffuse_roughness=0.7,
        specular_weight=0.15,
        specular_roughness=0.9,
        fuzz_weight=0.6,
        fuzz_color=rgb("b89770"),
        fuzz_roughness=0.6,
        steps=tinted(Fractal(scale=0.03, octaves=5, warp=0.8), (0.25, "74573a"), (0.75, "9c7a56")),
    ),
)

PAPERS = (
    ready(
        PAPER,
        "White paper",
        "sheet office",
        stand="cloth",
        base_color=rgb("eeede8"),
        base_diffuse_roughness=0.3,
        specular_roughness=0.7,
        specular_weight=0.5,
        relief_depth=0.00005,
        steps=(Noise(parameter="geometry_height", scale=0.0006),),
    ),
    ready(
        PAPER,
        "Brown wrapping paper",
        "kraft parcel bag",
        stand="cloth",
        base_color=rgb("a67c4e"),
        specular_roughness=0.65,
        relief_depth=0.00006,
        steps=(
            *tinted(Fractal(scale=0.02, octaves=5), (0.25, "946c41"), (0.75, "b58a5b")),
            Fibres(parameter="base_color", length=0.004, width=0.0001, blend="multiply", amount=0.2, invert=True),
            Noise(parameter="geometry_height", scale=0.0007),
        ),
    ),
    ready(
        PAPER,
        "Cardboard",
        "grey board box",
        stand="cube",
        base_color=rgb("9a8468"),
        base_diffuse_roughness=0.5,
        specular_roughness=0.8,
        specular_weight=0.4,
        steps=(
            *tinted(Fractal(scale=0.01, octaves=5), (0.25, "8b765b"), (0.75, "a89175")),
            Fibres(parameter="base_color", length=0.005, width=0.00015, blend="overlay", amount=0.3),
        ),
    ),
    ready(
        PAPER,
        "Parchment",
        "lampshade skin translucent old map",
        stand="cloth",
        base_color=rgb("d9c296"),
        specular_roughness=0.5,
        geometry_thin_walled=True,
        subsurface_weight=0.8,
        subsurface_color=rgb("e0c894"),
        subsurface_scatter_anisotropy=0.3,
        steps=tinted(
            Fractal(scale=0.06, octaves=6, warp=0.6), (0.25, "c4a673"), (0.75, "e6d2a6"), parameter="subsurface_color"
        ),
    ),
    ready(
        PAPER,
        "Rice paper",
        "lantern screen thin translucent",
        stand="cloth",
        base_color=rgb("f0ece0"),
        specular_roughness=0.7,
        specular_weight=0.4,
        geometry_thin_walled=True,
        subsurface_weight=0.9,
        subsurface_color=rgb("f2ede0"),
        subsurface_scatter_anisotropy=0.5,
        steps=(
            Fibres(parameter="subsurface_color", length=0.02, width=0.0002, blend="multiply", amount=0.25, invert=True),
        ),
    ),
)
