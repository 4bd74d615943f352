"""What a denoiser and compositing want to know of a pixel. W work row, I unsigned, S scene table."""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels import units
from nocturne.engine.kernels.jit import f4, jit, u4
from nocturne.engine.kernels.path.camera import middle_ray
from nocturne.engine.kernels.path.hit import CAMERA_RAYS, error_of, find_hit, is_lamp, read_surface
from nocturne.engine.kernels.vectors import ONE, ZERO, along, clamped, load, mixed
from nocturne.engine.layout import camera as Camera
from nocturne.engine.layout import guide as Guide
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import ray as Ray
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import seen as Seen

M = Scratch.MAT
MAX_BACKS = 96  # lamps seen from behind along one ray


@jit
def note_clean_guides(W, albedo, n):
    for k in range(3):
        W[Scratch.ACC_GUIDES + Guide.ALBEDO + k] = f4(W[Scratch.ACC_GUIDES + Guide.ALBEDO + k]) + albedo[k]
        W[Scratch.ACC_GUIDES + Guide.CLEAN_NORMAL + k] = f4(W[Scratch.ACC_GUIDES + Guide.CLEAN_NORMAL + k]) + n[k]


@jit
def note_first_hit(W, I):
    """Count the sample as one that hit something, and keep what it hit."""
    G = Scratch.ACC_GUIDES
    W[G + Guide.ALPHA] = f4(W[G + Guide.ALPHA]) + ONE
    I[Scratch.FIRST + Seen.OBJECTS] = I[Scratch.OBJECT]
    I[Scratch.FIRST + Seen.MATERIALS] = I[Scratch.MATERIAL]


@jit
def note_middle(S, W, I, wp, x, y):
    """Write position, normal and depth of what the pixel's middle shows through the middle of the lens to the guides.

    A nearest or a mean sample would lie beside the surface: on a floor at a grazing angle by several per cent.
    """
    o, d, way = middle_ray(S, x, y)
    G = Scratch.ACC_GUIDES
    for _ in range(MAX_BACKS):
        if not find_hit(S, W, I, wp, o, d, CAMERA_RAYS):
            return
        way += f4(W[Scratch.RAY + Ray.FAR])
        read_surface(S, W, I, o, d, way * f4(T.camera(S)[Camera.PIXEL]))
        p = load(W, Scratch.P)
        if is_lamp(S, I):
            if I[Scratch.INSIDE] != u4(0):
                step = error_of(p)
                way += step
                o = along(d, step, p)
                continue
        else:
            units.read_material(S, wp)
        W[G + Guide.DEPTH] = way
        for k in range(3):
            W[G + Guide.POSITION + k] = W[Scratch.P + k]
            W[G + Guide.NORMAL + k] = W[Scratch.N + k]
        return


@jit
def albedo_of(W):
    """Return the colour a denoiser may take for the surface's own."""
    metal = clamped(f4(W[M + Mat.METALNESS]), ZERO, ONE)
    glass = clamped(f4(W[M + Mat.TRANSMISSION]), ZERO, ONE) * (ONE - metal)
    base = load(W, M + Mat.BASE)
    if f4(W[M + Mat.HAS_NK]) > ZERO:
        base = (
            mixed(base[0], f4(W[Scratch.METAL_F0]), metal),
            mixed(base[1], f4(W[Scratch.METAL_F0 + 1]), metal),
            mixed(base[2], f4(W[Scratch.METAL_F0 + 2]), metal),
        )
    return (
        clamped(base[0] * (ONE - glass) + glass, ZERO, ONE),
        clamped(base[1] * (ONE - glass) + glass, ZERO, ONE),
        clamped(base[2] * (ONE - glass) + glass, ZERO, ONE),
    )


@jit
def shows_itself(W, I):
    """Return False for mirrors and clear glass: what is seen in them is worth more to a denoiser than they are."""
    metal = clamped(f4(W[M + Mat.METALNESS]), ZERO, ONE)
    clear = (ONE - metal) * clamped(f4(W[M + Mat.TRANSMISSION]), ZERO, ONE) > ZERO
    return not (I[Scratch.IS_DELTA] != u4(0) and (clear or metal > f4(0.5)))
