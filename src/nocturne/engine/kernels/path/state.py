"""Where a path stands, in the work row. Names as in loop.py."""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, inlined, u4
from nocturne.engine.kernels.lanes import LANES, draw_pairs
from nocturne.engine.kernels.path.camera import sight_along
from nocturne.engine.kernels.path.hit import NONE
from nocturne.engine.kernels.vectors import ONE, load, multiplied, scaled, store
from nocturne.engine.layout import camera as Camera
from nocturne.engine.layout import path as Path
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import seen as Seen

P = Scratch.PATH
PAIRS_A_BOUNCE = 5
FIRST_PAIR = 2  # those before it are the camera's


@inlined
def begin(S, W, I, o, d, way, pixel, sample):
    """Start a path with a camera's ray, `way` from the lens."""
    for k in range(Path.COUNT):
        I[P + k] = u4(0)
    store(W, P + Path.ORIGIN, o)
    store(W, P + Path.DIRECTION, d)
    store(W, P + Path.BETA, (ONE, ONE, ONE))
    W[P + Path.SPREAD] = ONE
    W[P + Path.LUCK] = ONE
    W[P + Path.DENSITY] = -ONE
    C = T.camera(S)
    angle = f4(C[Camera.PIXEL])
    W[P + Path.ANGLE] = angle
    W[P + Path.WIDTH] = f4(C[Camera.PIXEL_WIDTH]) + angle * way
    W[P + Path.SIGHT] = sight_along(C, d) - way
    I[P + Path.PIXEL] = pixel
    I[P + Path.SAMPLE] = sample
    I[P + Path.PAIRS_AT] = u4(FIRST_PAIR)
    I[Scratch.FIRST + Seen.OBJECTS] = NONE
    I[Scratch.FIRST + Seen.MATERIALS] = NONE


@inlined
def draw_first(wp, pixel, sample):
    """Draw the random numbers of the camera and of the first ray's end."""
    draw_pairs(wp + 4 * Scratch.PAIRS, pixel, sample, u4(0))


@inlined
def first_pair(W, which):
    """Return two numbers in [0, 1) of the camera's, the `which`th pair."""
    return f4(W[Scratch.PAIRS + which]), f4(W[Scratch.PAIRS + LANES + which])


@inlined
def draw(I, wp):
    """Draw the random numbers of the ray's end."""
    if I[P + Path.STEP] != u4(0):
        first = u4(u4(FIRST_PAIR) + u4(I[P + Path.STEP] * u4(PAIRS_A_BOUNCE)))
        draw_pairs(wp + 4 * Scratch.PAIRS, I[P + Path.PIXEL], I[P + Path.SAMPLE], first)
        I[P + Path.PAIRS_AT] = u4(0)


@inlined
def random_pair(W, I, which):
    """Return two numbers in [0, 1) of those that were drawn, the `which`th pair."""
    at = Scratch.PAIRS + i4(I[P + Path.PAIRS_AT]) + which
    return f4(W[at]), f4(W[at + LANES])


@inlined
def weaken(W, by):
    """Multiply the throughput by a number."""
    store(W, P + Path.BETA, scaled(load(W, P + Path.BETA), by))


@inlined
def filter_through(W, colour):
    """Multiply the throughput by a colour."""
    store(W, P + Path.BETA, multiplied(load(W, P + Path.BETA), colour))
