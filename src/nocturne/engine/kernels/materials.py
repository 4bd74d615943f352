"""The surface: OpenPBR's metal and dielectric base with coat, evaluated and sampled in the local frame.

Energy: each microfacet lobe is divided by its own directional albedo (Turquin 2019, Practical multiple scattering
compensation for microfacet models), and what lies below an interface receives what that interface does not reflect, so
that a white surface returns exactly the light it gets. Albedos come from tables, see `nocturne.engine.albedo`.

Names as in microfacet.py; W work row, I the same row unsigned, S scene table, M = Scratch.MAT + offset in Mat.
"""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, jit, row_f4, row_u4, u4
from nocturne.engine.kernels.microfacet import (
    fresnel_conductor,
    fresnel_dielectric,
    fresnel_edge_tint,
    ggx_density,
    ggx_lambda,
    sample_visible_normal,
)
from nocturne.engine.kernels.values import whole_value
from nocturne.engine.kernels.vectors import (
    FOUR,
    INV_PI,
    ONE,
    TINY,
    TWO,
    TWO_PI,
    ZERO,
    added,
    clamped,
    cross,
    dot,
    load,
    luminance,
    mixed,
    multiplied,
    negated,
    scaled,
    store,
    subtracted,
    transform_normal,
    unit,
)
from nocturne.engine.layout import instance as Instance
from nocturne.engine.layout import lamp as Lamp
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import mesh as Mesh
from nocturne.engine.layout import onward as Onward
from nocturne.engine.layout import ray as Ray
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import texture as Texture
from nocturne.engine.layout import value as Value

W_COUNT = Scratch.COUNT
M = Scratch.MAT
SHARP = f4(1e-3)  # below this alpha a lobe is a mirror
TEXEL = f4(1.0 / 65535.0)


# ---- textures ------------------------------------------------------------------------------------------------------


@jit
def texel(S, first, w, h, x, y):
    x = x % w
    y = y % h
    i = first + y * w + x
    t = T.texels(S)
    r = f4(t[i, 0]) * TEXEL
    g = f4(t[i, 1]) * TEXEL
    b = f4(t[i, 2]) * TEXEL
    return (r * r, g * g, b * b)


@jit
def texture(S, t, u, v):
    """Return the bilinear value of texture t at (u, v); v points up, the picture repeats."""
    first = T.tex_i(S)[t, Texture.FIRST_TEXEL]
    w = T.tex_i(S)[t, Texture.WIDTH]
    h = T.tex_i(S)[t, Texture.HEIGHT]
    x = (u - math.floor(u)) * w - 0.5
    y = (1.0 - (v - math.floor(v))) * h - 0.5
    x0 = math.floor(x)
    y0 = math.floor(y)
    fx = f4(x - x0)
    fy = f4(y - y0)
    a = texel(S, first, w, h, x0, y0)
    b = texel(S, first, w, h, x0 + 1, y0)
    c = texel(S, first, w, h, x0, y0 + 1)
    d = texel(S, first, w, h, x0 + 1, y0 + 1)
    k = f4(T.tex_f(S)[t, Texture.SCALE])
    top = added(scaled(a, ONE - fx), scaled(b, fx))
    low = added(scaled(c, ONE - fx), scaled(d, fx))
    return scaled(added(scaled(top, ONE - fy), scaled(low, fy)), k)


@jit
def bound_texture(S, b, u, v):
    """Return what binding b puts out at (u, v), inverted if it is to be."""
    F = T.bind_f(S)
    t = texture(
        S,
        T.bind_i(S)[b, Texture.TEXTURE],
        f4(F[b, Texture.TO_U]) * u + f4(F[b, Texture.TO_U + 1]) * v + f4(F[b, Texture.TO_U + 2]),
        f4(F[b, Texture.TO_V]) * u + f4(F[b, Texture.TO_V + 1]) * v + f4(F[b, Texture.TO_V + 2]),
    )
    if f4(F[b, Texture.IS_INVERTED]) > ZERO:
        # A picture may hold values above 1; their negative is black, not less.
        t = (max(ONE - t[0], ZERO), max(ONE - t[1], ZERO), max(ONE - t[2], ZERO))
    return t


@jit
def emission_at(S, material, u, v):
    """Return the emitted radiance of a material where its texture coordinates are (u, v)."""
    e = (
        f4(T.mat_f(S)[material, Mat.EMISSION]),
        f4(T.mat_f(S)[material, Mat.EMISSION + 1]),
        f4(T.mat_f(S)[material, Mat.EMISSION + 2]),
    )
    first = T.mat_i(S)[material, Mat.FIRST_BINDING]
    for b in range(first, first + T.mat_i(S)[material, Mat.BINDINGS]):
        if T.bind_i(S)[b, Texture.PARAMETER] == Mat.EMISSION:
            t = bound_texture(S, b, u, v)
            k = f4(T.bind_f(S)[b, Texture.SHARE])
            e = (e[0] * mixed(ONE, t[0], k), e[1] * mixed(ONE, t[1], k), e[2] * mixed(ONE, t[2], k))
    return e


@jit
def keep_in_range(W, at, parameter, n):
    """Hold what pictures made of a parameter to what it may be: a reflectance above 1 would make light."""
    if parameter == Mat.EMISSION or parameter == Mat.NORMAL:
        return
    low = ZERO
    high = ONE
    if parameter == Mat.IOR or parameter == Mat.COAT_IOR:
        low = ONE
        high = f4(3)
    for k in range(n):
        W[at + k] = clamped(f4(W[at + k]), low, high)


@jit
def read_material(S, W, to, m, u, v):
    """Copy material m's row to the work row at `to`, and let textures replace what they drive at (u, v)."""
    R = T.mat_f(S)
    for k in range(Mat.COUNT):
        W[to + k] = R[m, k]
    first = T.mat_i(S)[m, Mat.FIRST_BINDING]
    for b in range(first, first + T.mat_i(S)[m, Mat.BINDINGS]):
        at = to + T.bind_i(S)[b, Texture.PARAMETER]
        n = T.bind_i(S)[b, Texture.CHANNELS]
        t = bound_texture(S, b, u, v)
        k = f4(T.bind_f(S)[b, Texture.SHARE])
        if T.bind_i(S)[b, Texture.BLEND] == Texture.REPLACE:
            W[at] = mixed(f4(W[at]), t[0], k)
            if n == 3:
                W[at + 1] = mixed(f4(W[at + 1]), t[1], k)
                W[at + 2] = mixed(f4(W[at + 2]), t[2], k)
        else:
            W[at] = f4(W[at]) * mixed(ONE, t[0], k)
            if n == 3:
                W[at + 1] = f4(W[at + 1]) * mixed(ONE, t[1], k)
                W[at + 2] = f4(W[at + 2]) * mixed(ONE, t[2], k)
        keep_in_range(W, at, T.bind_i(S)[b, Texture.PARAMETER], n)


@jit
def bend_normal(W):
    """Turn the shading normal by the normal map, and keep it on the viewer's side."""
    amount = f4(W[M + Mat.NORMAL_AMOUNT])
    n = load(W, Scratch.N)
    if amount > ZERO:
        x = (f4(W[M + Mat.NORMAL]) * TWO - ONE) * amount
        y = (f4(W[M + Mat.NORMAL + 1]) * TWO - ONE) * amount
        z = max(f4(W[M + Mat.NORMAL + 2]) * TWO - ONE, f4(0.05))
        du = load(W, Scratch.DPDU)
        t = subtracted(du, scaled(n, dot(n, du)))
        if dot(t, t) > f4(1e-20):
            t = unit(t)
            b = cross(n, t)
            n = unit(added(added(scaled(t, x), scaled(b, y)), scaled(n, z)))
    # A bent or interpolated normal may face away from the viewer; a flat one never does, and stays as it is.
    wo = load(W, Scratch.WO)
    c = dot(n, wo)
    least = min(f4(0.02), dot(load(W, Scratch.G), wo))
    if c < least - f4(1e-6):
        n = unit(added(n, scaled(wo, least - c)))
    store(W, Scratch.N, n)


@jit
def texture_coordinates(S, mesh, prim, u, v):
    """Return the texture coordinates at barycentric (u, v) of a mesh's triangle."""
    t = T.mesh_i(S)[mesh, Mesh.FIRST_TRIANGLE] + prim
    first = T.mesh_i(S)[mesh, Mesh.FIRST_VERTEX]
    U = T.uvs(S)
    a = i4(first + T.tris(S)[t, 0])
    b = i4(first + T.tris(S)[t, 1])
    c = i4(first + T.tris(S)[t, 2])
    w = ONE - u - v
    return (
        w * f4(U[a, 0]) + u * f4(U[b, 0]) + v * f4(U[c, 0]),
        w * f4(U[a, 1]) + u * f4(U[b, 1]) + v * f4(U[c, 1]),
    )


# ---- albedo tables -------------------------------------------------------------------------------------------------


@jit
def table_metal(S, roughness, mu):
    """Return the directional albedo of a GGX metal with F = 1."""
    x = clamped(roughness, ZERO, ONE) * f4(31)
    y = math.sqrt(clamped(mu, ZERO, ONE)) * f4(31)
    i = min(i4(x), i4(30))
    j = min(i4(y), i4(30))
    fx = x - f4(i)
    fy = y - f4(j)
    E = T.tab_metal(S)
    a = mixed(f4(E[i, j]), f4(E[i, j + 1]), fy)
    b = mixed(f4(E[i + 1, j]), f4(E[i + 1, j + 1]), fy)
    return mixed(a, b, fx)


@jit
def table_glass(S, eta, roughness, mu):
    """Return (reflected and transmitted, reflected) directional albedo of a rough dielectric boundary."""
    r = clamped((eta - ONE) / (eta + ONE), f4(-0.5), f4(0.5))
    x = math.sqrt(abs(r) * TWO) * f4(16)
    x = f4(16) + (x if r >= ZERO else -x)
    y = clamped(roughness, ZERO, ONE) * f4(31)
    z = math.sqrt(clamped(mu, ZERO, ONE)) * f4(31)
    i = min(i4(x), i4(31))
    j = min(i4(y), i4(30))
    k = min(i4(z), i4(30))
    fx = x - f4(i)
    fy = y - f4(j)
    fz = z - f4(k)
    E = T.tab_glass(S)
    whole = ZERO
    reflected = ZERO
    for a in range(2):
        wx = fx if a == 1 else ONE - fx
        for b in range(2):
            wy = fy if b == 1 else ONE - fy
            w0 = wx * wy * (ONE - fz)
            w1 = wx * wy * fz
            whole += w0 * f4(E[i + a, j + b, k, 0]) + w1 * f4(E[i + a, j + b, k + 1, 0])
            reflected += w0 * f4(E[i + a, j + b, k, 1]) + w1 * f4(E[i + a, j + b, k + 1, 1])
    return whole, reflected


# ---- what is worked out once for a hit -----------------------------------------------------------------------------


@jit
def metal_fresnel(W, at, outside, c, k):
    """Return the reflectance of the metal whose row is at `at`, under index `outside`, in channel k at cosine c."""
    weight = clamped(f4(W[at + Mat.SPECULAR_WEIGHT]), ZERO, ONE)
    if f4(W[at + Mat.HAS_NK]) > ZERO:
        return weight * fresnel_conductor(c, f4(W[at + Mat.N + k]) / outside, f4(W[at + Mat.K + k]) / outside)
    return weight * fresnel_edge_tint(c, f4(W[at + Mat.BASE + k]), f4(W[at + Mat.SPECULAR_COLOR + k]))


@jit
def metal_outside(W, at, outside):
    """Return the index of what lies on the metal: the coat's where there is one."""
    return mixed(outside, f4(W[at + Mat.COAT_IOR]), clamped(f4(W[at + Mat.COAT]), ZERO, ONE))


@jit
def weighted_eta(eta, weight):
    """Return the index ratio whose normal reflectance is `weight` times that of eta (OpenPBR, specular_weight)."""
    r = (eta - ONE) / (eta + ONE)
    e = math.sqrt(clamped(weight * r * r, ZERO, f4(0.98)))
    if r < ZERO:
        e = -e
    return (ONE + e) / (ONE - e)


@jit
def sheet_reflectance(r):
    """Return the reflectance of a thin sheet, all reflections between its faces of reflectance r counted."""
    return TWO * r / (ONE + r)


@jit
def coated_roughness(W, at):
    """Return the base's roughness as seen through the coat: a rough coat blurs (OpenPBR, coat roughening)."""
    rough = clamped(f4(W[at + Mat.ROUGHNESS]), ZERO, ONE)
    coat = clamped(f4(W[at + Mat.COAT]), ZERO, ONE)
    if coat <= ZERO:
        return rough
    coat_rough = clamped(f4(W[at + Mat.COAT_ROUGHNESS]), ZERO, ONE)
    r4 = rough * rough * rough * rough
    c4 = coat_rough * coat_rough * coat_rough * coat_rough
    return mixed(rough, math.sqrt(math.sqrt(min(ONE, r4 + TWO * c4))), coat)


@jit
def transmit_tint(W, at, is_thin, k):
    """Return the colour that passing the surface gives; a depth gives it to the inside instead, which a sheet lacks."""
    if f4(W[at + Mat.TRANS_DEPTH]) > ZERO and not is_thin:
        return ONE
    return f4(W[at + Mat.TRANS_COLOR + k])


@jit
def base_albedo(W, at, outside, mu, reflected, is_thin, k):
    """Return the albedo of what lies under the coat in channel k, with what goes through it counted as returned."""
    metal = clamped(f4(W[at + Mat.METALNESS]), ZERO, ONE)
    glass = clamped(f4(W[at + Mat.TRANSMISSION]), ZERO, ONE)
    value = ZERO
    if metal > ZERO:
        value = metal * metal_fresnel(W, at, outside, mu, k)
    if metal < ONE:
        tint = f4(W[at + Mat.SPECULAR_COLOR + k])
        base = f4(W[at + Mat.BASE + k])
        through = transmit_tint(W, at, is_thin, k)
        both = sheet_reflectance(reflected) if is_thin else reflected
        opaque = reflected * tint + (ONE - reflected) * base
        clear = both * tint + (ONE - both) * through
        value += (ONE - metal) * mixed(opaque, clear, glass)
    return value


@jit
def coat_passes(W, at, reflected, coat_eta, rough, under, k):
    """Return what a coat lets through to what lies under it and back, in channel k.

    Light thrown back by the coat's inner side meets the base again, which darkens and saturates it (OpenPBR, coat
    darkening): `reflected` is the coat's own reflectance on the way in, `under` the base's albedo. A mirror-like base
    sends light back the way it came, a wide one in all directions, where much of it meets the critical angle.
    """
    coat = clamped(f4(W[at + Mat.COAT]), ZERO, ONE)
    metal = clamped(f4(W[at + Mat.METALNESS]), ZERO, ONE)
    glass = clamped(f4(W[at + Mat.TRANSMISSION]), ZERO, ONE)
    r0 = (coat_eta - ONE) / (coat_eta + ONE)
    wide = max(ONE - (ONE - r0 * r0) / (coat_eta * coat_eta), ZERO)
    inner = mixed(reflected, wide, mixed(ONE, rough, metal + (ONE - metal) * glass))
    darker = (ONE - inner) / max(ONE - clamped(under, ZERO, ONE) * inner, f4(1e-6))
    share = coat * f4(W[at + Mat.COAT_DARKENING])
    tint = mixed(ONE, f4(W[at + Mat.COAT_COLOR + k]), coat)
    return (ONE - coat * reflected) * tint * mixed(ONE, darker, share)


@jit
def let_straight(S, W, at, outside, mu):
    """Return what of the light a thin sheet lets straight through at cosine mu, its row at `at`.

    It is decided from the row as it is at the hit, by the same equations for paths and for shadow rays; a sheet that is
    rough there scatters what it lets through.
    """
    glass = clamped(f4(W[at + Mat.TRANSMISSION]), ZERO, ONE) * (ONE - clamped(f4(W[at + Mat.METALNESS]), ZERO, ONE))
    rough = coated_roughness(W, at)
    if glass <= ZERO or rough * rough >= SHARP:
        return (ZERO, ZERO, ZERO)
    mu = clamped(mu, f4(1e-4), ONE)
    r = fresnel_dielectric(mu, weighted_eta(f4(W[at + Mat.IOR]) / outside, f4(W[at + Mat.SPECULAR_WEIGHT])))
    q = glass * (ONE - sheet_reflectance(r))
    out = (
        q * f4(W[at + Mat.TRANS_COLOR]),
        q * f4(W[at + Mat.TRANS_COLOR + 1]),
        q * f4(W[at + Mat.TRANS_COLOR + 2]),
    )
    if f4(W[at + Mat.COAT]) > ZERO:
        eta = f4(W[at + Mat.COAT_IOR]) / outside
        coat_rough = clamped(f4(W[at + Mat.COAT_ROUGHNESS]), ZERO, ONE)
        c = fresnel_dielectric(mu, eta)
        if coat_rough * coat_rough >= SHARP:
            whole, part = table_glass(S, eta, coat_rough, mu)
            c = part / whole
        below = metal_outside(W, at, outside)
        out = (
            out[0] * coat_passes(W, at, c, eta, rough, base_albedo(W, at, below, mu, r, True, 0), 0),
            out[1] * coat_passes(W, at, c, eta, rough, base_albedo(W, at, below, mu, r, True, 1), 1),
            out[2] * coat_passes(W, at, c, eta, rough, base_albedo(W, at, below, mu, r, True, 2), 2),
        )
    return out


@jit
def derive(S, W, I, least_alpha):
    """Work out lobes' widths, energies and sampling shares from the material; ETA and the outer index are set."""
    wo = load(W, Scratch.WO)
    mu = clamped(dot(wo, load(W, Scratch.N)), f4(1e-4), ONE)
    outside = f4(W[Scratch.OUTSIDE])
    metalness = clamped(f4(W[M + Mat.METALNESS]), ZERO, ONE)
    transmission = clamped(f4(W[M + Mat.TRANSMISSION]), ZERO, ONE)
    is_thin = T.mat_i(S)[i4(I[Scratch.MATERIAL]), Mat.IS_THIN] != 0
    I[Scratch.IS_THIN] = u4(1) if is_thin else u4(0)
    if I[Scratch.INSIDE] != u4(0) and transmission > ZERO and not is_thin:
        W[M + Mat.COAT] = ZERO
    coat = clamped(f4(W[M + Mat.COAT]), ZERO, ONE)
    W[M + Mat.COAT] = coat
    rough = coated_roughness(W, M)
    is_clear = is_thin and rough * rough < SHARP  # what it lets through goes straight on, without an event
    alpha = max(rough * rough, least_alpha)
    rough = math.sqrt(alpha)
    eta = weighted_eta(f4(W[Scratch.ETA]), f4(W[M + Mat.SPECULAR_WEIGHT]))
    W[Scratch.ALPHA] = alpha
    W[Scratch.ETA] = eta
    I[Scratch.IS_DELTA] = u4(1) if alpha < SHARP else u4(0)
    below = metal_outside(W, M, outside)
    W[Scratch.METAL_OUTSIDE] = below

    # The base.
    all_reflecting = ONE
    if alpha < SHARP:
        W[Scratch.GLASS_ALL] = ONE
        reflected = fresnel_dielectric(mu, eta)
    else:
        whole, part = table_glass(S, eta, rough, mu)
        W[Scratch.GLASS_ALL] = whole
        reflected = part / whole
        all_reflecting = table_metal(S, rough, mu)
    lost = (ONE - all_reflecting) / all_reflecting
    W[Scratch.SPEC_ALL] = all_reflecting
    W[Scratch.GLASS_REFL] = reflected
    f0 = ZERO
    for k in range(3):
        f = metal_fresnel(W, M, below, ONE, k) if metalness > ZERO else f4(W[M + Mat.BASE + k])
        W[Scratch.METAL_F0 + k] = f
        W[Scratch.METAL_ADD + k] = ONE + f * lost
        f0 = max(f0, f)
    W[Scratch.GLASS] = ZERO if is_clear else (ONE - metalness) * transmission

    # The coat.
    attenuation = (ONE, ONE, ONE)
    reflected_coat = ZERO
    if coat > ZERO:
        coat_rough = clamped(f4(W[M + Mat.COAT_ROUGHNESS]), ZERO, ONE)
        coat_alpha = max(coat_rough * coat_rough, least_alpha)
        coat_eta = f4(W[M + Mat.COAT_IOR]) / outside
        W[Scratch.COAT_ALPHA] = coat_alpha
        W[Scratch.COAT_ETA] = coat_eta
        I[Scratch.IS_COAT_DELTA] = u4(1) if coat_alpha < SHARP else u4(0)
        c = fresnel_dielectric(mu, coat_eta)
        W[Scratch.COAT_ALL] = ONE
        if coat_alpha >= SHARP:
            whole, part = table_glass(S, coat_eta, math.sqrt(coat_alpha), mu)
            W[Scratch.COAT_ALL] = whole
            c = part / whole
        reflected_coat = coat * c
        attenuation = (
            coat_passes(W, M, c, coat_eta, rough, base_albedo(W, M, below, mu, reflected, is_thin, 0), 0),
            coat_passes(W, M, c, coat_eta, rough, base_albedo(W, M, below, mu, reflected, is_thin, 1), 1),
            coat_passes(W, M, c, coat_eta, rough, base_albedo(W, M, below, mu, reflected, is_thin, 2), 2),
        )
    store(W, Scratch.ATT, attenuation)

    let_through = luminance(attenuation)
    base = luminance((f4(W[M + Mat.BASE]), f4(W[M + Mat.BASE + 1]), f4(W[M + Mat.BASE + 2])))
    diffuse = (ONE - metalness) * (ONE - transmission) * (ONE - reflected) * base * let_through
    specular = metalness * f0 + (ONE - metalness) * reflected
    if is_thin:
        both = sheet_reflectance(reflected)
        specular = metalness * f0 + (ONE - metalness) * mixed(reflected, both, transmission)
        specular += f4(W[Scratch.GLASS]) * (ONE - both)
    else:
        specular += f4(W[Scratch.GLASS]) * (ONE - reflected)
    specular *= let_through
    straight = (ZERO, ZERO, ZERO)
    W[Scratch.P_EVENT] = ONE
    if is_clear:
        straight = let_straight(S, W, M, outside, abs(dot(wo, load(W, Scratch.G))))
        s = luminance(straight)
        if s > ZERO:
            rest = diffuse + specular + reflected_coat
            W[Scratch.P_EVENT] = clamped(rest / (rest + s), f4(0.1), f4(0.95))
    store(W, Scratch.STRAIGHT, straight)
    # What is there at all is sampled now and then, however little it seems to be: estimates leave the angle out.
    if diffuse > ZERO:
        diffuse = max(diffuse, f4(0.05))
    if specular > ZERO:
        specular = max(specular, f4(0.05))
    if coat > ZERO:
        reflected_coat = max(reflected_coat, f4(0.05))
    inv = ONE / max(diffuse + specular + reflected_coat, TINY)
    W[Scratch.P_DIFF] = diffuse * inv
    W[Scratch.P_SPEC] = specular * inv
    W[Scratch.P_COAT] = reflected_coat * inv


# ---- evaluate and sample -------------------------------------------------------------------------------------------


@jit
def reflectance(W, I, c):
    """Return metal and dielectric reflectance at half-vector cosine c, with multiple scattering."""
    metalness = clamped(f4(W[M + Mat.METALNESS]), ZERO, ONE)
    value = (ZERO, ZERO, ZERO)
    if metalness < ONE:
        r = fresnel_dielectric(c, f4(W[Scratch.ETA]))
        k = r / f4(W[Scratch.GLASS_ALL])
        if I[Scratch.IS_THIN] != u4(0):
            sheet = sheet_reflectance(r) / f4(W[Scratch.SPEC_ALL])
            k = mixed(k, sheet, clamped(f4(W[M + Mat.TRANSMISSION]), ZERO, ONE))
        value = scaled(load(W, M + Mat.SPECULAR_COLOR), (ONE - metalness) * k)
    if metalness > ZERO:
        below = f4(W[Scratch.METAL_OUTSIDE])
        value = (
            value[0] + metalness * metal_fresnel(W, M, below, c, 0) * f4(W[Scratch.METAL_ADD]),
            value[1] + metalness * metal_fresnel(W, M, below, c, 1) * f4(W[Scratch.METAL_ADD + 1]),
            value[2] + metalness * metal_fresnel(W, M, below, c, 2) * f4(W[Scratch.METAL_ADD + 2]),
        )
    return value


@jit
def transmittance(W, I, c):
    """Return the weight of what is refracted, or scattered through a rough sheet, at half-vector cosine c."""
    r = fresnel_dielectric(c, f4(W[Scratch.ETA]))
    if I[Scratch.IS_THIN] != u4(0):
        r = sheet_reflectance(r)
    return f4(W[Scratch.GLASS]) * (ONE - r)


@jit
def share_reflected(W, I, c):
    """Return the chance to reflect at a half vector with cosine c; the rest is refracted."""
    if f4(W[Scratch.GLASS]) <= ZERO:
        return ONE
    r = luminance(reflectance(W, I, c))
    return r / max(r + transmittance(W, I, c), TINY)


@jit
def evaluate(W, I, wo, wi):
    """Write diffuse, reflected and transmitted value times cosine, and the density of sampling wi, to EVAL."""
    E = Scratch.EVAL
    for k in range(Value.COUNT):
        W[E + k] = ZERO
    mo = wo[2]
    mi = wi[2]
    if mo < f4(1e-5) or abs(mi) < f4(1e-5):
        return
    density = ZERO
    att = load(W, Scratch.ATT)
    a = f4(W[Scratch.ALPHA])
    p_spec = f4(W[Scratch.P_SPEC])
    rough = I[Scratch.IS_DELTA] == u4(0)
    if mi > ZERO:
        kd = (
            (ONE - clamped(f4(W[M + Mat.METALNESS]), ZERO, ONE))
            * (ONE - clamped(f4(W[M + Mat.TRANSMISSION]), ZERO, ONE))
            * (ONE - f4(W[Scratch.GLASS_REFL]))
            * INV_PI
            * mi
        )
        for k in range(3):
            W[E + Value.DIFFUSE + k] = f4(W[M + Mat.BASE + k]) * kd * att[k]
        density += f4(W[Scratch.P_DIFF]) * mi * INV_PI
        h = unit(added(wo, wi))
        c = clamped(dot(wo, h), f4(1e-6), ONE)
        if rough:
            d = ggx_density(a, h)
            lo = ggx_lambda(a, mo)
            g = d / ((ONE + lo + ggx_lambda(a, mi)) * FOUR * mo)
            f = reflectance(W, I, c)
            for k in range(3):
                W[E + Value.REFLECTION + k] = f[k] * g * att[k]
            density += p_spec * share_reflected(W, I, c) * d / ((ONE + lo) * FOUR * mo)
        p_coat = f4(W[Scratch.P_COAT])
        if p_coat > ZERO and I[Scratch.IS_COAT_DELTA] == u4(0):
            ca = f4(W[Scratch.COAT_ALPHA])
            d = ggx_density(ca, h)
            lo = ggx_lambda(ca, mo)
            s = (
                f4(W[M + Mat.COAT])
                * fresnel_dielectric(c, f4(W[Scratch.COAT_ETA]))
                * d
                / ((ONE + lo + ggx_lambda(ca, mi)) * FOUR * mo * f4(W[Scratch.COAT_ALL]))
            )
            for k in range(3):
                W[E + Value.REFLECTION + k] = f4(W[E + Value.REFLECTION + k]) + s
            density += p_coat * d / ((ONE + lo) * FOUR * mo)
    elif rough and f4(W[Scratch.GLASS]) > ZERO and I[Scratch.IS_THIN] != u4(0):
        # A rough sheet scatters to its other side as it does to this one: the reflected lobe, turned over.
        h = unit(added(wo, (wi[0], wi[1], -mi)))
        c = clamped(dot(wo, h), f4(1e-6), ONE)
        d = ggx_density(a, h)
        lo = ggx_lambda(a, mo)
        t = transmittance(W, I, c) / f4(W[Scratch.SPEC_ALL]) * d / ((ONE + lo + ggx_lambda(a, -mi)) * FOUR * mo)
        for k in range(3):
            W[E + Value.TRANSMISSION + k] = t * transmit_tint(W, M, True, k) * att[k]
        density = p_spec * (ONE - share_reflected(W, I, c)) * d / ((ONE + lo) * FOUR * mo)
    elif rough and f4(W[Scratch.GLASS]) > ZERO:
        eta = f4(W[Scratch.ETA])
        h = added(wo, scaled(wi, eta))
        if dot(h, h) > f4(1e-12):
            h = unit(h)
            if h[2] < ZERO:
                h = negated(h)
            oh = dot(wo, h)
            ih = dot(wi, h)
            if oh > f4(1e-6) and ih < f4(-1e-6):
                d = ggx_density(a, h)
                lo = ggx_lambda(a, mo)
                q = oh + eta * ih
                jacobian = eta * eta * (-ih) / max(q * q, f4(1e-12))
                # Radiance is squeezed by the square of the index ratio (Walter et al. 2007, eq. 21).
                t = (
                    transmittance(W, I, oh)
                    / f4(W[Scratch.GLASS_ALL])
                    * d
                    / (ONE + lo + ggx_lambda(a, -mi))
                    * jacobian
                    * oh
                    / (mo * eta * eta)
                )
                for k in range(3):
                    W[E + Value.TRANSMISSION + k] = t * transmit_tint(W, M, False, k) * att[k]
                density = p_spec * (ONE - share_reflected(W, I, oh)) * d / (ONE + lo) * oh / mo * jacobian
    W[E + Value.DENSITY] = density


@jit
def local(W, v):
    return (dot(v, load(W, Scratch.T)), dot(v, load(W, Scratch.B)), dot(v, load(W, Scratch.N)))


@jit
def world(W, v):
    t = load(W, Scratch.T)
    b = load(W, Scratch.B)
    n = load(W, Scratch.N)
    return (
        t[0] * v[0] + b[0] * v[1] + n[0] * v[2],
        t[1] * v[0] + b[1] * v[1] + n[1] * v[2],
        t[2] * v[0] + b[2] * v[1] + n[2] * v[2],
    )


@jit
def same_side(W, I, wi, mi):
    """Return False where shading and geometric normal disagree about wi being reflected or transmitted."""
    return (dot(load(W, Scratch.G), wi) > ZERO) == (mi > ZERO)


@jit
def put_sample(W, I, wi, weight, density, lobe, is_delta):
    R = Scratch.SAMPLE
    store(W, R + Onward.DIRECTION, unit(world(W, wi)))
    store(W, R + Onward.WEIGHT, weight)
    W[R + Onward.DENSITY] = density
    I[R + Onward.KIND] = u4(lobe)
    I[R + Onward.IS_DELTA] = u4(is_delta)


@jit
def sample(W, I):
    """Choose a direction; write it to SAMPLE with weight value * cosine / density. Density 0: nothing goes on."""
    wo = local(W, load(W, Scratch.WO))
    u = f4(W[Scratch.RANDOM])
    u1 = f4(W[Scratch.RANDOM + 1])
    u2 = f4(W[Scratch.RANDOM + 2])
    choice = f4(W[Scratch.RANDOM + 3])
    W[Scratch.SAMPLE + Onward.DENSITY] = ZERO
    if wo[2] < f4(1e-5):
        return
    p_diff = f4(W[Scratch.P_DIFF])
    p_spec = f4(W[Scratch.P_SPEC])
    wi = (ZERO, ZERO, ONE)
    lobe = 0
    if u < p_diff:
        r = math.sqrt(u1)
        phi = TWO_PI * u2
        wi = (r * math.cos(phi), r * math.sin(phi), math.sqrt(max(ONE - u1, ZERO)))
    elif u < p_diff + p_spec:
        sharp = I[Scratch.IS_DELTA] != u4(0)
        h = (ZERO, ZERO, ONE)
        if not sharp:
            h = sample_visible_normal(f4(W[Scratch.ALPHA]), wo, u1, u2)
        c = clamped(dot(wo, h), f4(1e-6), ONE)
        p = share_reflected(W, I, c)
        att = load(W, Scratch.ATT)
        if choice < p:
            lobe = 1
            wi = subtracted(scaled(h, TWO * c), wo)
            if sharp:
                q = ONE / max(p * p_spec, TINY)
                weight = scaled(multiplied(reflectance(W, I, c), att), q)
                put_sample(W, I, wi, weight, ONE, 1, 1)
                if not same_side(W, I, load(W, Scratch.SAMPLE + Onward.DIRECTION), wi[2]):
                    W[Scratch.SAMPLE + Onward.DENSITY] = ZERO
                return
        else:
            lobe = 2
            inv = ONE
            if I[Scratch.IS_THIN] != u4(0):
                wi = subtracted(scaled(h, TWO * c), wo)
                wi = (wi[0], wi[1], -wi[2])
            else:
                inv = ONE / f4(W[Scratch.ETA])
                s2 = inv * inv * (ONE - c * c)
                if s2 >= ONE:
                    return
                ct = math.sqrt(ONE - s2)
                wi = subtracted(scaled(h, inv * c - ct), scaled(wo, inv))
            if sharp:
                q = transmittance(W, I, c) * inv * inv / max((ONE - p) * p_spec, TINY)
                weight = (
                    transmit_tint(W, M, False, 0) * att[0] * q,
                    transmit_tint(W, M, False, 1) * att[1] * q,
                    transmit_tint(W, M, False, 2) * att[2] * q,
                )
                put_sample(W, I, wi, weight, ONE, 2, 1)
                if not same_side(W, I, load(W, Scratch.SAMPLE + Onward.DIRECTION), wi[2]):
                    W[Scratch.SAMPLE + Onward.DENSITY] = ZERO
                return
    else:
        lobe = 1
        if I[Scratch.IS_COAT_DELTA] != u4(0):
            wi = (-wo[0], -wo[1], wo[2])
            q = f4(W[M + Mat.COAT]) * fresnel_dielectric(wo[2], f4(W[Scratch.COAT_ETA])) / f4(W[Scratch.P_COAT])
            put_sample(W, I, wi, (q, q, q), ONE, 1, 1)
            if not same_side(W, I, load(W, Scratch.SAMPLE + Onward.DIRECTION), wi[2]):
                W[Scratch.SAMPLE + Onward.DENSITY] = ZERO
            return
        h = sample_visible_normal(f4(W[Scratch.COAT_ALPHA]), wo, u1, u2)
        wi = subtracted(scaled(h, TWO * dot(wo, h)), wo)
    # A direction below the horizon left by a reflecting lobe is lost between the facets; the tables make up for it.
    if (lobe == 2) == (wi[2] > ZERO):
        return
    evaluate(W, I, wo, wi)
    density = f4(W[Scratch.EVAL + Value.DENSITY])
    if density <= f4(1e-9):
        return
    q = ONE / density
    put_sample(W, I, wi, scaled(whole_value(W), q), density, lobe, 0)
    if not same_side(W, I, load(W, Scratch.SAMPLE + Onward.DIRECTION), wi[2]):
        W[Scratch.SAMPLE + Onward.DENSITY] = ZERO


# ---- what the material unit does -----------------------------------------------------------------------------------


def read(S, wp):
    """Unit: read the hit's material and bend its normal."""
    W = row_f4(wp, W_COUNT)
    I = row_u4(wp, W_COUNT)
    read_material(S, W, M, i4(I[Scratch.MATERIAL]), f4(W[Scratch.UV]), f4(W[Scratch.UV + 1]))
    bend_normal(W)


def read_sheet(S, wp):
    """Unit: write to STRAIGHT what the thin sheet that a shadow ray met lets through; texture coordinates in UV."""
    W = row_f4(wp, W_COUNT)
    I = row_u4(wp, W_COUNT)
    at = Scratch.SHADOW
    inst = i4(I[at + Ray.INSTANCE])
    u, v = texture_coordinates(
        S, T.inst_i(S)[inst, Instance.MESH], i4(I[at + Ray.PRIMITIVE]), f4(W[at + Ray.U]), f4(W[at + Ray.V])
    )
    read_material(S, W, Scratch.CLEAR_MAT, T.inst_i(S)[inst, Instance.MATERIAL], u, v)
    n = unit(transform_normal(T.inst_nm(S), inst, load(W, at + Ray.NORMAL)))
    mu = abs(dot(n, load(W, at + Ray.DIRECTION)))
    store(W, Scratch.STRAIGHT, let_straight(S, W, Scratch.CLEAR_MAT, f4(W[Scratch.OUTSIDE]), mu))


def evaluate_lamp(S, wp):
    """Unit: evaluate the material for the light sample in LAMP."""
    W = row_f4(wp, W_COUNT)
    I = row_u4(wp, W_COUNT)
    wi = load(W, Scratch.LAMP + Lamp.DIRECTION)
    li = local(W, wi)
    if same_side(W, I, wi, li[2]):
        evaluate(W, I, local(W, load(W, Scratch.WO)), li)
    else:
        W[Scratch.EVAL + Value.DENSITY] = ZERO


def sample_direction(S, wp):
    """Unit: choose where the path goes on."""
    sample(row_f4(wp, W_COUNT), row_u4(wp, W_COUNT))


def derive_hit(S, wp):
    """Unit: work out the lobes; the least alpha is handed over in RANDOM."""
    W = row_f4(wp, W_COUNT)
    derive(S, W, row_u4(wp, W_COUNT), f4(W[Scratch.RANDOM]))
