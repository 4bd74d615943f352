"""The diffuse lobe: light that enters the base and comes out of it in all directions. Names as in surface.py.

Rough diffuse reflection that keeps its energy: Portsmouth, Kutz and Hill 2025, EON: a practical energy-preserving rough
diffuse BRDF. Of a thin sheet, what it scatters to its own side of its subsurface part is in it, too.
"""

import math

from nocturne.engine.kernels.jit import f4, inlined, jit, u4
from nocturne.engine.kernels.lobes.onward import DIFFUSE, add_value
from nocturne.engine.kernels.lobes.undercoat import tint_between
from nocturne.engine.kernels.vectors import HALF, INV_PI, ONE, TWO_PI, ZERO, clamped, luminance, scaled
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import value as Value

M = Scratch.MAT
SHARE = Scratch.P_DIFF
_FALL = f4(0.5 - 2 / (3 * math.pi))
_MEAN = f4(2 / 3 - 28 / (15 * math.pi))
_G1, _G2, _G3, _G4 = f4(0.0571085289), f4(0.491881867), f4(-0.332181442), f4(0.0714429953)


@inlined
def share_of_base(W):
    """Return how much of what the base's interface lets in is neither metal nor glass."""
    return (ONE - clamped(f4(W[M + Mat.METALNESS]), ZERO, ONE)) * (
        ONE - clamped(f4(W[M + Mat.TRANSMISSION]), ZERO, ONE)
    )


@inlined
def let_in(W, k):
    """Return what interface, coat and fuzz let in to the base in channel k."""
    return (ONE - f4(W[Scratch.GLASS_REFL + k])) * f4(W[Scratch.ATT + k])


@inlined
def below(W):
    """Return how much of the base is subsurface."""
    return clamped(f4(W[M + Mat.SUBSURFACE]), ZERO, ONE)


@inlined
def stays(W, I):
    """Return how much of what a thin sheet's subsurface part scatters stays on its own side; 0 of what is no sheet."""
    if I[Scratch.IS_THIN] == u4(0):
        return ZERO
    return HALF * (ONE - f4(W[M + Mat.SUBSURFACE_G]))


@inlined
def colour(W, I, k):
    """Return the albedo of what is spread on this side in channel k."""
    part = below(W)
    if part <= ZERO:
        return f4(W[M + Mat.BASE + k])
    return (ONE - part) * f4(W[M + Mat.BASE + k]) + part * stays(W, I) * f4(W[M + Mat.SUBSURFACE_COLOR + k])


@jit
def rough_albedo(mu, r):
    """Return the directional albedo of one scattering among facets of roughness r (EON, eq. 15, fitted)."""
    c = ONE - mu
    return (ONE + r * c * (_G1 + c * (_G2 + c * (_G3 + c * _G4)))) / (ONE + _FALL * r)


@jit
def rough_value(rho, r, wo, wi):
    """Return pi times the value of rough diffuse reflection of albedo rho, light scattered again counted (EON)."""
    mo = wo[2]
    mi = wi[2]
    s = wo[0] * wi[0] + wo[1] * wi[1]
    over = s / max(mi, mo) if s > ZERO else s
    scale = ONE / (ONE + _FALL * r)
    once = rho * scale * (ONE + r * over)
    mean = scale * (ONE + _MEAN * r)
    again = rho * rho * mean / (ONE - rho * (ONE - mean))
    least = f4(1e-7)
    eo = max(ONE - rough_albedo(mo, r), least)
    ei = max(ONE - rough_albedo(mi, r), least)
    return once + again * eo * ei / max(ONE - mean, least)


@inlined
def weight(W, I):
    """Return an estimate of what the lobe returns, for choosing among lobes."""
    base = luminance((colour(W, I, 0) * let_in(W, 0), colour(W, I, 1) * let_in(W, 1), colour(W, I, 2) * let_in(W, 2)))
    return share_of_base(W) * base


@inlined
def is_sharp(W, I):
    """Return True if the lobe has only one direction for each."""
    return False


@inlined
def evaluate(W, I, S, wp, wo, wi):
    """Add the lobe's value times cosine to EVAL; return its share times the density of sampling wi by it alone."""
    mi = wi[2]
    p = f4(W[SHARE])
    if mi <= ZERO or p <= ZERO:
        return ZERO
    kd = share_of_base(W) * INV_PI * mi
    rough = clamped(f4(W[M + Mat.DIFFUSE_ROUGHNESS]), ZERO, ONE)
    r = colour(W, I, 0)
    g = colour(W, I, 1)
    b = colour(W, I, 2)
    if rough > ZERO:
        r = rough_value(r, rough, wo, wi)
        g = rough_value(g, rough, wo, wi)
        b = rough_value(b, rough, wo, wi)
    t = tint_between(W, wi)
    add_value(W, Value.DIFFUSE, scaled((r * let_in(W, 0) * t[0], g * let_in(W, 1) * t[1], b * let_in(W, 2) * t[2]), kd))
    return p * mi * INV_PI


@inlined
def sample(W, I, S, wp, wo, u1, u2, choice):
    """Return a direction and its kind, see `onward`."""
    r = math.sqrt(u1)
    phi = TWO_PI * u2
    return (r * math.cos(phi), r * math.sin(phi), math.sqrt(max(ONE - u1, ZERO))), DIFFUSE
