"""Heights of many places at once, for relief that is real geometry: the machine of patterns without a picture."""

from nocturne.engine.kernels.jit import f4, row_f4, row_u4, u4
from nocturne.engine.kernels.patterns.drive import run_steps
from nocturne.engine.kernels.vectors import BIG, ZERO, load, store
from nocturne.engine.layout import asked as Asked
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import spot as Spot

M = Scratch.MAT
AT = Scratch.SPOT


def heights_at(S, wp, places, out, n, first, steps):
    """Write what steps make of a height of 0 at n places.

    S scene table, of which only what patterns read has to be there; wp work row; places address of (n, Asked.WIDTH)
    float32; out of (n,) float32.
    """
    W = row_f4(wp)
    I = row_u4(wp)
    heights = row_f4(out)
    W[AT + Spot.UV_SIZE] = ZERO
    W[AT + Spot.BARE] = ZERO
    W[AT + Spot.UV_2_SIZE] = ZERO
    W[AT + Spot.REACH] = ZERO
    W[AT + Spot.MOST] = BIG
    I[AT + Spot.INST] = u4(0)
    I[AT + Spot.PRIM] = u4(0)
    for k in range(n):
        P = row_f4(places + 4 * Asked.WIDTH * k)
        for j in range(2):
            W[AT + Spot.UV + j] = P[Asked.UV + j]
            W[AT + Spot.UV_2 + j] = P[Asked.UV_2 + j]
        store(W, AT + Spot.COLOUR, load(P, Asked.COLOUR))
        place = load(P, Asked.REST)
        store(W, AT + Spot.P, place)
        store(W, AT + Spot.REST, place)
        normal = load(P, Asked.N)
        store(W, AT + Spot.N, normal)
        store(W, AT + Spot.G, normal)
        store(W, AT + Spot.WO, normal)
        W[M + Mat.HEIGHT] = ZERO
        run_steps(S, I, wp, first, steps, M, AT)
        heights[k] = f4(W[M + Mat.HEIGHT])
