"""What drives a material's parameters at a hit: bindings, applied to a copy of its row. W work row, S scene table."""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.carried import more_at
from nocturne.engine.kernels.jit import f4, i4, jit
from nocturne.engine.kernels.patterns.steps import ask_ahead, bound_value
from nocturne.engine.kernels.vectors import ONE, ZERO, clamped, mixed
from nocturne.engine.layout import corner as Corner
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import mesh as Mesh
from nocturne.engine.layout import pattern as Pattern


@jit
def emission_at(S, material, u, v, more):
    """Return the emitted radiance of a material where its texture coordinates are (u, v)."""
    e = (
        f4(T.mat_f(S)[material, Mat.EMISSION]),
        f4(T.mat_f(S)[material, Mat.EMISSION + 1]),
        f4(T.mat_f(S)[material, Mat.EMISSION + 2]),
    )
    first = T.mat_i(S)[material, Mat.FIRST_BINDING]
    for b in range(first, first + T.mat_i(S)[material, Mat.BINDINGS]):
        if T.bind_i(S)[b, Pattern.PARAMETER] == Mat.EMISSION:
            t = bound_value(S, b, u, v, ZERO, more)
            k = f4(T.bind_f(S)[b, Pattern.SHARE])
            e = (e[0] * mixed(ONE, t[0], k), e[1] * mixed(ONE, t[1], k), e[2] * mixed(ONE, t[2], k))
    return e


@jit
def keep_in_range(W, at, parameter, n):
    """Hold what steps made of a parameter to what it may be: a reflectance above 1 would make light."""
    if parameter == Mat.EMISSION or parameter == Mat.NORMAL:
        return
    low = ZERO
    high = ONE
    if parameter == Mat.IOR or parameter == Mat.COAT_IOR:
        low = ONE
        high = f4(3)
    for k in range(n):
        W[at + k] = clamped(f4(W[at + k]), low, high)


@jit
def read_material(S, W, to, m, u, v, size, more):
    """Copy material m's row to the work row at `to`, and let steps replace what they drive at (u, v)."""
    first = T.mat_i(S)[m, Mat.FIRST_BINDING]
    end = first + T.mat_i(S)[m, Mat.BINDINGS]
    for b in range(first, end):
        ask_ahead(S, b, u, v, size, more)
    R = T.mat_f(S)
    for k in range(Mat.COUNT):
        W[to + k] = R[m, k]
    for b in range(first, end):
        at = to + T.bind_i(S)[b, Pattern.PARAMETER]
        n = T.bind_i(S)[b, Pattern.CHANNELS]
        t = bound_value(S, b, u, v, size, more)
        k = f4(T.bind_f(S)[b, Pattern.SHARE])
        if T.bind_i(S)[b, Pattern.BLEND] == Pattern.REPLACE:
            W[at] = mixed(f4(W[at]), t[0], k)
            if n == 3:
                W[at + 1] = mixed(f4(W[at + 1]), t[1], k)
                W[at + 2] = mixed(f4(W[at + 2]), t[2], k)
        else:
            W[at] = f4(W[at]) * mixed(ONE, t[0], k)
            if n == 3:
                W[at + 1] = f4(W[at + 1]) * mixed(ONE, t[1], k)
                W[at + 2] = f4(W[at + 2]) * mixed(ONE, t[2], k)
        keep_in_range(W, at, T.bind_i(S)[b, Pattern.PARAMETER], n)


@jit
def texture_coordinates(S, mesh, prim, u, v):
    """Return the texture coordinates at barycentric (u, v) of a mesh's triangle, and what it carries besides."""
    i = T.mesh_i(S)[mesh, Mesh.FIRST_TRIANGLE] + prim
    first = T.mesh_i(S)[mesh, Mesh.FIRST_VERTEX]
    C = T.corners(S)
    a = i4(first + T.tris(S)[i, 0])
    b = i4(first + T.tris(S)[i, 1])
    c = i4(first + T.tris(S)[i, 2])
    w = ONE - u - v
    s = w * f4(C[a, Corner.U]) + u * f4(C[b, Corner.U]) + v * f4(C[c, Corner.U])
    t = w * f4(C[a, Corner.V]) + u * f4(C[b, Corner.V]) + v * f4(C[c, Corner.V])
    return s, t, more_at(S, mesh, a, b, c, w, u, v, s, t, ZERO, ZERO)
