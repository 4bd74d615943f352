"""The opening of a spot: a disc whose radiance depends on where it is seen from. Names as in choose.py.

So that its intensity follows the spot's profile, the radiance is that divided by the cosine to the axis.
"""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, jit
from nocturne.engine.kernels.lights import disc
from nocturne.engine.kernels.lights.spot import profile
from nocturne.engine.kernels.vectors import ZERO, dot, row_at, scaled
from nocturne.engine.layout import light as Light

density = disc.density


@jit
def shine(S, l, wi):
    """Return the share of the light's radiance along its axis that is seen in direction wi."""
    c = -dot(row_at(T.light_f(S), l, Light.N), wi)
    return profile(S, l, c) / max(c, f4(1e-3))


@jit
def sample(S, wp, l, P, N, two_sided, pick, u, v):
    """Return (direction, distance, radiance, density, is delta) of a point of the light; density 0: none."""
    wi, distance, rgb, d, is_delta = disc.sample(S, wp, l, P, N, two_sided, pick, u, v)
    k = shine(S, l, wi)
    return wi, distance, scaled(rgb, k), d if k > ZERO else ZERO, is_delta
