"""The surface: OpenPBR's metal and dielectric base with coat, composed of its lobes.

Energy: each microfacet lobe is divided by its own directional albedo (Turquin 2019, Practical multiple scattering
compensation for microfacet models), and what lies below an interface receives what that interface does not reflect, so
that a white surface returns exactly the light it gets. Albedos come from tables, see `nocturne.engine.albedo`.

A lobe is a file that ends in `weight`, `is_sharp`, `evaluate` and `sample`, and has the place of its share of samples;
`evaluate` returns the density, too, as value and density have their factors in common. LOBES is the registry: first
those that few materials have, which the others do not ask for; what rounding leaves over is the last one's.

Names: wo wi directions to the viewer and to the light in the local frame (z is the normal); mu cosine of wo; W work
row at address wp, I the same row unsigned, S scene table, M = Scratch.MAT + offset in Mat.
"""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.dispatch import by_share, summed
from nocturne.engine.kernels.jit import f4, i4, inlined, jit, u4
from nocturne.engine.kernels.lobes import back, base, below, coat, coattail, diffuse, fuzz, tail
from nocturne.engine.kernels.lobes.onward import DIFFUSE, LEAST_DENSITY, PUT, TRANSMISSION, put_sample
from nocturne.engine.kernels.lobes.sheet import let_straight
from nocturne.engine.kernels.shading import local
from nocturne.engine.kernels.values import whole_value
from nocturne.engine.kernels.vectors import ONE, TINY, ZERO, clamped, dot, load, luminance, mixed, scaled, store
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import onward as Onward
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import value as Value

M = Scratch.MAT
RARE, COMMON = (below, back, fuzz, coattail, tail), (coat, diffuse, base)
LOBES = (*RARE, *COMMON)
N_RARE = len(RARE)
LEAST_SHARE = f4(0.05)


def _share_of(lobe):
    at = lobe.SHARE

    @inlined
    def share(W):
        return f4(W[at])

    return share


def _weigh_with(lobe):
    at, weight = lobe.SHARE, lobe.weight

    @inlined
    def weigh(W, I):
        W[at] = weight(W, I)
        return f4(W[at])

    return weigh


def _raise_in(lobe):
    at = lobe.SHARE

    @inlined
    def raise_share(W):
        # What is there at all is sampled now and then, however little it seems to be: estimates leave the angle out.
        if f4(W[at]) > ZERO:
            W[at] = max(f4(W[at]), LEAST_SHARE)
        return f4(W[at])

    return raise_share


def _scale_in(lobe):
    at = lobe.SHARE

    @inlined
    def scale(W, k):
        W[at] = f4(W[at]) * k
        return 0

    return scale


def _smooth_in(lobe):
    at, is_sharp = lobe.SHARE, lobe.is_sharp

    @inlined
    def count(W, I):
        return 1 if f4(W[at]) > ZERO and not is_sharp(W, I) else 0

    return count


_weigh_rare, _weigh = (summed([_weigh_with(lobe) for lobe in lobes]) for lobes in (RARE, COMMON))
_raise = summed([_raise_in(lobe) for lobe in LOBES])
_scale = summed([_scale_in(lobe) for lobe in LOBES])
_smooth = summed([_smooth_in(lobe) for lobe in LOBES])
_evaluate_rare, _evaluate = (summed([lobe.evaluate for lobe in lobes]) for lobes in (RARE, COMMON))
_sample = by_share([_share_of(lobe) for lobe in LOBES], [lobe.sample for lobe in LOBES])


@jit
def weigh_rare(W, I):
    """Weigh the lobes that few materials have, and return their weights together."""
    is_rare = max(f4(W[M + Mat.FUZZ]), f4(W[M + Mat.SUBSURFACE])) > ZERO
    is_rare = is_rare or max(f4(W[M + Mat.TAIL]), f4(W[M + Mat.COAT_TAIL])) > ZERO
    I[Scratch.IS_RARE] = u4(1) if is_rare else u4(0)
    if is_rare:
        return _weigh_rare(W, I)
    for k in range(N_RARE):
        W[Scratch.P_TAIL + k] = ZERO
    return ZERO


@inlined
def stay_above(W):
    """Have what lies below a surface that is looked at from its inside be spread at once."""
    part = clamped(f4(W[M + Mat.SUBSURFACE]), ZERO, ONE)
    W[M + Mat.SUBSURFACE] = ZERO
    for k in range(3):
        W[M + Mat.BASE + k] = mixed(f4(W[M + Mat.BASE + k]), f4(W[M + Mat.SUBSURFACE_COLOR + k]), part)


@inlined
def derive(S, W, I, wp, least_alpha):
    """Work out lobes' widths, energies and sampling shares from the material; ETA and the outer index are set."""
    wo = local(W, load(W, Scratch.WO))
    is_thin = T.mat_i(S)[i4(I[Scratch.MATERIAL]), Mat.IS_THIN] != 0
    I[Scratch.IS_THIN] = u4(1) if is_thin else u4(0)
    transmits = clamped(f4(W[M + Mat.TRANSMISSION]), ZERO, ONE) > ZERO
    inside = I[Scratch.INSIDE] != u4(0) and transmits and not is_thin
    W[M + Mat.COAT] = ZERO if inside else clamped(f4(W[M + Mat.COAT]), ZERO, ONE)
    if inside:
        W[M + Mat.FUZZ] = ZERO
    if I[Scratch.INSIDE] != u4(0) and not is_thin and f4(W[M + Mat.SUBSURFACE]) > ZERO:
        stay_above(W)
    fuzz.derive(S, W, wo[2])
    is_clear = base.derive(S, W, I, wp, wo, least_alpha)
    tail.derive(S, W, wo, least_alpha)
    coat.derive(S, W, I, wp, wo, least_alpha)
    rest = _weigh(W, I) + weigh_rare(W, I)
    straight = (ZERO, ZERO, ZERO)
    W[Scratch.P_EVENT] = ONE
    if is_clear:
        mu = abs(dot(load(W, Scratch.WO), load(W, Scratch.G)))
        straight = let_straight(S, W, wp, M, f4(W[Scratch.OUTSIDE]), mu, True, False)
        s = luminance(straight)
        if s > ZERO:
            W[Scratch.P_EVENT] = clamped(rest / (rest + s), f4(0.1), f4(0.95))
    store(W, Scratch.STRAIGHT, straight)
    _scale(W, ONE / max(_raise(W), TINY))
    I[Scratch.IS_SHARP] = u4(1) if _smooth(W, I) == 0 else u4(0)


@jit
def evaluate(W, I, S, wp, wo, wi):
    """Write diffuse, reflected and transmitted value times cosine, and the density of sampling wi, to EVAL."""
    E = Scratch.EVAL
    for k in range(Value.COUNT):
        W[E + k] = ZERO
    if wo[2] < f4(1e-5) or abs(wi[2]) < f4(1e-5):
        return
    density = _evaluate(W, I, S, wp, wo, wi)
    if I[Scratch.IS_RARE] != u4(0):
        density += _evaluate_rare(W, I, S, wp, wo, wi)
    W[E + Value.DENSITY] = density


@jit
def sample(W, I, S, wp):
    """Choose a direction; write it to SAMPLE with weight value * cosine / density. Density 0: nothing goes on."""
    wo = local(W, load(W, Scratch.WO))
    u = f4(W[Scratch.RANDOM])
    W[Scratch.SAMPLE + Onward.DENSITY] = ZERO
    I[Scratch.WANDERS] = u4(0)
    if wo[2] < f4(1e-5):
        return
    u1 = f4(W[Scratch.RANDOM + 1])
    u2 = f4(W[Scratch.RANDOM + 2])
    choice = f4(W[Scratch.RANDOM + 3])
    wi, kind = _sample(u, W, I, S, wp, wo, u1, u2, choice)
    if kind < DIFFUSE or kind == PUT:
        return
    # A direction below the horizon left by a reflecting lobe is lost between the facets; the tables make up for it.
    if (kind == TRANSMISSION) == (wi[2] > ZERO):
        return
    evaluate(W, I, S, wp, wo, wi)
    density = f4(W[Scratch.EVAL + Value.DENSITY])
    if density <= LEAST_DENSITY:
        return
    put_sample(W, I, wi, scaled(whole_value(W), ONE / density), density, kind, 0)
