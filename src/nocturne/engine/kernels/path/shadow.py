"""Light sampling: a light chosen from a vertex, and what of it arrives. Names as in loop.py."""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels import units
from nocturne.engine.kernels.jit import f4, i4, inlined, jit, u4
from nocturne.engine.kernels.lights.learned import learn
from nocturne.engine.kernels.media.stack import absorbed, entry_of, existing, index_of
from nocturne.engine.kernels.path.bright import mixed_density
from nocturne.engine.kernels.path.hit import CLEAR_SHADOW_RAYS, NONE, SHADOW_RAYS, error_of, pushed, set_ray
from nocturne.engine.kernels.path.passes import add_light, add_split, held
from nocturne.engine.kernels.path.state import random_pair
from nocturne.engine.kernels.values import whole_value
from nocturne.engine.kernels.vectors import (
    ONE,
    ZERO,
    along,
    dot,
    largest,
    length,
    load,
    luminance,
    multiplied,
    power_heuristic,
    scaled,
    subtracted,
)
from nocturne.engine.layout import instance as Instance
from nocturne.engine.layout import lamp as Lamp
from nocturne.engine.layout import light as Light
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import passes as Pass
from nocturne.engine.layout import path as Path
from nocturne.engine.layout import ray as Ray
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import settings as Settings
from nocturne.engine.layout import value as Value
from nocturne.engine.layout import vertex as Vertex

E = Scratch.EVAL
P = Scratch.PATH
MOST_SHEETS = 96
ENDLESS = f4(1e20)


@jit
def transmittance(S, W, I, wp, o, d, far, inner):
    """Return how much of the light along a shadow ray that begins in a medium (-1: air) arrives.

    0 behind anything, a colour through thin sheets and through closed glass that lets light pass, as each is where the
    ray meets it; in between what the media absorb. THROUGH tells whether it went through closed glass.
    """
    I[Scratch.THROUGH] = u4(0)
    set_ray(W, I, Scratch.SHADOW, o, d, far, SHADOW_RAYS)
    units.occluded(T.top(S)[0], wp + Scratch.SHADOW * 4, 0)
    I[Scratch.COUNTERS + 1] = u4(I[Scratch.COUNTERS + 1] + u4(1))
    if f4(W[Scratch.SHADOW + Ray.FAR]) < ZERO:
        return (ZERO, ZERO, ZERO)
    if T.settings_i(S)[Settings.HAS_CLEAR] == 0:
        return absorbed_along(S, inner, far, (ONE, ONE, ONE))
    left = (ONE, ONE, ONE)
    at = Scratch.SHADOW
    p = o
    medium = i4(inner)
    for _ in range(MOST_SHEETS):
        set_ray(W, I, at, p, d, far, CLEAR_SHADOW_RAYS)
        units.intersect(T.top(S)[1], wp + at * 4, 0)
        if I[at + Ray.GEOMETRY] == NONE:
            return absorbed_along(S, medium, far, left)
        m = T.inst_i(S)[i4(I[at + Ray.INSTANCE]), Instance.MATERIAL]
        # A face of what the ray is in has air beyond it, as far as anybody knows here.
        W[Scratch.OUTSIDE] = ONE if medium == m else index_of(S, medium)
        units.read_sheet(S, wp)
        m = i4(I[Scratch.SHEET])
        t = f4(W[at + Ray.FAR])
        left = absorbed_along(S, medium, t, multiplied(left, load(W, Scratch.STRAIGHT)))
        if largest(left) < f4(1e-4):
            return (ZERO, ZERO, ZERO)
        if T.mat_i(S)[m, Mat.IS_THIN] == 0 and I[Scratch.LEAVES] != u4(2):
            I[Scratch.THROUGH] = u4(1)
            medium = i4(-1) if I[Scratch.LEAVES] != u4(0) else i4(m)
        step = t + error_of(along(d, t, p))
        p = along(d, step, p)
        far -= step
        if far <= ZERO:
            return left
    return (ZERO, ZERO, ZERO)


@jit
def absorbed_along(S, medium, way, left):
    """Return what is left after a way through a medium (-1: air); of an endless way all, as nothing would arrive."""
    if medium >= 0 and way < ENDLESS:
        return absorbed(S, medium, way, left)
    return left


@inlined
def gather(S, W, I, wp, m, is_medium):
    """Sample a light from the vertex in hand, on material m, and add what arrives of it."""
    mode = T.settings_i(S)[Settings.MODE]
    a, _ = random_pair(W, I, 1)
    u, v = random_pair(W, I, 2)
    W[Scratch.RANDOM] = a
    W[Scratch.RANDOM + 1] = u
    W[Scratch.RANDOM + 2] = v
    units.sample_lamp(S, wp)
    row = I[Scratch.LV + Vertex.LEARNED]
    learn(S, row, i4(-1), ZERO, ONE)
    lamp_density = f4(W[Scratch.LAMP + Lamp.DENSITY])
    if lamp_density <= ZERO:
        return
    units.evaluate_material(S, wp)
    whole = whole_value(W)
    if f4(W[E + Value.DENSITY]) <= ZERO or largest(whole) <= ZERO:
        return
    wi = load(W, Scratch.LAMP + Lamp.DIRECTION)
    distance = f4(W[Scratch.LAMP + Lamp.DISTANCE])
    p = load(W, Scratch.P)
    start = pushed(W, p, wi)
    # From where the ray starts to the very point of the light: along a parallel, light at a grazing angle to a curved
    # glowing mesh would be met before its end, and be lost.
    aim = along(subtracted(start, p), -ONE / distance, wi)
    way = length(aim)
    far = distance * way - f4(2) * error_of(p) - distance * f4(1e-5)
    inner = i4(I[P + Path.MEDIUM])
    if is_medium and dot(wi, load(W, Scratch.G)) < ZERO:
        inner = m if I[Scratch.INSIDE] == u4(0) else existing(S, I, entry_of(I, m))
    left = transmittance(S, W, I, wp, start, scaled(aim, ONE / way), far, inner)
    if largest(left) <= ZERO:
        return
    w = ONE / lamp_density
    # What comes through closed glass no path finds: that would count it twice.
    is_shared = I[Scratch.LAMP + Lamp.IS_DELTA] == u4(0) and I[Scratch.THROUGH] == u4(0)
    if is_shared and mode == Settings.MODE_MIS:
        w *= power_heuristic(lamp_density, mixed_density(S, W, I, p, wi, f4(W[E + Value.DENSITY])))
    events = i4(I[P + Path.EVENTS])
    lamp = i4(I[Scratch.LAMP + Lamp.LIGHT])
    group = T.light_i(S)[lamp, Light.GROUP]
    beta = load(W, P + Path.BETA)
    brought = scaled(multiplied(left, load(W, Scratch.LAMP + Lamp.RADIANCE)), w)
    chance = f4(W[Scratch.LAMP + Lamp.CHANCE])
    learn(S, row, i4(I[Scratch.LAMP + Lamp.SLOT]), luminance(multiplied(brought, whole)) * chance, chance)
    arrives = multiplied(beta, brought)
    if events == 0:
        add_light(S, W, group, Pass.DIRECT_DIFFUSE, multiplied(arrives, load(W, E + Value.DIFFUSE)))
        add_light(S, W, group, Pass.DIRECT_REFLECTION, multiplied(arrives, load(W, E + Value.REFLECTION)))
        add_light(S, W, group, Pass.DIRECT_TRANSMISSION, multiplied(arrives, load(W, E + Value.TRANSMISSION)))
    else:
        is_indirect = I[P + Path.SCATTERED] != u4(0)
        add_split(S, W, group, events + 1, held(S, W, multiplied(arrives, whole), is_indirect))
