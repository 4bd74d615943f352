"""Choosing lights, sampling them, and the density of having done so.

Names: P, N shading point and normal; two_sided True where light may come through; l light; u numbers in [0, 1);
S scene table. Lights near by are chosen through a tree (Conty Estevez and Kulla 2018, Importance sampling of many
lights with adaptive tree splitting); lights at infinity are chosen evenly beside the tree.
"""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, jit, row_f4, row_u4, u4
from nocturne.engine.kernels.materials import emission_at
from nocturne.engine.kernels.vectors import (
    BIG,
    HALF,
    INV_PI,
    ONE,
    PI,
    TINY,
    TWO,
    TWO_PI,
    ZERO,
    added,
    along,
    clamped,
    cross,
    dot,
    frame,
    length,
    load,
    luminance,
    mixed,
    row_at,
    scaled,
    search,
    store,
    subtracted,
    unit,
)
from nocturne.engine.layout import environment as Environment
from nocturne.engine.layout import glow as Glow
from nocturne.engine.layout import instance as Instance
from nocturne.engine.layout import lamp as Lamp
from nocturne.engine.layout import light as Light
from nocturne.engine.layout import mesh as Mesh
from nocturne.engine.layout import node as Node
from nocturne.engine.layout import ray as Ray
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import settings as Settings
from nocturne.engine.layout import vertex as Vertex

UNIFORM = f4(1.0 / (4.0 * math.pi))
SMALL_SOLID_ANGLE = f4(2e-3)


# ---- choosing ------------------------------------------------------------------------------------------------------


@jit
def cos_less(cos_a, sin_a, cos_b, sin_b):
    """Return the cosine of angle a less angle b, of 0 if b is larger."""
    if cos_a > cos_b:
        return ONE
    return cos_a * cos_b + sin_a * sin_b


@jit
def sine_of(c):
    return math.sqrt(max(ONE - c * c, ZERO))


@jit
def importance(S, node, P, N, two_sided):
    """Return an upper estimate of what the node's lights bring to P; angles are only handled by cosine and sine."""
    F = T.node_f(S)
    power = f4(F[node, Node.POWER])
    if power <= ZERO:
        return ZERO
    low = row_at(F, node, Node.LOW)
    high = row_at(F, node, Node.HIGH)
    to = subtracted(scaled(added(low, high), HALF), P)
    diagonal = subtracted(high, low)
    r2 = dot(diagonal, diagonal) * f4(0.25)
    d2 = dot(to, to)
    result = power / max(d2, max(r2, f4(1e-8)))
    if d2 > r2 * f4(1.0001):
        w = scaled(to, ONE / math.sqrt(d2))
        sin_b = math.sqrt(r2 / d2)
        cos_b = math.sqrt(ONE - r2 / d2)
        cos_s = f4(F[node, Node.COS_SPREAD])
        if cos_s > f4(-0.9999):
            c = clamped(-dot(row_at(F, node, Node.AXIS), w), -ONE, ONE)
            sin_s = sine_of(cos_s)
            past = cos_less(c, sine_of(c), cos_s, sin_s)
            away = cos_less(past, sine_of(past), cos_b, sin_b)
            if away < f4(F[node, Node.COS_EMISSION]):
                return ZERO
            result *= max(away, f4(0.02))
        c = dot(N, w)
        if two_sided:
            c = abs(c)
        c = clamped(c, -ONE, ONE)
        incident = cos_less(c, sine_of(c), cos_b, sin_b)
        if incident <= ZERO:
            return ZERO
        result *= max(incident, f4(0.02))
    return result


@jit
def tree_share(S):
    """Return the chance to choose among the lights near by."""
    n = T.settings_i(S)[Settings.N_INFINITE]
    if T.settings_i(S)[Settings.N_TREE_NODES] == 0:
        return ZERO
    if n == 0:
        return ONE
    return TWO / (TWO + f4(n))


@jit
def choose(S, P, N, two_sided, u):
    """Return (light, chance, u spread again over [0, 1)); light -1 if none can reach P."""
    near = tree_share(S)
    n = T.settings_i(S)[Settings.N_INFINITE]
    if u >= near:
        if n == 0:
            return i4(-1), ZERO, u
        v = clamped((u - near) / (ONE - near), ZERO, f4(0.9999999))
        k = min(i4(v * f4(n)), i4(n - 1))
        return i4(T.infinite(S)[k]), (ONE - near) / f4(n), v * f4(n) - f4(k)
    v = u / near
    chance = near
    node = i4(0)
    while True:
        left = i4(T.node_i(S)[node, Node.LEFT])
        if left < 0:
            return i4(T.node_i(S)[node, Node.LIGHT]), chance, clamped(v, ZERO, f4(0.9999999))
        a = importance(S, left, P, N, two_sided)
        b = importance(S, left + 1, P, N, two_sided)
        if a + b <= ZERO:
            return i4(-1), ZERO, v
        p = a / (a + b)
        if v < p:
            node = left
            v = v / p
            chance *= p
        else:
            node = i4(left + 1)
            v = (v - p) / (ONE - p)
            chance *= ONE - p


@jit
def chance_of(S, l, P, N, two_sided):
    """Return the chance with which `choose` takes light l from P."""
    near = tree_share(S)
    L = T.light_i(S)
    if L[l, Light.IN_TREE] == 0:
        return (ONE - near) / f4(max(T.settings_i(S)[Settings.N_INFINITE], 1))
    chance = near
    trail = L[l, Light.TRAIL]
    node = i4(0)
    for _ in range(L[l, Light.DEPTH]):
        left = i4(T.node_i(S)[node, Node.LEFT])
        a = importance(S, left, P, N, two_sided)
        b = importance(S, left + 1, P, N, two_sided)
        if a + b <= ZERO:
            return ZERO
        if trail & 1:
            node = i4(left + 1)
            chance *= b / (a + b)
        else:
            node = left
            chance *= a / (a + b)
        trail >>= 1
    return chance


# ---- rectangles (Ureña, Fajardo and King 2013, An area-preserving parametrization for spherical rectangles) ----------


@jit
def rectangle(S, l, P):
    """Return what sampling light l from P needs: axes, near corner, far corner, edge normals' z, solid angle."""
    F = T.light_f(S)
    hx = row_at(F, l, Light.X)
    hy = row_at(F, l, Light.Y)
    lx = length(hx)
    ly = length(hy)
    x = scaled(hx, ONE / lx)
    y = scaled(hy, ONE / ly)
    d = subtracted(row_at(F, l, Light.POS), P)
    z = cross(x, y)
    z0 = dot(d, z)
    if z0 > ZERO:
        z = (-z[0], -z[1], -z[2])
        z0 = -z0
    cx = dot(d, x)
    cy = dot(d, y)
    x0 = cx - lx
    x1 = cx + lx
    y0 = cy - ly
    y1 = cy + ly
    z2 = z0 * z0
    n0 = -y0 / math.sqrt(max(z2 + y0 * y0, TINY))
    n1 = x1 / math.sqrt(max(z2 + x1 * x1, TINY))
    n2 = y1 / math.sqrt(max(z2 + y1 * y1, TINY))
    n3 = -x0 / math.sqrt(max(z2 + x0 * x0, TINY))
    # Vertices' directions: z components of the edge normals give the inner angles.
    n0z = n0
    n1z = n1
    n2z = n2
    n3z = n3
    g0 = math.acos(clamped(-n0z * n1z, -ONE, ONE))
    g1 = math.acos(clamped(-n1z * n2z, -ONE, ONE))
    g2 = math.acos(clamped(-n2z * n3z, -ONE, ONE))
    g3 = math.acos(clamped(-n3z * n0z, -ONE, ONE))
    k = TWO * PI - g2 - g3
    solid = g0 + g1 - k
    return x, y, z, x0, x1, y0, y1, z0, n0z, n2z, k, solid


@jit
def rectangle_density(S, l, P, wi, distance):
    """Return the density over solid angle of sampling rectangle l from P towards a point at `distance` along wi."""
    solid = rectangle(S, l, P)[11]
    if solid > SMALL_SOLID_ANGLE:
        return ONE / solid
    c = abs(dot(row_at(T.light_f(S), l, Light.N), wi))
    return distance * distance / max(c * f4(T.light_f(S)[l, Light.AREA]), TINY)


@jit
def sample_rectangle(S, l, P, u, v):
    """Return (direction, distance, density) towards rectangle l."""
    x, y, z, x0, x1, y0, y1, z0, b0, b1, k, solid = rectangle(S, l, P)
    F = T.light_f(S)
    if solid <= SMALL_SOLID_ANGLE:
        p = along(row_at(F, l, Light.X), TWO * u - ONE, row_at(F, l, Light.POS))
        to = subtracted(along(row_at(F, l, Light.Y), TWO * v - ONE, p), P)
        d = length(to)
        wi = scaled(to, ONE / max(d, TINY))
        c = abs(dot(row_at(F, l, Light.N), wi))
        return wi, d, d * d / max(c * f4(F[l, Light.AREA]), TINY)
    au = u * solid + k
    fu = (math.cos(au) * b0 - b1) / math.sin(au)
    cu = ONE / math.sqrt(fu * fu + b0 * b0)
    if fu < ZERO:
        cu = -cu
    cu = clamped(cu, -ONE, ONE)
    xu = clamped(-(cu * z0) / max(math.sqrt(ONE - cu * cu), f4(1e-6)), x0, x1)
    d2 = xu * xu + z0 * z0
    h0 = y0 / math.sqrt(d2 + y0 * y0)
    h1 = y1 / math.sqrt(d2 + y1 * y1)
    hv = h0 + v * (h1 - h0)
    hv2 = hv * hv
    yv = y1
    if hv2 < f4(1.0 - 1e-6):
        yv = hv * math.sqrt(d2) / math.sqrt(ONE - hv2)
    to = added(added(scaled(x, xu), scaled(y, yv)), scaled(z, z0))
    d = length(to)
    return scaled(to, ONE / max(d, TINY)), d, ONE / solid


# ---- spheres and cones ---------------------------------------------------------------------------------------------


@jit
def cone_density(sin2):
    """Return the density of uniform directions in a cone with the given squared sine of its half angle."""
    return ONE / (TWO_PI * sin2 / (ONE + math.sqrt(max(ONE - sin2, ZERO))))


@jit
def sample_cone(axis, sin2, u, v):
    """Return a uniform direction in a cone about axis, and its cosine to it."""
    spread = sin2 / (ONE + math.sqrt(max(ONE - sin2, ZERO)))
    c = ONE - u * spread
    s = math.sqrt(max(u * spread * (TWO - u * spread), ZERO))
    t, b = frame(axis)
    phi = TWO_PI * v
    return unit(added(scaled(axis, c), added(scaled(t, s * math.cos(phi)), scaled(b, s * math.sin(phi))))), c


@jit
def sphere_sin2(S, l, P):
    F = T.light_f(S)
    to = subtracted(row_at(F, l, Light.POS), P)
    r = f4(F[l, Light.RADIUS])
    return r * r / max(dot(to, to), TINY)


# ---- environments --------------------------------------------------------------------------------------------------


@jit
def environment_place(S, l, d):
    """Return (w, h, x, y): where direction d looks in the environment's picture, in pixels."""
    e = i4(T.light_i(S)[l, Light.FIRST])
    w = i4(T.env_i(S)[e, Environment.WIDTH])
    h = i4(T.env_i(S)[e, Environment.HEIGHT])
    t = environment_turned(S, l, d)
    phi = math.atan2(t[1], t[0])
    x = (HALF - phi / TWO_PI) * f4(w)
    y = math.acos(clamped(t[2], -ONE, ONE)) * INV_PI * f4(h)
    return w, h, x, y


@jit
def environment_turned(S, l, d):
    F = T.light_f(S)
    return (
        f4(F[l, Light.TURN]) * d[0] + f4(F[l, Light.TURN + 1]) * d[1] + f4(F[l, Light.TURN + 2]) * d[2],
        f4(F[l, Light.TURN + 3]) * d[0] + f4(F[l, Light.TURN + 4]) * d[1] + f4(F[l, Light.TURN + 5]) * d[2],
        f4(F[l, Light.TURN + 6]) * d[0] + f4(F[l, Light.TURN + 7]) * d[1] + f4(F[l, Light.TURN + 8]) * d[2],
    )


@jit
def environment_back(S, l, d):
    F = T.light_f(S)
    return (
        f4(F[l, Light.TURN]) * d[0] + f4(F[l, Light.TURN + 3]) * d[1] + f4(F[l, Light.TURN + 6]) * d[2],
        f4(F[l, Light.TURN + 1]) * d[0] + f4(F[l, Light.TURN + 4]) * d[1] + f4(F[l, Light.TURN + 7]) * d[2],
        f4(F[l, Light.TURN + 2]) * d[0] + f4(F[l, Light.TURN + 5]) * d[1] + f4(F[l, Light.TURN + 8]) * d[2],
    )


@jit
def environment_corners(S, e, line, column):
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
def environment_cell(S, l, d):
    """Return (environment, line, column, place in the cell 0..1 across and down) of direction d."""
    w, h, x, y = environment_place(S, l, d)
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
def environment_value(S, l, d):
    """Return environment l's bilinear radiance in direction d, before the light's strength, and its cell's line."""
    e, line, column, fx, fy = environment_cell(S, l, d)
    a, b, c, g = environment_corners(S, e, line, column)
    return bilinear(a, b, c, g, fx, fy), line


@jit
def cell_middle(line, h):
    """Return (top, height) in pixels of a line of cells, of a picture h pixels high."""
    top = max(f4(line) - HALF, ZERO)
    return top, min(f4(line) + HALF, f4(h)) - top


@jit
def environment_seen(S, l, d):
    """Return the radiance of environment l in direction d, and the density over solid angle of sampling it.

    Cells are chosen by the mean of their corners times the sine at their middle, and inside of a cell a point by the
    bilinear luminance itself, so the mean drops out: luminance times a constant times the ratio of both sines.
    """
    rgb, line = environment_value(S, l, d)
    h = i4(T.env_i(S)[i4(T.light_i(S)[l, Light.FIRST]), Environment.HEIGHT])
    top, height = cell_middle(line, h)
    middle = math.sin(PI * (top + HALF * height) / f4(h))
    t = environment_turned(S, l, d)
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


@jit
def sample_environment(S, l, pick, u, v):
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
    a, b, c, g = environment_corners(S, e, line, column)
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
    d = environment_back(S, l, (s * math.cos(phi), s * math.sin(phi), math.cos(theta)))
    rgb, density = environment_seen(S, l, d)
    return d, rgb, density


@jit
def dome_density(N, two_sided, d):
    if two_sided:
        return UNIFORM
    return max(dot(N, d), ZERO) * INV_PI


@jit
def infinite_seen(S, l, N, two_sided, d):
    """Return what light l at infinity sends from direction d, and the density over solid angle of sampling it."""
    kind = T.light_i(S)[l, Light.KIND]
    if kind == Light.ENVIRONMENT:
        return environment_seen(S, l, d)
    rgb = row_at(T.light_f(S), l, Light.RGB)
    if kind == Light.SUN:
        if dot(row_at(T.light_f(S), l, Light.X), d) < f4(T.light_f(S)[l, Light.COS_OUTER]):
            rgb = (ZERO, ZERO, ZERO)
        s = f4(T.light_f(S)[l, Light.RADIUS])
        return rgb, cone_density(s * s)
    return rgb, dome_density(N, two_sided, d)


@jit
def near_density(S, l, P, wi, distance, prim):
    """Return the density over solid angle of sampling the point of light l at `distance` from P along wi."""
    kind = T.light_i(S)[l, Light.KIND]
    if kind == Light.RECT:
        return rectangle_density(S, l, P, wi, distance)
    if kind == Light.SPHERE:
        s2 = sphere_sin2(S, l, P)
        if s2 >= ONE:
            return ZERO
        return cone_density(s2)
    i = T.light_i(S)[l, Light.FIRST] + prim
    C = T.mesh_light_cdf(S)
    before = ZERO if prim == 0 else f4(C[i - 1])
    M = T.mesh_light_f(S)
    n = unit(cross(row_at(M, i, Glow.EDGE_1), row_at(M, i, Glow.EDGE_2)))
    c = abs(dot(n, wi))
    return (f4(C[i]) - before) * distance * distance / max(c * f4(M[i, Glow.AREA]), TINY)


# ---- what the light unit does --------------------------------------------------------------------------------------


def sample_lamp(S, wp):
    """Unit: choose a light from the last real vertex (LV) and a point on it; write LAMP. Density 0: none."""
    W = row_f4(wp, Scratch.COUNT)
    I = row_u4(wp, Scratch.COUNT)
    A = Scratch.LAMP
    W[A + Lamp.DENSITY] = ZERO
    P = load(W, Scratch.LV + Vertex.POSITION)
    N = load(W, Scratch.LV + Vertex.NORMAL)
    two_sided = I[Scratch.LV + Vertex.TWO_SIDED] != u4(0)
    l, chance, pick = choose(S, P, N, two_sided, f4(W[Scratch.RANDOM]))
    if l < 0:
        return
    u = f4(W[Scratch.RANDOM + 1])
    v = f4(W[Scratch.RANDOM + 2])
    F = T.light_f(S)
    kind = T.light_i(S)[l, Light.KIND]
    rgb = row_at(F, l, Light.RGB)
    distance = BIG
    density = ZERO
    delta = False
    wi = N
    if kind == Light.RECT:
        n = row_at(F, l, Light.N)
        if dot(n, subtracted(P, row_at(F, l, Light.POS))) <= ZERO:
            return
        wi, distance, density = sample_rectangle(S, l, P, u, v)
        if dot(n, wi) >= ZERO:
            return
    elif kind == Light.SPHERE:
        s2 = sphere_sin2(S, l, P)
        if s2 >= ONE:
            return
        to = subtracted(row_at(F, l, Light.POS), P)
        d = length(to)
        wi, c = sample_cone(scaled(to, ONE / d), s2, u, v)
        r = f4(F[l, Light.RADIUS])
        distance = d * c - math.sqrt(max(r * r - d * d * (ONE - c * c), ZERO))
        density = cone_density(s2)
    elif kind == Light.MESH:
        first = i4(T.light_i(S)[l, Light.FIRST])
        i = i4(search(T.mesh_light_cdf(S), first, T.light_i(S)[l, Light.TRIANGLES], pick))
        M = T.mesh_light_f(S)
        s = math.sqrt(u)
        b1 = s * (ONE - v)
        b2 = s * v
        e1 = row_at(M, i, Glow.EDGE_1)
        e2 = row_at(M, i, Glow.EDGE_2)
        to = subtracted(along(e2, b2, along(e1, b1, row_at(M, i, Glow.CORNER))), P)
        distance = length(to)
        wi = scaled(to, ONE / max(distance, TINY))
        if dot(cross(e1, e2), wi) >= ZERO:
            return
        density = near_density(S, l, P, wi, distance, i - first)
        material = i4(T.inst_i(S)[T.light_i(S)[l, Light.INSTANCE], Instance.MATERIAL])
        t = T.mesh_light_i(S)[i, Glow.TRIANGLE]
        first_vertex = T.mesh_i(S)[T.mesh_light_i(S)[i, Glow.MESH], Mesh.FIRST_VERTEX]
        a = i4(first_vertex + T.tris(S)[t, 0])
        b = i4(first_vertex + T.tris(S)[t, 1])
        c3 = i4(first_vertex + T.tris(S)[t, 2])
        b0 = ONE - b1 - b2
        U = T.uvs(S)
        rgb = emission_at(
            S,
            material,
            b0 * f4(U[a, 0]) + b1 * f4(U[b, 0]) + b2 * f4(U[c3, 0]),
            b0 * f4(U[a, 1]) + b1 * f4(U[b, 1]) + b2 * f4(U[c3, 1]),
        )
    elif kind == Light.POINT or kind == Light.SPOT:
        to = subtracted(row_at(F, l, Light.POS), P)
        d2 = max(dot(to, to), f4(1e-8))
        distance = math.sqrt(d2)
        wi = scaled(to, ONE / distance)
        density = ONE
        delta = True
        k = ONE / d2
        if kind == Light.SPOT:
            c = -dot(row_at(F, l, Light.X), wi)
            inner = f4(F[l, Light.COS_INNER])
            outer = f4(F[l, Light.COS_OUTER])
            t = clamped((c - outer) / max(inner - outer, f4(1e-6)), ZERO, ONE)
            k *= t * t * (f4(3) - TWO * t)
        if k <= ZERO:
            return
        rgb = scaled(rgb, k)
    elif kind == Light.ENVIRONMENT:
        wi, rgb, density = sample_environment(S, l, pick, u, v)
    elif kind == Light.SUN:
        s = f4(F[l, Light.RADIUS])
        wi, c = sample_cone(row_at(F, l, Light.X), s * s, u, v)
        density = cone_density(s * s)
    else:
        if two_sided:
            z = ONE - TWO * u
            s = math.sqrt(max(ONE - z * z, ZERO))
            wi = (s * math.cos(TWO_PI * v), s * math.sin(TWO_PI * v), z)
            density = UNIFORM
        else:
            t, b = frame(N)
            s = math.sqrt(u)
            c = math.sqrt(max(ONE - u, ZERO))
            wi = unit(
                added(scaled(N, c), added(scaled(t, s * math.cos(TWO_PI * v)), scaled(b, s * math.sin(TWO_PI * v))))
            )
            density = max(dot(N, wi), ZERO) * INV_PI
    if density <= TINY:
        return
    store(W, A + Lamp.DIRECTION, wi)
    W[A + Lamp.DISTANCE] = distance
    store(W, A + Lamp.RADIANCE, rgb)
    W[A + Lamp.DENSITY] = density * chance
    I[A + Lamp.IS_DELTA] = u4(1) if delta else u4(0)
    I[A + Lamp.LIGHT] = u4(l)


def lamp_hit(S, wp):
    """Unit: write to RANDOM the density with which LV would have sampled the lamp point that the path hit.

    In: LIGHT (light), RANDOM 0 distance from LV, RANDOM 1 triangle (as unsigned); direction in RAY.
    """
    W = row_f4(wp, Scratch.COUNT)
    I = row_u4(wp, Scratch.COUNT)
    P = load(W, Scratch.LV + Vertex.POSITION)
    N = load(W, Scratch.LV + Vertex.NORMAL)
    two_sided = I[Scratch.LV + Vertex.TWO_SIDED] != u4(0)
    l = i4(I[Scratch.LIGHT])
    d = load(W, Scratch.RAY + Ray.DIRECTION)
    density = near_density(S, l, P, d, f4(W[Scratch.RANDOM]), i4(I[Scratch.RANDOM + 1]))
    W[Scratch.RANDOM] = density * chance_of(S, l, P, N, two_sided)


def infinite_hit(S, wp):
    """Unit: radiance of infinite light LIGHT along RAY to LAMP 4..6, and its density from LV to LAMP 7."""
    W = row_f4(wp, Scratch.COUNT)
    I = row_u4(wp, Scratch.COUNT)
    l = i4(I[Scratch.LIGHT])
    d = load(W, Scratch.RAY + Ray.DIRECTION)
    P = load(W, Scratch.LV + Vertex.POSITION)
    N = load(W, Scratch.LV + Vertex.NORMAL)
    two_sided = I[Scratch.LV + Vertex.TWO_SIDED] != u4(0)
    rgb, density = infinite_seen(S, l, N, two_sided, d)
    store(W, Scratch.LAMP + Lamp.RADIANCE, rgb)
    W[Scratch.LAMP + Lamp.DENSITY] = density * chance_of(S, l, P, N, two_sided)
