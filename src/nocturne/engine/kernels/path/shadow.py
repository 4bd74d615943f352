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
    load,
    luminance,
    multiplied,
    power_heuristic,
    scaled,
)
from nocturne.engine.layout import lamp as Lamp
from nocturne.engine.layout import light as Light
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
    for _ in range(MOST_SHEETS):
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


@inlined
def gather(S, W, I, wp, m, is_medium):
    """Sample a light from the vertex in hand, on material m, and add what arrives of it."""
    mode = T.settings_i(S)[Settings.MODE]
    a, _ = random_pair(I, 1)
    u, v = random_pair(I, 2)
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
    w = ONE / lamp_density
    if I[Scratch.LAMP + Lamp.IS_DELTA] == u4(0) and mode == Settings.MODE_MIS:
        other = mixed_density(S, W, I, load(W, Scratch.P), wi, f4(W[E + Value.DENSITY]))
        w *= power_heuristic(lamp_density, other)
    p = load(W, Scratch.P)
    start = pushed(W, p, wi)
    far = distance - f4(2) * error_of(p) - distance * f4(1e-5)
    inner = i4(I[P + Path.MEDIUM])
    if is_medium and dot(wi, load(W, Scratch.G)) < ZERO:
        inner = m if I[Scratch.INSIDE] == u4(0) else existing(S, I, entry_of(I, m))
    left = transmittance(S, W, I, wp, start, wi, far, index_of(S, inner))
    if largest(left) <= ZERO:
        return
    if inner >= 0 and distance < f4(1e20):
        left = absorbed(S, inner, distance, left)
    events = i4(I[P + Path.EVENTS])
    lamp = i4(I[Scratch.LAMP + Lamp.LIGHT])
    group = T.light_i(S)[lamp, Light.GROUP]
    beta = load(W, P + Path.BETA)
    brought = scaled(multiplied(left, load(W, Scratch.LAMP + Lamp.RADIANCE)), w)
    chance = f4(W[Scratch.LAMP + Lamp.CHANCE])
    learn(S, row, lamp, luminance(multiplied(brought, whole)) * chance, chance)
    arrives = multiplied(beta, brought)
    if events == 0:
        add_light(S, W, group, Pass.DIRECT_DIFFUSE, multiplied(arrives, load(W, E + Value.DIFFUSE)))
        add_light(S, W, group, Pass.DIRECT_REFLECTION, multiplied(arrives, load(W, E + Value.REFLECTION)))
        add_light(S, W, group, Pass.DIRECT_TRANSMISSION, multiplied(arrives, load(W, E + Value.TRANSMISSION)))
    else:
        add_split(S, W, group, events + 1, held(S, W, multiplied(arrives, whole), events))
