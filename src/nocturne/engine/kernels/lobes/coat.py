"""The coat: a dielectric layer over everything else (OpenPBR). Names as in surface.py."""

import math

from nocturne.engine.kernels.albedos import table_glass
from nocturne.engine.kernels.jit import f4, inlined, jit, u4
from nocturne.engine.kernels.lobes.base import base_albedo
from nocturne.engine.kernels.lobes.onward import PUT, REFLECTION, SHARP, add_value, put_sharp
from nocturne.engine.kernels.microfacet import fresnel_dielectric, ggx_density, ggx_lambda, sample_visible_normal
from nocturne.engine.kernels.vectors import (
    FOUR,
    ONE,
    TWO,
    ZERO,
    added,
    clamped,
    dot,
    mixed,
    scaled,
    store,
    subtracted,
    unit,
)
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import value as Value

M = Scratch.MAT
SHARE = Scratch.P_COAT


@jit
def coat_passes(W, at, reflected, coat_eta, rough, under, k):
    """Return what a coat lets through to what lies under it and back, in channel k.

    Light thrown back by the coat's inner side meets the base again, which darkens and saturates it (OpenPBR, coat
    darkening): `reflected` is the coat's own reflectance on the way in, `under` the base's albedo. A mirror-like base
    sends light back the way it came, a wide one in all directions, where much of it meets the critical angle.
    """
    coat = clamped(f4(W[at + Mat.COAT]), ZERO, ONE)
    metal = clamped(f4(W[at + Mat.METALNESS]), ZERO, ONE)
    glass = clamped(f4(W[at + Mat.TRANSMISSION]), ZERO, ONE)
    r0 = (coat_eta - ONE) / (coat_eta + ONE)
    wide = max(ONE - (ONE - r0 * r0) / (coat_eta * coat_eta), ZERO)
    inner = mixed(reflected, wide, mixed(ONE, rough, metal + (ONE - metal) * glass))
    darker = (ONE - inner) / max(ONE - clamped(under, ZERO, ONE) * inner, f4(1e-6))
    share = coat * f4(W[at + Mat.COAT_DARKENING])
    tint = mixed(ONE, f4(W[at + Mat.COAT_COLOR + k]), coat)
    return (ONE - coat * reflected) * tint * mixed(ONE, darker, share)


@inlined
def derive(S, W, I, mu, least_alpha):
    """Work out the coat's width and energies, and what it lets through to the base (ATT)."""
    coat = f4(W[M + Mat.COAT])
    W[Scratch.COAT_REFL] = ZERO
    attenuation = (ONE, ONE, ONE)
    if coat > ZERO:
        coat_rough = clamped(f4(W[M + Mat.COAT_ROUGHNESS]), ZERO, ONE)
        coat_alpha = max(coat_rough * coat_rough, least_alpha)
        coat_eta = f4(W[M + Mat.COAT_IOR]) / f4(W[Scratch.OUTSIDE])
        W[Scratch.COAT_ALPHA] = coat_alpha
        W[Scratch.COAT_ETA] = coat_eta
        I[Scratch.IS_COAT_DELTA] = u4(1) if coat_alpha < SHARP else u4(0)
        c = fresnel_dielectric(mu, coat_eta)
        W[Scratch.COAT_ALL] = ONE
        if coat_alpha >= SHARP:
            whole, part = table_glass(S, coat_eta, math.sqrt(coat_alpha), mu)
            W[Scratch.COAT_ALL] = whole
            c = part / whole
        W[Scratch.COAT_REFL] = coat * c
        rough = math.sqrt(f4(W[Scratch.ALPHA]))
        below = f4(W[Scratch.METAL_OUTSIDE])
        reflected = f4(W[Scratch.GLASS_REFL])
        is_thin = I[Scratch.IS_THIN] != u4(0)
        attenuation = (
            coat_passes(W, M, c, coat_eta, rough, base_albedo(W, M, below, mu, reflected, is_thin, 0), 0),
            coat_passes(W, M, c, coat_eta, rough, base_albedo(W, M, below, mu, reflected, is_thin, 1), 1),
            coat_passes(W, M, c, coat_eta, rough, base_albedo(W, M, below, mu, reflected, is_thin, 2), 2),
        )
    store(W, Scratch.ATT, attenuation)


@inlined
def weight(W, I):
    """Return an estimate of what the lobe returns, for choosing among lobes."""
    return f4(W[Scratch.COAT_REFL])


@inlined
def is_sharp(W, I):
    """Return True if the lobe has only one direction for each."""
    return I[Scratch.IS_COAT_DELTA] != u4(0)


@inlined
def evaluate(W, I, wo, wi):
    """Add the lobe's value times cosine to EVAL; return its share times the density of sampling wi by it alone."""
    p = f4(W[SHARE])
    if wi[2] <= ZERO or p <= ZERO or is_sharp(W, I):
        return ZERO
    h = unit(added(wo, wi))
    c = clamped(dot(wo, h), f4(1e-6), ONE)
    a = f4(W[Scratch.COAT_ALPHA])
    d = ggx_density(a, h)
    lo = ggx_lambda(a, wo[2])
    s = (
        f4(W[M + Mat.COAT])
        * fresnel_dielectric(c, f4(W[Scratch.COAT_ETA]))
        * d
        / ((ONE + lo + ggx_lambda(a, wi[2])) * FOUR * wo[2] * f4(W[Scratch.COAT_ALL]))
    )
    add_value(W, Value.REFLECTION, (s, s, s))
    return p * d / ((ONE + lo) * FOUR * wo[2])


@inlined
def sample(W, I, wo, u1, u2, choice):
    """Return a direction and its kind, see `onward`."""
    if is_sharp(W, I):
        wi = (-wo[0], -wo[1], wo[2])
        q = f4(W[M + Mat.COAT]) * fresnel_dielectric(wo[2], f4(W[Scratch.COAT_ETA])) / f4(W[SHARE])
        put_sharp(W, I, wi, (q, q, q), REFLECTION)
        return wi, PUT
    h = sample_visible_normal(f4(W[Scratch.COAT_ALPHA]), wo, u1, u2)
    return subtracted(scaled(h, TWO * dot(wo, h)), wo), REFLECTION
