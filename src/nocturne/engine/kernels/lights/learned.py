"""Choosing a light by what arrived of it near by, and learning that.

The set is cut into cells by a grid and by the six sides that a surface may face; each cell, found by its hash, has a
chance for each slot: a light at infinity, or a node of the tree, whose lights are chosen among as without. Chances
follow the root of the mean square of what a light would bring if it were always chosen, which has the least variance
(Rath et al. 2020, Variance-aware path guiding, with equal cost); every slot has a least chance, so that what was never
seen is still found.

Names as in choose.py; row of the cell, k slot, C running chances by row.
"""

import numpy as np

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import added_to, address_of, ask_for, f4, i4, jit, u4
from nocturne.engine.kernels.lights.choose import chance_of, choose, descend, part_of_way, tree_share, walk
from nocturne.engine.kernels.random import combined, hashed
from nocturne.engine.kernels.vectors import HALF, ONE, TINY, ZERO, clamped
from nocturne.engine.layout import learned as Learned
from nocturne.engine.layout import light as Light
from nocturne.engine.layout import settings as Settings

sums_at = address_of["sums"]
chances_at = address_of["learned_cdf"]
INV_2_10 = f4(1.0 / 1024.0)


@jit
def cell_along(x, per_metre, bits):
    """Return the cell of a coordinate, moved by up to half a cell either way."""
    return u4(i4(np.floor(x * per_metre + f4(u4(bits & u4(1023))) * INV_2_10 - HALF)))


@jit
def is_anything_known(S):
    """Return True if something was learned, or is being learned, of the set."""
    return T.learned_cdf(S).shape[0] > 1


@jit
def row_of(S, P, N, noise):
    """Return the row of the cell about P whose surface faces N; `noise` moves it, so that cells show no edges."""
    rows = T.learned_cdf(S).shape[0]
    per_metre = f4(T.learned_f(S)[Learned.PER_METRE])
    x = cell_along(P[0], per_metre, noise)
    y = cell_along(P[1], per_metre, u4(noise >> u4(10)))
    z = cell_along(P[2], per_metre, u4(noise >> u4(20)))
    a = abs(N[0])
    b = abs(N[1])
    c = abs(N[2])
    face = u4(0) if N[0] > ZERO else u4(1)
    if b > a and b >= c:
        face = u4(2) if N[1] > ZERO else u4(3)
    elif c > a and c > b:
        face = u4(4) if N[2] > ZERO else u4(5)
    return u4(combined(combined(x, y), combined(z, face)) & u4(rows - 1))


@jit
def ask_for_row(S, row):
    """Ask for a row's chances, which will be read soon."""
    C = T.learned_cdf(S)
    at = chances_at(S) + 4 * (i4(row) * C.shape[1])
    ask_for(at)
    ask_for(at + 4 * (C.shape[1] - 1))


@jit
def is_known(S, row):
    """Return True if anything was learned in a row."""
    C = T.learned_cdf(S)
    return C.shape[0] > 1 and f4(C[row, C.shape[1] - 1]) > ZERO


@jit
def slot_chance(S, row, k):
    C = T.learned_cdf(S)
    before = f4(C[row, k - 1]) if k > 0 else ZERO
    return f4(C[row, k]) - before


@jit
def slot_at(S, row, v):
    """Return the slot in which the running chance passes v."""
    C = T.learned_cdf(S)
    low = i4(0)
    high = i4(C.shape[1] - 1)
    while low < high:
        middle = i4((low + high) >> 1)
        if f4(C[row, middle]) > v:
            high = middle
        else:
            low = i4(middle + 1)
    return low


@jit
def choose_light(S, P, N, two_sided, u, row):
    """Return (light, way, slot, chance, u spread again over [0, 1)); light -1 if none can reach P."""
    if not is_known(S, row):
        l, way, chance, pick = choose(S, P, N, two_sided, u)
        return l, way, i4(T.light_i(S)[max(l, 0), Light.SLOT] + way), chance, pick
    k = slot_at(S, row, u)
    before = f4(T.learned_cdf(S)[row, k - 1]) if k > 0 else ZERO
    chance = slot_chance(S, row, k)
    pick = clamped((u - before) / max(chance, TINY), ZERO, f4(0.9999999))
    node = i4(T.slots(S)[k, Learned.NODE])
    if node < 0:
        l = i4(T.slots(S)[k, Learned.LIGHT])
        return l, i4(k - T.light_i(S)[l, Light.SLOT]), k, chance, pick
    l, below, pick = descend(S, node, P, N, two_sided, pick)
    return l, i4(0), k, chance * below, pick


@jit
def way_chance(S, l, way, row):
    """Return the chance with which `choose_light` looks for light l at infinity by a way."""
    if not is_known(S, row):
        near = tree_share(S)
        return (ONE - near) / f4(max(T.settings_i(S)[Settings.N_INFINITE], 1)) * part_of_way(S, l, way)
    return slot_chance(S, row, i4(T.light_i(S)[l, Light.SLOT] + way))


@jit
def chance_of_light(S, l, P, N, two_sided, row):
    """Return the chance with which `choose_light` takes light l from P."""
    if not is_known(S, row):
        return chance_of(S, l, P, N, two_sided)
    k = i4(T.light_i(S)[l, Light.SLOT])
    chance = slot_chance(S, row, k)
    node = i4(T.slots(S)[k, Learned.NODE])
    if node < 0:
        return chance
    return chance * walk(S, l, node, i4(T.slots(S)[k, Learned.DEPTH]), P, N, two_sided)


@jit
def learn(S, row, slot, brought, chance):
    """Count a light sample: what it brought, as if its slot had been chosen for sure, and its chance; -1: a visit."""
    A = T.sums(S)
    if A.shape[0] <= 1:
        return
    n = A.shape[1]
    at = sums_at(S) + 8 * (i4(row) * n)
    if slot < 0:
        added_to(at + 8 * (n - 1), 1)
        return
    x = brought * f4(T.learned_f(S)[Learned.UNIT])
    y = min(x * x / max(chance, TINY) * f4(Learned.ONE), f4(Learned.MOST))
    if y == y:
        added_to(at + 8 * slot, np.int64(y))


@jit
def noise_of(pixel, sample, step):
    """Return bits that move the cells of one vertex."""
    return hashed(u4(combined(pixel, sample) ^ u4(u4(step) * u4(0x9E3779B9))))
