"""The metal: what it reflects by colour or by n and k. at offset of a material's row in the work row W."""

from nocturne.engine.kernels.jit import f4, jit
from nocturne.engine.kernels.microfacet import fresnel_conductor, fresnel_edge_tint
from nocturne.engine.kernels.vectors import ONE, ZERO, clamped, mixed
from nocturne.engine.layout import mat as Mat


@jit
def metal_fresnel(W, at, outside, c, k):
    """Return the reflectance of the metal whose row is at `at`, under index `outside`, in channel k at cosine c."""
    weight = clamped(f4(W[at + Mat.SPECULAR_WEIGHT]), ZERO, ONE)
    if f4(W[at + Mat.HAS_NK]) > ZERO:
        return weight * fresnel_conductor(c, f4(W[at + Mat.N + k]) / outside, f4(W[at + Mat.K + k]) / outside)
    return weight * fresnel_edge_tint(c, f4(W[at + Mat.BASE + k]), f4(W[at + Mat.SPECULAR_COLOR + k]))


@jit
def metal_outside(W, at, outside):
    """Return the index of what lies on the metal: the coat's where there is one."""
    return mixed(outside, f4(W[at + Mat.COAT_IOR]), clamped(f4(W[at + Mat.COAT]), ZERO, ONE))
