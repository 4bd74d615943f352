"""Thin sheets: what goes straight through them, without an event. at offset of a row in the work row W."""

from nocturne.engine.kernels.albedos import table_glass
from nocturne.engine.kernels.jit import f4, jit
from nocturne.engine.kernels.lobes.base import base_albedo, coated_roughness
from nocturne.engine.kernels.lobes.coat import coat_passes
from nocturne.engine.kernels.lobes.dielectric import sheet_reflectance, weighted_eta
from nocturne.engine.kernels.lobes.metal import metal_outside
from nocturne.engine.kernels.lobes.onward import SHARP
from nocturne.engine.kernels.microfacet import fresnel_dielectric
from nocturne.engine.kernels.vectors import ONE, ZERO, clamped
from nocturne.engine.layout import mat as Mat


@jit
def let_straight(S, W, at, outside, mu):
    """Return what of the light a thin sheet lets straight through at cosine mu, its row at `at`.

    It is decided from the row as it is at the hit, by the same equations for paths and for shadow rays; a sheet that is
    rough there scatters what it lets through.
    """
    glass = clamped(f4(W[at + Mat.TRANSMISSION]), ZERO, ONE) * (ONE - clamped(f4(W[at + Mat.METALNESS]), ZERO, ONE))
    rough = coated_roughness(W, at)
    if glass <= ZERO or rough * rough >= SHARP:
        return (ZERO, ZERO, ZERO)
    mu = clamped(mu, f4(1e-4), ONE)
    r = fresnel_dielectric(mu, weighted_eta(f4(W[at + Mat.IOR]) / outside, f4(W[at + Mat.SPECULAR_WEIGHT])))
    q = glass * (ONE - sheet_reflectance(r))
    out = (
        q * f4(W[at + Mat.TRANS_COLOR]),
        q * f4(W[at + Mat.TRANS_COLOR + 1]),
        q * f4(W[at + Mat.TRANS_COLOR + 2]),
    )
    if f4(W[at + Mat.COAT]) > ZERO:
        eta = f4(W[at + Mat.COAT_IOR]) / outside
        coat_rough = clamped(f4(W[at + Mat.COAT_ROUGHNESS]), ZERO, ONE)
        c = fresnel_dielectric(mu, eta)
        if coat_rough * coat_rough >= SHARP:
            whole, part = table_glass(S, eta, coat_rough, mu)
            c = part / whole
        below = metal_outside(W, at, outside)
        out = (
            out[0] * coat_passes(W, at, c, eta, rough, base_albedo(W, at, below, mu, r, True, 0), 0),
            out[1] * coat_passes(W, at, c, eta, rough, base_albedo(W, at, below, mu, r, True, 1), 1),
            out[2] * coat_passes(W, at, c, eta, rough, base_albedo(W, at, below, mu, r, True, 2), 2),
        )
    return out
