"""A binary tree over the lights near by, for choosing among many.

Split by the surface area orientation heuristic over bins (Conty Estevez and Kulla 2018, section 4.4).
"""

from dataclasses import dataclass

import numpy as np

_BINS = 12


@dataclass(frozen=True)
class Emitter:
    """Bounds of one light: box, axis and half-angles of the normals (spread) and of emission about them, power."""

    low: np.ndarray
    high: np.ndarray
    axis: np.ndarray
    spread: float
    emission: float
    power: float


def _union_cone(axes, spreads):
    axis, spread = axes[0], spreads[0]
    for other, other_spread in zip(axes[1:], spreads[1:]):
        if other_spread > spread:
            axis, other, spread, other_spread = other, axis, other_spread, spread
        angle = np.arccos(np.clip(axis @ other, -1, 1))
        if min(angle + other_spread, np.pi) <= spread:
            continue
        wide = (spread + angle + other_spread) / 2
        if wide >= np.pi:
            return axis, np.pi
        pivot = np.cross(axis, other)
        size = np.linalg.norm(pivot)
        if size < 1e-9:
            return axis, np.pi
        turn, k = wide - spread, pivot / size
        axis = axis * np.cos(turn) + np.cross(k, axis) * np.sin(turn)
        spread = wide
    return axis, spread


def _bounds(emitters):
    axis, spread = _union_cone([e.axis for e in emitters], [e.spread for e in emitters])
    return Emitter(
        np.min([e.low for e in emitters], 0), np.max([e.high for e in emitters], 0), axis, spread,
        max(e.emission for e in emitters), sum(e.power for e in emitters))


def _orientation_measure(e):
    reach = min(e.spread + e.emission, np.pi)
    cos, sin = np.cos(e.spread), np.sin(e.spread)
    return 2 * np.pi * (1 - cos) + np.pi / 2 * (
        2 * reach * sin - np.cos(e.spread - 2 * reach) - 2 * e.spread * sin + cos)


def _cost(emitters):
    e = _bounds(emitters)
    d = e.high - e.low + 1e-6
    return e.power * _orientation_measure(e) * (d[0] * d[1] + d[1] * d[2] + d[2] * d[0])


def _split(order, emitters):
    centres = np.array([(emitters[i].low + emitters[i].high) / 2 for i in order])
    best, halves = np.inf, None
    for axis in range(3):
        values = centres[:, axis]
        low, high = values.min(), values.max()
        if high - low < 1e-9:
            continue
        slots = np.minimum(((values - low) / (high - low) * _BINS).astype(int), _BINS - 1)
        for cut in range(1, _BINS):
            left = [i for i, s in zip(order, slots) if s < cut]
            right = [i for i, s in zip(order, slots) if s >= cut]
            if left and right and len(order) <= 64:
                cost = _cost([emitters[i] for i in left]) + _cost([emitters[i] for i in right])
            elif left and right:
                cost = abs(len(left) - len(right)) + (high - low < np.ptp(centres, axis=0).max()) * len(order)
            else:
                continue
            if cost < best:
                best, halves = cost, (left, right)
    if halves is None:
        middle = len(order) // 2
        halves = order[:middle], order[middle:]
    return halves


def build(emitters: list[Emitter], ids: list[int]) -> tuple[np.ndarray, np.ndarray, dict[int, tuple[int, int]]]:
    """Return the tree's (n, 12) float32 and (n, 2) int32 nodes, and for each light its trail (bits, depth).

    The children of a node follow each other; bit k of a trail says whether step k goes to the second one.
    """
    if not emitters:
        return np.zeros((1, 12), np.float32), np.full((1, 2), -1, np.int32), {}
    floats: list[np.ndarray] = [np.zeros(12)]
    links: list[list[int]] = [[-1, -1]]
    trails: dict[int, tuple[int, int]] = {}
    waiting = [(0, list(range(len(emitters))), 0, 0)]
    while waiting:
        node, order, trail, depth = waiting.pop()
        e = _bounds([emitters[i] for i in order])
        floats[node] = np.array([*e.low, *e.high, *e.axis, np.cos(min(e.spread, np.pi)),
                                 np.cos(min(e.emission, np.pi)), e.power])
        if len(order) == 1:
            links[node] = [-1, ids[order[0]]]
            trails[ids[order[0]]] = (trail, depth)
            continue
        left, right = _split(order, emitters)
        if depth >= 29:  # a trail has 31 bits; halves keep a degenerate tree from running out of them
            left, right = order[: len(order) // 2], order[len(order) // 2 :]
        child = len(floats)
        floats += [np.zeros(12), np.zeros(12)]
        links += [[-1, -1], [-1, -1]]
        links[node] = [child, -1]
        waiting.append((child, left, trail, depth + 1))
        waiting.append((child + 1, right, trail | (1 << depth), depth + 1))
    return np.array(floats, np.float32), np.array(links, np.int32), trails
