"""What a sample finds, added to light groups and path passes; events split by kind, and counted against the limits.

Kinds of an event: 0 diffuse, 1 reflection, 2 transmission. W work row, I unsigned, S scene table.
"""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, jit
from nocturne.engine.kernels.vectors import ONE, TINY, ZERO, largest, load, luminance, multiplied, scaled
from nocturne.engine.layout import path as Path
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import settings as Settings
from nocturne.engine.layout import value as Value


@jit
def add_light(S, W, group, which, c):
    for k in range(3):
        W[Scratch.ACC_GROUPS + group * 3 + k] = f4(W[Scratch.ACC_GROUPS + group * 3 + k]) + c[k]
        W[Scratch.ACC_PASSES + which * 3 + k] = f4(W[Scratch.ACC_PASSES + which * 3 + k]) + c[k]
        W[Scratch.SAMPLE_SUM + k] = f4(W[Scratch.SAMPLE_SUM + k]) + c[k]


@jit
def held(S, W, c, is_indirect):
    """Return light c, held under the clamp if it is indirect and one is set; what that takes is counted.

    What roulette made up for is none of the light's brightness: a path that lives on stands for others as well.
    """
    limit = f4(T.settings_f(S)[Settings.CLAMP]) * f4(W[Scratch.PATH + Path.LUCK])
    m = largest(c)
    if is_indirect and limit > ZERO and m > limit:
        k = limit / m
        W[Scratch.HELD_BACK] = f4(W[Scratch.HELD_BACK]) + luminance(c) * (ONE - k)
        return scaled(c, k)
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
def add_found(S, W, I, group, at_once, c):
    """Add light that a ray found: to pass `at_once` straight from the camera, else by the first event's shares.

    What is seen in mirrors and through clear glass alone is no more noisy than what is seen without them, and what one
    scattering surface sees no more than what light sampling finds from there: neither is held under the clamp.
    """
    events = i4(I[Scratch.PATH + Path.EVENTS])
    scattered = i4(I[Scratch.PATH + Path.SCATTERED])
    is_by_chance = f4(W[Scratch.PATH + Path.DENSITY]) < ZERO  # the last was a mirror or clear
    c = held(S, W, c, scattered > 1 or (scattered == 1 and is_by_chance))
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
