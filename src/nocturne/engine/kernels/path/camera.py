"""Camera rays: thin lens, pixel filter by importance sampling; in perspective, parallel, or all around."""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, jit
from nocturne.engine.kernels.vectors import ONE, TWO, TWO_PI, ZERO, along, dot, load, unit
from nocturne.engine.layout import camera as Camera


@jit
def filter_offset(S, u):
    """Return where in pixels from its centre a sample falls, distributed as the pixel filter."""
    x = u * f4(256)
    i = min(i4(x), i4(255))
    a = f4(T.filter_inv(S)[i])
    return a + (f4(T.filter_inv(S)[i + 1]) - a) * (x - f4(i))


@jit
def on_aperture(C, u, v):
    """Return a point of the opening, uniform over its area: a disc, or a polygon with its corners on the circle."""
    r = math.sqrt(u) * f4(C[Camera.LENS_RADIUS])
    n = f4(C[Camera.BLADES])
    if n <= ZERO:
        return r * math.cos(TWO_PI * v), r * math.sin(TWO_PI * v)
    side = f4(math.floor(v * n))
    part = v * n - side
    a = side / n * TWO_PI + f4(C[Camera.BLADES_TURN])
    b = (side + ONE) / n * TWO_PI + f4(C[Camera.BLADES_TURN])
    x = math.cos(a) * (ONE - part) + math.cos(b) * part
    y = math.sin(a) * (ONE - part) + math.sin(b) * part
    return r * x, r * y


@jit
def turned(C, x, y, z):
    """Return the direction x to the right, y up and z ahead of the camera."""
    right = load(C, Camera.RIGHT)
    up = load(C, Camera.UP)
    ahead = load(C, Camera.FORWARD)
    return (
        right[0] * x + up[0] * y + ahead[0] * z,
        right[1] * x + up[1] * y + ahead[1] * z,
        right[2] * x + up[2] * y + ahead[2] * z,
    )


@jit
def way_to(C, d, depth):
    """Return how far along a ray it is to a depth: along the axis, for a camera that sees all around along the ray."""
    if f4(C[Camera.KIND]) == f4(Camera.AROUND):
        return depth
    return depth / max(dot(d, load(C, Camera.FORWARD)), f4(1e-6))


@jit
def sight_along(C, d):
    """Return how far from the lens the camera sees along a ray, metres."""
    return way_to(C, d, f4(C[Camera.FAR]))


@jit
def ray_around(C, px, py, lx, ly):
    """Return the (origin, direction) of a ray of a camera that sees all around: longitude across, latitude up."""
    a = px * f4(C[Camera.HALF_X])
    b = py * f4(C[Camera.HALF_Y])
    sin_a, cos_a, sin_b, cos_b = math.sin(a), math.cos(a), math.sin(b), math.cos(b)
    x = turned(C, cos_a, ZERO, -sin_a)
    y = turned(C, -sin_a * sin_b, cos_b, -cos_a * sin_b)
    lens = along(x, lx, along(y, ly, (ZERO, ZERO, ZERO)))
    d = along(lens, -ONE / f4(C[Camera.FOCUS]), turned(C, sin_a * cos_b, sin_b, cos_a * cos_b))
    return along(lens, ONE, load(C, Camera.POS)), d


@jit
def ray_through(S, px, py, lx, ly):
    """Return (origin, unit direction, way from lens to origin) of a ray through a point of the lens and of the picture.

    px, py: -1..1 across the picture before its shift; lx, ly: on the lens, metres.
    """
    C = T.camera(S)
    px += f4(C[Camera.SHIFT_X])
    py += f4(C[Camera.SHIFT_Y])
    if f4(C[Camera.KIND]) == f4(Camera.AROUND):
        origin, d = ray_around(C, px, py, lx, ly)
    else:
        focus = f4(C[Camera.FOCUS])
        px *= f4(C[Camera.HALF_X])
        py *= f4(C[Camera.HALF_Y])
        if f4(C[Camera.KIND]) == f4(Camera.PARALLEL):
            d = turned(C, -lx, -ly, focus)
            lx += px
            ly += py
        else:
            d = turned(C, px * focus - lx, py * focus - ly, focus)
        origin = along(load(C, Camera.RIGHT), lx, along(load(C, Camera.UP), ly, load(C, Camera.POS)))
    d = unit(d)
    way = way_to(C, d, f4(C[Camera.CUT]))
    return along(d, way, origin), d, way


@jit
def camera_ray(S, x, y, u1, u2, u3, u4_):
    """Return (origin, unit direction, way from lens to origin) of a ray through pixel (x, y)."""
    C = T.camera(S)
    px = (f4(x) + f4(0.5) + filter_offset(S, u1)) / f4(C[Camera.WIDTH]) * TWO - ONE
    py = ONE - (f4(y) + f4(0.5) + filter_offset(S, u2)) / f4(C[Camera.HEIGHT]) * TWO
    lx, ly = on_aperture(C, u3, u4_)
    return ray_through(S, px, py, lx, ly)


@jit
def middle_ray(S, x, y):
    """Return (origin, unit direction, way from lens to origin) of the ray through the pixel's and the lens' middle."""
    C = T.camera(S)
    px = (f4(x) + f4(0.5)) / f4(C[Camera.WIDTH]) * TWO - ONE
    py = ONE - (f4(y) + f4(0.5)) / f4(C[Camera.HEIGHT]) * TWO
    return ray_through(S, px, py, ZERO, ZERO)
