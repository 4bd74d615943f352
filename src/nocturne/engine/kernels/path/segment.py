"""From one vertex of a path to the next: what a ray goes through, finds and meets. Names as in loop.py."""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels import units
from nocturne.engine.kernels.jit import f4, i4, inlined, jit, u4
from nocturne.engine.kernels.lobes.undercoat import glow_through
from nocturne.engine.kernels.media.stack import absorbed, enter, entry_of, existing, index_of, leave
from nocturne.engine.kernels.media.waves import candidate, dispersed_index
from nocturne.engine.kernels.path.guides import note_clean_guides, note_first_hit
from nocturne.engine.kernels.path.hit import CAMERA_RAYS, INDIRECT_RAYS, NONE, error_of, find_hit, pushed
from nocturne.engine.kernels.path.passes import add_found
from nocturne.engine.kernels.path.state import filter_through, random_pair, weaken
from nocturne.engine.kernels.path.wander import FOUND, NOTHING, wander
from nocturne.engine.kernels.random import INV_2_24, combined
from nocturne.engine.kernels.vectors import (
    BIG,
    ONE,
    ZERO,
    along,
    clamped,
    dot,
    largest,
    load,
    multiplied,
    power_heuristic,
    scaled,
    store,
)
from nocturne.engine.layout import lamp as Lamp
from nocturne.engine.layout import light as Light
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import passes as Pass
from nocturne.engine.layout import path as Path
from nocturne.engine.layout import ray as Ray
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import seen as Seen
from nocturne.engine.layout import settings as Settings

P = Scratch.PATH
M = Scratch.MAT


@inlined
def travel(S, W, I, wp, scatters):
    """Follow the path's ray through what absorbs and scatters; return whether it met something, see `wander`.

    scatters: False has it go straight through what scatters.
    """
    o = load(W, P + Path.ORIGIN)
    d = load(W, P + Path.DIRECTION)
    mask = INDIRECT_RAYS
    far = BIG
    if I[P + Path.EVENTS] == u4(0):
        mask = CAMERA_RAYS
        far = max(f4(W[P + Path.SIGHT]) - f4(W[P + Path.SINCE_VERTEX]), ZERO)
    medium = existing(S, I, i4(-1))
    I[P + Path.MEDIUM] = u4(medium)
    if scatters and medium >= 0 and T.mat_i(S)[medium, Mat.MURKY] != 0:
        F = T.mat_f(S)
        for k in range(3):
            W[P + Path.BELOW_T + k] = f4(F[medium, Mat.SIGMA_T + k])
            W[P + Path.BELOW_S + k] = f4(F[medium, Mat.SIGMA_S + k])
        W[P + Path.BELOW_G] = f4(F[medium, Mat.SCATTER_G])
        return wander(S, W, I, wp, far, mask, False)
    if not find_hit(S, W, I, wp, o, d, far, mask):
        return NOTHING
    t = f4(W[Scratch.RAY + Ray.FAR])
    W[P + Path.SINCE_VERTEX] = f4(W[P + Path.SINCE_VERTEX]) + t
    W[P + Path.WIDTH] = f4(W[P + Path.WIDTH]) + f4(W[P + Path.ANGLE]) * t
    if medium >= 0:
        store(W, P + Path.BETA, absorbed(S, medium, t, load(W, P + Path.BETA)))
    return FOUND


@inlined
def is_hole(W, I):
    """Return True if the surface in hand is not there for this path, by its opacity; else its glow is whole."""
    there = clamped(f4(W[M + Mat.OPACITY]), ZERO, ONE)
    if there >= ONE:
        return False
    number = combined(I[P + Path.PIXEL], u4(I[P + Path.STEP] ^ u4(0x2545F491)))
    if spread_over(I, number) >= there:
        return True
    for k in range(3):
        W[M + Mat.EMISSION + k] = f4(W[M + Mat.EMISSION + k]) / there
    return False


@inlined
def spread_over(I, number):
    """Return a number in [0, 1) for the path's sample, evenly spread over samples that begin with the same number."""
    # Steps of the golden ratio.
    return f4(u4(u4(number + u4(I[P + Path.SAMPLE] * u4(0x9E3779B9))) >> u4(8))) * INV_2_24


@inlined
def look_at_lamp(S, W, I, wp):
    """Write to LAMP what the near light that the ray found sends along it, and the density of light sampling it."""
    W[Scratch.RANDOM] = f4(W[P + Path.SINCE_VERTEX])
    I[Scratch.RANDOM + 1] = I[Scratch.RAY + Ray.PRIMITIVE]
    units.lamp_hit(S, wp)


@jit
def found_weight(W, mode, sampled):
    """Return the weight of a light that a ray found, and that light sampling would have found at density `sampled`."""
    if f4(W[P + Path.THROUGH]) > ZERO and mode != Settings.MODE_MATERIAL:
        return ZERO
    density = f4(W[P + Path.DENSITY])
    if density < ZERO or mode == Settings.MODE_MATERIAL:
        return ONE
    if mode == Settings.MODE_LIGHT:
        return ZERO
    return power_heuristic(density, sampled)


@inlined
def find_infinite(S, W, I, wp):
    """Add what lies at infinity along the ray."""
    events = i4(I[P + Path.EVENTS])
    mode = T.settings_i(S)[Settings.MODE]
    beta = load(W, P + Path.BETA)
    for k in range(T.settings_i(S)[Settings.N_INFINITE]):
        l = T.infinite(S)[k]
        if events == 0 and T.light_i(S)[l, Light.SEEN] == 0:
            continue
        I[Scratch.LIGHT] = u4(l)
        units.infinite_hit(S, wp)
        w = found_weight(W, mode, f4(W[Scratch.LAMP + Lamp.DENSITY]))
        c = scaled(multiplied(beta, load(W, Scratch.LAMP + Lamp.RADIANCE)), w)
        add_found(S, W, I, T.light_i(S)[l, Light.GROUP], Pass.BACKGROUND, c)


@inlined
def note_first(W, I):
    """Keep what the path hit first."""
    if I[P + Path.EVENTS] == u4(0) and I[Scratch.FIRST + Seen.MATERIALS] == NONE:
        note_first_hit(W, I)


@inlined
def pass_lamp(S, W, I, wp):
    """Add what a lamp's own shape sends, and go on behind it; return False if the path ends there.

    It shines from its front and is not there from behind.
    """
    p = load(W, Scratch.P)
    d = load(W, P + Path.DIRECTION)
    if I[Scratch.INSIDE] == u4(0):
        look_at_lamp(S, W, I, wp)
        w = found_weight(W, T.settings_i(S)[Settings.MODE], f4(W[Scratch.LAMP + Lamp.DENSITY]))
        lamp = i4(I[Scratch.LIGHT])
        c = scaled(multiplied(load(W, P + Path.BETA), load(W, Scratch.LAMP + Lamp.RADIANCE)), w)
        add_found(S, W, I, T.light_i(S)[lamp, Light.GROUP], Pass.EMISSION, c)
        note_first(W, I)
        if I[P + Path.IS_GUIDED] == u4(0):
            note_clean_guides(W, (ONE, ONE, ONE), load(W, Scratch.N))
            I[P + Path.IS_GUIDED] = u4(1)
        if f4(W[P + Path.DENSITY]) < ZERO:
            return False
    # Lamps cast no shadow on light sampling, so they must not stop what material sampling finds behind them.
    store(W, P + Path.ORIGIN, along(d, error_of(p), p))
    return True


@inlined
def find_glow(S, W, I, wp, m):
    """Add what the surface in hand, of material m, sends itself."""
    e = load(W, M + Mat.EMISSION)
    if f4(W[M + Mat.COAT]) > ZERO:
        e = multiplied(e, glow_through(W, M, abs(dot(load(W, Scratch.G), load(W, Scratch.RAY + Ray.DIRECTION)))))
    if largest(e) > ZERO and I[Scratch.INSIDE] == u4(0):
        w = ONE
        if i4(I[Scratch.LIGHT]) >= 0 and (f4(W[P + Path.DENSITY]) >= ZERO or f4(W[P + Path.THROUGH]) > ZERO):
            look_at_lamp(S, W, I, wp)
            w = found_weight(W, T.settings_i(S)[Settings.MODE], f4(W[Scratch.LAMP + Lamp.DENSITY]))
        if I[P + Path.SCATTERED] == u4(0):
            w *= f4(W[M + Mat.LOOKS])
        c = scaled(multiplied(load(W, P + Path.BETA), e), w)
        add_found(S, W, I, T.mat_i(S)[m, Mat.GROUP], Pass.EMISSION, c)
    note_first(W, I)


@jit
def disperses(S, m):
    """Return True if colours part in medium m (-1: air)."""
    return m >= 0 and f4(T.mat_f(S)[m, Mat.DISPERSION]) > ZERO


@inlined
def choose_wave(S, W, I):
    """Look at one wavelength only: the path's, or one that becomes the path's if it goes through here."""
    I[Scratch.PARTS] = u4(1)
    store(W, Scratch.SPECTRAL, (ONE, ONE, ONE))
    if f4(W[P + Path.WAVE]) <= ZERO:
        u = spread_over(I, combined(I[P + Path.PIXEL], u4(0x68E31DA4)))
        wave, colour = candidate(S, u)
        W[Scratch.WAVE] = wave
        store(W, Scratch.SPECTRAL, colour)
    else:
        W[Scratch.WAVE] = f4(W[P + Path.WAVE])


@inlined
def dispersed(W, I, ior, amount):
    """Return an index for the wavelength in hand, if one is."""
    if I[Scratch.PARTS] == u4(0):
        return ior
    return dispersed_index(ior, amount, f4(W[Scratch.WAVE]))


@inlined
def wave_index(S, W, I, m):
    """Return the index of medium m (-1: air) for the wavelength in hand, if one is."""
    ior = index_of(S, m)
    if m < 0:
        return ior
    return dispersed(W, I, ior, f4(T.mat_f(S)[m, Mat.DISPERSION]))


@inlined
def cross_boundary(S, W, I, m, is_medium):
    """Set the index ratio at the surface of material m; return False where it is none, as another medium exists there.

    Then the ray goes straight on, and the list of media knows.
    """
    overlaps = T.settings_i(S)[Settings.OVERLAPS] != 0
    medium = i4(I[P + Path.MEDIUM]) if overlaps else i4(-1)
    I[Scratch.PARTS] = u4(0)
    if is_medium and (f4(W[M + Mat.DISPERSION]) > ZERO or disperses(S, medium)):
        choose_wave(S, W, I)
    ior = dispersed(W, I, f4(W[M + Mat.IOR]), f4(W[M + Mat.DISPERSION]))
    if is_medium and I[Scratch.INSIDE] != u4(0):
        at = entry_of(I, m)
        beyond = existing(S, I, at) if overlaps else i4(-1)
        if overlaps and at >= 0 and (medium != m or beyond == m):
            leave(I, m)
            return False
        W[Scratch.OUTSIDE] = ior
        W[Scratch.ETA] = wave_index(S, W, I, beyond) / ior
        return True
    if is_medium and medium >= 0 and T.mat_i(S)[m, Mat.PRECEDENCE] <= T.mat_i(S)[medium, Mat.PRECEDENCE]:
        enter(I, m)
        return False
    outside = wave_index(S, W, I, medium)
    W[Scratch.OUTSIDE] = outside
    W[Scratch.ETA] = ior / outside
    return True


@inlined
def go_straight(W, I):
    """Move the ray's start past the surface in hand; its direction stays."""
    store(W, P + Path.ORIGIN, pushed(W, load(W, Scratch.P), load(W, P + Path.DIRECTION)))


@inlined
def pass_sheet(W, I):
    """Decide whether the path goes straight through the thin sheet in hand: 1 it does, 0 it does not, -1 it ends.

    Going straight through is no event: lights behind a sheet are sampled from before it.
    """
    straight = load(W, Scratch.STRAIGHT)
    chance = ZERO if I[P + Path.IS_LAST] != u4(0) else f4(W[Scratch.P_EVENT])
    which, _ = random_pair(W, I, 0)
    if which < chance:
        weaken(W, ONE / chance)
        return 0
    if largest(straight) <= ZERO:
        return -1
    filter_through(W, straight)
    weaken(W, ONE / (ONE - chance))
    go_straight(W, I)
    return 1
