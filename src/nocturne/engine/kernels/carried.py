"""What the vertices of some meshes carry besides: second texture coordinates and colours. S scene table."""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, jit
from nocturne.engine.kernels.vectors import ONE
from nocturne.engine.layout import mesh as Mesh
from nocturne.engine.layout import more as More


@jit
def more_at(S, mesh, a, b, c, w, u, v, first_u, first_v, size, per_area):
    """Return (u, v, reach, red, green, blue) at barycentric (w, u, v) between vertices a, b, c of all.

    A mesh without a second set has its first one, (first_u, first_v) with its reach `size`, and one without colours is
    white. per_area: the width of what looks over the square root of twice the triangle's area.
    """
    first = T.mesh_i(S)[mesh, Mesh.FIRST_MORE]
    if first < 0:
        return first_u, first_v, size, ONE, ONE, ONE
    M = T.more(S)
    shift = first - T.mesh_i(S)[mesh, Mesh.FIRST_VERTEX]
    a += shift
    b += shift
    c += shift
    ua = f4(M[a, More.UV])
    va = f4(M[a, More.UV + 1])
    du1 = f4(M[b, More.UV]) - ua
    dv1 = f4(M[b, More.UV + 1]) - va
    du2 = f4(M[c, More.UV]) - ua
    dv2 = f4(M[c, More.UV + 1]) - va
    k = More.COLOUR
    return (
        ua + u * du1 + v * du2,
        va + u * dv1 + v * dv2,
        per_area * math.sqrt(abs(du1 * dv2 - du2 * dv1)),
        w * f4(M[a, k]) + u * f4(M[b, k]) + v * f4(M[c, k]),
        w * f4(M[a, k + 1]) + u * f4(M[b, k + 1]) + v * f4(M[c, k + 1]),
        w * f4(M[a, k + 2]) + u * f4(M[b, k + 2]) + v * f4(M[c, k + 2]),
    )
