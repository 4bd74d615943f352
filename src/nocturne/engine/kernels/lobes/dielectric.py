"""The dielectric: its index by weight, what passing it gives. at offset of a material's row in the work row W."""

import math

from nocturne.engine.kernels.jit import f4, jit
from nocturne.engine.kernels.vectors import ONE, TINY, ZERO, clamped
from nocturne.engine.layout import mat as Mat


@jit
def weighted_eta(eta, weight):
    """Return the index ratio whose normal reflectance is `weight` times that of eta (OpenPBR, specular_weight)."""
    r = (eta - ONE) / (eta + ONE)
    e = math.sqrt(clamped(weight * r * r, ZERO, f4(0.98)))
    if r < ZERO:
        e = -e
    return (ONE + e) / (ONE - e)


@jit
def transmit_tint(W, at, is_thin, k):
    """Return the colour that passing the surface gives; a depth gives it to the inside instead, which a sheet lacks."""
    if f4(W[at + Mat.TRANS_DEPTH]) > ZERO and not is_thin:
        return ONE
    return f4(W[at + Mat.TRANS_COLOR + k])


@jit
def sheet_reflectance(front, back):
    """Return the reflectance of a thin sheet, all reflections between its faces of these reflectances counted."""
    left = ONE - front
    return front + left * left * back / max(ONE - front * back, TINY)
