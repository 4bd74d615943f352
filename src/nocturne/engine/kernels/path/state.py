"""Where a path stands, in the work row. Names as in loop.py."""

from nocturne.engine.kernels.jit import i4, inlined, u4
from nocturne.engine.kernels.path.hit import NONE
from nocturne.engine.kernels.random import pair
from nocturne.engine.kernels.vectors import ONE, load, multiplied, scaled, store
from nocturne.engine.layout import path as Path
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import seen as Seen

P = Scratch.PATH
PAIRS_A_BOUNCE = 5
FIRST_PAIR = 2  # those before it are the camera's


@inlined
def begin(W, I, o, d, pixel, sample):
    """Start a path at the camera."""
    for k in range(Path.COUNT):
        I[P + k] = u4(0)
    store(W, P + Path.ORIGIN, o)
    store(W, P + Path.DIRECTION, d)
    store(W, P + Path.BETA, (ONE, ONE, ONE))
    W[P + Path.SPREAD] = ONE
    W[P + Path.DENSITY] = -ONE
    I[P + Path.PIXEL] = pixel
    I[P + Path.SAMPLE] = sample
    I[Scratch.FIRST + Seen.OBJECTS] = NONE
    I[Scratch.FIRST + Seen.MATERIALS] = NONE


@inlined
def random_pair(I, which):
    """Return two numbers in [0, 1) of this ray's, the `which`th pair."""
    at = FIRST_PAIR + i4(I[P + Path.STEP]) * PAIRS_A_BOUNCE + which
    return pair(I[P + Path.PIXEL], I[P + Path.SAMPLE], at)


@inlined
def weaken(W, by):
    """Multiply the throughput by a number."""
    store(W, P + Path.BETA, scaled(load(W, P + Path.BETA), by))


@inlined
def filter_through(W, colour):
    """Multiply the throughput by a colour."""
    store(W, P + Path.BETA, multiplied(load(W, P + Path.BETA), colour))
