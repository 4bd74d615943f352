"""Light that goes below the surface and wanders there: the sample that begins the walk. Names as in surface.py.

The walk itself is the path's, see `path.wander`: what comes out, and where, is found there.
"""

import math

from nocturne.engine.kernels.jit import f4, inlined, u4
from nocturne.engine.kernels.lobes.diffuse import below, let_in, share_of_base
from nocturne.engine.kernels.lobes.onward import DIFFUSE, PUT, put_sample
from nocturne.engine.kernels.lobes.undercoat import tint_from_all
from nocturne.engine.kernels.vectors import ONE, TWO_PI, ZERO, load, luminance, multiplied, scaled
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import scratch as Scratch

M = Scratch.MAT
SHARE = Scratch.P_BELOW


@inlined
def entering(W):
    """Return (r, g, b) of what goes below."""
    k = share_of_base(W) * below(W)
    t = tint_from_all(W)
    return (k * let_in(W, 0) * t[0], k * let_in(W, 1) * t[1], k * let_in(W, 2) * t[2])


@inlined
def weight(W, I):
    """Return an estimate of what the lobe returns, for choosing among lobes."""
    if I[Scratch.IS_THIN] != u4(0) or below(W) <= ZERO:
        return ZERO
    return luminance(multiplied(entering(W), load(W, M + Mat.SUBSURFACE_COLOR)))


@inlined
def is_sharp(W, I):
    """Return True: no other way leads to where this one does."""
    return True


@inlined
def evaluate(W, I, S, wp, wo, wi):
    """Return 0: what comes out elsewhere is no value of this place."""
    return ZERO


@inlined
def sample(W, I, S, wp, wo, u1, u2, choice):
    """Write a direction below the surface, and that the path wanders from here."""
    r = math.sqrt(u1)
    phi = TWO_PI * u2
    wi = (r * math.cos(phi), r * math.sin(phi), -math.sqrt(max(ONE - u1, f4(1e-6))))
    put_sample(W, I, wi, scaled(entering(W), ONE / f4(W[SHARE])), ONE, DIFFUSE, 1)
    I[Scratch.WANDERS] = u4(1)
    return wi, PUT
