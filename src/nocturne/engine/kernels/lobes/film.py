"""A film on the base that is so thin that light from both its faces interferes.

The reflectance of a film is a sum of cosines of its phase; over each colour channel a cosine's mean comes from a table
(see `nocturne.engine.spectrum`), so that no wavelengths are gone through. Names: n1 n2 n k indices outside, of the film
and of what it lies on; c1 c2 cosines in the first two; way difference of the ways of both reflections, nanometres; r12
amplitude at the outer face, rho its size at the inner one, cp sp cosine and sine of its phase; q their product.
"""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels import units
from nocturne.engine.kernels.jit import f4, i4, inlined, jit, row_f4
from nocturne.engine.kernels.lobes.metal import metal_fresnel
from nocturne.engine.kernels.microfacet import fresnel_dielectric
from nocturne.engine.kernels.vectors import HALF, ONE, TINY, TWO, ZERO, clamped, load, mixed
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import scratch as Scratch

PER_STEP = f4(1 / 12)  # of the table, nanometres
ORDERS = 5
MOST_METAL = f4(0.9999)


@jit
def mean_of_wave(S, way, k, cp, sp):
    """Return the mean over channel k of cos(2 pi way / wavelength + phase)."""
    x = way * PER_STEP
    if x >= f4(1022):
        return ZERO
    i = i4(x)
    f = x - f4(i)
    E = T.tab_film(S)
    return cp * mixed(f4(E[i, k]), f4(E[i + 1, k]), f) - sp * mixed(f4(E[i, 3 + k]), f4(E[i + 1, 3 + k]), f)


@jit
def of_one_way(S, way, k, r12, re, im):
    """Return the reflectance of one polarisation, r12 outside and (re, im) inside (Airy's sum, as a cosine series).

    1 / (1 + q^2 + 2 q cos x) = (1 + 2 sum of (-q)^m cos(m x)) / (1 - q^2), Poisson's kernel.
    """
    rho = math.sqrt(re * re + im * im)
    if rho < f4(1e-7):
        return r12 * r12
    cp = re / rho
    sp = im / rho
    rho = min(rho, f4(0.99999))
    q = r12 * rho
    power = ONE
    c = ONE
    s = ZERO
    whole = ONE
    for m in range(1, ORDERS + 1):
        power *= -q
        c, s = c * cp - s * sp, s * cp + c * sp
        whole += TWO * power * mean_of_wave(S, way * f4(m), k, c, s)
    return ONE - (ONE - r12 * r12) * (ONE - rho * rho) / (ONE - q * q) * whole


@jit
def of_film(S, way, j, n1, n2, c1, c2, n, k):
    """Return the reflectance in channel j, both polarisations (Fresnel's amplitudes; Born and Wolf, 14.4)."""
    p1 = n1 * c1
    p2 = n2 * c2
    s12 = (p1 - p2) / (p1 + p2)
    p12 = (n2 * c1 - n1 * c2) / (n2 * c1 + n1 * c2)
    square = n * n - k * k
    twice = TWO * n * k
    side = n1 * n1 * (ONE - c1 * c1)
    rest = square - side
    size = math.sqrt(rest * rest + twice * twice)
    a = math.sqrt(max(HALF * (size + rest), ZERO))
    b = math.sqrt(max(HALF * (size - rest), ZERO))
    d = ONE / max((p2 + a) * (p2 + a) + b * b, TINY)
    s = of_one_way(S, way, j, s12, (p2 * p2 - a * a - b * b) * d, -TWO * p2 * b * d)
    x = square * c2
    y = twice * c2
    a *= n2
    b *= n2
    d = ONE / max((x + a) * (x + a) + (y + b) * (y + b), TINY)
    re = ((x - a) * (x + a) + (y - b) * (y + b)) * d
    im = ((y - b) * (x + a) - (x - a) * (y + b)) * d
    p = of_one_way(S, way, j, p12, re, im)
    return clamped(HALF * (s + p), ZERO, ONE)


@jit
def index_of_colour(r):
    """Return n and k that reflect r at normal incidence, in air; of the many, those that keep grazing light best.

    Gulbrandsen 2014, Artist friendly metallic Fresnel, with an edge tint of 1.
    """
    r = clamped(r, f4(0.001), MOST_METAL)
    n = (ONE - r) / (ONE + r)
    k2 = (r * (n + ONE) * (n + ONE) - (n - ONE) * (n - ONE)) / (ONE - r)
    return n, math.sqrt(max(k2, ZERO))


def film(S, wp, at, c, outside, beyond, below):
    """Unit: write what the base reflects at half-vector cosine c in each channel, its film on it by its weight.

    at: of the material's row. FILM_GLASS of a dielectric of index `beyond` under `outside`, FILM_METAL under `below`.
    """
    W = row_f4(wp)
    weight = clamped(f4(W[at + Mat.FILM]), ZERO, ONE)
    n2 = f4(W[at + Mat.FILM_IOR])
    thick = TWO * n2 * f4(W[at + Mat.FILM_THICKNESS])
    metal = clamped(f4(W[at + Mat.METALNESS]), ZERO, ONE)
    if metal < ONE:
        plain = fresnel_dielectric(c, beyond / outside)
        sine = outside / n2
        cc = ONE - (ONE - c * c) * sine * sine
        c2 = math.sqrt(max(cc, ZERO))
        for j in range(3):
            filmed = ONE
            if cc > f4(1e-6):
                filmed = of_film(S, thick * c2, j, outside, n2, c, c2, beyond, ZERO)
            W[Scratch.FILM_GLASS + j] = mixed(plain, filmed, weight)
    if metal > ZERO:
        dim = clamped(f4(W[at + Mat.SPECULAR_WEIGHT]), ZERO, ONE)
        sine = below / n2
        cc = ONE - (ONE - c * c) * sine * sine
        c2 = math.sqrt(max(cc, ZERO))
        for j in range(3):
            filmed = ONE
            if cc > f4(1e-6):
                n = f4(W[at + Mat.N + j])
                k = f4(W[at + Mat.K + j])
                if f4(W[at + Mat.HAS_NK]) <= ZERO:
                    n, k = index_of_colour(f4(W[at + Mat.BASE + j]))
                filmed = dim * of_film(S, thick * c2, j, below, n2, c, c2, n, k)
            W[Scratch.FILM_METAL + j] = mixed(metal_fresnel(W, at, below, c, j), filmed, weight)


@inlined
def ask_film(S, W, wp, at, c, outside, beyond, below):
    """Have the film's reflectance at half-vector cosine c worked out, if there is one."""
    if f4(W[at + Mat.FILM]) > ZERO:
        units.film(S, wp, at, c, outside, beyond, below)


@inlined
def glass_reflects(W, at, c, eta):
    """Return (r, g, b) reflectance of the dielectric at half-vector cosine c; its film was asked for."""
    if f4(W[at + Mat.FILM]) > ZERO:
        return load(W, Scratch.FILM_GLASS)
    r = fresnel_dielectric(c, eta)
    return (r, r, r)


@inlined
def metal_reflects(W, at, c, below):
    """Return (r, g, b) reflectance of the metal under index `below` at half-vector cosine c; its film was asked for."""
    if f4(W[at + Mat.FILM]) > ZERO:
        return load(W, Scratch.FILM_METAL)
    return (
        metal_fresnel(W, at, below, c, 0),
        metal_fresnel(W, at, below, c, 1),
        metal_fresnel(W, at, below, c, 2),
    )
