"""The path: camera to light, one sample after another, and a tile of pixels brought to a number of samples.

Unidirectional path tracing with next-event estimation, both combined by multiple importance sampling (Veach 1997).
Names: S scene table, F film table, wp address of the work row W (I: the same row unsigned), o d ray, beta throughput,
events real events so far; kinds of an event: 0 diffuse, 1 reflection, 2 transmission.
"""

import math

from numba import njit

from nocturne.engine.kernels import filmtables as FT
from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels import units
from nocturne.engine.kernels.camera import camera_ray, middle_ray
from nocturne.engine.kernels.jit import counted_up, entry_options, f4, i4, jit, row_f4, row_i4, row_u4, u4
from nocturne.engine.kernels.media import enter, entry_of, existing, index_of, leave
from nocturne.engine.kernels.random import INV_2_24, combined, pair
from nocturne.engine.kernels.values import whole_value
from nocturne.engine.kernels.vectors import (
    BIG,
    ONE,
    TINY,
    ZERO,
    added,
    along,
    clamped,
    dot,
    frame,
    largest,
    load,
    luminance,
    mixed,
    multiplied,
    negated,
    power_heuristic,
    row,
    row_at,
    scaled,
    store,
    subtracted,
    transform_normal,
    transform_point,
    transform_vector,
    unit,
)
from nocturne.engine.layout import guide as Guide
from nocturne.engine.layout import instance as Instance
from nocturne.engine.layout import lamp as Lamp
from nocturne.engine.layout import light as Light
from nocturne.engine.layout import masks as Masks
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import media as Media
from nocturne.engine.layout import mesh as Mesh
from nocturne.engine.layout import onward as Onward
from nocturne.engine.layout import passes as Pass
from nocturne.engine.layout import ray as Ray
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import seen as Seen
from nocturne.engine.layout import settings as Settings
from nocturne.engine.layout import squares as Squares
from nocturne.engine.layout import value as Value
from nocturne.engine.layout import vertex as Vertex

units.ensure_bound()  # before anything below is compiled, or loaded from the cache

NONE = u4(Ray.NOTHING)
CAMERA_RAYS, INDIRECT_RAYS = u4(Masks.CAMERA_RAYS), u4(Masks.INDIRECT_RAYS)
SHADOW_RAYS, CLEAR_SHADOW_RAYS = u4(Masks.SHADOW_RAYS), u4(Masks.CLEAR_SHADOW_RAYS)
M = Scratch.MAT
PAIRS_A_BOUNCE = 5
MAX_STEPS = 96  # boundaries passed without an event count too, so the longest way through is bounded

# ---- rays ----------------------------------------------------------------------------------------------------------


@jit
def set_ray(W, I, at, o, d, far, mask):
    store(W, at + Ray.ORIGIN, o)
    W[at + Ray.NEAR] = ZERO
    store(W, at + Ray.DIRECTION, d)
    W[at + Ray.TIME] = ZERO
    W[at + Ray.FAR] = far
    I[at + Ray.MASK] = mask
    I[at + Ray.ID] = u4(0)
    I[at + Ray.FLAGS] = u4(0)
    I[at + Ray.GEOMETRY] = NONE
    I[at + Ray.INSTANCE] = NONE


@jit
def find_hit(S, W, I, wp, o, d, mask):
    set_ray(W, I, Scratch.RAY, o, d, BIG, mask)
    units.intersect(T.top(S)[0], wp, 0)
    I[Scratch.COUNTERS] = u4(I[Scratch.COUNTERS] + u4(1))
    return I[Scratch.RAY + Ray.GEOMETRY] != NONE


@jit
def transmittance(S, W, I, wp, o, d, far, outside):
    """Return how much of the light along a shadow ray in a medium of index `outside` arrives.

    0 behind anything, a colour through thin sheets, as each is where the ray meets it.
    """
    set_ray(W, I, Scratch.SHADOW, o, d, far, SHADOW_RAYS)
    units.occluded(T.top(S)[0], wp + Scratch.SHADOW * 4, 0)
    I[Scratch.COUNTERS + 1] = u4(I[Scratch.COUNTERS + 1] + u4(1))
    if f4(W[Scratch.SHADOW + Ray.FAR]) < ZERO:
        return (ZERO, ZERO, ZERO)
    left = (ONE, ONE, ONE)
    if T.settings_i(S)[Settings.HAS_CLEAR] == 0:
        return left
    at = Scratch.SHADOW
    p = o
    W[Scratch.OUTSIDE] = outside
    for _ in range(MAX_STEPS):
        set_ray(W, I, at, p, d, far, CLEAR_SHADOW_RAYS)
        units.intersect(T.top(S)[0], wp + at * 4, 0)
        if I[at + Ray.GEOMETRY] == NONE:
            return left
        units.read_sheet(S, wp)
        left = multiplied(left, load(W, Scratch.STRAIGHT))
        if largest(left) < f4(1e-4):
            return (ZERO, ZERO, ZERO)
        t = f4(W[at + Ray.FAR])
        step = t + error_of(along(d, t, p))
        p = along(d, step, p)
        far -= step
        if far <= ZERO:
            return left
    return (ZERO, ZERO, ZERO)


@jit
def error_of(p):
    """Return a distance safely above the rounding error of a hit at p: ten micrometres near the origin."""
    return f4(1e-5) + f4(1.2e-6) * max(abs(p[0]), max(abs(p[1]), abs(p[2])))


@jit
def pushed(W, p, d):
    """Return p moved off its surface to the side of d."""
    g = load(W, Scratch.G)
    e = error_of(p)
    if dot(g, d) < ZERO:
        e = -e
    return along(g, e, p)


@jit
def read_surface(S, W, I, o, d):
    """Fill the hit record: position, normals, tangent direction, texture coordinates and what was hit."""
    inst = i4(I[Scratch.RAY + Ray.INSTANCE])
    prim = i4(I[Scratch.RAY + Ray.PRIMITIVE])
    mesh = T.inst_i(S)[inst, Instance.MESH]
    I[Scratch.INST] = u4(inst)
    I[Scratch.MESH] = u4(mesh)
    I[Scratch.MATERIAL] = u4(T.inst_i(S)[inst, Instance.MATERIAL])
    I[Scratch.LIGHT] = u4(T.inst_i(S)[inst, Instance.LIGHT])
    I[Scratch.OBJECT] = u4(T.inst_i(S)[inst, Instance.OBJECT])
    g = unit(transform_normal(T.inst_nm(S), inst, load(W, Scratch.RAY + Ray.NORMAL)))
    n = g
    p = along(d, f4(W[Scratch.RAY + Ray.FAR]), o)
    W[Scratch.UV] = ZERO
    W[Scratch.UV + 1] = ZERO
    if mesh >= 0:
        t = T.mesh_i(S)[mesh, Mesh.FIRST_TRIANGLE] + prim
        first = T.mesh_i(S)[mesh, Mesh.FIRST_VERTEX]
        a = i4(first + T.tris(S)[t, 0])
        b = i4(first + T.tris(S)[t, 1])
        c = i4(first + T.tris(S)[t, 2])
        u = f4(W[Scratch.RAY + Ray.U])
        v = f4(W[Scratch.RAY + Ray.V])
        w = ONE - u - v
        V = T.verts(S)
        N = T.norms(S)
        U = T.uvs(S)
        X = T.inst_xf(S)
        pa = row(V, a)
        pb = row(V, b)
        pc = row(V, c)
        p = transform_point(X, inst, added(added(scaled(pa, w), scaled(pb, u)), scaled(pc, v)))
        na = row(N, a)
        nb = row(N, b)
        nc = row(N, c)
        n = unit(transform_normal(T.inst_nm(S), inst, added(added(scaled(na, w), scaled(nb, u)), scaled(nc, v))))
        ua = f4(U[a, 0])
        va = f4(U[a, 1])
        du1 = f4(U[b, 0]) - ua
        dv1 = f4(U[b, 1]) - va
        du2 = f4(U[c, 0]) - ua
        dv2 = f4(U[c, 1]) - va
        W[Scratch.UV] = ua + u * du1 + v * du2
        W[Scratch.UV + 1] = va + u * dv1 + v * dv2
        # Direction of growing u, for normal maps; only its direction matters.
        e1 = subtracted(pb, pa)
        e2 = subtracted(pc, pa)
        k = du1 * dv2 - du2 * dv1
        s = ONE if k >= ZERO else -ONE
        dp = subtracted(scaled(e1, dv2 * s), scaled(e2, dv1 * s))
        store(W, Scratch.DPDU, transform_vector(X, inst, dp))
    I[Scratch.INSIDE] = u4(0)
    if dot(g, d) > ZERO:
        g = negated(g)
        I[Scratch.INSIDE] = u4(1)
    if dot(n, g) < ZERO:
        n = negated(n)
    store(W, Scratch.P, p)
    store(W, Scratch.G, g)
    store(W, Scratch.N, n)
    store(W, Scratch.WO, negated(d))


# ---- film of one sample --------------------------------------------------------------------------------------------


@jit
def add_light(S, W, group, which, c):
    for k in range(3):
        W[Scratch.ACC_GROUPS + group * 3 + k] = f4(W[Scratch.ACC_GROUPS + group * 3 + k]) + c[k]
        W[Scratch.ACC_PASSES + which * 3 + k] = f4(W[Scratch.ACC_PASSES + which * 3 + k]) + c[k]
        W[Scratch.SAMPLE_SUM + k] = f4(W[Scratch.SAMPLE_SUM + k]) + c[k]


@jit
def held(S, c, events):
    """Return indirect light c, held under the clamp if one is set."""
    limit = f4(T.settings_f(S)[Settings.CLAMP])
    m = largest(c)
    if events > 0 and limit > ZERO and m > limit:
        return scaled(c, limit / m)
    return c


@jit
def add_split(S, W, group, events, c):
    """Add light that arrives after `events` events to the path passes, by the shares of the first event's value.

    By the lobe that was sampled it would be wrong: every lobe now and then finds what another one reflects.
    """
    indirect = 0 if events <= 1 else 1
    for k in range(3):
        W[Scratch.ACC_GROUPS + group * 3 + k] = f4(W[Scratch.ACC_GROUPS + group * 3 + k]) + c[k]
        W[Scratch.SAMPLE_SUM + k] = f4(W[Scratch.SAMPLE_SUM + k]) + c[k]
        for lobe in range(3):
            at = Scratch.ACC_PASSES + (2 * lobe + indirect) * 3 + k
            W[at] = f4(W[at]) + c[k] * f4(W[Scratch.SPLIT + 3 * lobe + k])


@jit
def add_found(S, W, group, at_once, events, c):
    """Add light that a ray found: to pass `at_once` straight from the camera, else by the first event's shares."""
    c = held(S, c, events - 1)
    if events == 0:
        add_light(S, W, group, at_once, c)
    else:
        add_split(S, W, group, events, c)


@jit
def only(lobe):
    """Return the shares of an event that was wholly diffuse (0), reflection (1) or transmission (2)."""
    return (
        ONE if lobe == 0 else ZERO,
        ONE if lobe == 1 else ZERO,
        ONE if lobe == 2 else ZERO,
    )


@jit
def note_event(W, I, chosen, is_delta, is_first, within, u):
    """Split the event in hand by kind, and return which kind it counts as against the limits, -1 if none may go on.

    within: which kinds (diffuse, reflection, transmission) the limits still allow, 1 or 0. Writes ONWARD, the part of
    each channel that may go on, and for the first event SPLIT, the shares of its kinds.
    """
    E = Scratch.EVAL
    share = only(chosen)
    chance = (ZERO, ZERO, ZERO)
    for k in range(3):
        a = share[0]
        b = share[1]
        c = share[2]
        if not is_delta:
            d = f4(W[E + Value.DIFFUSE + k])
            r = f4(W[E + Value.REFLECTION + k])
            t = f4(W[E + Value.TRANSMISSION + k])
            whole = d + r + t
            if whole > ZERO:
                a = d / whole
                b = r / whole
                c = t / whole
        W[Scratch.ONWARD + k] = a * within[0] + b * within[1] + c * within[2]
        if is_first:
            W[Scratch.SPLIT + Value.DIFFUSE + k] = a
            W[Scratch.SPLIT + Value.REFLECTION + k] = b
            W[Scratch.SPLIT + Value.TRANSMISSION + k] = c
    for k in range(3):
        W[Scratch.ALLOWED + k] = within[k]
    if is_delta:
        chance = share
    else:
        chance = (
            luminance(load(W, E + Value.DIFFUSE)),
            luminance(load(W, E + Value.REFLECTION)),
            luminance(load(W, E + Value.TRANSMISSION)),
        )
    chance = multiplied(chance, within)
    whole = chance[0] + chance[1] + chance[2]
    if whole <= ZERO:
        return i4(-1)
    u *= whole
    if u < chance[0]:
        return i4(0)
    if u < chance[0] + chance[1] or chance[2] <= ZERO:
        return i4(1)
    return i4(2)


@jit
def go_on(W, is_first):
    """Return the part of the last event that may go on; what it was made of is split anew among what may."""
    onward = load(W, Scratch.ONWARD)
    if is_first:
        for k in range(3):
            q = ONE / max(onward[k], TINY)
            for lobe in range(3):
                at = Scratch.SPLIT + 3 * lobe + k
                W[at] = f4(W[at]) * f4(W[Scratch.ALLOWED + lobe]) * q
    return onward


@jit
def note_clean_guides(W, albedo, n):
    for k in range(3):
        W[Scratch.ACC_GUIDES + Guide.ALBEDO + k] = f4(W[Scratch.ACC_GUIDES + Guide.ALBEDO + k]) + albedo[k]
        W[Scratch.ACC_GUIDES + Guide.CLEAN_NORMAL + k] = f4(W[Scratch.ACC_GUIDES + Guide.CLEAN_NORMAL + k]) + n[k]


@jit
def note_first_hit(W, I):
    """Count the sample as one that hit something, and keep what it hit."""
    G = Scratch.ACC_GUIDES
    W[G + Guide.ALPHA] = f4(W[G + Guide.ALPHA]) + ONE
    I[Scratch.FIRST + Seen.OBJECTS] = I[Scratch.OBJECT]
    I[Scratch.FIRST + Seen.MATERIALS] = I[Scratch.MATERIAL]


@jit
def is_lamp(S, I):
    """Return True if what was hit is a lamp's own shape."""
    inst = i4(I[Scratch.INST])
    return T.inst_i(S)[inst, Instance.MESH] < 0 or T.inst_i(S)[inst, Instance.MATERIAL] < 0


@jit
def note_middle(S, W, I, wp, x, y):
    """Write position, normal and depth of what the pixel's middle shows through the middle of the lens to the guides.

    A nearest or a mean sample would lie beside the surface: on a floor at a grazing angle by several per cent.
    """
    o, d, way = middle_ray(S, x, y)
    G = Scratch.ACC_GUIDES
    for _ in range(MAX_STEPS):
        if not find_hit(S, W, I, wp, o, d, CAMERA_RAYS):
            return
        way += f4(W[Scratch.RAY + Ray.FAR])
        read_surface(S, W, I, o, d)
        p = load(W, Scratch.P)
        if is_lamp(S, I):
            if I[Scratch.INSIDE] != u4(0):
                step = error_of(p)
                way += step
                o = along(d, step, p)
                continue
        else:
            units.read_material(S, wp)
        W[G + Guide.DEPTH] = way
        for k in range(3):
            W[G + Guide.POSITION + k] = W[Scratch.P + k]
            W[G + Guide.NORMAL + k] = W[Scratch.N + k]
        return


@jit
def albedo_of(W):
    """Return the colour a denoiser may take for the surface's own."""
    metal = clamped(f4(W[M + Mat.METALNESS]), ZERO, ONE)
    glass = clamped(f4(W[M + Mat.TRANSMISSION]), ZERO, ONE) * (ONE - metal)
    base = load(W, M + Mat.BASE)
    if f4(W[M + Mat.HAS_NK]) > ZERO:
        base = (
            mixed(base[0], f4(W[Scratch.METAL_F0]), metal),
            mixed(base[1], f4(W[Scratch.METAL_F0 + 1]), metal),
            mixed(base[2], f4(W[Scratch.METAL_F0 + 2]), metal),
        )
    return (
        clamped(base[0] * (ONE - glass) + glass, ZERO, ONE),
        clamped(base[1] * (ONE - glass) + glass, ZERO, ONE),
        clamped(base[2] * (ONE - glass) + glass, ZERO, ONE),
    )


# ---- the path ------------------------------------------------------------------------------------------------------


@jit
def trace_path(S, W, I, wp, o, d, pixel, sample):
    """Follow one path and add what it finds to the sample's sums."""
    beta = (ONE, ONE, ONE)
    spread = ONE  # product of squared index ratios: keeps roulette blind to the squeeze of radiance in glass
    density = -ONE  # of the last direction; negative: camera or mirror, so lights found count in full
    events = i4(0)
    diffuse = i4(0)
    reflections = i4(0)
    transmissions = i4(0)
    guided = False
    # Past a depth limit a ray may still find a light, as light sampling at its start did, but not go on.
    pending = False
    last = False
    since_vertex = ZERO
    mode = T.settings_i(S)[Settings.MODE]
    I[Scratch.FIRST + Seen.OBJECTS] = NONE
    I[Scratch.FIRST + Seen.MATERIALS] = NONE
    for step in range(MAX_STEPS):
        hit = find_hit(S, W, I, wp, o, d, CAMERA_RAYS if events == 0 else INDIRECT_RAYS)
        if not hit:
            for k in range(T.settings_i(S)[Settings.N_INFINITE]):
                l = T.infinite(S)[k]
                if events == 0 and T.light_i(S)[l, Light.SEEN] == 0:
                    continue
                I[Scratch.LIGHT] = u4(l)
                units.infinite_hit(S, wp)
                w = ONE
                if density >= ZERO:
                    if mode == Settings.MODE_LIGHT:
                        w = ZERO
                    elif mode == Settings.MODE_MIS:
                        w = power_heuristic(density, f4(W[Scratch.LAMP + Lamp.DENSITY]))
                c = scaled(multiplied(beta, load(W, Scratch.LAMP + Lamp.RADIANCE)), w)
                add_found(S, W, T.light_i(S)[l, Light.GROUP], Pass.BACKGROUND, events, c)
            break
        t = f4(W[Scratch.RAY + Ray.FAR])
        since_vertex += t
        medium = existing(S, I, i4(-1))
        if medium >= 0:
            beta = (
                beta[0] * math.exp(-f4(T.mat_f(S)[medium, Mat.SIGMA_A]) * t),
                beta[1] * math.exp(-f4(T.mat_f(S)[medium, Mat.SIGMA_A + 1]) * t),
                beta[2] * math.exp(-f4(T.mat_f(S)[medium, Mat.SIGMA_A + 2]) * t),
            )
        read_surface(S, W, I, o, d)
        p = load(W, Scratch.P)
        lamp = i4(I[Scratch.LIGHT])
        if is_lamp(S, I):
            # A lamp's own shape: it shines from its front and is not there from behind.
            if I[Scratch.INSIDE] != u4(0):
                o = along(d, error_of(p), p)
                continue
            w = ONE
            if density >= ZERO:
                if mode == Settings.MODE_LIGHT:
                    w = ZERO
                elif mode == Settings.MODE_MIS:
                    W[Scratch.RANDOM] = since_vertex
                    I[Scratch.RANDOM + 1] = I[Scratch.RAY + Ray.PRIMITIVE]
                    units.lamp_hit(S, wp)
                    w = power_heuristic(density, f4(W[Scratch.RANDOM]))
            rgb = row_at(T.light_f(S), lamp, Light.RGB)
            add_found(S, W, T.light_i(S)[lamp, Light.GROUP], Pass.EMISSION, events, scaled(multiplied(beta, rgb), w))
            if events == 0 and I[Scratch.FIRST + Seen.MATERIALS] == NONE:
                note_first_hit(W, I)
            if not guided:
                note_clean_guides(W, (ONE, ONE, ONE), load(W, Scratch.N))
                guided = True
            if density < ZERO:
                break
            # Lamps cast no shadow on light sampling, so they must not stop what material sampling finds behind them.
            o = along(d, error_of(p), p)
            continue

        units.read_material(S, wp)
        m = i4(I[Scratch.MATERIAL])
        e = load(W, M + Mat.EMISSION)
        if largest(e) > ZERO and I[Scratch.INSIDE] == u4(0):
            w = ONE
            if density >= ZERO and lamp >= 0:
                if mode == Settings.MODE_LIGHT:
                    w = ZERO
                elif mode == Settings.MODE_MIS:
                    W[Scratch.RANDOM] = since_vertex
                    I[Scratch.RANDOM + 1] = I[Scratch.RAY + Ray.PRIMITIVE]
                    units.lamp_hit(S, wp)
                    w = power_heuristic(density, f4(W[Scratch.RANDOM]))
            add_found(S, W, T.mat_i(S)[m, Mat.GROUP], Pass.EMISSION, events, scaled(multiplied(beta, e), w))
        if events == 0 and I[Scratch.FIRST + Seen.MATERIALS] == NONE:
            note_first_hit(W, I)

        is_thin = T.mat_i(S)[m, Mat.IS_THIN] != 0
        if last and not is_thin:
            break
        first_pair = 2 + step * PAIRS_A_BOUNCE
        outside = ONE
        eta = f4(W[M + Mat.IOR])
        is_medium = T.mat_i(S)[m, Mat.IS_MEDIUM] != 0
        if is_medium:
            outside = index_of(S, medium)
            if I[Scratch.INSIDE] == u4(0):
                if medium >= 0 and T.mat_i(S)[m, Mat.PRECEDENCE] <= T.mat_i(S)[medium, Mat.PRECEDENCE]:
                    enter(I, m)
                    o = pushed(W, p, d)
                    continue
                eta = f4(W[M + Mat.IOR]) / outside
            else:
                at = entry_of(I, m)
                beyond = existing(S, I, at)
                if at >= 0 and (medium != m or beyond == m):
                    leave(I, m)
                    o = pushed(W, p, d)
                    continue
                outside = f4(W[M + Mat.IOR])
                eta = index_of(S, beyond) / outside
        else:
            outside = index_of(S, medium)
            eta = f4(W[M + Mat.IOR]) / outside
        W[Scratch.ETA] = eta
        W[Scratch.OUTSIDE] = outside
        W[Scratch.RANDOM] = f4(T.settings_f(S)[Settings.REGULARISE]) if diffuse > 0 else ZERO
        units.derive_material(S, wp)
        if is_thin:
            # Going straight through a sheet is no event: lights behind it are sampled from before it.
            straight = load(W, Scratch.STRAIGHT)
            chance = ZERO if last else f4(W[Scratch.P_EVENT])
            which, _ = pair(pixel, sample, first_pair)
            if which >= chance:
                if largest(straight) <= ZERO:
                    break
                beta = scaled(multiplied(beta, straight), ONE / (ONE - chance))
                o = pushed(W, p, d)
                continue
            beta = scaled(beta, ONE / chance)
        if pending:
            pending = False
            beta = multiplied(beta, go_on(W, events == 1))
        n = load(W, Scratch.N)
        tx, ty = frame(n)
        store(W, Scratch.T, tx)
        store(W, Scratch.B, ty)
        store(W, Scratch.LV, p)
        store(W, Scratch.LV + Vertex.NORMAL, n)
        glass = f4(W[Scratch.GLASS]) > ZERO
        I[Scratch.LV + Vertex.TWO_SIDED] = u4(1) if glass else u4(0)
        since_vertex = ZERO
        metal = clamped(f4(W[M + Mat.METALNESS]), ZERO, ONE)
        clear = (ONE - metal) * clamped(f4(W[M + Mat.TRANSMISSION]), ZERO, ONE) > ZERO
        mirror = I[Scratch.IS_DELTA] != u4(0) and (clear or metal > f4(0.5))
        is_sharp = (
            (I[Scratch.IS_DELTA] != u4(0) or f4(W[Scratch.P_SPEC]) <= ZERO)
            and f4(W[Scratch.P_DIFF]) <= ZERO
            and (f4(W[Scratch.P_COAT]) <= ZERO or I[Scratch.IS_COAT_DELTA] != u4(0))
        )
        if not guided and (not mirror or events > 3):
            note_clean_guides(W, albedo_of(W), n)
            guided = True

        # Light sampling; a surface all of whose lobes are perfectly sharp has nothing to evaluate.
        if mode != Settings.MODE_MATERIAL and not is_sharp:
            a, b = pair(pixel, sample, first_pair + 1)
            u, v = pair(pixel, sample, first_pair + 2)
            W[Scratch.RANDOM] = a
            W[Scratch.RANDOM + 1] = u
            W[Scratch.RANDOM + 2] = v
            units.sample_lamp(S, wp)
            lamp_density = f4(W[Scratch.LAMP + Lamp.DENSITY])
            if lamp_density > ZERO:
                units.evaluate_material(S, wp)
                E = Scratch.EVAL
                whole = whole_value(W)
                if f4(W[E + Value.DENSITY]) > ZERO and largest(whole) > ZERO:
                    wi = load(W, Scratch.LAMP + Lamp.DIRECTION)
                    distance = f4(W[Scratch.LAMP + Lamp.DISTANCE])
                    w = ONE / lamp_density
                    if I[Scratch.LAMP + Lamp.IS_DELTA] == u4(0) and mode == Settings.MODE_MIS:
                        w *= power_heuristic(lamp_density, f4(W[E + Value.DENSITY]))
                    start = pushed(W, p, wi)
                    far = distance - f4(2) * error_of(p) - distance * f4(1e-5)
                    inner = medium
                    if is_medium and dot(wi, load(W, Scratch.G)) < ZERO:
                        inner = m if I[Scratch.INSIDE] == u4(0) else existing(S, I, entry_of(I, m))
                    left = transmittance(S, W, I, wp, start, wi, far, index_of(S, inner))
                    if largest(left) > ZERO:
                        if inner >= 0 and distance < f4(1e20):
                            left = (
                                left[0] * math.exp(-f4(T.mat_f(S)[inner, Mat.SIGMA_A]) * distance),
                                left[1] * math.exp(-f4(T.mat_f(S)[inner, Mat.SIGMA_A + 1]) * distance),
                                left[2] * math.exp(-f4(T.mat_f(S)[inner, Mat.SIGMA_A + 2]) * distance),
                            )
                        group = T.light_i(S)[i4(I[Scratch.LAMP + Lamp.LIGHT]), Light.GROUP]
                        arrives = scaled(multiplied(multiplied(beta, left), load(W, Scratch.LAMP + Lamp.RADIANCE)), w)
                        if events == 0:
                            add_light(S, W, group, Pass.DIRECT_DIFFUSE, multiplied(arrives, load(W, E + Value.DIFFUSE)))
                            add_light(
                                S, W, group, Pass.DIRECT_REFLECTION, multiplied(arrives, load(W, E + Value.REFLECTION))
                            )
                            add_light(
                                S,
                                W,
                                group,
                                Pass.DIRECT_TRANSMISSION,
                                multiplied(arrives, load(W, E + Value.TRANSMISSION)),
                            )
                        else:
                            add_split(S, W, group, events + 1, held(S, multiplied(arrives, whole), events))

        # Material sampling.
        u, v = pair(pixel, sample, first_pair + 3)
        a, b = pair(pixel, sample, first_pair + 4)
        W[Scratch.RANDOM] = a
        W[Scratch.RANDOM + 1] = u
        W[Scratch.RANDOM + 2] = v
        W[Scratch.RANDOM + 3] = b
        units.sample_material(S, wp)
        density = f4(W[Scratch.SAMPLE + Onward.DENSITY])
        if density <= ZERO:
            break
        chosen = i4(I[Scratch.SAMPLE + Onward.KIND])
        is_delta = I[Scratch.SAMPLE + Onward.IS_DELTA] != u4(0)
        limits = T.settings_i(S)
        more = events < limits[Settings.TOTAL]
        within = (
            ONE if more and diffuse < limits[Settings.DIFFUSE] else ZERO,
            ONE if more and reflections < limits[Settings.REFLECTION] else ZERO,
            ONE if more and transmissions < limits[Settings.TRANSMISSION] else ZERO,
        )
        # Only the limits' count hangs on this number, so it need not be a well spread one.
        which = f4(u4(combined(pixel, u4(sample * u4(MAX_STEPS) + u4(step))) >> u4(8))) * INV_2_24
        counted = note_event(W, I, chosen, is_delta, events == 0, within, which)
        events += 1
        pending = True
        if counted < 0:
            last = True
        elif counted == 0:
            diffuse += 1
        elif counted == 1:
            reflections += 1
        else:
            transmissions += 1
        if is_delta:
            density = -ONE
        beta = multiplied(beta, load(W, Scratch.SAMPLE + Onward.WEIGHT))
        d = load(W, Scratch.SAMPLE + Onward.DIRECTION)
        if chosen == 2 and not is_thin:
            eta = f4(W[Scratch.ETA])
            spread *= eta * eta
            if is_medium:
                if I[Scratch.INSIDE] == u4(0):
                    enter(I, m)
                else:
                    leave(I, m)
        o = pushed(W, p, d)
        if events > 2:
            q = min(largest(beta) * spread, f4(0.97))
            _, survival = pair(pixel, sample, first_pair)
            if q <= f4(1e-6) or survival >= q:
                break
            beta = scaled(beta, ONE / q)


# ---- tiles ---------------------------------------------------------------------------------------------------------


@jit
def cover(F, y, x, which, name):
    """Count one sample for an id; of more ids than fit in a pixel the rarest gives way."""
    ids = FT.ids(F)
    n = FT.coverage(F)
    free = i4(-1)
    least = i4(0)
    for k in range(Seen.MOST_IDS):
        c = f4(n[y, x, which, k])
        if c > ZERO and ids[y, x, which, k] == name:
            n[y, x, which, k] = c + ONE
            return
        if c <= ZERO and free < 0:
            free = i4(k)
        if c < f4(n[y, x, which, least]):
            least = i4(k)
    if free < 0:
        if f4(n[y, x, which, least]) > ONE:
            return
        free = least
    ids[y, x, which, free] = name
    n[y, x, which, free] = ONE


@jit
def open_pixel(S, F, W, y, x, groups):
    for g in range(groups):
        for k in range(3):
            W[Scratch.ACC_GROUPS + g * 3 + k] = FT.groups(F)[g, y, x, k]
    for q in range(Pass.COUNT):
        for k in range(3):
            W[Scratch.ACC_PASSES + q * 3 + k] = FT.passes(F)[q, y, x, k]
    for k in range(Guide.COUNT):
        W[Scratch.ACC_GUIDES + k] = FT.guides(F)[y, x, k]


@jit
def close_pixel(S, F, W, y, x, groups):
    for g in range(groups):
        for k in range(3):
            FT.groups(F)[g, y, x, k] = W[Scratch.ACC_GROUPS + g * 3 + k]
    for q in range(Pass.COUNT):
        for k in range(3):
            FT.passes(F)[q, y, x, k] = W[Scratch.ACC_PASSES + q * 3 + k]
    for k in range(Guide.COUNT):
        FT.guides(F)[y, x, k] = W[Scratch.ACC_GUIDES + k]


@jit
def finite(x):
    return x == x and abs(x) < f4(1e18)


@jit
def one_sample(S, F, W, I, wp, y, x, seed, groups):
    """Take the pixel's next sample. A sample that is not finite is dropped and counted as black."""
    index = FT.samples(F)[y, x]
    pixel = combined(u4(u4(y) * u4(65536) + u4(x)), u4(seed))
    for k in range(3):
        W[Scratch.SAMPLE_SUM + k] = ZERO
    for k in range(Media.COUNT):
        I[Scratch.MEDIA + k] = u4(T.start_medium(S)[k])
    u1, u2 = pair(pixel, u4(index), 0)
    u3, v3 = pair(pixel, u4(index), 1)
    o, d = camera_ray(S, x, y, u1, u2, u3, v3)
    trace_path(S, W, I, wp, o, d, pixel, u4(index))
    lum = luminance(load(W, Scratch.SAMPLE_SUM))
    ok = finite(lum)
    if ok:
        FT.variance(F)[y, x, Squares.SUM] += lum
        FT.variance(F)[y, x, Squares.SUM_OF_SQUARES] += lum * lum
        if I[Scratch.FIRST + Seen.OBJECTS] != NONE:
            cover(F, y, x, Seen.OBJECTS, I[Scratch.FIRST + Seen.OBJECTS])
        if I[Scratch.FIRST + Seen.MATERIALS] != NONE:
            cover(F, y, x, Seen.MATERIALS, I[Scratch.FIRST + Seen.MATERIALS])
    return ok


@jit
def render_tile(S, F, W, I, wp, flags, x0, y0, x1, y1, target, step, seed):
    """Bring every `step`th pixel of a tile up to `target` samples; return how many were taken.

    The film remembers each pixel's count, so a tile that was stopped half-way goes on where it was.
    """
    groups = FT.groups(F).shape[0]
    taken = 0
    for y in range(y0, y1):
        if y % step != 0:
            continue
        for x in range(x0, x1):
            if x % step != 0 or FT.samples(F)[y, x] >= target:
                continue
            if flags[0] != 0 or flags[1] != 0:
                return taken
            open_pixel(S, F, W, y, x, groups)
            if FT.samples(F)[y, x] == 0:
                note_middle(S, W, I, wp, x, y)
                for k in range(Guide.COUNT):  # a first sample that is dropped must not take them along
                    FT.guides(F)[y, x, k] = W[Scratch.ACC_GUIDES + k]
            while FT.samples(F)[y, x] < target:
                taken += 1
                # Sums first, then the count: whoever reads the film meanwhile never divides by a sample too many.
                if one_sample(S, F, W, I, wp, y, x, seed, groups):
                    close_pixel(S, F, W, y, x, groups)
                else:
                    open_pixel(S, F, W, y, x, groups)
                FT.samples(F)[y, x] += 1
    return taken


@njit("int64(intp, intp, intp, intp, intp, intp, int64, int64, int64, int64, int64)", **entry_options)
def render_tiles(S, F, wp, stop, tiles, cursor, n, most, target, step, seed):
    """Take tiles off a list that several threads share until it is empty; return how many samples were taken.

    `tiles` is the address of (n, 4) int32 x0, y0, x1, y1; `cursor` of the int64 that counts those that were taken;
    `stop` of two int32 flags that are polled between pixels. Returns early, after a tile, from `most` samples on.
    """
    W = row_f4(wp, Scratch.COUNT)
    I = row_u4(wp, Scratch.COUNT)
    flags = row_i4(stop, 2)
    edges = row_i4(tiles, 4 * n)
    taken = 0
    while taken < most and flags[0] == 0 and flags[1] == 0:
        k = 4 * counted_up(cursor)
        if k >= 4 * n:
            break
        x0, y0, x1, y1 = edges[k], edges[k + 1], edges[k + 2], edges[k + 3]
        taken += render_tile(S, F, W, I, wp, flags, x0, y0, x1, y1, target, step, seed)
    return taken
