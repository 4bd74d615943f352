"""What lies under a coat: light that comes to it has been bent, and has gone aslant through the coat's own colour.

c mu cosines outside of the coat; at offset of a material's row in the work row W; others as in surface.py.

References
----------
OpenPBR Surface 1.1, coat: the base's index under it is relative to the coat's; its colour is what remains of light that
went through it twice, face on (Beer and Lambert). Elias, Simonot and Menu 2001: a matt ground under an absorbing layer.
"""

import math

import numpy as np

from nocturne.engine.kernels.jit import f4, i4, inlined, jit
from nocturne.engine.kernels.microfacet import fresnel_dielectric
from nocturne.engine.kernels.vectors import HALF, ONE, TWO, ZERO, clamped, mixed
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import scratch as Scratch

M = Scratch.MAT
_LEAST = f4(1e-3)
_MEAN_COSINE = f4(2 / 3)  # of light that comes from all around
# Places in the circle of directions that the coat throws back wholly, as shares of its area (midpoints of thirds).
_RINGS = (f4(math.sqrt(1 / 6)), f4(math.sqrt(1 / 2)), f4(math.sqrt(5 / 6)))
_STEPS = 64


def _inner_reflectances():
    """Return what the inner side of a smooth boundary gives back of evenly spread light, (_STEPS + 1,) float32.

    Over (eta - 1) / (eta + 1) from -1/2 to 1/2: the mean of the Fresnel equations by projected solid angle.
    """
    x, weight = np.polynomial.legendre.leggauss(128)
    eta = np.linspace(-0.5, 0.5, _STEPS + 1)[:, None]
    eta = (1 + eta) / (1 - eta)
    # Taken on the thinner side, where nothing is reflected totally; reciprocity gives the other.
    ratio, c = np.maximum(eta, 1 / eta), (x + 1) / 2
    ct = np.sqrt(1 - (1 - c * c) / (ratio * ratio))
    rs, rp = (c - ratio * ct) / (c + ratio * ct), (ratio * c - ct) / (ratio * c + ct)
    outer = np.sum(weight * c * (rs * rs + rp * rp) / 2, axis=1)
    eta = eta[:, 0]
    return np.where(eta >= 1, 1 - (1 - outer) / (eta * eta), outer).astype(np.float32)


_INNER = _inner_reflectances()


@jit
def bent_cosine(c, ratio):
    """Return the cosine inside a medium of index `ratio` of light that comes to it at cosine c (Snell)."""
    if ratio == ONE:
        return c
    return math.sqrt(max(ONE - (ONE - c * c) / (ratio * ratio), ZERO))


@jit
def eta_under(W, at, outside, eta):
    """Return the index ratio of a dielectric of ratio eta as its boundary under the coat has it (OpenPBR, eta_s)."""
    coat = clamped(f4(W[at + Mat.COAT]), ZERO, ONE)
    if coat <= ZERO:
        return eta
    ratio = eta * outside / f4(W[at + Mat.COAT_IOR])
    return mixed(eta, max(ratio, ONE / ratio), coat)


@inlined
def under(W, c):
    """Return the cosine at which the base is met by light of cosine c."""
    return bent_cosine(c, f4(W[Scratch.UNDER_BEND]))


@jit
def tinted(W, at, slant, k):
    """Return what a way through the coat leaves in channel k; slant 1: there and back, face on."""
    coat = clamped(f4(W[at + Mat.COAT]), ZERO, ONE)
    colour = f4(W[at + Mat.COAT_COLOR + k])
    if coat <= ZERO or colour == ONE:
        return ONE
    return mixed(ONE, math.pow(max(colour, ZERO), slant), coat)


@jit
def slant_of(c, coat_eta):
    """Return how far light of cosine c goes through a coat, in ways there and back face on."""
    return HALF / max(bent_cosine(c, coat_eta), _LEAST)


@jit
def tint_between(W, wi):
    """Return (r, g, b) that the coat leaves of light from wi on its ways to the base and out to the viewer."""
    if f4(W[M + Mat.COAT]) <= ZERO:
        return (ONE, ONE, ONE)
    slant = f4(W[Scratch.SLANT]) + slant_of(min(abs(wi[2]), ONE), f4(W[Scratch.COAT_ETA]))
    return (tinted(W, M, slant, 0), tinted(W, M, slant, 1), tinted(W, M, slant, 2))


@inlined
def tint_from_all(W):
    """Return the same of light from all around."""
    return tint_between(W, (ZERO, ZERO, _MEAN_COSINE))


@inlined
def tint_through(W):
    """Return the same of light that goes on through the base: its colour counts in full on the one way there is."""
    if f4(W[M + Mat.COAT]) <= ZERO:
        return (ONE, ONE, ONE)
    slant = TWO * f4(W[Scratch.SLANT])
    return (tinted(W, M, slant, 0), tinted(W, M, slant, 1), tinted(W, M, slant, 2))


@jit
def inner_reflectance(eta):
    """Return what the inner side of a smooth boundary gives back of evenly spread light; eta: inside over outside."""
    x = clamped(((eta - ONE) / (eta + ONE) + HALF) * f4(_STEPS), ZERO, f4(_STEPS) - f4(1e-3))
    i = i4(x)
    return mixed(f4(_INNER[i]), f4(_INNER[i + 1]), x - f4(i))


@jit
def thrown_back(W, at, wide, coat_eta, k):
    """Return what a coat's inner side gives back of evenly spread light, its way through the colour counted.

    wide: what it gives back without. What is beyond the critical angle goes aslant.
    """
    colour = f4(W[at + Mat.COAT_COLOR + k])
    if colour == ONE or coat_eta <= ONE:
        return wide
    edge = math.sqrt(ONE - ONE / (coat_eta * coat_eta))
    kept = ZERO
    for ring in _RINGS:
        kept += math.pow(max(colour, ZERO), ONE / max(edge * ring, _LEAST))
    return wide * mixed(ONE, kept / f4(3), clamped(f4(W[at + Mat.COAT]), ZERO, ONE))


@jit
def glow_through(W, at, mu):
    """Return (r, g, b) that a coat in air lets through, at cosine mu, of what glows under it (OpenPBR, emission)."""
    coat = clamped(f4(W[at + Mat.COAT]), ZERO, ONE)
    if coat <= ZERO:
        return (ONE, ONE, ONE)
    eta = f4(W[at + Mat.COAT_IOR])
    mu = clamped(mu, f4(1e-4), ONE)
    passed = ONE - coat * fresnel_dielectric(mu, eta)
    slant = TWO * slant_of(mu, eta)
    return (
        passed * tinted(W, at, slant, 0),
        passed * tinted(W, at, slant, 1),
        passed * tinted(W, at, slant, 2),
    )
