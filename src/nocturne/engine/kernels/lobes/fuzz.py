"""The fuzz: fibres or dust over everything else, one linearly transformed cosine. Names as in surface.py.

Zeltner, Burley and Chiang 2022, Practical multiple-scattering sheen using linearly transformed cosines; the table is
our own, see `nocturne.engine.fuzz`.
"""

import math

from nocturne.engine.kernels.albedos import table_fuzz
from nocturne.engine.kernels.jit import f4, inlined, jit
from nocturne.engine.kernels.lobes.onward import REFLECTION, add_value
from nocturne.engine.kernels.vectors import INV_PI, ONE, TWO_PI, ZERO, clamped, load, luminance, scaled, store, unit
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import value as Value

M = Scratch.MAT
SHARE = Scratch.P_FUZZ


@jit
def fuzz_keeps(S, W, at, mu):
    """Return what the fuzz of the row at `at` leaves to all below it, at cosine mu."""
    weight = clamped(f4(W[at + Mat.FUZZ]), ZERO, ONE)
    if weight <= ZERO:
        return ONE
    _, _, share = table_fuzz(S, f4(W[at + Mat.FUZZ_ROUGHNESS]), mu)
    return ONE - weight * share


@inlined
def derive(S, W, mu):
    """Look the lobe up, and work out what it leaves to all below (KEPT)."""
    weight = clamped(f4(W[M + Mat.FUZZ]), ZERO, ONE)
    W[Scratch.KEPT] = ONE
    if weight > ZERO:
        fit = table_fuzz(S, f4(W[M + Mat.FUZZ_ROUGHNESS]), mu)
        store(W, Scratch.FUZZ_FIT, fit)
        W[Scratch.KEPT] = ONE - weight * fit[2]


@inlined
def weight(W, I):
    """Return an estimate of what the lobe returns, for choosing among lobes."""
    return (ONE - f4(W[Scratch.KEPT])) * luminance(load(W, M + Mat.FUZZ_COLOR))


@inlined
def is_sharp(W, I):
    """Return True if the lobe has only one direction for each."""
    return False


@inlined
def evaluate(W, I, S, wp, wo, wi):
    """Add the lobe's value times cosine to EVAL; return its share times the density of sampling wi by it alone."""
    p = f4(W[SHARE])
    if wi[2] <= ZERO or p <= ZERO:
        return ZERO
    # The lobe is told with the viewer over +x.
    flat = math.sqrt(wo[0] * wo[0] + wo[1] * wo[1])
    c = wo[0] / flat if flat > f4(1e-7) else ONE
    s = wo[1] / flat if flat > f4(1e-7) else ZERO
    a = f4(W[Scratch.FUZZ_FIT])
    x = a * (c * wi[0] + s * wi[1]) + f4(W[Scratch.FUZZ_FIT + 1]) * wi[2]
    y = a * (c * wi[1] - s * wi[0])
    square = x * x + y * y + wi[2] * wi[2]
    density = wi[2] * INV_PI * a * a / (square * square)
    add_value(W, Value.REFLECTION, scaled(load(W, M + Mat.FUZZ_COLOR), (ONE - f4(W[Scratch.KEPT])) * density))
    return p * density


@inlined
def sample(W, I, S, wp, wo, u1, u2, choice):
    """Return a direction and its kind, see `onward`."""
    r = math.sqrt(u1)
    phi = TWO_PI * u2
    z = math.sqrt(max(ONE - u1, f4(1e-7)))
    a = f4(W[Scratch.FUZZ_FIT])
    x = (r * math.cos(phi) - f4(W[Scratch.FUZZ_FIT + 1]) * z) / a
    y = r * math.sin(phi) / a
    flat = math.sqrt(wo[0] * wo[0] + wo[1] * wo[1])
    c = wo[0] / flat if flat > f4(1e-7) else ONE
    s = wo[1] / flat if flat > f4(1e-7) else ZERO
    return unit((c * x - s * y, s * x + c * y, z)), REFLECTION
