"""How a step goes together with what lies under it (MaterialX 1.39, compositing nodes). a under, b over, k how much."""

from nocturne.engine.kernels.jit import f4, inlined, jit
from nocturne.engine.kernels.vectors import HALF, ONE, TWO, ZERO, mixed
from nocturne.engine.layout import pattern as Pattern

LEAST = f4(1e-6)


@jit
def other(blend, a, b):
    """Return what a mode that is not the plain one makes of two numbers."""
    if blend == Pattern.MULTIPLY:
        return a * b
    if blend == Pattern.PLUS:
        return a + b
    if blend == Pattern.MINUS:
        return a - b
    if blend == Pattern.SCREEN:
        return ONE - (ONE - a) * (ONE - b)
    if blend == Pattern.OVERLAY:
        return TWO * a * b if a < HALF else ONE - TWO * (ONE - a) * (ONE - b)
    if blend == Pattern.DODGE:
        if b < ONE:
            return min(a / max(ONE - b, LEAST), ONE)
        return ONE if a > ZERO else ZERO
    if blend == Pattern.BURN:
        if b > ZERO:
            return ONE - min((ONE - a) / max(b, LEAST), ONE)
        return ZERO if a < ONE else ONE
    if blend == Pattern.DARKEN:
        return min(a, b)
    if blend == Pattern.LIGHTEN:
        return max(a, b)
    return abs(a - b)


@inlined
def blended(blend, a, b, k):
    """Return two triples together, by k."""
    if blend != Pattern.REPLACE:
        b = (other(blend, a[0], b[0]), other(blend, a[1], b[1]), other(blend, a[2], b[2]))
    return (mixed(a[0], b[0], k), mixed(a[1], b[1], k), mixed(a[2], b[2], k))
