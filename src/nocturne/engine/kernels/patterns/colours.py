"""The colours that a mesh has at its vertices. S scene table, b binding, more: what the mesh carries, see `carried`."""

from nocturne.engine.kernels.jit import jit
from nocturne.engine.layout import pattern as Pattern

NUMBER = Pattern.COLOURS


@jit
def value(S, b, u, v, size, more):
    """Return the mesh's colour at the hit."""
    return more[3], more[4], more[5]


def parts(step):
    """Return what the float row of a mesh's colours has beside its placement: nothing."""
    return {}
