"""The tail of a metal's highlight: a part of it that spreads wider. Names as in surface.py."""

import math

from nocturne.engine.kernels.albedos import table_brushed, table_metal
from nocturne.engine.kernels.jit import f4, inlined
from nocturne.engine.kernels.lobes.base import across_of, look_through
from nocturne.engine.kernels.lobes.facets import mirrored, sample_mirrored
from nocturne.engine.kernels.lobes.film import metal_reflects
from nocturne.engine.kernels.lobes.onward import REFLECTION, SHARP, add_value
from nocturne.engine.kernels.lobes.undercoat import tint_between, under
from nocturne.engine.kernels.microfacet import ggx_widths
from nocturne.engine.kernels.vectors import ONE, ZERO, clamped, largest, load, luminance, multiplied, scaled
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import value as Value

M = Scratch.MAT
SHARE = Scratch.P_TAIL


@inlined
def share_of_metal(W):
    """Return how much of the whole reflection the tail is."""
    return clamped(f4(W[M + Mat.METALNESS]), ZERO, ONE) * clamped(f4(W[M + Mat.TAIL]), ZERO, ONE)


@inlined
def derive(S, W, wo, least_alpha):
    """Work out the tail's widths and energies; the base's are known."""
    if share_of_metal(W) <= ZERO:
        return
    rough = clamped(f4(W[M + Mat.TAIL_ROUGHNESS]), ZERO, ONE)
    rough = math.sqrt(max(rough * rough, max(least_alpha, SHARP)))
    stretch = clamped(f4(W[M + Mat.ANISOTROPY]), ZERO, ONE)
    x, y = ggx_widths(rough, stretch)
    W[Scratch.TAIL_ALPHA] = x
    W[Scratch.TAIL_ALPHA + 1] = y
    mu = clamped(wo[2], f4(1e-4), ONE)
    returned = table_metal(S, rough, mu) if stretch <= ZERO else table_brushed(S, rough, stretch, across_of(wo), mu)
    lost = (ONE - returned) / returned
    for k in range(3):
        W[Scratch.TAIL_ADD + k] = ONE + f4(W[Scratch.METAL_F0 + k]) * lost


@inlined
def weight(W, I):
    """Return an estimate of what the lobe returns, for choosing among lobes."""
    return share_of_metal(W) * largest(load(W, Scratch.METAL_F0)) * luminance(load(W, Scratch.ATT))


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
    value, density, c = mirrored(f4(W[Scratch.TAIL_ALPHA]), f4(W[Scratch.TAIL_ALPHA + 1]), wo, wi)
    look_through(W, S, wp, c)
    f = multiplied(metal_reflects(W, M, under(W, c), f4(W[Scratch.METAL_OUTSIDE])), load(W, Scratch.TAIL_ADD))
    passed = multiplied(load(W, Scratch.ATT), tint_between(W, wi))
    add_value(W, Value.REFLECTION, scaled(multiplied(f, passed), value * share_of_metal(W)))
    return p * density


@inlined
def sample(W, I, S, wp, wo, u1, u2, choice):
    """Return a direction and its kind, see `onward`."""
    return sample_mirrored(f4(W[Scratch.TAIL_ALPHA]), f4(W[Scratch.TAIL_ALPHA + 1]), wo, u1, u2), REFLECTION
