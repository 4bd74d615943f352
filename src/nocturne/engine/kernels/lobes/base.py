"""The base's interface: metal and dielectric over one distribution of facets, and what goes through it.

The microfacet lobe is divided by its own directional albedo. Names as in surface.py.
"""

import math

from nocturne.engine.kernels.albedos import table_brushed, table_glass, table_metal
from nocturne.engine.kernels.jit import f4, inlined, jit, u4
from nocturne.engine.kernels.lobes.dielectric import sheet_reflectance, transmit_tint, weighted_eta
from nocturne.engine.kernels.lobes.facets import (
    LOOKS_COATED,
    seen_normal,
    shares_out,
    shares_through,
    spread_point,
    turned_to,
    uneven_boundary,
)
from nocturne.engine.kernels.lobes.film import ask_film, glass_reflects, metal_reflects
from nocturne.engine.kernels.lobes.metal import metal_outside
from nocturne.engine.kernels.lobes.onward import ENDED, PUT, REFLECTION, SHARP, TRANSMISSION, add_value, put_sharp
from nocturne.engine.kernels.lobes.undercoat import eta_under, tint_between, tint_through, under
from nocturne.engine.kernels.microfacet import (
    fresnel_dielectric,
    ggx_density,
    ggx_lambda,
    ggx_widths,
    sample_visible_normal,
)
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
    store,
    subtracted,
    unit,
)
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import value as Value

M = Scratch.MAT
SHARE = Scratch.P_SPEC
LOOKS = 16  # visible normals over which a film's reflectance is taken
LOOKS_INSIDE = 64  # as it changes faster there, towards the angle beyond which nothing gets out


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
def base_albedo(W, at, metal_reflected, reflected, is_thin, k):
    """Return the albedo of what lies under the coat in channel k, with what goes through it counted as returned.

    metal_reflected, reflected: of the metal and of the dielectric's boundary, in that channel.
    """
    metal = clamped(f4(W[at + Mat.METALNESS]), ZERO, ONE)
    glass = clamped(f4(W[at + Mat.TRANSMISSION]), ZERO, ONE)
    value = metal * metal_reflected
    if metal < ONE:
        tint = f4(W[at + Mat.SPECULAR_COLOR + k])
        below = clamped(f4(W[at + Mat.SUBSURFACE]), ZERO, ONE)
        base = mixed(f4(W[at + Mat.BASE + k]), f4(W[at + Mat.SUBSURFACE_COLOR + k]), below)
        through = transmit_tint(W, at, is_thin, k)
        both = sheet_reflectance(reflected, reflected) if is_thin else reflected
        opaque = reflected * tint + (ONE - reflected) * base
        clear = both * tint + (ONE - both) * through
        value += (ONE - metal) * mixed(opaque, clear, glass)
    return value


@jit
def across_of(wo):
    """Return the sine of the turn of direction wo, laid flat, from the stretched direction."""
    flat = wo[0] * wo[0] + wo[1] * wo[1]
    if flat < f4(1e-12):
        return ZERO
    return math.sqrt(wo[1] * wo[1] / flat)


@inlined
def note_energies(S, W, rough, stretch, mu, wo):
    """Work out what a rough interface returns: SPEC_ALL, GLASS_ALL and GLASS_REFL."""
    eta = f4(W[Scratch.ETA])
    even = table_metal(S, rough, mu)
    whole, part = table_glass(S, eta, rough, mu)
    dielectric = f4(W[M + Mat.METALNESS]) < ONE
    if stretch > ZERO:
        even = table_brushed(S, rough, stretch, across_of(wo), mu)
        if dielectric:
            whole, part = uneven_boundary(f4(W[Scratch.ALPHA]), f4(W[Scratch.ALPHA + 1]), eta, wo, even)
    elif dielectric and eta < ONE and f4(W[M + Mat.TRANSMISSION]) < ONE:
        # The share reflected decides how much is left for the opaque part, and the table of it is too coarse inside
        # glass, where it leaps up to all of it; all that is returned has no such leap.
        _, part = uneven_boundary(f4(W[Scratch.ALPHA]), f4(W[Scratch.ALPHA + 1]), eta, wo, even)
    W[Scratch.SPEC_ALL] = even
    store(W, Scratch.GLASS_ALL, (whole, whole, whole))
    r = part / whole
    store(W, Scratch.GLASS_REFL, (r, r, r))


@inlined
def look_through(W, S, wp, c):
    """Have the film worked out at half-vector cosine c, if there is one."""
    below = f4(W[Scratch.METAL_OUTSIDE])
    ask_film(S, W, wp, M, under(W, c), below, below * f4(W[Scratch.UNDER_ETA]), below)


@inlined
def note_filmed(S, W, wp, wo):
    """Work out what a rough dielectric with a film returns in each channel: what it changes, over normals seen."""
    more = (ZERO, ZERO, ZERO)
    fewer = (ZERO, ZERO, ZERO)
    x = f4(W[Scratch.ALPHA])
    y = f4(W[Scratch.ALPHA + 1])
    lo = ggx_lambda(x, y, wo)
    eta = f4(W[Scratch.ETA])
    looks = LOOKS if eta >= ONE else LOOKS_INSIDE
    for i in range(looks):
        u1, u2 = spread_point(i)
        h = sample_visible_normal(x, y, wo, u1, u2)
        c = clamped(dot(wo, h), f4(1e-6), ONE)
        look_through(W, S, wp, c)
        r = fresnel_dielectric(c, eta)
        f = load(W, Scratch.FILM_GLASS)
        change = (f[0] - r, f[1] - r, f[2] - r)
        more = added(more, scaled(change, shares_out(x, y, wo, h, c, lo)))
        fewer = added(fewer, scaled(change, shares_through(x, y, wo, h, c, lo, eta)))
    whole = f4(W[Scratch.GLASS_ALL])
    plain = f4(W[Scratch.GLASS_REFL]) * whole
    share = ONE / f4(looks)
    for k in range(3):
        part = max(plain + more[k] * share, ZERO)
        every = max(whole + (more[k] - fewer[k]) * share, part)
        W[Scratch.GLASS_ALL + k] = every
        W[Scratch.GLASS_REFL + k] = part / max(every, TINY)


@inlined
def note_coated(S, W, wp, wo):
    """Work out what a rough dielectric under a coat returns in each channel, over normals seen.

    Light comes to it steeply whatever its angle, so what it reflects is smooth, and few normals do.
    """
    part = (ZERO, ZERO, ZERO)
    through = (ZERO, ZERO, ZERO)
    every = ZERO
    x = f4(W[Scratch.ALPHA])
    y = f4(W[Scratch.ALPHA + 1])
    lo = ggx_lambda(x, y, wo)
    eta = f4(W[Scratch.ETA])
    v, ahead = turned_to(x, y, wo)
    for i in range(LOOKS_COATED.shape[0]):
        h = seen_normal(x, y, v, ahead, LOOKS_COATED[i, 0], LOOKS_COATED[i, 1], LOOKS_COATED[i, 2])
        c = clamped(dot(wo, h), f4(1e-6), ONE)
        look_through(W, S, wp, c)
        f = glass_reflects(W, M, under(W, c), f4(W[Scratch.UNDER_ETA]))
        out = LOOKS_COATED[i, 3] * shares_out(x, y, wo, h, c, lo)
        passes = LOOKS_COATED[i, 3] * shares_through(x, y, wo, h, c, lo, eta)
        every += out
        part = added(part, scaled(f, out))
        through = added(through, scaled((ONE - f[0], ONE - f[1], ONE - f[2]), passes))
    part = scaled(part, f4(W[Scratch.SPEC_ALL]) / max(every, TINY))
    for k in range(3):
        W[Scratch.GLASS_ALL + k] = part[k] + through[k]
        W[Scratch.GLASS_REFL + k] = part[k] / max(part[k] + through[k], TINY)


@inlined
def derive(S, W, I, wp, wo, least_alpha):
    """Work out the interface's widths, index and energies; return True if what it lets through goes straight on.

    ETA and OUTSIDE are handed over.
    """
    mu = clamped(wo[2], f4(1e-4), ONE)
    metalness = clamped(f4(W[M + Mat.METALNESS]), ZERO, ONE)
    rough = coated_roughness(W, M)
    is_clear = I[Scratch.IS_THIN] != u4(0) and rough * rough < SHARP
    alpha = max(rough * rough, least_alpha)
    rough = math.sqrt(alpha)
    outside = f4(W[Scratch.OUTSIDE])
    below = metal_outside(W, M, outside)
    W[Scratch.METAL_OUTSIDE] = below
    weight = f4(W[M + Mat.SPECULAR_WEIGHT])
    eta = weighted_eta(f4(W[Scratch.ETA]), weight)
    W[Scratch.UNDER_ETA] = weighted_eta(eta_under(W, M, outside, f4(W[Scratch.ETA])), weight)
    W[Scratch.UNDER_BEND] = below / outside
    W[Scratch.ETA] = eta
    eta_below = f4(W[Scratch.UNDER_ETA])
    if alpha < SHARP:
        I[Scratch.IS_DELTA] = u4(1)
        W[Scratch.ALPHA] = alpha
        W[Scratch.ALPHA + 1] = alpha
        W[Scratch.SPEC_ALL] = ONE
        store(W, Scratch.GLASS_ALL, (ONE, ONE, ONE))
        ask_film(S, W, wp, M, under(W, mu), below, below * eta_below, below)
        store(W, Scratch.GLASS_REFL, glass_reflects(W, M, under(W, mu), eta_below))
    else:
        I[Scratch.IS_DELTA] = u4(0)
        stretch = clamped(f4(W[M + Mat.ANISOTROPY]), ZERO, ONE)
        x, y = ggx_widths(rough, stretch)
        W[Scratch.ALPHA] = x
        W[Scratch.ALPHA + 1] = y
        note_energies(S, W, rough, stretch, mu, wo)
        if metalness < ONE:
            if f4(W[M + Mat.COAT]) > ZERO:
                note_coated(S, W, wp, wo)
            elif f4(W[M + Mat.FILM]) > ZERO:
                note_filmed(S, W, wp, wo)
    all_reflecting = f4(W[Scratch.SPEC_ALL])
    lost = (ONE - all_reflecting) / all_reflecting
    f = load(W, M + Mat.BASE)
    if metalness > ZERO:
        ask_film(S, W, wp, M, ONE, below, below * eta_below, below)
        f = metal_reflects(W, M, ONE, below)
    store(W, Scratch.METAL_F0, f)
    store(W, Scratch.METAL_ADD, (ONE + f[0] * lost, ONE + f[1] * lost, ONE + f[2] * lost))
    transmission = clamped(f4(W[M + Mat.TRANSMISSION]), ZERO, ONE)
    W[Scratch.GLASS] = ZERO if is_clear else (ONE - metalness) * transmission
    return is_clear


@inlined
def weight(W, I):
    """Return an estimate of what the lobe returns, for choosing among lobes."""
    metalness = clamped(f4(W[M + Mat.METALNESS]), ZERO, ONE)
    transmission = clamped(f4(W[M + Mat.TRANSMISSION]), ZERO, ONE)
    reflected = largest(load(W, Scratch.GLASS_REFL))
    kept = ONE - clamped(f4(W[M + Mat.TAIL]), ZERO, ONE)
    specular = metalness * kept * largest(load(W, Scratch.METAL_F0))
    both = sheet_reflectance(reflected, reflected) if I[Scratch.IS_THIN] != u4(0) else reflected
    specular += (ONE - metalness) * mixed(reflected, both, transmission)
    specular += f4(W[Scratch.GLASS]) * (ONE - both)
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
        front = glass_reflects(W, M, under(W, c), f4(W[Scratch.UNDER_ETA]))
        glass = load(W, Scratch.GLASS_ALL)
        k = (front[0] / glass[0], front[1] / glass[1], front[2] / glass[2])
        if I[Scratch.IS_THIN] != u4(0):
            back = fresnel_dielectric(c, f4(W[Scratch.ETA]))
            q = ONE / f4(W[Scratch.SPEC_ALL])
            share = clamped(f4(W[M + Mat.TRANSMISSION]), ZERO, ONE)
            k = (
                mixed(k[0], sheet_reflectance(front[0], back) * q, share),
                mixed(k[1], sheet_reflectance(front[1], back) * q, share),
                mixed(k[2], sheet_reflectance(front[2], back) * q, share),
            )
        value = scaled(multiplied(load(W, M + Mat.SPECULAR_COLOR), k), ONE - metalness)
    if metalness > ZERO:
        share = metalness * (ONE - clamped(f4(W[M + Mat.TAIL]), ZERO, ONE))
        f = metal_reflects(W, M, under(W, c), f4(W[Scratch.METAL_OUTSIDE]))
        value = added(value, scaled(multiplied(f, load(W, Scratch.METAL_ADD)), share))
    return value


@jit
def transmittance(W, I, c):
    """Return (r, g, b) of what is refracted, or scattered through a rough sheet, at half-vector cosine c."""
    r = glass_reflects(W, M, under(W, c), f4(W[Scratch.UNDER_ETA]))
    if I[Scratch.IS_THIN] != u4(0):
        back = fresnel_dielectric(c, f4(W[Scratch.ETA]))
        r = (sheet_reflectance(r[0], back), sheet_reflectance(r[1], back), sheet_reflectance(r[2], back))
    k = f4(W[Scratch.GLASS])
    return (k * (ONE - r[0]), k * (ONE - r[1]), k * (ONE - r[2]))


@jit
def passing_colour(W, I):
    """Return what passing the interface gives each channel: its tint, coat and fuzz, and the wavelength in hand."""
    is_thin = I[Scratch.IS_THIN] != u4(0)
    tint = (transmit_tint(W, M, is_thin, 0), transmit_tint(W, M, is_thin, 1), transmit_tint(W, M, is_thin, 2))
    tint = multiplied(multiplied(tint, load(W, Scratch.ATT)), tint_through(W))
    if I[Scratch.PARTS] != u4(0):
        tint = multiplied(tint, load(W, Scratch.SPECTRAL))
    return tint


@jit
def share_reflected(W, I, c):
    """Return the chance to reflect at a half vector with cosine c; the rest is refracted."""
    if f4(W[Scratch.GLASS]) <= ZERO:
        return ONE
    r = luminance(reflectance(W, I, c))
    return r / max(r + luminance(transmittance(W, I, c)), TINY)


@inlined
def evaluate(W, I, S, wp, wo, wi):
    """Add the lobe's value times cosine to EVAL; return its share times the density of sampling wi by it alone."""
    if is_sharp(W, I):
        return ZERO
    if wi[2] > ZERO:
        return evaluate_reflected(W, I, S, wp, wo, wi)
    if f4(W[Scratch.GLASS]) <= ZERO:
        return ZERO
    if I[Scratch.IS_THIN] != u4(0):
        return evaluate_scattered(W, I, S, wp, wo, wi)
    return evaluate_refracted(W, I, S, wp, wo, wi)


@inlined
def evaluate_reflected(W, I, S, wp, wo, wi):
    x = f4(W[Scratch.ALPHA])
    y = f4(W[Scratch.ALPHA + 1])
    h = unit(added(wo, wi))
    c = clamped(dot(wo, h), f4(1e-6), ONE)
    look_through(W, S, wp, c)
    d = ggx_density(x, y, h)
    lo = ggx_lambda(x, y, wo)
    g = d / ((ONE + lo + ggx_lambda(x, y, wi)) * FOUR * wo[2])
    passed = multiplied(load(W, Scratch.ATT), tint_between(W, wi))
    add_value(W, Value.REFLECTION, scaled(multiplied(reflectance(W, I, c), passed), g))
    return f4(W[SHARE]) * share_reflected(W, I, c) * d / ((ONE + lo) * FOUR * wo[2])


@inlined
def evaluate_scattered(W, I, S, wp, wo, wi):
    """A rough sheet scatters to its other side as it does to this one: the reflected lobe, turned over."""
    x = f4(W[Scratch.ALPHA])
    y = f4(W[Scratch.ALPHA + 1])
    over = (wi[0], wi[1], -wi[2])
    h = unit(added(wo, over))
    c = clamped(dot(wo, h), f4(1e-6), ONE)
    look_through(W, S, wp, c)
    d = ggx_density(x, y, h)
    lo = ggx_lambda(x, y, wo)
    g = d / ((ONE + lo + ggx_lambda(x, y, over)) * FOUR * wo[2] * f4(W[Scratch.SPEC_ALL]))
    add_value(W, Value.TRANSMISSION, scaled(multiplied(transmittance(W, I, c), passing_colour(W, I)), g))
    return f4(W[SHARE]) * (ONE - share_reflected(W, I, c)) * d / ((ONE + lo) * FOUR * wo[2])


@inlined
def evaluate_refracted(W, I, S, wp, wo, wi):
    x = f4(W[Scratch.ALPHA])
    y = f4(W[Scratch.ALPHA + 1])
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
    look_through(W, S, wp, oh)
    d = ggx_density(x, y, h)
    lo = ggx_lambda(x, y, wo)
    q = oh + eta * ih
    jacobian = eta * eta * (-ih) / max(q * q, f4(1e-12))
    # Radiance is squeezed by the square of the index ratio (Walter et al. 2007, eq. 21).
    t = d / (ONE + lo + ggx_lambda(x, y, wi)) * jacobian * oh / (wo[2] * eta * eta)
    glass = load(W, Scratch.GLASS_ALL)
    passed = multiplied(transmittance(W, I, oh), passing_colour(W, I))
    add_value(W, Value.TRANSMISSION, (t * passed[0] / glass[0], t * passed[1] / glass[1], t * passed[2] / glass[2]))
    return f4(W[SHARE]) * (ONE - share_reflected(W, I, oh)) * d / (ONE + lo) * oh / wo[2] * jacobian


@inlined
def sample(W, I, S, wp, wo, u1, u2, choice):
    """Return a direction and its kind, see `onward`."""
    sharp = is_sharp(W, I)
    h = (ZERO, ZERO, ONE)
    if not sharp:
        h = sample_visible_normal(f4(W[Scratch.ALPHA]), f4(W[Scratch.ALPHA + 1]), wo, u1, u2)
    c = clamped(dot(wo, h), f4(1e-6), ONE)
    look_through(W, S, wp, c)
    p = share_reflected(W, I, c)
    share = f4(W[SHARE])
    if choice < p:
        wi = subtracted(scaled(h, TWO * c), wo)
        if sharp:
            q = ONE / max(p * share, TINY)
            passed = multiplied(load(W, Scratch.ATT), tint_between(W, wi))
            put_sharp(W, I, wi, scaled(multiplied(reflectance(W, I, c), passed), q), REFLECTION)
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
        q = inv * inv / max((ONE - p) * share, TINY)
        put_sharp(W, I, wi, scaled(multiplied(transmittance(W, I, c), passing_colour(W, I)), q), TRANSMISSION)
        return wi, PUT
    return wi, TRANSMISSION
