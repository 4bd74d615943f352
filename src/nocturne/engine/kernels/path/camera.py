"""Camera rays: thin lens, pixel filter by importance sampling."""

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
def ray_through(S, px, py, lx, ly):
    """Return (origin, unit direction, way from lens to origin) of a ray through a point of the lens and of the picture.

    px, py: -1..1 across the picture before its shift; lx, ly: on the lens, metres.
    """
    C = T.camera(S)
    px += f4(C[Camera.SHIFT_X])
    py += f4(C[Camera.SHIFT_Y])
    focus = f4(C[Camera.FOCUS])
    dx = px * f4(C[Camera.TAN_X]) * focus - lx
    dy = py * f4(C[Camera.TAN_Y]) * focus - ly
    right = load(C, Camera.RIGHT)
    up = load(C, Camera.UP)
    ahead = load(C, Camera.FORWARD)
    origin = along(right, lx, along(up, ly, load(C, Camera.POS)))
    d = (
        right[0] * dx + up[0] * dy + ahead[0] * focus,
        right[1] * dx + up[1] * dy + ahead[1] * focus,
        right[2] * dx + up[2] * dy + ahead[2] * focus,
    )
    d = unit(d)
    way = f4(C[Camera.CUT]) / max(dot(d, ahead), f4(1e-6))
    return along(d, way, origin), d, way


@jit
def camera_ray(S, x, y, u1, u2, u3, u4_):
    """Return (origin, unit direction) of a ray through pixel (x, y)."""
    C = T.camera(S)
    px = (f4(x) + f4(0.5) + filter_offset(S, u1)) / f4(C[Camera.WIDTH]) * TWO - ONE
    py = ONE - (f4(y) + f4(0.5) + filter_offset(S, u2)) / f4(C[Camera.HEIGHT]) * TWO
    lx, ly = on_aperture(C, u3, u4_)
    o, d, _ = ray_through(S, px, py, lx, ly)
    return o, d


@jit
def middle_ray(S, x, y):
    """Return (origin, unit direction, way from lens to origin) of the ray through the pixel's and the lens' middle."""
    C = T.camera(S)
    px = (f4(x) + f4(0.5)) / f4(C[Camera.WIDTH]) * TWO - ONE
    py = ONE - (f4(y) + f4(0.5)) / f4(C[Camera.HEIGHT]) * TWO
    return ray_through(S, px, py, ZERO, ZERO)
