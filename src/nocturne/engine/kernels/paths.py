"""The path: camera to light, one sample after another, and a tile of pixels brought to a number of samples.

Unidirectional path tracing with next-event estimation, both combined by multiple importance sampling (Veach 1997).
Names: S scene table, F film table, wp address of the work row W (I: the same row unsigned), o d ray, beta throughput,
lobe the first event's kind (0 diffuse, 1 reflection, 2 transmission, -1 none yet), events real events so far.
"""

import math

from numba import njit

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels import units
from nocturne.engine.kernels.camera import camera_ray
from nocturne.engine.kernels.jit import counted_up, entry_options, f4, film, i4, jit, row_f4, row_i4, row_u4, u4
from nocturne.engine.kernels.media import enter, entry_of, existing, index_of, leave
from nocturne.engine.kernels.microfacet import fresnel_dielectric
from nocturne.engine.kernels.random import combined, pair
from nocturne.engine.kernels.vectors import (
    BIG,
    ONE,
    TWO,
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
    scaled,
    store,
    subtracted,
    transform_normal,
    transform_point,
    transform_vector,
    unit,
)
from nocturne.engine.layout import guide as Guide
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import passes as Pass
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import settings as Settings

NONE = u4(0xFFFFFFFF)
CAMERA_RAYS, INDIRECT_RAYS, SHADOW_RAYS, CLEAR_SHADOW_RAYS = u4(1), u4(2), u4(4), u4(8)
M = Scratch.MAT
PAIRS_A_BOUNCE = 5
MAX_STEPS = 96  # boundaries passed without an event count too, so the longest way through is bounded

film_groups = film["groups"]
film_passes = film["passes"]
film_guides = film["guides"]
film_variance = film["variance"]
film_ids = film["ids"]
film_coverage = film["coverage"]
film_samples = film["samples"]


# ---- rays ----------------------------------------------------------------------------------------------------------


@jit
def set_ray(W, I, at, o, d, far, mask):
    store(W, at, o)
    W[at + 3] = ZERO
    store(W, at + 4, d)
    W[at + 7] = ZERO
    W[at + 8] = far
    I[at + 9] = mask
    I[at + 10] = u4(0)
    I[at + 11] = u4(0)
    I[at + 18] = NONE
    I[at + 19] = NONE


@jit
def find_hit(S, W, I, wp, o, d, mask):
    set_ray(W, I, Scratch.RAY, o, d, BIG, mask)
    units.intersect(T.top(S)[0], wp, 0)
    I[Scratch.COUNTERS] = u4(I[Scratch.COUNTERS] + u4(1))
    return I[Scratch.RAY + 18] != NONE


@jit
def transmittance(S, W, I, wp, o, d, far):
    """Return how much of the light along a shadow ray arrives: 0 behind anything, a colour through thin glass."""
    set_ray(W, I, Scratch.SHADOW, o, d, far, SHADOW_RAYS)
    units.occluded(T.top(S)[0], wp + Scratch.SHADOW * 4, 0)
    I[Scratch.COUNTERS + 1] = u4(I[Scratch.COUNTERS + 1] + u4(1))
    if f4(W[Scratch.SHADOW + 8]) < ZERO:
        return (ZERO, ZERO, ZERO)
    left = (ONE, ONE, ONE)
    if T.settings_i(S)[Settings.HAS_CLEAR] == 0:
        return left
    at = Scratch.SHADOW
    p = o
    for _ in range(16):
        set_ray(W, I, at, p, d, far, CLEAR_SHADOW_RAYS)
        units.intersect(T.top(S)[0], wp + at * 4, 0)
        if I[at + 18] == NONE:
            return left
        inst = i4(I[at + 19])
        m = T.inst_i(S)[inst, 1]
        n = unit(transform_normal(T.inst_nm(S), inst, load(W, at + 12)))
        r = thin_reflectance(abs(dot(n, d)), f4(T.mat_f(S)[m, Mat.IOR]))
        t = f4(W[at + 8])
        for_colour = (
            f4(T.mat_f(S)[m, Mat.TRANS_COLOR]),
            f4(T.mat_f(S)[m, Mat.TRANS_COLOR + 1]),
            f4(T.mat_f(S)[m, Mat.TRANS_COLOR + 2]),
        )
        left = scaled(multiplied(left, for_colour), ONE - r)
        step = t + error_of(along(d, t, p))
        p = along(d, step, p)
        far -= step
        if far <= ZERO or largest(left) < f4(1e-4):
            return left
    return (ZERO, ZERO, ZERO)


@jit
def thin_reflectance(c, ior):
    """Return the reflectance of a thin sheet, all reflections between its two faces counted."""
    r = fresnel_dielectric(clamped(c, ZERO, ONE), ior)
    return TWO * r / (ONE + r)


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
    inst = i4(I[Scratch.RAY + 19])
    prim = i4(I[Scratch.RAY + 17])
    mesh = T.inst_i(S)[inst, 0]
    I[Scratch.INST] = u4(inst)
    I[Scratch.MESH] = u4(mesh)
    I[Scratch.MATERIAL] = u4(T.inst_i(S)[inst, 1])
    I[Scratch.LIGHT] = u4(T.inst_i(S)[inst, 2])
    I[Scratch.OBJECT] = u4(T.inst_i(S)[inst, 3])
    g = unit(transform_normal(T.inst_nm(S), inst, load(W, Scratch.RAY + 12)))
    n = g
    p = along(d, f4(W[Scratch.RAY + 8]), o)
    W[Scratch.UV] = ZERO
    W[Scratch.UV + 1] = ZERO
    if mesh >= 0:
        t = T.mesh_i(S)[mesh, 0] + prim
        first = T.mesh_i(S)[mesh, 1]
        a = i4(first + T.tris(S)[t, 0])
        b = i4(first + T.tris(S)[t, 1])
        c = i4(first + T.tris(S)[t, 2])
        u = f4(W[Scratch.RAY + 15])
        v = f4(W[Scratch.RAY + 16])
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
def path_pass(lobe, events):
    """Return the path pass of light that arrives after `events` events of which the first was `lobe`."""
    if events <= 1:
        return lobe * 2
    return lobe * 2 + 1


@jit
def note_clean_guides(W, albedo, n):
    for k in range(3):
        W[Scratch.ACC_GUIDES + Guide.ALBEDO + k] = f4(W[Scratch.ACC_GUIDES + Guide.ALBEDO + k]) + albedo[k]
        W[Scratch.ACC_GUIDES + Guide.CLEAN_NORMAL + k] = f4(W[Scratch.ACC_GUIDES + Guide.CLEAN_NORMAL + k]) + n[k]


@jit
def note_first_hit(W, I, t):
    """Keep position, normal and depth of the pixel's nearest sample, and the ids of this one."""
    G = Scratch.ACC_GUIDES
    W[G + Guide.ALPHA] = f4(W[G + Guide.ALPHA]) + ONE
    if f4(W[G + Guide.DEPTH]) <= ZERO or t < f4(W[G + Guide.DEPTH]):
        W[G + Guide.DEPTH] = t
        for k in range(3):
            W[G + Guide.POSITION + k] = W[Scratch.P + k]
            W[G + Guide.NORMAL + k] = W[Scratch.N + k]
    I[Scratch.FIRST] = I[Scratch.OBJECT]
    I[Scratch.FIRST + 1] = I[Scratch.MATERIAL]


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
def trace_path(S, W, I, wp, o, d, pixel, sample, camera_t):
    """Follow one path and add what it finds to the sample's sums."""
    beta = (ONE, ONE, ONE)
    spread = ONE  # product of squared index ratios: keeps roulette blind to the squeeze of radiance in glass
    density = -ONE  # of the last direction; negative: camera or mirror, so lights found count in full
    lobe = i4(-1)
    events = i4(0)
    diffuse = i4(0)
    reflections = i4(0)
    transmissions = i4(0)
    guided = False
    last = False  # past a depth limit: the ray may still find a light, as light sampling at its start did
    since_vertex = ZERO
    mode = T.settings_i(S)[Settings.MODE]
    I[Scratch.FIRST] = NONE
    I[Scratch.FIRST + 1] = NONE
    for step in range(MAX_STEPS):
        hit = find_hit(S, W, I, wp, o, d, CAMERA_RAYS if events == 0 and lobe < 0 else INDIRECT_RAYS)
        if not hit:
            for k in range(T.settings_i(S)[Settings.N_INFINITE]):
                l = T.infinite(S)[k]
                if events == 0 and T.light_i(S)[l, 4] == 0:
                    continue
                I[Scratch.LIGHT] = u4(l)
                units.infinite_hit(S, wp)
                w = ONE
                if density >= ZERO:
                    if mode == Settings.MODE_LIGHT:
                        w = ZERO
                    elif mode == Settings.MODE_MIS:
                        w = power_heuristic(density, f4(W[Scratch.LAMP + 7]))
                c = scaled(multiplied(beta, load(W, Scratch.LAMP + 4)), w)
                which = i4(Pass.BACKGROUND) if events == 0 else path_pass(lobe, events)
                add_light(S, W, T.light_i(S)[l, 1], which, held(S, c, events - 1))
            break
        t = f4(W[Scratch.RAY + 8])
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
        inst = i4(I[Scratch.INST])
        if T.inst_i(S)[inst, 0] < 0 or T.inst_i(S)[inst, 1] < 0:
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
                    I[Scratch.RANDOM + 1] = I[Scratch.RAY + 17]
                    units.lamp_hit(S, wp)
                    w = power_heuristic(density, f4(W[Scratch.RANDOM]))
            rgb = (f4(T.light_f(S)[lamp, 0]), f4(T.light_f(S)[lamp, 1]), f4(T.light_f(S)[lamp, 2]))
            c = scaled(multiplied(beta, rgb), w)
            which = i4(Pass.EMISSION) if events == 0 else path_pass(lobe, events)
            add_light(S, W, T.light_i(S)[lamp, 1], which, held(S, c, events - 1))
            if lobe < 0:
                note_first_hit(W, I, camera_t + t)
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
                    I[Scratch.RANDOM + 1] = I[Scratch.RAY + 17]
                    units.lamp_hit(S, wp)
                    w = power_heuristic(density, f4(W[Scratch.RANDOM]))
            c = scaled(multiplied(beta, e), w)
            which = i4(Pass.EMISSION) if events == 0 else path_pass(lobe, events)
            add_light(S, W, T.mat_i(S)[m, 5], which, held(S, c, events - 1))
        if lobe < 0 and I[Scratch.FIRST + 1] == NONE:
            note_first_hit(W, I, camera_t + t)

        if last:
            break
        first_pair = 2 + step * PAIRS_A_BOUNCE
        if T.mat_i(S)[m, 3] != 0:
            # Thin glass: mirror or straight on. Going straight is no event, so lights behind are still sampled.
            r = thin_reflectance(-dot(load(W, Scratch.N), d), f4(W[M + Mat.IOR]))
            u, v = pair(pixel, sample, first_pair)
            chance = clamped(r, f4(0.1), f4(0.5))
            if u < chance:
                if lobe < 0:
                    lobe = i4(1)
                reflections += 1
                events += 1
                if reflections > T.settings_i(S)[Settings.REFLECTION]:
                    break
                n = load(W, Scratch.N)
                beta = scaled(beta, r / chance)
                d = unit(subtracted(d, scaled(n, TWO * dot(d, n))))
                o = pushed(W, p, d)
                density = -ONE
                since_vertex = ZERO
            else:
                beta = scaled(multiplied(beta, load(W, M + Mat.TRANS_COLOR)), (ONE - r) / (ONE - chance))
                if lobe < 0:
                    camera_t += t
                o = pushed(W, p, d)
            continue

        outside = ONE
        eta = f4(W[M + Mat.IOR])
        is_medium = T.mat_i(S)[m, 2] != 0
        if is_medium:
            outside = index_of(S, medium)
            if I[Scratch.INSIDE] == u4(0):
                if medium >= 0 and T.mat_i(S)[m, 4] <= T.mat_i(S)[medium, 4]:
                    enter(I, m)
                    o = pushed(W, p, d)
                    if lobe < 0:
                        camera_t += t
                    continue
                eta = f4(W[M + Mat.IOR]) / outside
            else:
                at = entry_of(I, m)
                beyond = existing(S, I, at)
                if at >= 0 and (medium != m or beyond == m):
                    leave(I, m)
                    o = pushed(W, p, d)
                    if lobe < 0:
                        camera_t += t
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
        n = load(W, Scratch.N)
        tx, ty = frame(n)
        store(W, Scratch.T, tx)
        store(W, Scratch.B, ty)
        store(W, Scratch.LV, p)
        store(W, Scratch.LV + 3, n)
        glass = f4(W[Scratch.GLASS]) > ZERO
        I[Scratch.LV + 6] = u4(1) if glass else u4(0)
        since_vertex = ZERO
        mirror = I[Scratch.IS_DELTA] != u4(0) and (glass or f4(W[M + Mat.METALNESS]) > f4(0.5))
        if not guided and (not mirror or events > 3):
            note_clean_guides(W, albedo_of(W), n)
            guided = True

        # Light sampling; a perfectly sharp surface without any other lobe has nothing to evaluate.
        if mode != Settings.MODE_MATERIAL and not (mirror and f4(W[Scratch.P_DIFF]) <= ZERO):
            a, b = pair(pixel, sample, first_pair + 1)
            u, v = pair(pixel, sample, first_pair + 2)
            W[Scratch.RANDOM] = a
            W[Scratch.RANDOM + 1] = u
            W[Scratch.RANDOM + 2] = v
            units.sample_lamp(S, wp)
            lamp_density = f4(W[Scratch.LAMP + 7])
            if lamp_density > ZERO:
                units.evaluate_material(S, wp)
                value = Scratch.EVAL
                whole = (
                    f4(W[value]) + f4(W[value + 3]) + f4(W[value + 6]),
                    f4(W[value + 1]) + f4(W[value + 4]) + f4(W[value + 7]),
                    f4(W[value + 2]) + f4(W[value + 5]) + f4(W[value + 8]),
                )
                if f4(W[value + 9]) > ZERO and largest(whole) > ZERO:
                    wi = load(W, Scratch.LAMP)
                    distance = f4(W[Scratch.LAMP + 3])
                    w = ONE / lamp_density
                    if I[Scratch.LAMP + 8] == u4(0) and mode == Settings.MODE_MIS:
                        w *= power_heuristic(lamp_density, f4(W[value + 9]))
                    start = pushed(W, p, wi)
                    far = distance - f4(2) * error_of(p) - distance * f4(1e-5)
                    left = transmittance(S, W, I, wp, start, wi, far)
                    if largest(left) > ZERO:
                        inner = medium
                        if is_medium and dot(wi, load(W, Scratch.G)) < ZERO:
                            inner = m if I[Scratch.INSIDE] == u4(0) else existing(S, I, entry_of(I, m))
                        if inner >= 0 and distance < f4(1e20):
                            left = (
                                left[0] * math.exp(-f4(T.mat_f(S)[inner, Mat.SIGMA_A]) * distance),
                                left[1] * math.exp(-f4(T.mat_f(S)[inner, Mat.SIGMA_A + 1]) * distance),
                                left[2] * math.exp(-f4(T.mat_f(S)[inner, Mat.SIGMA_A + 2]) * distance),
                            )
                        group = T.light_i(S)[i4(I[Scratch.LAMP + 9]), 1]
                        arrives = scaled(multiplied(multiplied(beta, left), load(W, Scratch.LAMP + 4)), w)
                        if events == 0:
                            add_light(S, W, group, Pass.DIRECT_DIFFUSE, multiplied(arrives, load(W, value)))
                            add_light(S, W, group, Pass.DIRECT_REFLECTION, multiplied(arrives, load(W, value + 3)))
                            add_light(S, W, group, Pass.DIRECT_TRANSMISSION, multiplied(arrives, load(W, value + 6)))
                        else:
                            c = held(S, multiplied(arrives, whole), events)
                            add_light(S, W, group, path_pass(lobe, events + 1), c)

        # Material sampling.
        u, v = pair(pixel, sample, first_pair + 3)
        a, b = pair(pixel, sample, first_pair + 4)
        W[Scratch.RANDOM] = a
        W[Scratch.RANDOM + 1] = u
        W[Scratch.RANDOM + 2] = v
        W[Scratch.RANDOM + 3] = b
        units.sample_material(S, wp)
        density = f4(W[Scratch.SAMPLE + 6])
        if density <= ZERO:
            break
        chosen = i4(I[Scratch.SAMPLE + 7])
        if lobe < 0:
            lobe = chosen
        events += 1
        if chosen == 0:
            diffuse += 1
        elif chosen == 1:
            reflections += 1
        else:
            transmissions += 1
        limits = T.settings_i(S)
        if (
            events > limits[Settings.TOTAL]
            or diffuse > limits[Settings.DIFFUSE]
            or reflections > limits[Settings.REFLECTION]
            or transmissions > limits[Settings.TRANSMISSION]
        ):
            last = True
        if I[Scratch.SAMPLE + 8] != u4(0):
            density = -ONE
        beta = multiplied(beta, load(W, Scratch.SAMPLE + 3))
        d = load(W, Scratch.SAMPLE)
        if chosen == 2:
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
            u, v = pair(pixel, sample, first_pair)
            if q <= f4(1e-6) or v >= q:
                break
            beta = scaled(beta, ONE / q)


# ---- tiles ---------------------------------------------------------------------------------------------------------


@jit
def cover(F, y, x, which, name):
    """Count one sample for an id; of more than six ids in a pixel the rarest gives way."""
    ids = film_ids(F)
    n = film_coverage(F)
    free = i4(-1)
    least = i4(0)
    for k in range(6):
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
            W[Scratch.ACC_GROUPS + g * 3 + k] = film_groups(F)[g, y, x, k]
    for q in range(Pass.COUNT):
        for k in range(3):
            W[Scratch.ACC_PASSES + q * 3 + k] = film_passes(F)[q, y, x, k]
    for k in range(Guide.COUNT):
        W[Scratch.ACC_GUIDES + k] = film_guides(F)[y, x, k]


@jit
def close_pixel(S, F, W, y, x, groups):
    for g in range(groups):
        for k in range(3):
            film_groups(F)[g, y, x, k] = W[Scratch.ACC_GROUPS + g * 3 + k]
    for q in range(Pass.COUNT):
        for k in range(3):
            film_passes(F)[q, y, x, k] = W[Scratch.ACC_PASSES + q * 3 + k]
    for k in range(Guide.COUNT):
        film_guides(F)[y, x, k] = W[Scratch.ACC_GUIDES + k]


@jit
def finite(x):
    return x == x and abs(x) < f4(1e18)


@jit
def one_sample(S, F, W, I, wp, y, x, seed, groups):
    """Take the pixel's next sample. A sample that is not finite is dropped and counted as black."""
    index = film_samples(F)[y, x]
    pixel = combined(u4(u4(y) * u4(65536) + u4(x)), u4(seed))
    for k in range(3):
        W[Scratch.SAMPLE_SUM + k] = ZERO
    for k in range(8):
        I[Scratch.MEDIA + k] = u4(T.start_medium(S)[k])
    u1, u2 = pair(pixel, u4(index), 0)
    u3, v3 = pair(pixel, u4(index), 1)
    o, d, way = camera_ray(S, x, y, u1, u2, u3, v3)
    trace_path(S, W, I, wp, o, d, pixel, u4(index), way)
    lum = luminance(load(W, Scratch.SAMPLE_SUM))
    ok = finite(lum)
    if ok:
        film_variance(F)[y, x, 0] += lum
        film_variance(F)[y, x, 1] += lum * lum
        if I[Scratch.FIRST] != NONE:
            cover(F, y, x, 0, I[Scratch.FIRST])
        if I[Scratch.FIRST + 1] != NONE:
            cover(F, y, x, 1, I[Scratch.FIRST + 1])
    return ok


@jit
def render_tile(S, F, W, I, wp, flags, x0, y0, x1, y1, target, step, seed):
    """Bring every `step`th pixel of a tile up to `target` samples; return how many were taken.

    The film remembers each pixel's count, so a tile that was stopped half-way goes on where it was.
    """
    groups = film_groups(F).shape[0]
    taken = 0
    for y in range(y0, y1):
        if y % step != 0:
            continue
        for x in range(x0, x1):
            if x % step != 0 or film_samples(F)[y, x] >= target:
                continue
            if flags[0] != 0:
                return taken
            open_pixel(S, F, W, y, x, groups)
            while film_samples(F)[y, x] < target:
                taken += 1
                # Sums first, then the count: whoever reads the film meanwhile never divides by a sample too many.
                if one_sample(S, F, W, I, wp, y, x, seed, groups):
                    close_pixel(S, F, W, y, x, groups)
                else:
                    open_pixel(S, F, W, y, x, groups)
                film_samples(F)[y, x] += 1
    return taken


@njit("int64(intp, intp, intp, intp, intp, intp, int64, int64, int64, int64, int64)", **entry_options)
def render_tiles(S, F, wp, stop, tiles, cursor, n, most, target, step, seed):
    """Take tiles off a list that several threads share until it is empty; return how many samples were taken.

    `tiles` is the address of (n, 4) int32 x0, y0, x1, y1; `cursor` of the int64 that counts those that were taken;
    `stop` of an int32 flag that is polled between pixels. Returns early, after a tile, from `most` samples on.
    """
    W = row_f4(wp, Scratch.COUNT)
    I = row_u4(wp, Scratch.COUNT)
    flags = row_i4(stop, 1)
    edges = row_i4(tiles, 4 * n)
    taken = 0
    while taken < most and flags[0] == 0:
        k = 4 * counted_up(cursor)
        if k >= 4 * n:
            break
        x0, y0, x1, y1 = edges[k], edges[k + 1], edges[k + 2], edges[k + 3]
        taken += render_tile(S, F, W, I, wp, flags, x0, y0, x1, y1, target, step, seed)
    return taken
