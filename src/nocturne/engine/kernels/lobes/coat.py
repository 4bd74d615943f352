"""The coat: a dielectric layer over everything but the fuzz (OpenPBR). Names as in surface.py.

A coat that levels the relief has a normal of its own, and one that is brushed another way a tangent: then it has a
frame of its own, which its directions are turned to.
"""

import math

from nocturne.engine.kernels.albedos import table_brushed, table_glass
from nocturne.engine.kernels.jit import f4, inlined, jit, u4
from nocturne.engine.kernels.lobes.base import across_of, base_albedo, look_through
from nocturne.engine.kernels.lobes.facets import mirrored, sample_mirrored, uneven_boundary
from nocturne.engine.kernels.lobes.film import metal_reflects
from nocturne.engine.kernels.lobes.onward import PUT, REFLECTION, SHARP, add_value, put_sharp
from nocturne.engine.kernels.lobes.undercoat import inner_reflectance, slant_of, thrown_back, tinted, under
from nocturne.engine.kernels.microfacet import fresnel_dielectric, ggx_widths
from nocturne.engine.kernels.shading import local, turned_frame
from nocturne.engine.kernels.vectors import (
    ONE,
    TWO,
    ZERO,
    added,
    clamped,
    dot,
    load,
    mixed,
    scaled,
    store,
    unit,
)
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import value as Value

M = Scratch.MAT
SHARE = Scratch.P_COAT
LEAST_COSINE = f4(0.02)


@jit
def coat_passes(W, at, reflected, coat_eta, slant, rough, under, k):
    """Return what a coat lets through to what lies under it and back, in channel k; its tint is apart (`undercoat`).

    Light thrown back by the coat's inner side meets the base again, which darkens and saturates it (OpenPBR, coat
    darkening): `reflected` is the coat's own reflectance on the way in, `under` the base's albedo. A mirror-like base
    sends light back the way it came, a wide one in all directions, where much of it meets the critical angle.
    """
    coat = clamped(f4(W[at + Mat.COAT]), ZERO, ONE)
    metal = clamped(f4(W[at + Mat.METALNESS]), ZERO, ONE)
    glass = clamped(f4(W[at + Mat.TRANSMISSION]), ZERO, ONE)
    wide = inner_reflectance(coat_eta)
    even = mixed(ONE, rough, metal + (ONE - metal) * glass)
    inner = mixed(reflected, wide, even)
    # Of what is thrown back, only what the coat's colour leaves on its way comes to the base again.
    again = reflected * tinted(W, at, TWO * slant, k)
    again = mixed(again, thrown_back(W, at, wide, coat_eta, k), even)
    darker = (ONE - inner) / max(ONE - clamped(under, ZERO, ONE) * again, f4(1e-6))
    share = coat * f4(W[at + Mat.COAT_DARKENING])
    return (ONE - coat * reflected) * mixed(ONE, darker, share)


@jit
def boundary(S, eta, rough, stretch, wo):
    """Return (all that a rough boundary returns, what of it is reflected) of light from wo."""
    mu = clamped(wo[2], f4(1e-4), ONE)
    whole, part = table_glass(S, eta, rough, mu)
    if stretch > ZERO:
        x, y = ggx_widths(rough, stretch)
        return uneven_boundary(x, y, eta, wo, table_brushed(S, rough, stretch, across_of(wo), mu))
    return whole, part


@inlined
def find_frame(W, I):
    """Work out the coat's own frame, if it has one."""
    levelling = clamped(f4(W[M + Mat.COAT_LEVELLING]), ZERO, ONE)
    stretched = f4(W[M + Mat.COAT_ANISOTROPY]) > ZERO
    I[Scratch.COAT_APART] = u4(0)
    if levelling <= ZERO and not stretched:
        return
    n = load(W, Scratch.N)
    smooth = unit(added(scaled(n, ONE - levelling), scaled(load(W, Scratch.SMOOTH), levelling)))
    wo = load(W, Scratch.WO)
    if dot(smooth, wo) < LEAST_COSINE:
        smooth = n
    t, b = turned_frame(W, smooth, f4(W[M + Mat.COAT_ROTATION]) if stretched else ZERO, stretched)
    F = Scratch.COAT_FRAME
    store(W, F, local(W, t))
    store(W, F + 3, local(W, b))
    store(W, F + 6, local(W, smooth))
    I[Scratch.COAT_APART] = u4(1)


@inlined
def to_coat(W, I, v):
    """Return a direction of the base's frame in the coat's."""
    if I[Scratch.COAT_APART] == u4(0):
        return v
    F = Scratch.COAT_FRAME
    return (dot(load(W, F), v), dot(load(W, F + 3), v), dot(load(W, F + 6), v))


@inlined
def from_coat(W, I, v):
    """Return a direction of the coat's frame in the base's."""
    if I[Scratch.COAT_APART] == u4(0):
        return v
    F = Scratch.COAT_FRAME
    x = scaled(load(W, F), v[0])
    y = scaled(load(W, F + 3), v[1])
    return added(added(x, y), scaled(load(W, F + 6), v[2]))


@inlined
def share_kept(W):
    """Return how much of the highlight is not its tail."""
    return ONE - clamped(f4(W[M + Mat.COAT_TAIL]), ZERO, ONE)


@inlined
def derive(S, W, I, wp, wo, least_alpha):
    """Work out the coat's widths and energies, and what it and the fuzz let through to the base (ATT)."""
    coat = f4(W[M + Mat.COAT])
    W[Scratch.COAT_REFL] = ZERO
    kept = f4(W[Scratch.KEPT])
    attenuation = (kept, kept, kept)
    if coat > ZERO:
        find_frame(W, I)
        own = to_coat(W, I, wo)
        mu = clamped(own[2], f4(1e-4), ONE)
        coat_rough = clamped(f4(W[M + Mat.COAT_ROUGHNESS]), ZERO, ONE)
        coat_alpha = max(coat_rough * coat_rough, least_alpha)
        outside = f4(W[Scratch.OUTSIDE])
        coat_eta = f4(W[M + Mat.COAT_IOR]) / outside
        W[Scratch.COAT_ETA] = coat_eta
        I[Scratch.IS_COAT_DELTA] = u4(1) if coat_alpha < SHARP else u4(0)
        c = fresnel_dielectric(mu, coat_eta)
        W[Scratch.COAT_ALL] = ONE
        stretch = clamped(f4(W[M + Mat.COAT_ANISOTROPY]), ZERO, ONE)
        if coat_alpha >= SHARP:
            coat_rough = math.sqrt(coat_alpha)
            x, y = ggx_widths(coat_rough, stretch)
            W[Scratch.COAT_ALPHA] = x
            W[Scratch.COAT_ALPHA + 1] = y
            whole, part = boundary(S, coat_eta, coat_rough, stretch, own)
            W[Scratch.COAT_ALL] = whole
            c = part / whole
        tail = ONE - share_kept(W)
        if tail > ZERO:
            tail_rough = clamped(f4(W[M + Mat.COAT_TAIL_ROUGHNESS]), ZERO, ONE)
            tail_rough = math.sqrt(max(tail_rough * tail_rough, max(least_alpha, SHARP)))
            x, y = ggx_widths(tail_rough, stretch)
            W[Scratch.COAT_TAIL_ALPHA] = x
            W[Scratch.COAT_TAIL_ALPHA + 1] = y
            whole, part = boundary(S, coat_eta, tail_rough, stretch, own)
            W[Scratch.COAT_TAIL_ALL] = whole
            c = mixed(c, part / whole, tail)
        W[Scratch.COAT_REFL] = coat * c * kept
        rough = math.sqrt(math.sqrt(f4(W[Scratch.ALPHA]) * f4(W[Scratch.ALPHA + 1])))
        below = f4(W[Scratch.METAL_OUTSIDE])
        is_thin = I[Scratch.IS_THIN] != u4(0)
        metal = (ZERO, ZERO, ZERO)
        if f4(W[M + Mat.METALNESS]) > ZERO:
            look_through(W, S, wp, mu)
            metal = metal_reflects(W, M, under(W, mu), below)
        slant = slant_of(mu, coat_eta)
        W[Scratch.SLANT] = slant
        r = load(W, Scratch.GLASS_REFL)
        attenuation = (
            kept * coat_passes(W, M, c, coat_eta, slant, rough, base_albedo(W, M, metal[0], r[0], is_thin, 0), 0),
            kept * coat_passes(W, M, c, coat_eta, slant, rough, base_albedo(W, M, metal[1], r[1], is_thin, 1), 1),
            kept * coat_passes(W, M, c, coat_eta, slant, rough, base_albedo(W, M, metal[2], r[2], is_thin, 2), 2),
        )
    store(W, Scratch.ATT, attenuation)


@inlined
def weight(W, I):
    """Return an estimate of what the lobe returns, for choosing among lobes."""
    return f4(W[Scratch.COAT_REFL]) * share_kept(W)


@inlined
def is_sharp(W, I):
    """Return True if the lobe has only one direction for each."""
    return I[Scratch.IS_COAT_DELTA] != u4(0)


@inlined
def evaluate(W, I, S, wp, wo, wi):
    """Add the lobe's value times cosine to EVAL; return its share times the density of sampling wi by it alone."""
    p = f4(W[SHARE])
    if wi[2] <= ZERO or p <= ZERO or is_sharp(W, I):
        return ZERO
    wo = to_coat(W, I, wo)
    wi = to_coat(W, I, wi)
    if wi[2] <= ZERO:
        return ZERO
    value, density, c = mirrored(f4(W[Scratch.COAT_ALPHA]), f4(W[Scratch.COAT_ALPHA + 1]), wo, wi)
    s = f4(W[M + Mat.COAT]) * f4(W[Scratch.KEPT]) * share_kept(W)
    s *= fresnel_dielectric(c, f4(W[Scratch.COAT_ETA])) * value / f4(W[Scratch.COAT_ALL])
    add_value(W, Value.REFLECTION, (s, s, s))
    return p * density


@inlined
def sample(W, I, S, wp, wo, u1, u2, choice):
    """Return a direction and its kind, see `onward`."""
    wo = to_coat(W, I, wo)
    if is_sharp(W, I):
        wi = from_coat(W, I, (-wo[0], -wo[1], wo[2]))
        q = f4(W[M + Mat.COAT]) * f4(W[Scratch.KEPT]) * share_kept(W)
        q *= fresnel_dielectric(wo[2], f4(W[Scratch.COAT_ETA])) / f4(W[SHARE])
        put_sharp(W, I, wi, (q, q, q), REFLECTION)
        return wi, PUT
    wi = sample_mirrored(f4(W[Scratch.COAT_ALPHA]), f4(W[Scratch.COAT_ALPHA + 1]), wo, u1, u2)
    return from_coat(W, I, wi), REFLECTION
