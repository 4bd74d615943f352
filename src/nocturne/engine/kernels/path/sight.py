"""What pixels' middles see: one ray each, without chance; mirrors and clear glass are looked through.

A film keeps position, normal and depth of what is seen first: a nearest or a mean sample would lie beside the surface,
on a floor at a grazing angle by several per cent. Names as in loop.py; G what is seen by pixel, H its ids, `at` and
`to` the pixel's places in them.
"""

from nocturne.engine.kernels import filmtables as FT
from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels import units
from nocturne.engine.kernels.jit import (
    counted_up,
    f4,
    i4,
    inlined,
    jit,
    row_f4,
    row_i4,
    row_u4,
    u4,
)
from nocturne.engine.kernels.lobes.undercoat import glow_through
from nocturne.engine.kernels.media.stack import enter, leave
from nocturne.engine.kernels.path.camera import middle_ray
from nocturne.engine.kernels.path.guides import albedo_of, shows_itself
from nocturne.engine.kernels.path.hit import NONE, error_of, is_lamp, pushed, read_surface
from nocturne.engine.kernels.path.segment import cross_boundary, go_straight, look_at_lamp, travel
from nocturne.engine.kernels.path.state import begin, filter_through
from nocturne.engine.kernels.path.wander import FOUND
from nocturne.engine.kernels.vectors import HALF, ONE, ZERO, along, dot, largest, load, multiplied, scaled, store
from nocturne.engine.layout import guide as Guide
from nocturne.engine.layout import lamp as Lamp
from nocturne.engine.layout import light as Light
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import media as Media
from nocturne.engine.layout import onward as Onward
from nocturne.engine.layout import path as Path
from nocturne.engine.layout import ray as Ray
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import settings as Settings
from nocturne.engine.layout import sight as Sight

P = Scratch.PATH
M = Scratch.MAT
MAX_LOOKS = 16  # surfaces along one ray
MAX_MIRRORS = 4
SURELY = f4(0.9999)  # a number that picks the last of what a mirror or a pane may do: letting light through


@jit
def put(G, at, v):
    for k in range(3):
        G[at + k] = v[k]


@jit
def add_emission(S, W, I, G, H, at, to, group, c):
    """Add light that comes straight to the eye."""
    if I[P + Path.EVENTS] != u4(0) or largest(c) <= ZERO:
        return
    c = multiplied(load(W, P + Path.BETA), c)
    for k in range(3):
        G[at + Sight.EMISSION + k] = f4(G[at + Sight.EMISSION + k]) + c[k]
    H[to + Sight.LIGHT_GROUP] = u4(group)


@jit
def note_seen(W, I, G, H, at, to, albedo, roughness):
    """Keep the surface in hand as the one that is seen."""
    put(G, at + Sight.ALBEDO, albedo)
    put(G, at + Sight.CLEAN_NORMAL, load(W, Scratch.N))
    put(G, at + Sight.POSITION, load(W, Scratch.P))
    G[at + Sight.ROUGHNESS] = roughness if I[P + Path.EVENTS] == u4(0) else -ONE
    H[to + Sight.OBJECT] = I[Scratch.OBJECT]


@inlined
def see_infinite(S, W, I, wp, G, H, at, to):
    for k in range(T.settings_i(S)[Settings.N_INFINITE]):
        l = T.infinite(S)[k]
        if T.light_i(S)[l, Light.SEEN] == 0:
            continue
        I[Scratch.LIGHT] = u4(l)
        units.infinite_hit(S, wp)
        add_emission(S, W, I, G, H, at, to, T.light_i(S)[l, Light.GROUP], load(W, Scratch.LAMP + Lamp.RADIANCE))


@inlined
def bend(S, W, I, wp, m, is_medium):
    """Go on where a mirror or clear glass sends the ray; return False if nowhere."""
    W[Scratch.RANDOM] = ONE - HALF * f4(W[Scratch.P_SPEC])  # the base is the last of the lobes
    W[Scratch.RANDOM + 1] = HALF
    W[Scratch.RANDOM + 2] = HALF
    W[Scratch.RANDOM + 3] = SURELY
    units.sample_material(S, wp)
    if f4(W[Scratch.SAMPLE + Onward.DENSITY]) <= ZERO:
        return False
    d = load(W, Scratch.SAMPLE + Onward.DIRECTION)
    if i4(I[Scratch.SAMPLE + Onward.KIND]) == 2 and is_medium:
        if I[Scratch.INSIDE] == u4(0):
            enter(I, m)
        else:
            leave(I, m)
    store(W, P + Path.DIRECTION, d)
    store(W, P + Path.ORIGIN, pushed(W, load(W, Scratch.P), d))
    I[P + Path.EVENTS] = u4(I[P + Path.EVENTS] + u4(1))
    return True


@jit
def keep_middle(F, W, x, y, way):
    """Keep the surface in hand, `way` from the lens, as what the film's pixel shows."""
    guides = FT.guides(F)
    guides[y, x, Guide.DEPTH] = way
    for k in range(3):
        guides[y, x, Guide.POSITION + k] = W[Scratch.P + k]
        guides[y, x, Guide.NORMAL + k] = W[Scratch.N + k]


@inlined
def look(S, F, W, I, wp, G, H, at, to, x, y):
    """Follow a pixel's middle ray, and write what it sees."""
    o, d, way = middle_ray(S, x, y)
    begin(S, W, I, o, d, way, u4(0), u4(0))
    for k in range(Media.COUNT):
        I[Scratch.MEDIA + k] = u4(T.start_medium(S)[k])
    for k in range(Sight.COUNT):
        G[at + k] = ZERO
    for k in range(Sight.IDS):
        H[to + k] = NONE
    for _ in range(MAX_LOOKS):
        if travel(S, W, I, wp, False) != FOUND:
            see_infinite(S, W, I, wp, G, H, at, to)
            return
        way += f4(W[Scratch.RAY + Ray.FAR])
        d = load(W, P + Path.DIRECTION)
        read_surface(S, W, I, load(W, P + Path.ORIGIN), d, f4(W[P + Path.WIDTH]))
        lamp = is_lamp(S, I)
        if lamp and I[Scratch.INSIDE] != u4(0):
            p = load(W, Scratch.P)
            store(W, P + Path.ORIGIN, along(d, error_of(p), p))
            continue
        if not lamp:
            units.read_material(S, wp)
            if T.mat_i(S)[i4(I[Scratch.MATERIAL]), Mat.CUT] != 0 and f4(W[M + Mat.OPACITY]) < HALF:
                go_straight(W, I)
                continue
        if H[to + Sight.FIRST_OBJECT] == NONE:
            keep_middle(F, W, x, y, way)
            G[at + Sight.DEPTH] = way
            put(G, at + Sight.NORMAL, load(W, Scratch.N))
            H[to + Sight.FIRST_OBJECT] = I[Scratch.OBJECT]
        if lamp:
            look_at_lamp(S, W, I, wp)
            group = T.light_i(S)[i4(I[Scratch.LIGHT]), Light.GROUP]
            add_emission(S, W, I, G, H, at, to, group, load(W, Scratch.LAMP + Lamp.RADIANCE))
            note_seen(W, I, G, H, at, to, (ONE, ONE, ONE), ONE)
            return
        m = i4(I[Scratch.MATERIAL])
        if I[Scratch.INSIDE] == u4(0):
            e = scaled(load(W, M + Mat.EMISSION), f4(W[M + Mat.LOOKS]))
            e = multiplied(e, glow_through(W, M, abs(dot(load(W, Scratch.G), load(W, Scratch.RAY + Ray.DIRECTION)))))
            add_emission(S, W, I, G, H, at, to, T.mat_i(S)[m, Mat.GROUP], e)
        is_medium = T.mat_i(S)[m, Mat.IS_MEDIUM] != 0
        if not cross_boundary(S, W, I, m, is_medium):
            go_straight(W, I)
            continue
        W[Scratch.RANDOM] = ZERO
        units.derive_material(S, wp)
        if T.mat_i(S)[m, Mat.IS_THIN] != 0 and f4(W[Scratch.P_EVENT]) < HALF:
            filter_through(W, load(W, Scratch.STRAIGHT))
            go_straight(W, I)
            continue
        if shows_itself(W, I) or i4(I[P + Path.EVENTS]) >= MAX_MIRRORS:
            note_seen(W, I, G, H, at, to, albedo_of(W), f4(W[M + Mat.ROUGHNESS]))
            return
        if not bend(S, W, I, wp, m, is_medium):
            return


def look_at_tiles(S, F, wp, seen, ids, stop, tiles, cursor, n, width, step, before):
    """Take tiles off a list that several threads share, and look at every `step`th pixel of each.

    `seen` and `ids` are the addresses of a `Sight`'s arrays for a picture of a width; those at every `before`th pixel
    are there already (0: none). For a width of 0 they have room for one pixel, and only those are looked at of which
    the film has no sample. The others are as in `render_tiles`. Returns how many pixels were looked at.
    """
    W = row_f4(wp)
    I = row_u4(wp)
    flags = row_i4(stop)
    edges = row_i4(tiles)
    G = row_f4(seen)
    H = row_u4(ids)
    taken = 0
    while flags[0] == 0 and flags[1] == 0:
        k = 4 * counted_up(cursor)
        if k >= 4 * n:
            break
        for y in range(edges[k + 1], edges[k + 3]):
            if y % step != 0 or flags[0] != 0 or flags[1] != 0:
                continue
            for x in range(edges[k], edges[k + 2]):
                if x % step != 0 or (before > 0 and y % before == 0 and x % before == 0):
                    continue
                if width == 0 and FT.samples(F)[y, x] != 0:
                    continue
                pixel = y * width + x if width != 0 else 0
                look(S, F, W, I, wp, G, H, pixel * Sight.COUNT, pixel * Sight.IDS, x, y)
                taken += 1
    return taken
