"""One path: camera to light, vertex by vertex.

Unidirectional path tracing with next-event estimation, both combined by multiple importance sampling (Veach 1997).
Names: S scene table, F film table, wp address of the work row W (I: the same row unsigned), P where the path stands in
it, o d ray, m material; an event is a vertex at which the path was bent, see `passes` for its kinds.
"""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels import units
from nocturne.engine.kernels.jit import f4, i4, inlined, u4
from nocturne.engine.kernels.lights.learned import ask_for_row, is_anything_known, noise_of, row_of
from nocturne.engine.kernels.path.bright import ask_for_share, begin_records, note_reached, row_share
from nocturne.engine.kernels.path.guides import albedo_of, note_clean_guides, shows_itself
from nocturne.engine.kernels.path.hit import INDIRECT_RAYS, is_lamp, read_surface
from nocturne.engine.kernels.path.passes import go_on
from nocturne.engine.kernels.path.roulette import MAX_STEPS, go_further
from nocturne.engine.kernels.path.segment import (
    cross_boundary,
    find_glow,
    find_infinite,
    go_straight,
    is_hole,
    pass_lamp,
    pass_sheet,
    travel,
)
from nocturne.engine.kernels.path.shadow import gather
from nocturne.engine.kernels.path.state import draw, filter_through
from nocturne.engine.kernels.path.wander import FOUND, NOTHING, come_out, turn_over, wander
from nocturne.engine.kernels.random import INV_2_24, hashed
from nocturne.engine.kernels.vectors import BIG, HALF, ZERO, load, store
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import path as Path
from nocturne.engine.layout import ray as Ray
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import settings as Settings
from nocturne.engine.layout import vertex as Vertex

P = Scratch.PATH
MOST_REACH = f4(1 / 128)


@inlined
def trace_path(S, W, I, wp):
    """Follow the path that was begun, and add what it finds to the sample's sums."""
    begin_records(I)
    for step in range(MAX_STEPS):
        I[P + Path.STEP] = u4(step)
        is_below = I[P + Path.BELOW] != u4(0)
        found = wander(S, W, I, wp, BIG, INDIRECT_RAYS, True) if is_below else travel(S, W, I, wp, True)
        if found == NOTHING:
            find_infinite(S, W, I, wp)
        if found != FOUND:
            return
        read_surface(S, W, I, load(W, P + Path.ORIGIN), load(W, P + Path.DIRECTION), f4(W[P + Path.WIDTH]))
        if is_below:
            turn_over(W, I)
        elif is_lamp(S, I):
            if not pass_lamp(S, W, I, wp):
                return
            continue
        find_cell(S, W, I)
        set_reach(W, I)
        units.read_material(S, wp)
        m = i4(I[Scratch.MATERIAL])
        note_reached(I)
        is_thin = T.mat_i(S)[m, Mat.IS_THIN] != 0
        is_medium = T.mat_i(S)[m, Mat.IS_MEDIUM] != 0 and not is_below
        if not is_below:
            if T.mat_i(S)[m, Mat.CUT] != 0 and is_hole(W, I):
                go_straight(W, I)
                continue
            find_glow(S, W, I, wp, m)
        if I[P + Path.IS_LAST] != u4(0) and not is_thin:
            return
        if is_below:
            come_out(W, I)
        elif not cross_boundary(S, W, I, m, is_medium):
            go_straight(W, I)
            continue
        draw(I, wp)
        # Glass that light sampling looks through stays polished: else both would find the light behind it.
        is_blurred = I[P + Path.DIFFUSE] != u4(0) and T.mat_i(S)[m, Mat.PASSES] == 0
        W[Scratch.RANDOM] = f4(T.settings_f(S)[Settings.REGULARISE]) if is_blurred else ZERO
        units.derive_material(S, wp)
        if is_thin:
            passes = pass_sheet(W, I)
            if passes < 0:
                return
            if passes > 0:
                continue
        stop_at_vertex(S, W, I, is_thin)
        if T.settings_i(S)[Settings.MODE] != Settings.MODE_MATERIAL and I[Scratch.IS_SHARP] == u4(0):
            gather(S, W, I, wp, m, is_medium)
        if not go_further(S, W, I, wp, m, is_medium, is_thin):
            return


@inlined
def find_cell(S, W, I):
    """Find the row of what was learned about the surface in hand, and ask for it: the material is read meanwhile."""
    row = u4(0)
    if is_anything_known(S):
        noise = noise_of(I[P + Path.PIXEL], I[P + Path.SAMPLE], I[P + Path.STEP])
        row = row_of(S, load(W, Scratch.P), load(W, Scratch.N), noise)
        ask_for_row(S, row)
        ask_for_share(S, row)
    I[Scratch.CELL] = row


@inlined
def set_reach(W, I):
    """Say how far the ray reaches on the surface: half a pixel to a whole one, by chance.

    The ray is a cone (Akenine-Möller et al. 2019, Texture level of detail strategies for real-time ray tracing). By
    chance, so that steps between a picture's levels are not seen, and many samples show what lies between them. Behind
    a bend no more than a part of the whole: else rays to what is small would find what lies beside it in its picture.
    """
    if I[P + Path.EVENTS] != u4(0):
        W[Scratch.MOST] = MOST_REACH
    number = hashed(u4(I[Scratch.RAY + Ray.U] ^ I[Scratch.RAY + Ray.FAR]))
    part = HALF + HALF * f4(u4(number >> u4(8))) * INV_2_24
    W[Scratch.UV_SIZE] = f4(W[Scratch.UV_SIZE]) * part
    W[Scratch.UV_2_SIZE] = f4(W[Scratch.UV_2_SIZE]) * part
    W[Scratch.REACH] = f4(W[Scratch.REACH]) * part


@inlined
def stop_at_vertex(S, W, I, is_thin):
    """Make the surface in hand a vertex of the path: lights are sampled from it and found from it."""
    if I[P + Path.IS_PENDING] != u4(0):
        I[P + Path.IS_PENDING] = u4(0)
        filter_through(W, go_on(W, I[P + Path.EVENTS] == u4(1)))
    n = load(W, Scratch.N)
    store(W, Scratch.LV + Vertex.POSITION, load(W, Scratch.P))
    store(W, Scratch.LV + Vertex.NORMAL, n)
    is_two_sided = f4(W[Scratch.GLASS]) > ZERO or f4(W[Scratch.P_BACK]) > ZERO
    I[Scratch.LV + Vertex.TWO_SIDED] = u4(1) if is_two_sided else u4(0)
    I[Scratch.LV + Vertex.LEARNED] = I[Scratch.CELL]
    share = ZERO
    if not is_two_sided and not is_thin:
        # What mirrors sharply knows better where to look.
        share = row_share(S, I[Scratch.CELL]) * f4(W[Scratch.P_DIFF])
    W[Scratch.LV + Vertex.SHARE] = share
    W[P + Path.SINCE_VERTEX] = ZERO
    if I[P + Path.IS_GUIDED] == u4(0) and (shows_itself(W, I) or i4(I[P + Path.EVENTS]) > 3):
        note_clean_guides(W, albedo_of(W), n)
        I[P + Path.IS_GUIDED] = u4(1)
