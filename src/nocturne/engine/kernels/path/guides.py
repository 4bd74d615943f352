"""What a denoiser and compositing want to know of a pixel. W work row, I unsigned."""

from nocturne.engine.kernels.jit import f4, jit, u4
from nocturne.engine.kernels.vectors import ONE, ZERO, clamped, load, mixed
from nocturne.engine.layout import guide as Guide
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import seen as Seen

M = Scratch.MAT


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
def albedo_of(W):
    """Return the colour a denoiser may take for the surface's own."""
    metal = clamped(f4(W[M + Mat.METALNESS]), ZERO, ONE)
    glass = clamped(f4(W[M + Mat.TRANSMISSION]), ZERO, ONE) * (ONE - metal)
    base = load(W, M + Mat.BASE)
    below = clamped(f4(W[M + Mat.SUBSURFACE]), ZERO, ONE) * (ONE - metal)
    if below > ZERO:
        base = (
            mixed(base[0], f4(W[M + Mat.SUBSURFACE_COLOR]), below),
            mixed(base[1], f4(W[M + Mat.SUBSURFACE_COLOR + 1]), below),
            mixed(base[2], f4(W[M + Mat.SUBSURFACE_COLOR + 2]), below),
        )
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
