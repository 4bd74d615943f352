"""Choosing a light, and the chance of having chosen it.

Lights near by are chosen through a tree (Conty Estevez and Kulla 2018, Importance sampling of many lights with adaptive
tree splitting); lights at infinity are chosen evenly beside the tree.

Names: P, N shading point and normal; two_sided True where light may come through; l light; u a number in [0, 1);
S scene table.
"""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, jit
from nocturne.engine.kernels.vectors import (
    HALF,
    ONE,
    TWO,
    ZERO,
    added,
    clamped,
    dot,
    row_at,
    scaled,
    subtracted,
)
from nocturne.engine.layout import light as Light
from nocturne.engine.layout import node as Node
from nocturne.engine.layout import settings as Settings

WHOLE = f4(0.3)  # of a light at infinity's samples that look for it as a whole, where there are portals


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
    """Return (light, way, chance, u spread again over [0, 1)); light -1 if none can reach P."""
    near = tree_share(S)
    n = T.settings_i(S)[Settings.N_INFINITE]
    if u >= near:
        if n == 0:
            return i4(-1), i4(0), ZERO, u
        v = clamped((u - near) / (ONE - near), ZERO, f4(0.9999999))
        k = min(i4(v * f4(n)), i4(n - 1))
        l = i4(T.infinite(S)[k])
        way, part, v = choose_way(S, l, clamped(v * f4(n) - f4(k), ZERO, f4(0.9999999)))
        return l, way, (ONE - near) / f4(n) * part, v
    l, chance, v = descend(S, i4(0), P, N, two_sided, u / near)
    return l, i4(0), near * chance, v


@jit
def choose_way(S, l, v):
    """Return (way, chance, v spread again over [0, 1)) among the ways to look for light l at infinity."""
    n = T.light_i(S)[l, Light.WAYS] - 1
    if n <= 0:
        return i4(0), ONE, v
    if v < WHOLE:
        return i4(0), WHOLE, v / WHOLE
    v = (v - WHOLE) / (ONE - WHOLE) * f4(n)
    k = min(i4(v), i4(n - 1))
    return i4(k + 1), (ONE - WHOLE) / f4(n), clamped(v - f4(k), ZERO, f4(0.9999999))


@jit
def part_of_way(S, l, way):
    """Return the chance with which `choose_way` takes a way."""
    n = T.light_i(S)[l, Light.WAYS] - 1
    if n <= 0:
        return ONE
    return WHOLE if way == 0 else (ONE - WHOLE) / f4(n)


@jit
def descend(S, node, P, N, two_sided, v):
    """Return (light, chance, v spread again over [0, 1)) among a node's lights; light -1 if none can reach P."""
    chance = ONE
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
    return near * walk(S, l, i4(0), i4(0), P, N, two_sided)


@jit
def walk(S, l, node, depth, P, N, two_sided):
    """Return the chance with which `descend` comes from a node, `depth` steps below the root, to light l under it."""
    L = T.light_i(S)
    chance = ONE
    trail = L[l, Light.TRAIL] >> depth
    for _ in range(L[l, Light.DEPTH] - depth):
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
