"""A binary tree over the lights near by, for choosing among many (Conty Estevez and Kulla 2018).

Nodes are split where power times the surface of the halves' boxes is least; cones of directions are joined upwards.
"""

import math
from dataclasses import dataclass

import numpy as np

from nocturne.engine.layout import node as node_row


@dataclass(frozen=True)
class Emitter:
    """Bounds of one light: box, axis and half-angles of the normals (spread) and of emission about them, power."""

    low: np.ndarray
    high: np.ndarray
    axis: np.ndarray
    spread: float
    emission: float
    power: float


def _joined_cone(a: tuple, b: tuple) -> tuple:
    """Return the (axis, spread, emission) that covers two of them (Conty Estevez and Kulla 2018, algorithm 1)."""
    (axis, spread, emission), (other, other_spread, other_emission) = (a, b) if a[1] >= b[1] else (b, a)
    emission = max(emission, other_emission)
    angle = math.acos(min(max(axis[0] * other[0] + axis[1] * other[1] + axis[2] * other[2], -1.0), 1.0))
    if min(angle + other_spread, math.pi) <= spread:
        return axis, spread, emission
    wide = (spread + angle + other_spread) / 2
    k = (
        axis[1] * other[2] - axis[2] * other[1],
        axis[2] * other[0] - axis[0] * other[2],
        axis[0] * other[1] - axis[1] * other[0],
    )
    size = math.sqrt(k[0] ** 2 + k[1] ** 2 + k[2] ** 2)
    if wide >= math.pi or size < 1e-9:
        return axis, math.pi, emission
    k = (k[0] / size, k[1] / size, k[2] / size)
    c, s = math.cos(wide - spread), math.sin(wide - spread)
    across = (k[1] * axis[2] - k[2] * axis[1], k[2] * axis[0] - k[0] * axis[2], k[0] * axis[1] - k[1] * axis[0])
    return tuple(axis[i] * c + across[i] * s for i in range(3)), wide, emission


def _split(order: np.ndarray, low: np.ndarray, high: np.ndarray, power: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return two halves of the lights in `order`, cut across the best of three axes."""
    centres = (low[order] + high[order]) / 2
    best, halves = math.inf, (order[: len(order) // 2], order[len(order) // 2 :])
    for axis in range(3):
        if np.ptp(centres[:, axis]) < 1e-9:
            continue
        line = order[np.argsort(centres[:, axis], kind="stable")]
        cost = _running_cost(line, low, high, power)[:-1] + _running_cost(line[::-1], low, high, power)[::-1][1:]
        cut = int(cost.argmin())
        if cost[cut] < best:
            best, halves = cost[cut], (line[: cut + 1], line[cut + 1 :])
    return halves


def _running_cost(line: np.ndarray, low: np.ndarray, high: np.ndarray, power: np.ndarray) -> np.ndarray:
    d = np.maximum.accumulate(high[line]) - np.minimum.accumulate(low[line]) + 1e-6
    return np.cumsum(power[line]) * (d[:, 0] * d[:, 1] + d[:, 1] * d[:, 2] + d[:, 2] * d[:, 0])


def build(emitters: list[Emitter], ids: list[int]) -> tuple[np.ndarray, np.ndarray, dict[int, tuple[int, int]]]:
    """Return the tree's float32 and int32 nodes, and for each light its trail (bits, depth).

    The children of a node follow each other; bit k of a trail says whether step k goes to the second one.
    """
    if not emitters:
        return node_row.FLOATS.filled(np.float32)[None], node_row.WHOLE.filled(np.int32, LEFT=-1, LIGHT=-1)[None], {}
    low, high = np.array([e.low for e in emitters], float), np.array([e.high for e in emitters], float)
    power = np.array([e.power for e in emitters], float)
    links: list[list[int]] = [[-1, -1]]
    members = [np.arange(len(emitters))]
    trails: dict[int, tuple[int, int]] = {}
    waiting = [(0, 0, 0)]
    while waiting:
        node, trail, depth = waiting.pop()
        order = members[node]
        if len(order) == 1:
            links[node] = [-1, ids[order[0]]]
            trails[ids[order[0]]] = (trail, depth)
            continue
        # A trail has 31 bits; plain halves keep a lopsided tree from running out of them.
        halves = _split(order, low, high, power) if depth < 16 else (order[: len(order) // 2], order[len(order) // 2 :])
        child = len(links)
        links[node] = [child, -1]
        links += [[-1, -1], [-1, -1]]
        members += list(halves)
        waiting += [(child, trail, depth + 1), (child + 1, trail | (1 << depth), depth + 1)]
    floats = np.zeros((len(links), node_row.FLOATS.width), np.float32)
    cones: list[tuple] = [()] * len(links)
    for node in reversed(range(len(links))):  # children have higher numbers than their parent
        child, order = links[node][0], members[node]
        if child < 0:
            e = emitters[order[0]]
            cones[node] = tuple(float(v) for v in e.axis), float(e.spread), float(e.emission)
        else:
            cones[node] = _joined_cone(cones[child], cones[child + 1])
        axis, spread, emission = cones[node]
        floats[node] = node_row.FLOATS.filled(
            np.float32,
            LOW=low[order].min(0),
            HIGH=high[order].max(0),
            AXIS=axis,
            COS_SPREAD=math.cos(min(spread, math.pi)),
            COS_EMISSION=math.cos(min(emission, math.pi)),
            POWER=power[order].sum(),
        )
    whole = np.empty((len(links), node_row.WHOLE.width), np.int32)
    whole[:, [node_row.LEFT, node_row.LIGHT]] = links
    return floats, whole, trails


def cut(floats: np.ndarray, links: np.ndarray, most: int) -> list[tuple[int, int, int]]:
    """Return at most so many nodes, as (node, trail, depth), that every leaf lies below exactly one of.

    The node with the most power is parted first.
    """
    found = [(0, 0, 0)]
    while len(found) < most:
        powers = [float(floats[node, node_row.POWER]) if links[node, 0] >= 0 else -1.0 for node, _, _ in found]
        i = int(np.argmax(powers))
        if powers[i] < 0:
            break
        node, trail, depth = found[i]
        child = int(links[node, node_row.LEFT])
        found[i : i + 1] = [(child, trail, depth + 1), (child + 1, trail | (1 << depth), depth + 1)]
    return found
