"""What makes the workshop's stuff look used: patterns of wear, stains and grain, over what `furnishing` gives it."""

from nocturne.colour.spaces import from_srgb
from nocturne.scene.materials import Material
from nocturne.scene.patterns import (
    Brushed,
    Cells,
    Constant,
    Edges,
    Fractal,
    Levels,
    Noise,
    Normal,
    Plank,
    Random,
    Spots,
    Step,
    Weave,
)


def _mask(*steps: Step, low: float, high: float) -> tuple[Step, ...]:
    """Return steps that drive an amount, stretched from low..high to 0..1."""
    levels = Levels(parameter="amount", inlow=low, inhigh=high)
    return (*(step.model_copy(update={"parameter": "amount"}) for step in steps), levels)


def _where_worn(parameter: str, value: tuple[float, float, float], *, radius: float, lumps: float) -> Step:
    """Return a step that sets a parameter at edges, broken up by noise."""
    edges = Edges(radius=radius, rays=6)
    broken = Fractal(scale=lumps, octaves=3, blend="plus", amount=0.7)
    return Constant(parameter=parameter, value=value, steps=_mask(edges, broken, low=0.62, high=0.78))


def _stained(scale: float, amount: float, **values) -> Step:
    """Return a step that darkens a colour in lumps."""
    return Fractal(parameter="base_color", scale=scale, blend="multiply", amount=amount, **values)


def _uneven(base: float, *, scale: float, spread: float) -> tuple[Step, ...]:
    """Return steps that make a roughness uneven about a value."""
    return (
        Fractal(parameter="specular_roughness", scale=scale, octaves=4),
        Levels(parameter="specular_roughness", outlow=max(base - spread, 0.02), outhigh=base + spread),
    )


def _plaster(material: Material) -> dict:
    """Return two plasters, each without repeats, the second in patches over the first."""
    colour, normal = material.steps
    first = colour.model_copy(update={"hide_repeats": True, "patch": 0.35})
    second = colour.model_copy(
        update={
            "hide_repeats": True,
            "repeat": (0.8, 0.8),
            "turn_deg": 70.0,
            "steps": _mask(Fractal(scale=1.1, anchor="set", octaves=3), low=0.46, high=0.6),
        }
    )
    even_normal = normal.model_copy(update={"hide_repeats": True, "patch": 0.35})
    damp = Fractal(parameter="base_color", scale=0.9, anchor="set", octaves=3, blend="multiply", amount=0.25)
    return {"steps": (first, second, damp, even_normal)}


def _board(material: Material) -> dict:
    """Return a bench board that hands have worn along its edges."""
    worn = _where_worn("base_color", from_srgb(0.52, 0.36, 0.22), radius=0.014, lumps=0.03)
    smooth = _where_worn("specular_roughness", (0.22, 0.22, 0.22), radius=0.014, lumps=0.05)
    return {"steps": (*material.steps, worn, smooth)}


def _enamel(material: Material) -> dict:
    """Return enamel that is chipped at its edges, down to the copper that it lies over, and unevenly glossy."""
    return {
        "layer_over": "bare-copper",
        "layer_thickness_mm": 0.3,
        "steps": (
            _where_worn("layer_cover", (0.0, 0.0, 0.0), radius=0.003, lumps=0.006),
            Fractal(parameter="coat_roughness", scale=0.05, amount=0.12),
        ),
    }


def _brass(material: Material) -> dict:
    """Return brass that is dull where nobody touches it, and bright along its edges."""
    dull = Fractal(parameter="specular_roughness", scale=0.03, octaves=5, blend="plus", amount=0.18)
    bright = _where_worn("specular_roughness", (0.1, 0.1, 0.1), radius=0.002, lumps=0.01)
    stained = Fractal(parameter="specular_weight", scale=0.02, octaves=5, blend="multiply", amount=0.3)
    return {"steps": (*material.steps, dull, bright, stained)}


def _leather(material: Material) -> dict:
    grain = Cells(parameter="geometry_height", scale=0.0022, output="edge", where="solid")
    worn = _where_worn("base_color", from_srgb(0.46, 0.22, 0.15), radius=0.004, lumps=0.012)
    return {"steps": (grain, worn, *_uneven(0.42, scale=0.02, spread=0.1)), "relief_depth": 0.0003}


def _cloth(material: Material) -> dict:
    threads = Weave(parameter="geometry_height", thread=0.0011, where="sides")
    shade = Weave(parameter="base_color", thread=0.0011, where="sides", blend="multiply", amount=0.5)
    return {"steps": (threads, shade), "relief_depth": 0.0003}


def _stone(material: Material) -> dict:
    pores = Spots(parameter="geometry_height", scale=0.006, radius=0.3, invert=True, where="sides")
    return {"steps": (*material.steps, _stained(0.05, 0.4), pores), "relief_depth": 0.0006}


def _ceramic(material: Material) -> dict:
    speckles = Spots(scale=0.007, radius=0.16, density=0.5, softness=0.4)
    brown = Constant(
        parameter="base_color", value=from_srgb(0.33, 0.22, 0.14), steps=_mask(speckles, low=0.0, high=1.2)
    )
    return {"steps": (_stained(0.04, 0.15), brown)}


def _floor(material: Material) -> dict:
    boards = Plank(parameter="base_color", output="id", blend="multiply", amount=0.55, anchor="set")
    grain = Plank(parameter="base_color", output="grain", blend="multiply", amount=0.6, anchor="set")
    gaps = Plank(parameter="geometry_height", output="height", anchor="set")
    return {"steps": (boards, grain, gaps), "base_color": (0.11, 0.075, 0.05), "relief_depth": 0.002}


def _hill(material: Material) -> dict:
    """Return meadows, fields and scrub, by how far they lie apart."""
    field = {"parameter": "base_color", "where": "flat", "anchor": "set"}
    dry = Constant(
        parameter="base_color",
        value=(0.11, 0.1, 0.045),
        steps=_mask(Fractal(scale=22.0, octaves=4, where="flat", anchor="set"), low=0.42, high=0.62),
    )
    scrub = Fractal(scale=4.0, octaves=5, blend="multiply", amount=0.8, **field)
    return {"steps": (dry, scrub)}


def _copper(material: Material) -> dict:
    """Return copper that was turned, and handled since."""
    turned = Brushed(
        parameter="specular_roughness", where="cylinder", length=0.15, width=0.0006, blend="plus", amount=0.07
    )
    tarnish = Fractal(parameter="specular_weight", scale=0.03, octaves=5, blend="multiply", amount=0.35)
    return {"steps": (*_uneven(0.17, scale=0.035, spread=0.09), turned, tarnish)}


def _houses(material: Material) -> dict:
    """Return plastered walls under tiles, each house a little lighter or darker than the next."""
    own = Random(parameter="base_color", blend="multiply", amount=0.6, in_colour=False)
    stained = Fractal(scale=1.6, octaves=4, parameter="base_color", blend="multiply", amount=0.45, anchor="set")
    tiled = Constant(
        parameter="base_color",
        value=from_srgb(0.36, 0.21, 0.16),
        steps=_mask(Normal(near_deg=62.0, far_deg=66.0), low=0.0, high=1.0),
    )
    return {"steps": (tiled, stained, own), "base_color": (0.46, 0.40, 0.34)}


def _trees(material: Material) -> dict:
    """Return leaves that stand in clumps, each tree a little lighter or darker than the next."""
    own = Random(parameter="base_color", blend="multiply", amount=0.6, in_colour=False)
    clumps = Fractal(scale=0.5, octaves=4, parameter="base_color", blend="multiply", amount=0.85)
    bumps = Fractal(scale=0.35, octaves=4, parameter="geometry_height")
    return {"steps": (clumps, own, bumps), "relief_depth": 0.25, "base_color": (0.05, 0.062, 0.028)}


_LIVING = {
    "plaster": _plaster,
    "brass": _brass,
    "leather": _leather,
    "cloth": _cloth,
    "stone": _stone,
    "ceramic": _ceramic,
    "floor": _floor,
    "houses": _houses,
    "hill": _hill,
    "trees": _trees,
    "copper": _copper,
    "blue-enamel": _enamel,
    "green-enamel": _enamel,
    "cream-enamel": _enamel,
    **{f"bench-board-{k + 1}": _board for k in range(5)},
    "steel": lambda m: {"steps": _uneven(0.24, scale=0.02, spread=0.1)},
    "iron": lambda m: {
        "steps": (
            *_uneven(0.45, scale=0.03, spread=0.15),
            Noise(parameter="base_color", scale=0.01, blend="plus", amount=0.01),
        )
    },
    "pages": lambda m: {"steps": (_stained(0.03, 0.2),)},
    "ceiling": lambda m: {"steps": (_stained(0.8, 0.25, where="sides"),)},
}


def lived_in(material: Material) -> Material:
    """Return a material of the workshop with what time has done to it."""
    make = _LIVING.get(material.id)
    return material if make is None else material.model_copy(update=make(material))
