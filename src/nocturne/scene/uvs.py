"""Texture coordinates of a mesh as a thing places them."""

import math
import threading
import weakref
from dataclasses import replace

import numpy as np

from nocturne.scene.shapes import Mesh

Placing = tuple[float, float, tuple[float, float]]
AS_MADE: Placing = (1.0, 0.0, (0.0, 0.0))
_MOST_KEPT = 4  # placings of one mesh
_lock = threading.Lock()
_placed: "weakref.WeakKeyDictionary[Mesh, dict[Placing, Mesh]]" = weakref.WeakKeyDictionary()


def placed_uvs(mesh: Mesh, placing: Placing) -> Mesh:
    """Return a mesh whose texture coordinates are turned by degrees, divided by a size, then shifted; kept."""
    if placing == AS_MADE:
        return mesh
    with _lock:  # swatches and pictures ask in threads of their own
        found = _placed.setdefault(mesh, {}).get(placing)
    if found is not None:
        return found
    size, turn_deg, shift = placing
    c, s = math.cos(math.radians(turn_deg)), math.sin(math.radians(turn_deg))
    turn = np.array([[c, s], [-s, c]]) / size
    more = mesh.more_uvs.astype(float) @ turn + shift if mesh.more_uvs is not None else None
    made = replace(mesh, uvs=mesh.uvs.astype(float) @ turn + shift, more_uvs=more)
    with _lock:
        kept = _placed.setdefault(mesh, {})
        while len(kept) >= _MOST_KEPT:
            del kept[next(iter(kept))]
        return kept.setdefault(placing, made)
