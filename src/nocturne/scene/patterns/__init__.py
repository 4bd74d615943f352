"""Patterns: steps that drive parameters of materials, each kind a class, together a union told apart by `kind`."""

from nocturne.scene.patterns.adjust import (
    Channel,
    Clamp,
    Constant,
    Contrast,
    Curve,
    Hue,
    Levels,
    Maths,
    Mix,
    Ramp,
)
from nocturne.scene.patterns.checkerboard import Checker
from nocturne.scene.patterns.evaluate import Spot, driven_by, sampled, step_value
from nocturne.scene.patterns.geomcolor import MeshColours
from nocturne.scene.patterns.grown import Brushed, Knurl, Marble, Perforated, Weave, Wood
from nocturne.scene.patterns.image import Picture
from nocturne.scene.patterns.laid import Brick, Plank, Tile
from nocturne.scene.patterns.marks import Fibres, Scratches, Spots
from nocturne.scene.patterns.noises import Cells, Fractal, Noise
from nocturne.scene.patterns.signs import Emblem, Lettering
from nocturne.scene.patterns.step import KINDS, AnyStep, Step, asking, every, replaced
from nocturne.scene.patterns.wear import Curvature, Drips, Edges, Hollows, Occlusion
from nocturne.scene.patterns.where import Distance, Facing, Gradient, Nearness, Normal, Position, Random

__all__ = [
    "KINDS",
    "AnyStep",
    "Brick",
    "Brushed",
    "Cells",
    "Channel",
    "Checker",
    "Clamp",
    "Constant",
    "Contrast",
    "Curvature",
    "Curve",
    "Distance",
    "Drips",
    "Edges",
    "Emblem",
    "Facing",
    "Fibres",
    "Fractal",
    "Gradient",
    "Hollows",
    "Hue",
    "Knurl",
    "Lettering",
    "Levels",
    "Marble",
    "Maths",
    "MeshColours",
    "Mix",
    "Nearness",
    "Noise",
    "Normal",
    "Occlusion",
    "Perforated",
    "Picture",
    "Plank",
    "Position",
    "Ramp",
    "Random",
    "Scratches",
    "Spot",
    "Spots",
    "Step",
    "Tile",
    "Weave",
    "Wood",
    "asking",
    "driven_by",
    "every",
    "replaced",
    "sampled",
    "step_value",
]

# In the order in which they are offered. Kernels number them by it, files name them.
_CLASSES: tuple[type[Step], ...] = (
    Picture,
    *(Noise, Fractal, Cells),
    *(Scratches, Fibres, Spots),
    *(Checker, Brick, Tile, Plank, Wood, Marble, Weave, Knurl, Brushed, Perforated),
    *(Lettering, Emblem),
    *(Gradient, Position, Distance, Nearness, Normal, Facing, Random, MeshColours),
    *(Edges, Hollows, Curvature, Occlusion, Drips),
    *(Ramp, Curve, Levels, Hue, Contrast, Clamp, Maths, Channel, Mix, Constant),
)
KINDS.update({kind.model_fields["kind"].default: kind for kind in _CLASSES})
