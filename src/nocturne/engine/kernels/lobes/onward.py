"""Where a path goes on from a surface: kinds of events, values summed and samples written.

A lobe's `sample` returns a direction and its kind: DIFFUSE, REFLECTION or TRANSMISSION, to be weighed by all lobes; PUT
if the sample is written already, as that of a perfectly sharp lobe; ENDED if nothing goes on.
"""

from nocturne.engine.kernels.jit import f4, i4, inlined, jit, u4
from nocturne.engine.kernels.shading import same_side, world
from nocturne.engine.kernels.vectors import ONE, ZERO, load, store, unit
from nocturne.engine.layout import onward as Onward
from nocturne.engine.layout import scratch as Scratch

SHARP = f4(1e-3)  # below this alpha a lobe is a mirror
ENDED, DIFFUSE, REFLECTION, TRANSMISSION, PUT = i4(-1), i4(0), i4(1), i4(2), i4(3)
LEAST_DENSITY = f4(1e-9)


@inlined
def add_value(W, kind, rgb):
    """Add a lobe's value to a kind's in EVAL."""
    for k in range(3):
        W[Scratch.EVAL + kind + k] = f4(W[Scratch.EVAL + kind + k]) + rgb[k]


@jit
def put_sample(W, I, wi, weight, density, kind, is_delta):
    """Write the sample; where shading and geometric normal disagree about its side, nothing goes on."""
    R = Scratch.SAMPLE
    store(W, R + Onward.DIRECTION, unit(world(W, wi)))
    store(W, R + Onward.WEIGHT, weight)
    W[R + Onward.DENSITY] = density
    I[R + Onward.KIND] = u4(kind)
    I[R + Onward.IS_DELTA] = u4(is_delta)
    if not same_side(W, I, load(W, R + Onward.DIRECTION), wi[2]):
        W[R + Onward.DENSITY] = ZERO


@inlined
def put_sharp(W, I, wi, weight, kind):
    """Write the only direction that there is."""
    put_sample(W, I, wi, weight, ONE, kind, 1)
