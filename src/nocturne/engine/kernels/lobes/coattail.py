"""The tail of the coat's highlight: a part of it that spreads wider. Names as in surface.py."""

from nocturne.engine.kernels.jit import f4, inlined
from nocturne.engine.kernels.lobes.coat import from_coat, share_kept, to_coat
from nocturne.engine.kernels.lobes.facets import mirrored, sample_mirrored
from nocturne.engine.kernels.lobes.onward import REFLECTION, add_value
from nocturne.engine.kernels.microfacet import fresnel_dielectric
from nocturne.engine.kernels.vectors import ONE, ZERO
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import value as Value

M = Scratch.MAT
SHARE = Scratch.P_COAT_TAIL


@inlined
def weight(W, I):
    """Return an estimate of what the lobe returns, for choosing among lobes."""
    return f4(W[Scratch.COAT_REFL]) * (ONE - share_kept(W))


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
    wo = to_coat(W, I, wo)
    wi = to_coat(W, I, wi)
    if wi[2] <= ZERO:
        return ZERO
    value, density, c = mirrored(f4(W[Scratch.COAT_TAIL_ALPHA]), f4(W[Scratch.COAT_TAIL_ALPHA + 1]), wo, wi)
    s = f4(W[M + Mat.COAT]) * f4(W[Scratch.KEPT]) * (ONE - share_kept(W))
    s *= fresnel_dielectric(c, f4(W[Scratch.COAT_ETA])) * value / f4(W[Scratch.COAT_TAIL_ALL])
    add_value(W, Value.REFLECTION, (s, s, s))
    return p * density


@inlined
def sample(W, I, S, wp, wo, u1, u2, choice):
    """Return a direction and its kind, see `onward`."""
    wo = to_coat(W, I, wo)
    wi = sample_mirrored(f4(W[Scratch.COAT_TAIL_ALPHA]), f4(W[Scratch.COAT_TAIL_ALPHA + 1]), wo, u1, u2)
    return from_coat(W, I, wi), REFLECTION
