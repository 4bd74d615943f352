"""Where a path goes on from a surface, and whether it does. Names as in loop.py."""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels import units
from nocturne.engine.kernels.jit import f4, i4, inlined, u4
from nocturne.engine.kernels.media.stack import enter, leave
from nocturne.engine.kernels.path.bright import direction_to_bright, mixed_density, record
from nocturne.engine.kernels.path.hit import pushed
from nocturne.engine.kernels.path.passes import note_event
from nocturne.engine.kernels.path.state import filter_through, random_pair, weaken
from nocturne.engine.kernels.path.wander import go_below
from nocturne.engine.kernels.random import INV_2_24, combined
from nocturne.engine.kernels.values import whole_value
from nocturne.engine.kernels.vectors import ONE, ZERO, largest, load, scaled, store
from nocturne.engine.layout import lamp as Lamp
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import onward as Onward
from nocturne.engine.layout import path as Path
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import settings as Settings
from nocturne.engine.layout import value as Value
from nocturne.engine.layout import vertex as Vertex

P = Scratch.PATH
WIDENS = f4(0.25)
MAX_STEPS = 96  # boundaries passed without an event count too, so the longest way through is bounded


@inlined
def go_further(S, W, I, wp, m, is_medium, is_thin):
    """Sample the material in hand, m, for a new direction; return False if the path ends."""
    if not sample_direction(S, W, I, wp):
        return False
    density = f4(W[Scratch.SAMPLE + Onward.DENSITY])
    chosen = i4(I[Scratch.SAMPLE + Onward.KIND])
    is_delta = I[Scratch.SAMPLE + Onward.IS_DELTA] != u4(0)
    count_event(S, W, I, chosen, is_delta)
    if I[Scratch.WANDERS] != u4(0):
        go_below(W, I)
    passes = T.mat_i(S)[m, Mat.PASSES] != 0 and chosen == 2 and is_delta
    was_looked = f4(W[P + Path.DENSITY]) >= ZERO or f4(W[P + Path.THROUGH]) > ZERO
    W[P + Path.THROUGH] = ONE if passes and was_looked else ZERO
    W[P + Path.DENSITY] = -ONE if is_delta else density
    if not is_delta:
        # Rays that are near each other in what was sampled lie about this far apart.
        W[P + Path.ANGLE] = max(f4(W[P + Path.ANGLE]), WIDENS / math.sqrt(density))
    filter_through(W, load(W, Scratch.SAMPLE + Onward.WEIGHT))
    d = load(W, Scratch.SAMPLE + Onward.DIRECTION)
    if chosen == 2 and not is_thin:
        eta = f4(W[Scratch.ETA])
        W[P + Path.SPREAD] = f4(W[P + Path.SPREAD]) * (eta * eta)
        if I[Scratch.PARTS] != u4(0):
            W[P + Path.WAVE] = f4(W[Scratch.WAVE])
        if is_medium:
            if I[Scratch.INSIDE] == u4(0):
                enter(I, m)
            else:
                leave(I, m)
    store(W, P + Path.DIRECTION, d)
    store(W, P + Path.ORIGIN, pushed(W, load(W, Scratch.P), d))
    return survives(W, I)


@inlined
def sample_direction(S, W, I, wp):
    """Sample where the path goes: by the material, or to a bright thing; return False if nowhere. Writes SAMPLE."""
    u, v = random_pair(W, I, 3)
    share = f4(W[Scratch.LV + Vertex.SHARE])
    _, pick = random_pair(W, I, 1)
    p = load(W, Scratch.P)
    I[Scratch.WANDERS] = u4(0)
    if pick < share:
        d = direction_to_bright(S, I[Scratch.LV + Vertex.LEARNED], p, pick / share, u, v)
        store(W, Scratch.LAMP + Lamp.DIRECTION, d)
        units.evaluate_material(S, wp)
        own = f4(W[Scratch.EVAL + Value.DENSITY])
        if own <= ZERO:
            return False
        density = mixed_density(S, W, I, p, d, own)
        record(S, W, I, d, density, own)
        store(W, Scratch.SAMPLE + Onward.DIRECTION, d)
        store(W, Scratch.SAMPLE + Onward.WEIGHT, scaled(whole_value(W), ONE / density))
        W[Scratch.SAMPLE + Onward.DENSITY] = density
        I[Scratch.SAMPLE + Onward.KIND] = u4(0)
        I[Scratch.SAMPLE + Onward.IS_DELTA] = u4(0)
        return True
    a, b = random_pair(W, I, 4)
    W[Scratch.RANDOM] = a
    W[Scratch.RANDOM + 1] = u
    W[Scratch.RANDOM + 2] = v
    W[Scratch.RANDOM + 3] = b
    units.sample_material(S, wp)
    own = f4(W[Scratch.SAMPLE + Onward.DENSITY])
    if own <= ZERO:
        return False
    k = ONE / (ONE - share)
    if I[Scratch.SAMPLE + Onward.IS_DELTA] == u4(0):
        d = load(W, Scratch.SAMPLE + Onward.DIRECTION)
        density = mixed_density(S, W, I, p, d, own)
        record(S, W, I, d, density, own)
        W[Scratch.SAMPLE + Onward.DENSITY] = density
        k = own / density
    if share > ZERO:
        store(W, Scratch.SAMPLE + Onward.WEIGHT, scaled(load(W, Scratch.SAMPLE + Onward.WEIGHT), k))
    return True


@inlined
def count_event(S, W, I, chosen, is_delta):
    """Split the event by kind and count it against the limits."""
    limits = T.settings_i(S)
    more = i4(I[P + Path.EVENTS]) < limits[Settings.TOTAL]
    within = (
        ONE if more and i4(I[P + Path.DIFFUSE]) < limits[Settings.DIFFUSE] else ZERO,
        ONE if more and i4(I[P + Path.REFLECTIONS]) < limits[Settings.REFLECTION] else ZERO,
        ONE if more and i4(I[P + Path.TRANSMISSIONS]) < limits[Settings.TRANSMISSION] else ZERO,
    )
    # Only the limits' count hangs on this number, so it need not be a well spread one.
    number = u4(I[P + Path.SAMPLE] * u4(MAX_STEPS) + I[P + Path.STEP])
    which = f4(u4(combined(I[P + Path.PIXEL], number)) >> u4(8)) * INV_2_24
    counted = note_event(W, I, chosen, is_delta, i4(I[P + Path.EVENTS]) == 0, within, which)
    I[P + Path.EVENTS] = u4(I[P + Path.EVENTS] + u4(1))
    if not is_delta:
        I[P + Path.SCATTERED] = u4(I[P + Path.SCATTERED] + u4(1))
    I[P + Path.IS_PENDING] = u4(1)
    if counted < 0:
        I[P + Path.IS_LAST] = u4(1)
    else:
        at = P + Path.DIFFUSE + counted  # reflections and transmissions follow
        I[at] = u4(I[at] + u4(1))


@inlined
def survives(W, I):
    """Return False if the path ends by chance, and make up for it if not (Russian roulette)."""
    if i4(I[P + Path.EVENTS]) <= 2:
        return True
    q = min(largest(load(W, P + Path.BETA)) * f4(W[P + Path.SPREAD]), f4(0.97))
    _, survival = random_pair(W, I, 0)
    if q <= f4(1e-6) or survival >= q:
        return False
    weaken(W, ONE / q)
    W[P + Path.LUCK] = f4(W[P + Path.LUCK]) / q
    return True
