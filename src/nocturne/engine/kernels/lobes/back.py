"""What a thin sheet scatters through to its other side: leaves, paper, lampshades. Names as in surface.py."""

import math

from nocturne.engine.kernels.jit import f4, inlined, u4
from nocturne.engine.kernels.lobes.diffuse import below, let_in, share_of_base, stays
from nocturne.engine.kernels.lobes.onward import TRANSMISSION, add_value
from nocturne.engine.kernels.lobes.undercoat import tint_through
from nocturne.engine.kernels.vectors import INV_PI, ONE, TWO_PI, ZERO, luminance, scaled
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import value as Value

M = Scratch.MAT
SHARE = Scratch.P_BACK


@inlined
def passed(W):
    """Return (r, g, b) of what comes out on the other side."""
    k = share_of_base(W) * below(W)
    t = tint_through(W)
    return (
        k * f4(W[M + Mat.SUBSURFACE_COLOR]) * let_in(W, 0) * t[0],
        k * f4(W[M + Mat.SUBSURFACE_COLOR + 1]) * let_in(W, 1) * t[1],
        k * f4(W[M + Mat.SUBSURFACE_COLOR + 2]) * let_in(W, 2) * t[2],
    )


@inlined
def weight(W, I):
    """Return an estimate of what the lobe returns, for choosing among lobes."""
    if I[Scratch.IS_THIN] == u4(0) or below(W) <= ZERO:
        return ZERO
    return (ONE - stays(W, I)) * luminance(passed(W))


@inlined
def is_sharp(W, I):
    """Return True if the lobe has only one direction for each."""
    return False


@inlined
def evaluate(W, I, S, wp, wo, wi):
    """Add the lobe's value times cosine to EVAL; return its share times the density of sampling wi by it alone."""
    p = f4(W[SHARE])
    if wi[2] >= ZERO or p <= ZERO:
        return ZERO
    add_value(W, Value.TRANSMISSION, scaled(passed(W), (ONE - stays(W, I)) * -wi[2] * INV_PI))
    return p * -wi[2] * INV_PI


@inlined
def sample(W, I, S, wp, wo, u1, u2, choice):
    """Return a direction and its kind, see `onward`."""
    r = math.sqrt(u1)
    phi = TWO_PI * u2
    return (r * math.cos(phi), r * math.sin(phi), -math.sqrt(max(ONE - u1, ZERO))), TRANSMISSION
