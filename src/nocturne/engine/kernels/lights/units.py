"""What the light units do: choose a light and sample it, and tell the density of having done so."""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.dispatch import by_kind
from nocturne.engine.kernels.jit import f4, i4, inlined, row_f4, row_u4, u4
from nocturne.engine.kernels.lights import (
    disc,
    dome,
    environment,
    mesh,
    opening,
    point,
    portal,
    rectangle,
    sphere,
    spot,
    sun,
    tube,
)
from nocturne.engine.kernels.lights.learned import chance_of_light, choose_light
from nocturne.engine.kernels.vectors import BIG, ONE, TINY, ZERO, load, row_at, scaled, store
from nocturne.engine.layout import lamp as Lamp
from nocturne.engine.layout import learned as Learned
from nocturne.engine.layout import light as Light
from nocturne.engine.layout import ray as Ray
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import vertex as Vertex

KINDS = {
    Light.RECT: rectangle,
    Light.SPHERE: sphere,
    Light.POINT: point,
    Light.SPOT: spot,
    Light.MESH: mesh,
    Light.ENVIRONMENT: environment,
    Light.DOME: dome,
    Light.DISC: disc,
    Light.TUBE: tube,
    Light.OPENING: opening,
    Light.SUN: sun,
}
# Which file makes the row of a kind of light of the document.
ROWS = {
    "rect": rectangle,
    "disc": disc,
    "sphere": sphere,
    "tube": tube,
    "spot": spot,
    "point": point,
    "distant": sun,
    "environment": environment,
    "dome": dome,
    "sun": sun,
    "sky": environment,
}


@inlined
def evenly(S, l, wi):
    """Return 1: most lights look alike from everywhere."""
    return ONE


sample_kind = by_kind({number: kind.sample for number, kind in KINDS.items()})
density_of_kind = by_kind({number: kind.density for number, kind in KINDS.items() if hasattr(kind, "density")})
shine_of_kind = by_kind(
    {number: getattr(kind, "shine", evenly) for number, kind in KINDS.items() if hasattr(kind, "density")}
)
seen_of_kind = by_kind({number: kind.seen for number, kind in KINDS.items() if hasattr(kind, "seen")})


def sample_lamp(S, wp):
    """Unit: choose a light from the last real vertex (LV) and a point on it; write LAMP. Density 0: none."""
    W = row_f4(wp)
    I = row_u4(wp)
    A = Scratch.LAMP
    W[A + Lamp.DENSITY] = ZERO
    P = load(W, Scratch.LV + Vertex.POSITION)
    N = load(W, Scratch.LV + Vertex.NORMAL)
    two_sided = I[Scratch.LV + Vertex.TWO_SIDED] != u4(0)
    row = I[Scratch.LV + Vertex.LEARNED]
    l, way, slot, chance, pick = choose_light(S, P, N, two_sided, f4(W[Scratch.RANDOM]), row)
    if l < 0:
        return
    u = f4(W[Scratch.RANDOM + 1])
    v = f4(W[Scratch.RANDOM + 2])
    kind = T.light_i(S)[l, Light.KIND]
    if way > 0:
        wi, own = portal.sample(S, T.slots(S)[slot, Learned.PORTAL] - 1, P, u, v)
        if own <= TINY:
            return
        rgb, whole = seen_of_kind(kind, S, l, N, two_sided, wi)
        distance = BIG
        density = portal.density_of_ways(S, l, P, N, two_sided, row, wi, whole, way, own)
        is_delta = False
    else:
        wi, distance, rgb, own, is_delta = sample_kind(kind, S, wp, l, P, N, two_sided, pick, u, v)
        if own <= TINY:
            return
        density = own * chance
        if T.light_i(S)[l, Light.WAYS] > 1:
            density = portal.density_of_ways(S, l, P, N, two_sided, row, wi, own, i4(0), own)
    store(W, A + Lamp.DIRECTION, wi)
    W[A + Lamp.DISTANCE] = distance
    store(W, A + Lamp.RADIANCE, rgb)
    W[A + Lamp.DENSITY] = density
    W[A + Lamp.CHANCE] = chance
    I[A + Lamp.IS_DELTA] = u4(1) if is_delta else u4(0)
    I[A + Lamp.LIGHT] = u4(l)
    I[A + Lamp.SLOT] = u4(slot)


def lamp_hit(S, wp):
    """Unit: write to LAMP the radiance of the light that the path hit, and the density with which LV would sample it.

    In: LIGHT (light), RANDOM 0 distance from LV, RANDOM 1 triangle (as unsigned); direction in RAY.
    """
    W = row_f4(wp)
    I = row_u4(wp)
    P = load(W, Scratch.LV + Vertex.POSITION)
    N = load(W, Scratch.LV + Vertex.NORMAL)
    two_sided = I[Scratch.LV + Vertex.TWO_SIDED] != u4(0)
    l = i4(I[Scratch.LIGHT])
    d = load(W, Scratch.RAY + Ray.DIRECTION)
    distance = f4(W[Scratch.RANDOM])
    prim = i4(I[Scratch.RANDOM + 1])
    kind = T.light_i(S)[l, Light.KIND]
    density = density_of_kind(kind, S, l, P, d, distance, prim)
    row = I[Scratch.LV + Vertex.LEARNED]
    W[Scratch.LAMP + Lamp.DENSITY] = density * chance_of_light(S, l, P, N, two_sided, row)
    store(W, Scratch.LAMP + Lamp.RADIANCE, scaled(row_at(T.light_f(S), l, Light.RGB), shine_of_kind(kind, S, l, d)))


def infinite_hit(S, wp):
    """Unit: radiance of infinite light LIGHT along RAY to LAMP, and its density from LV."""
    W = row_f4(wp)
    I = row_u4(wp)
    l = i4(I[Scratch.LIGHT])
    d = load(W, Scratch.RAY + Ray.DIRECTION)
    P = load(W, Scratch.LV + Vertex.POSITION)
    N = load(W, Scratch.LV + Vertex.NORMAL)
    two_sided = I[Scratch.LV + Vertex.TWO_SIDED] != u4(0)
    rgb, density = seen_of_kind(T.light_i(S)[l, Light.KIND], S, l, N, two_sided, d)
    store(W, Scratch.LAMP + Lamp.RADIANCE, rgb)
    row = I[Scratch.LV + Vertex.LEARNED]
    W[Scratch.LAMP + Lamp.DENSITY] = portal.density_of_ways(S, l, P, N, two_sided, row, d, density, i4(-1), ZERO)
