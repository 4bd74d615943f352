"""Pictures of what lies at infinity, sampled by the luminance of their bilinear lookup.

Names as in choose.py; e environment, d direction, w h the picture's width and height.
"""

import math

import numpy as np

from nocturne.engine.emitters import Far
from nocturne.engine.environment import sampling_tables, sky_picture
from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, inlined, jit
from nocturne.engine.kernels.vectors import (
    BIG,
    HALF,
    INV_PI,
    ONE,
    PI,
    TINY,
    TWO_PI,
    ZERO,
    added,
    clamped,
    luminance,
    mixed,
    row_at,
    scaled,
)
from nocturne.engine.layout import environment as Environment
from nocturne.engine.layout import light as Light
from nocturne.scene.assets import Assets
from nocturne.scene.lights.environment import Environment as EnvironmentLight
from nocturne.scene.lights.sky import Sky


@jit
def place(S, l, d):
    """Return (w, h, x, y): where direction d looks in the environment's picture, in pixels."""
    e = i4(T.light_i(S)[l, Light.FIRST])
    w = i4(T.env_i(S)[e, Environment.WIDTH])
    h = i4(T.env_i(S)[e, Environment.HEIGHT])
    t = turned(S, l, d)
    phi = math.atan2(t[1], t[0])
    x = (HALF - phi / TWO_PI) * f4(w)
    y = math.acos(clamped(t[2], -ONE, ONE)) * INV_PI * f4(h)
    return w, h, x, y


@jit
def turned(S, l, d):
    F = T.light_f(S)
    return (
        f4(F[l, Light.TURN]) * d[0] + f4(F[l, Light.TURN + 1]) * d[1] + f4(F[l, Light.TURN + 2]) * d[2],
        f4(F[l, Light.TURN + 3]) * d[0] + f4(F[l, Light.TURN + 4]) * d[1] + f4(F[l, Light.TURN + 5]) * d[2],
        f4(F[l, Light.TURN + 6]) * d[0] + f4(F[l, Light.TURN + 7]) * d[1] + f4(F[l, Light.TURN + 8]) * d[2],
    )


@jit
def turned_back(S, l, d):
    F = T.light_f(S)
    return (
        f4(F[l, Light.TURN]) * d[0] + f4(F[l, Light.TURN + 3]) * d[1] + f4(F[l, Light.TURN + 6]) * d[2],
        f4(F[l, Light.TURN + 1]) * d[0] + f4(F[l, Light.TURN + 4]) * d[1] + f4(F[l, Light.TURN + 7]) * d[2],
        f4(F[l, Light.TURN + 2]) * d[0] + f4(F[l, Light.TURN + 5]) * d[1] + f4(F[l, Light.TURN + 8]) * d[2],
    )


@jit
def corners(S, e, line, column):
    """Return the radiance at the corners of a cell of environment e: above left and right, below left and right.

    A cell is what lies between four pixels' centres, where the bilinear picture has one piece; cells in the first and
    the last line reach from the pole to the first centres and are constant from above to below.
    """
    first = i4(T.env_i(S)[e, Environment.FIRST])
    w = i4(T.env_i(S)[e, Environment.WIDTH])
    h = i4(T.env_i(S)[e, Environment.HEIGHT])
    above = first + max(line - 1, 0) * w
    below = first + min(line, h - 1) * w
    left = (column - 1 + w) % w
    right = column % w
    E = T.env_px(S)
    return (
        row_at(E, above + left, 0),
        row_at(E, above + right, 0),
        row_at(E, below + left, 0),
        row_at(E, below + right, 0),
    )


@jit
def cell(S, l, d):
    """Return (environment, line, column, place in the cell 0..1 across and down) of direction d."""
    w, h, x, y = place(S, l, d)
    x += HALF
    y += HALF
    xf = f4(math.floor(x))
    yf = clamped(f4(math.floor(y)), ZERO, f4(h))
    return i4(T.light_i(S)[l, Light.FIRST]), i4(yf), i4(xf) % w, f4(x - xf), clamped(f4(y - yf), ZERO, ONE)


@jit
def bilinear(a, b, c, e, fx, fy):
    top = added(scaled(a, ONE - fx), scaled(b, fx))
    low = added(scaled(c, ONE - fx), scaled(e, fx))
    return added(scaled(top, ONE - fy), scaled(low, fy))


@jit
def value(S, l, d):
    """Return environment l's bilinear radiance in direction d, before the light's strength, and its cell's line."""
    e, line, column, fx, fy = cell(S, l, d)
    a, b, c, g = corners(S, e, line, column)
    return bilinear(a, b, c, g, fx, fy), line


@jit
def cell_middle(line, h):
    """Return (top, height) in pixels of a line of cells, of a picture h pixels high."""
    top = max(f4(line) - HALF, ZERO)
    return top, min(f4(line) + HALF, f4(h)) - top


@jit
def radiance_and_density(S, l, d):
    """Return the radiance of environment l in direction d, and the density over solid angle of sampling it.

    Cells are chosen by the mean of their corners times the sine at their middle, and inside of a cell a point by the
    bilinear luminance itself, so the mean drops out: luminance times a constant times the ratio of both sines.
    """
    rgb, line = value(S, l, d)
    h = i4(T.env_i(S)[i4(T.light_i(S)[l, Light.FIRST]), Environment.HEIGHT])
    top, height = cell_middle(line, h)
    middle = math.sin(PI * (top + HALF * height) / f4(h))
    t = turned(S, l, d)
    s = math.sqrt(max(ONE - t[2] * t[2], f4(1e-12)))
    density = luminance(rgb) * f4(T.light_f(S)[l, Light.DENSITY]) * middle / s
    k = row_at(T.light_f(S), l, Light.RGB)
    return (rgb[0] * k[0], rgb[1] * k[1], rgb[2] * k[2]), density


@jit
def linear_inverse(a, b, u):
    """Return x in [0, 1] distributed as a + (b - a) x."""
    whole = a + b
    if whole <= ZERO:
        return u
    return clamped(u * whole / max(a + math.sqrt(max(a * a + (b - a) * whole * u, ZERO)), TINY), ZERO, ONE)


@inlined
def sample_by_luminance(S, l, pick, u, v):
    """Return (direction, radiance, density over solid angle) of environment l, by its luminance (Vose 1991)."""
    e = i4(T.light_i(S)[l, Light.FIRST])
    w = i4(T.env_i(S)[e, Environment.WIDTH])
    h = i4(T.env_i(S)[e, Environment.HEIGHT])
    first = i4(T.env_i(S)[e, Environment.FIRST_CELL])
    # Which cell comes from (u, v), where in it from what is left of both, so that strata survive.
    xs = u * f4(w)
    ys = v * f4(h + 1)
    column = min(i4(xs), w - 1)
    line = min(i4(ys), h)
    fx = clamped(xs - f4(column), ZERO, ONE)
    fy = clamped(ys - f4(line), ZERO, ONE)
    i = first + line * w + column
    if pick >= f4(T.env_q(S)[i]):
        i = first + i4(T.env_alias(S)[i])
    line = (i - first) // w
    column = (i - first) - line * w
    a, b, c, g = corners(S, e, line, column)
    la = luminance(a)
    lb = luminance(b)
    lc = luminance(c)
    lg = luminance(g)
    fy = linear_inverse(la + lb, lc + lg, fy)
    fx = linear_inverse(mixed(la, lc, fy), mixed(lb, lg, fy), fx)
    top, height = cell_middle(line, h)
    # In the cells at the poles the picture is constant from above to below.
    theta = PI * (top + height * fy) / f4(h)
    phi = (HALF - (f4(column) - HALF + fx) / f4(w)) * TWO_PI
    s = math.sin(theta)
    d = turned_back(S, l, (s * math.cos(phi), s * math.sin(phi), math.cos(theta)))
    rgb, density = radiance_and_density(S, l, d)
    return d, rgb, density


@inlined
def seen(S, l, N, two_sided, d):
    """Return what comes from direction d, and the density over solid angle of sampling it."""
    return radiance_and_density(S, l, d)


@inlined
def sample(S, wp, l, P, N, two_sided, pick, u, v):
    """Return (direction, distance, radiance, density, is delta)."""
    wi, rgb, density = sample_by_luminance(S, l, pick, u, v)
    return wi, BIG, rgb, density, False


def far(light: EnvironmentLight | Sky, assets: Assets, keep) -> Far | None:
    """Return what the engine needs of a picture at infinity; None while its file is not there."""
    if isinstance(light, Sky):
        key = (str((light.azimuth_deg, light.elevation_deg, light.turbidity, light.ground)),)
        picture = keep(light.id, key, lambda: _with_tables(sky_picture(light)))
        turn, rgb = np.eye(3), light.power
    else:
        image = assets.picture(light.image)
        if image is None:
            return None
        # Negative light is not light: pictures get it from sharpening and from narrow colour spaces.
        picture = keep(light.id, (image,), lambda: _with_tables(np.maximum(image, 0)))
        c, s = math.cos(math.radians(light.azimuth_deg)), math.sin(math.radians(light.azimuth_deg))
        turn = np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]])
        rgb = light.power * (np.array(light.colour) if light.colour_from == "colour" else np.ones(3))
    return Far(Light.ENVIRONMENT, {"RGB": rgb, "TURN": turn.ravel(), "DENSITY": picture[1][2]}, picture)


def _with_tables(picture: np.ndarray) -> tuple[np.ndarray, tuple]:
    return picture, sampling_tables(picture)
