"""Signs: lettering and simple shapes, inked by how far their edge is. Names as in `steps`.

d signed distance to the edge, below 0 inside; in the step's coordinates. The fields that both have lie alike.
"""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, inlined, jit, row_f4
from nocturne.engine.kernels.patterns.emblems import to_emblems
from nocturne.engine.kernels.patterns.handing import put_out, under_it
from nocturne.engine.kernels.patterns.noises import grey
from nocturne.engine.kernels.patterns.outlines import to_outlines
from nocturne.engine.kernels.patterns.places import own_normal
from nocturne.engine.kernels.vectors import HALF, ONE, TWO, ZERO, added, clamped, dot, load, scaled, subtracted
from nocturne.engine.layout import pattern as Pattern
from nocturne.engine.layout import spot as Spot
from nocturne.engine.layout import steps as Steps

FINE = f4(1e-9)
OUTLINES = 3
WIDTH, GAP, COLOUR, EACH = (
    Steps.LETTERING_OUTLINE_1_WIDTH,
    Steps.LETTERING_OUTLINE_1_GAP,
    Steps.LETTERING_OUTLINE_1_COLOR,
    Steps.LETTERING_OUTLINE_2_WIDTH - Steps.LETTERING_OUTLINE_1_WIDTH,
)
# Of its height: nothing in a letter is much finer. A soft edge wider than what it bounds would change how much there is
# of it; seen from farther, each ray finds what lies just there, and many find the mean.
FINEST = f4(0.02)
COLOURS, FILL, ALL, RAISED, DISTANCE = range(5)
WHITE = (ONE, ONE, ONE)


@inlined
def eased(t):
    """Return t, 0..1, with a level way at both ends."""
    return t * t * (f4(3) - TWO * t)


@jit
def faces(S, wp, at, b, F):
    """Return True where a face looks to where the sign is laid on from, or where that does not matter."""
    where = T.bind_i(S)[b, Pattern.WHERE]
    if f4(F[Steps.LETTERING_ONE_SIDE]) < HALF or (where != Pattern.FLAT and where != Pattern.SOLID):
        return True
    n = own_normal(S, wp, at) if T.bind_i(S)[b, Pattern.IN_SET] == 0 else load(row_f4(wp), at + Spot.N)
    return dot(n, load(F, Pattern.TO_Z)) > ZERO


@inlined
def over(under, colour, share):
    """Return what a colour and what lies under it are together."""
    return added(under, scaled(subtracted(colour, under), share))


@inlined
def cover(d, wide):
    """Return how much of what looks, or of a soft edge, is inside."""
    return clamped(HALF - d / wide, ZERO, ONE)


@jit
def outlined(F, d, wide, ground, is_mask):
    """Return the outlines over the ground, the outermost first."""
    reach = ZERO
    for k in range(OUTLINES):
        if f4(F[WIDTH + k * EACH]) > ZERO:
            reach += f4(F[WIDTH + k * EACH]) + f4(F[GAP + k * EACH])
    out = ground
    for n in range(OUTLINES):
        o = (OUTLINES - 1 - n) * EACH
        width = f4(F[WIDTH + o])
        if width > ZERO:
            out = over(out, WHITE if is_mask else load(F, COLOUR + o), cover(d - reach, wide))
            gap = f4(F[GAP + o])
            reach -= width
            if gap > ZERO:
                out = over(out, ground, cover(d - reach, wide))
            reach -= gap
    return out


@jit
def soft(F, size, finest):
    """Return how wide an edge is: as wide as what looks, but no wider than what it bounds; or as the sign says."""
    for k in range(OUTLINES):
        width = f4(F[WIDTH + k * EACH])
        if width > ZERO:
            gap = f4(F[GAP + k * EACH])
            finest = min(finest, width if gap <= ZERO else min(width, gap))
    return max(max(f4(F[Steps.LETTERING_SOFTNESS]), min(size, finest)), FINE)


@jit
def inked(S, wp, at, b, F, d, size, finest, under):
    """Return what a sign puts out where its edge is d away; nothing in it is finer than finest."""
    output = i4(F[Steps.LETTERING_OUTPUT])
    is_seen = faces(S, wp, at, b, F)
    if not is_seen:
        d = f4(1e9)
    if output == RAISED:
        return grey(eased(clamped(-d / max(f4(F[Steps.LETTERING_BEVEL]), FINE), ZERO, ONE)))
    if output == DISTANCE:
        return grey(clamped(HALF - HALF * d / max(f4(F[Steps.LETTERING_BEVEL]), FINE), ZERO, ONE))
    wide = soft(F, size, finest)
    fill = cover(d, wide)
    if output == FILL:
        return grey(fill)
    if output == ALL:
        return over(outlined(F, d, wide, (ZERO, ZERO, ZERO), True), WHITE, fill)
    ground = load(F, Steps.LETTERING_GROUND_COLOR) if f4(F[Steps.LETTERING_BESIDE]) > HALF else under
    colour = load(F, Steps.LETTERING_COLOR)
    depth = f4(F[Steps.LETTERING_EDGE_WIDTH])
    if depth > ZERO:
        colour = over(load(F, Steps.LETTERING_EDGE_COLOR), colour, eased(clamped(-d / max(depth, FINE), ZERO, ONE)))
    return over(outlined(F, d, wide, ground, False), colour, fill)


@jit
def sign(S, wp, at, b, F, q, size, under):
    """Return letters or simple shapes, inked: in one function, so that the ink is compiled once."""
    if T.bind_i(S)[b, Pattern.KIND] == Steps.LETTERING:
        height = max(f4(F[Steps.LETTERING_HEIGHT]), FINE)
        d = to_outlines(S, T.bind_i(S)[b, Pattern.FIRST_ENTRY], q[0] / height, q[1] / height) * height
        finest = FINEST * height
    else:
        d = to_emblems(F, q[0], q[1])
        least = min(f4(F[Steps.EMBLEM_HEIGHT]), f4(F[Steps.EMBLEM_WIDTH]))
        finest = min(FINEST * least, HALF * f4(F[Steps.EMBLEM_THICKNESS]))
    return inked(S, wp, at, b, F, d, size, finest, under)


VALUES = {Steps.LETTERING: sign, Steps.EMBLEM: sign}


def step(S, wp, kind, at, b, F, x, y, z, size):
    """Unit: put out what a step of this family does."""
    put_out(wp, sign(S, wp, at, b, row_f4(F), (x, y, z), size, under_it(wp)))
