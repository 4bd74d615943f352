"""The base's interface: metal and dielectric over one distribution of facets, and what goes through it.

The microfacet lobe is divided by its own directional albedo. Names as in surface.py.
"""

import math

from nocturne.engine.kernels.albedos import table_glass, table_metal
from nocturne.engine.kernels.jit import f4, inlined, jit, u4
from nocturne.engine.kernels.lobes.dielectric import sheet_reflectance, transmit_tint, weighted_eta
from nocturne.engine.kernels.lobes.metal import metal_fresnel, metal_outside
from nocturne.engine.kernels.lobes.onward import ENDED, PUT, REFLECTION, SHARP, TRANSMISSION, add_value, put_sharp
from nocturne.engine.kernels.microfacet import fresnel_dielectric, ggx_density, ggx_lambda, sample_visible_normal
from nocturne.engine.kernels.vectors import (
    FOUR,
    ONE,
    TINY,
    TWO,
    ZERO,
    added,
    clamped,
    dot,
    largest,
    load,
    luminance,
    mixed,
    multiplied,
    negated,
    scaled,
    subtracted,
    unit,
)
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import value as Value

M = Scratch.MAT
SHARE = Scratch.P_SPEC


@jit
def coated_roughness(W, at):
    """Return the base's roughness as seen through the coat: a rough coat blurs (OpenPBR, coat roughening)."""
    rough = clamped(f4(W[at + Mat.ROUGHNESS]), ZERO, ONE)
    coat = clamped(f4(W[at + Mat.COAT]), ZERO, ONE)
    if coat <= ZERO:
        return rough
    coat_rough = clamped(f4(W[at + Mat.COAT_ROUGHNESS]), ZERO, ONE)
    r4 = rough * rough * rough * rough
    c4 = coat_rough * coat_rough * coat_rough * coat_rough
    return mixed(rough, math.sqrt(math.sqrt(min(ONE, r4 + TWO * c4))), coat)


@jit
def base_albedo(W, at, outside, mu, reflected, is_thin, k):
    """Return the albedo of what lies under the coat in channel k, with what goes through it counted as returned."""
    metal = clamped(f4(W[at + Mat.METALNESS]), ZERO, ONE)
    glass = clamped(f4(W[at + Mat.TRANSMISSION]), ZERO, ONE)
    value = ZERO
    if metal > ZERO:
        value = metal * metal_fresnel(W, at, outside, mu, k)
    if metal < ONE:
        tint = f4(W[at + Mat.SPECULAR_COLOR + k])
        base = f4(W[at + Mat.BASE + k])
        through = transmit_tint(W, at, is_thin, k)
        both = sheet_reflectance(reflected) if is_thin else reflected
        opaque = reflected * tint + (ONE - reflected) * base
        clear = both * tint + (ONE - both) * through
        value += (ONE - metal) * mixed(opaque, clear, glass)
    return value


@inlined
def derive(S, W, I, mu, least_alpha):
    """Work out the interface's width, index and energies; return True if what it lets through goes straight on.

    ETA and OUTSIDE are handed over.
    """
    metalness = clamped(f4(W[M + Mat.METALNESS]), ZERO, ONE)
    rough = coated_roughness(W, M)
    is_clear = I[Scratch.IS_THIN] != u4(0) and rough * rough < SHARP
    alpha = max(rough * rough, least_alpha)
    rough = math.sqrt(alpha)
    eta = weighted_eta(f4(W[Scratch.ETA]), f4(W[M + Mat.SPECULAR_WEIGHT]))
    W[Scratch.ALPHA] = alpha
    W[Scratch.ETA] = eta
    I[Scratch.IS_DELTA] = u4(1) if alpha < SHARP else u4(0)
    below = metal_outside(W, M, f4(W[Scratch.OUTSIDE]))
    W[Scratch.METAL_OUTSIDE] = below
    all_reflecting = ONE
    if alpha < SHARP:
        W[Scratch.GLASS_ALL] = ONE
        reflected = fresnel_dielectric(mu, eta)
    else:
        whole, part = table_glass(S, eta, rough, mu)
        W[Scratch.GLASS_ALL] = whole
        reflected = part / whole
        all_reflecting = table_metal(S, rough, mu)
    lost = (ONE - all_reflecting) / all_reflecting
    W[Scratch.SPEC_ALL] = all_reflecting
    W[Scratch.GLASS_REFL] = reflected
    for k in range(3):
        f = metal_fresnel(W, M, below, ONE, k) if metalness > ZERO else f4(W[M + Mat.BASE + k])
        W[Scratch.METAL_F0 + k] = f
        W[Scratch.METAL_ADD + k] = ONE + f * lost
    transmission = clamped(f4(W[M + Mat.TRANSMISSION]), ZERO, ONE)
    W[Scratch.GLASS] = ZERO if is_clear else (ONE - metalness) * transmission
    return is_clear


@inlined
def weight(W, I):
    """Return an estimate of what the lobe returns, for choosing among lobes."""
    metalness = clamped(f4(W[M + Mat.METALNESS]), ZERO, ONE)
    transmission = clamped(f4(W[M + Mat.TRANSMISSION]), ZERO, ONE)
    reflected = f4(W[Scratch.GLASS_REFL])
    f0 = largest(load(W, Scratch.METAL_F0))
    if I[Scratch.IS_THIN] != u4(0):
        both = sheet_reflectance(reflected)
        specular = metalness * f0 + (ONE - metalness) * mixed(reflected, both, transmission)
        specular += f4(W[Scratch.GLASS]) * (ONE - both)
    else:
        specular = metalness * f0 + (ONE - metalness) * reflected
        specular += f4(W[Scratch.GLASS]) * (ONE - reflected)
    return specular * luminance(load(W, Scratch.ATT))


@inlined
def is_sharp(W, I):
    """Return True if the lobe has only one direction for each."""
    return I[Scratch.IS_DELTA] != u4(0)


@jit
def reflectance(W, I, c):
    """Return metal and dielectric reflectance at half-vector cosine c, with multiple scattering."""
    metalness = clamped(f4(W[M + Mat.METALNESS]), ZERO, ONE)
    value = (ZERO, ZERO, ZERO)
    if metalness < ONE:
        r = fresnel_dielectric(c, f4(W[Scratch.ETA]))
        k = r / f4(W[Scratch.GLASS_ALL])
        if I[Scratch.IS_THIN] != u4(0):
            sheet = sheet_reflectance(r) / f4(W[Scratch.SPEC_ALL])
            k = mixed(k, sheet, clamped(f4(W[M + Mat.TRANSMISSION]), ZERO, ONE))
        value = scaled(load(W, M + Mat.SPECULAR_COLOR), (ONE - metalness) * k)
    if metalness > ZERO:
        below = f4(W[Scratch.METAL_OUTSIDE])
        value = (
            value[0] + metalness * metal_fresnel(W, M, below, c, 0) * f4(W[Scratch.METAL_ADD]),
            value[1] + metalness * metal_fresnel(W, M, below, c, 1) * f4(W[Scratch.METAL_ADD + 1]),
            value[2] + metalness * metal_fresnel(W, M, below, c, 2) * f4(W[Scratch.METAL_ADD + 2]),
        )
    return value


@jit
def transmittance(W, I, c):
    """Return the weight of what is refracted, or scattered through a rough sheet, at half-vector cosine c."""
    r = fresnel_dielectric(c, f4(W[Scratch.ETA]))
    if I[Scratch.IS_THIN] != u4(0):
        r = sheet_reflectance(r)
    return f4(W[Scratch.GLASS]) * (ONE - r)


@jit
def share_reflected(W, I, c):
    """Return the chance to reflect at a half vector with cosine c; the rest is refracted."""
    if f4(W[Scratch.GLASS]) <= ZERO:
        return ONE
    r = luminance(reflectance(W, I, c))
    return r / max(r + transmittance(W, I, c), TINY)


@inlined
def evaluate(W, I, wo, wi):
    """Add the lobe's value times cosine to EVAL; return its share times the density of sampling wi by it alone."""
    if is_sharp(W, I):
        return ZERO
    if wi[2] > ZERO:
        return evaluate_reflected(W, I, wo, wi)
    if f4(W[Scratch.GLASS]) <= ZERO:
        return ZERO
    if I[Scratch.IS_THIN] != u4(0):
        return evaluate_scattered(W, I, wo, wi)
    return evaluate_refracted(W, I, wo, wi)


@inlined
def evaluate_reflected(W, I, wo, wi):
    att = load(W, Scratch.ATT)
    a = f4(W[Scratch.ALPHA])
    h = unit(added(wo, wi))
    c = clamped(dot(wo, h), f4(1e-6), ONE)
    d = ggx_density(a, h)
    lo = ggx_lambda(a, wo[2])
    g = d / ((ONE + lo + ggx_lambda(a, wi[2])) * FOUR * wo[2])
    f = reflectance(W, I, c)
    add_value(W, Value.REFLECTION, (f[0] * g * att[0], f[1] * g * att[1], f[2] * g * att[2]))
    return f4(W[SHARE]) * share_reflected(W, I, c) * d / ((ONE + lo) * FOUR * wo[2])


@inlined
def evaluate_scattered(W, I, wo, wi):
    """A rough sheet scatters to its other side as it does to this one: the reflected lobe, turned over."""
    att = load(W, Scratch.ATT)
    a = f4(W[Scratch.ALPHA])
    mo = wo[2]
    mi = wi[2]
    h = unit(added(wo, (wi[0], wi[1], -mi)))
    c = clamped(dot(wo, h), f4(1e-6), ONE)
    d = ggx_density(a, h)
    lo = ggx_lambda(a, mo)
    t = transmittance(W, I, c) / f4(W[Scratch.SPEC_ALL]) * d / ((ONE + lo + ggx_lambda(a, -mi)) * FOUR * mo)
    add_value(
        W,
        Value.TRANSMISSION,
        (
            t * transmit_tint(W, M, True, 0) * att[0],
            t * transmit_tint(W, M, True, 1) * att[1],
            t * transmit_tint(W, M, True, 2) * att[2],
        ),
    )
    return f4(W[SHARE]) * (ONE - share_reflected(W, I, c)) * d / ((ONE + lo) * FOUR * mo)


@inlined
def evaluate_refracted(W, I, wo, wi):
    att = load(W, Scratch.ATT)
    a = f4(W[Scratch.ALPHA])
    mo = wo[2]
    mi = wi[2]
    eta = f4(W[Scratch.ETA])
    h = added(wo, scaled(wi, eta))
    if dot(h, h) <= f4(1e-12):
        return ZERO
    h = unit(h)
    if h[2] < ZERO:
        h = negated(h)
    oh = dot(wo, h)
    ih = dot(wi, h)
    if oh <= f4(1e-6) or ih >= f4(-1e-6):
        return ZERO
    d = ggx_density(a, h)
    lo = ggx_lambda(a, mo)
    q = oh + eta * ih
    jacobian = eta * eta * (-ih) / max(q * q, f4(1e-12))
    # Radiance is squeezed by the square of the index ratio (Walter et al. 2007, eq. 21).
    t = (
        transmittance(W, I, oh)
        / f4(W[Scratch.GLASS_ALL])
        * d
        / (ONE + lo + ggx_lambda(a, -mi))
        * jacobian
        * oh
        / (mo * eta * eta)
    )
    add_value(
        W,
        Value.TRANSMISSION,
        (
            t * transmit_tint(W, M, False, 0) * att[0],
            t * transmit_tint(W, M, False, 1) * att[1],
            t * transmit_tint(W, M, False, 2) * att[2],
        ),
    )
    return f4(W[SHARE]) * (ONE - share_reflected(W, I, oh)) * d / (ONE + lo) * oh / mo * jacobian


@inlined
def sample(W, I, wo, u1, u2, choice):
    """Return a direction and its kind, see `onward`."""
    sharp = is_sharp(W, I)
    h = (ZERO, ZERO, ONE)
    if not sharp:
        h = sample_visible_normal(f4(W[Scratch.ALPHA]), wo, u1, u2)
    c = clamped(dot(wo, h), f4(1e-6), ONE)
    p = share_reflected(W, I, c)
    share = f4(W[SHARE])
    att = load(W, Scratch.ATT)
    if choice < p:
        wi = subtracted(scaled(h, TWO * c), wo)
        if sharp:
            q = ONE / max(p * share, TINY)
            put_sharp(W, I, wi, scaled(multiplied(reflectance(W, I, c), att), q), REFLECTION)
            return wi, PUT
        return wi, REFLECTION
    inv = ONE
    if I[Scratch.IS_THIN] != u4(0):
        wi = subtracted(scaled(h, TWO * c), wo)
        wi = (wi[0], wi[1], -wi[2])
    else:
        inv = ONE / f4(W[Scratch.ETA])
        s2 = inv * inv * (ONE - c * c)
        if s2 >= ONE:
            return wo, ENDED
        ct = math.sqrt(ONE - s2)
        wi = subtracted(scaled(h, inv * c - ct), scaled(wo, inv))
    if sharp:
        q = transmittance(W, I, c) * inv * inv / max((ONE - p) * share, TINY)
        tint = (
            transmit_tint(W, M, False, 0) * att[0] * q,
            transmit_tint(W, M, False, 1) * att[1] * q,
            transmit_tint(W, M, False, 2) * att[2] * q,
        )
        put_sharp(W, I, wi, tint, TRANSMISSION)
        return wi, PUT
    return wi, TRANSMISSION
