"""The diffuse lobe: light that enters the base and comes out of it in all directions. Names as in surface.py."""

import math

from nocturne.engine.kernels.jit import f4, inlined
from nocturne.engine.kernels.lobes.onward import DIFFUSE, add_value
from nocturne.engine.kernels.vectors import INV_PI, ONE, TWO_PI, ZERO, clamped, load, luminance
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import value as Value

M = Scratch.MAT
SHARE = Scratch.P_DIFF


@inlined
def share_of_base(W):
    """Return how much of what the base's interface lets in is spread evenly."""
    return (ONE - clamped(f4(W[M + Mat.METALNESS]), ZERO, ONE)) * (
        ONE - clamped(f4(W[M + Mat.TRANSMISSION]), ZERO, ONE)
    )


@inlined
def weight(W, I):
    """Return an estimate of what the lobe returns, for choosing among lobes."""
    base = luminance(load(W, M + Mat.BASE))
    return share_of_base(W) * (ONE - f4(W[Scratch.GLASS_REFL])) * base * luminance(load(W, Scratch.ATT))


@inlined
def is_sharp(W, I):
    """Return True if the lobe has only one direction for each."""
    return False


@inlined
def evaluate(W, I, wo, wi):
    """Add the lobe's value times cosine to EVAL; return its share times the density of sampling wi by it alone."""
    mi = wi[2]
    if mi <= ZERO:
        return ZERO
    kd = share_of_base(W) * (ONE - f4(W[Scratch.GLASS_REFL])) * INV_PI * mi
    base = load(W, M + Mat.BASE)
    att = load(W, Scratch.ATT)
    add_value(W, Value.DIFFUSE, (base[0] * kd * att[0], base[1] * kd * att[1], base[2] * kd * att[2]))
    return f4(W[SHARE]) * mi * INV_PI


@inlined
def sample(W, I, wo, u1, u2, choice):
    """Return a direction and its kind, see `onward`."""
    r = math.sqrt(u1)
    phi = TWO_PI * u2
    return (r * math.cos(phi), r * math.sin(phi), math.sqrt(max(ONE - u1, ZERO))), DIFFUSE
