"""The shop's sign: a board of dark enamel with raised letters in three scripts, stars and a frame."""

from nocturne.colour.spaces import from_srgb
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Constant, Edges, Emblem, Fractal, Lettering, Levels, Step

SIZE = (0.74, 0.022, 0.27)  # metres: width, thickness, height
_LAID = {"where": "flat", "tilt": (90.0, 0.0, 0.0), "origin": (0.0, 0.0, SIZE[2] / 2)}
_GOLD, _CREAM, _RED = from_srgb(0.86, 0.66, 0.30), from_srgb(0.93, 0.87, 0.72), from_srgb(0.55, 0.12, 0.08)


def _artwork(**values) -> tuple[Step, ...]:
    """Return the sign's letters and shapes, each with values of its own over those that all have."""
    maker = Lettering(words="HALLEY & VOGT", face="round", height=0.048, spacing=0.04, offset=(0.0, -0.026), **_LAID)
    wares = Lettering(words="Planetaria · 天球儀 · قبة السماء", face="sans", height=0.026, offset=(0.0, 0.058), **_LAID)
    stars = Emblem(style="star", height=0.026, waist=0.42, count=2, gap=0.58, offset=(0.0, -0.026), **_LAID)
    frame = Emblem(
        style="frame", width=SIZE[0] - 0.04, height=SIZE[2] - 0.04, corner_radius=0.022, thickness=0.006, **_LAID
    )
    return tuple(step.model_copy(update=values) for step in (frame, stars, maker, wares))


def _coloured(step: Step) -> Step:
    """Return a step of the sign in its colours."""
    if isinstance(step, Lettering) and step.face == "round":
        ink = {"color": _GOLD, "edge_color": from_srgb(0.62, 0.38, 0.12), "edge_width": 0.009}
        lines = {"outline_1_gap": 0.0022, "outline_1_width": 0.0022, "outline_1_color": _RED}
        return step.model_copy(update={**ink, **lines})
    return step.model_copy(update={"color": _GOLD if isinstance(step, Emblem) else _CREAM})


def material() -> Material:
    """Return what the board is made of."""
    worn = Constant(
        parameter="base_color",
        value=from_srgb(0.25, 0.16, 0.11),
        steps=(
            Edges(parameter="amount", radius=0.004, rays=6),
            Fractal(parameter="amount", scale=0.008, octaves=3, blend="plus", amount=0.7),
            Levels(parameter="amount", inlow=0.62, inhigh=0.78),
        ),
    )
    dulled = Fractal(parameter="specular_roughness", scale=0.05, octaves=4, blend="plus", amount=0.15)
    return Material(
        id="signboard",
        name="Sign, enamelled",
        base_color=from_srgb(0.06, 0.13, 0.16),
        specular_roughness=0.28,
        relief_depth=0.0016,
        steps=(
            *map(_coloured, _artwork(parameter="base_color")),
            worn,
            dulled,
            *_artwork(parameter="geometry_height", output="raised", bevel=0.004, blend="lighten"),
        ),
    )
