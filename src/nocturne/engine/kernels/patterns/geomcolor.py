"""The colours that a mesh has at its vertices. wp address of the work row, at the place."""

from nocturne.engine.kernels.jit import jit, row_f4
from nocturne.engine.kernels.vectors import load
from nocturne.engine.layout import spot as Spot
from nocturne.engine.layout import steps as Steps


@jit
def value(S, wp, at, b, F, q, size, under):
    """Return the mesh's colour at the place."""
    return load(row_f4(wp), at + Spot.COLOUR)


VALUES = {Steps.GEOMCOLOR: value}
