"""Directions spread evenly in a cone."""

import math

from nocturne.engine.kernels.jit import jit
from nocturne.engine.kernels.vectors import ONE, TWO, TWO_PI, ZERO, added, frame, scaled, unit


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
