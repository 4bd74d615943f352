"""Texture coordinates of a mesh as a thing places them."""

import math
import weakref
from dataclasses import replace

import numpy as np

from nocturne.scene.shapes import Mesh

Placing = tuple[float, float, tuple[float, float]]
AS_MADE: Placing = (1.0, 0.0, (0.0, 0.0))
_MOST_KEPT = 4  # placings of one mesh
_placed: "weakref.WeakKeyDictionary[Mesh, dict[Placing, Mesh]]" = weakref.WeakKeyDictionary()


def placed_uvs(mesh: Mesh, placing: Placing) -> Mesh:
    """Return a mesh whose texture coordinates are turned by degrees, divided by a size, then shifted; kept."""
    if placing == AS_MADE:
        return mesh
    kept = _placed.setdefault(mesh, {})
    if placing not in kept:
        if len(kept) >= _MOST_KEPT:
            del kept[next(iter(kept))]
        size, turn_deg, shift = placing
        c, s = math.cos(math.radians(turn_deg)), math.sin(math.radians(turn_deg))
        turn = np.array([[c, s], [-s, c]]) / size
        more = mesh.more_uvs.astype(float) @ turn + shift if mesh.more_uvs is not None else None
        kept[placing] = replace(mesh, uvs=mesh.uvs.astype(float) @ turn + shift, more_uvs=more)
    return kept[placing]
