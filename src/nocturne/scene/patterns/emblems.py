"""Exact distances to simple shapes about the origin: below 0 inside, above 0 outside. The kernels do the same."""

from typing import Any

import numpy as np

DOT, RING, BAR, FRAME, STAR, POLYGON, ARROW = range(7)


def distances(f: Any, x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Return (...) distances to the nearest of a row of shapes, numbers as in the fields of `Emblem`."""
    width, height, gap = (np.asarray(v, float) for v in (f.width, f.height, f.gap))
    n = np.maximum(np.rint(np.asarray(f.count, float)), 1)
    pitch = (width if f.style in (BAR, FRAME, ARROW) else height) + gap
    middle = 0.5 * (n - 1)
    nearest = np.clip(np.rint(x / np.maximum(pitch, 1e-9) + middle), 0, n - 1)
    best = np.full(np.broadcast_shapes(np.shape(x), np.shape(nearest)), np.inf)
    for by in (-1, 0, 1):
        k = np.clip(nearest + by, 0, n - 1)
        best = np.minimum(best, _one(f, x - (k - middle) * pitch, y))
    return best


def _one(f: Any, x: np.ndarray, y: np.ndarray) -> np.ndarray:
    width, height, corner, thickness = (np.asarray(v, float) for v in (f.width, f.height, f.corner_radius, f.thickness))
    half = 0.5 * height
    if f.style == DOT:
        return np.hypot(x, y) - half
    if f.style == RING:
        r = np.hypot(x, y)
        return np.maximum(r - half, np.maximum(half - thickness, 0) - r)
    if f.style == BAR:
        return _box(x, y, 0.5 * width, half, corner)
    if f.style == FRAME:
        inner = _box(x, y, 0.5 * width - thickness, half - thickness, np.maximum(corner - thickness, 0))
        is_open = np.minimum(0.5 * width, half) > thickness
        return np.maximum(_box(x, y, 0.5 * width, half, corner), np.where(is_open, -inner, -np.inf))
    if f.style == ARROW:
        return _arrow(np.abs(y), x, 0.5 * width, half, 0.5 * thickness, np.asarray(f.waist, float) * height)
    n = np.maximum(np.rint(np.asarray(f.points, float)), 3)
    return _star(x, y, half, n, np.cos(np.pi / n) if f.style == POLYGON else np.asarray(f.waist, float))


def _box(x: np.ndarray, y: np.ndarray, a: np.ndarray, b: np.ndarray, corner: np.ndarray) -> np.ndarray:
    r = np.minimum(corner, np.maximum(np.minimum(a, b), 0))
    u, v = np.abs(x) - a + r, np.abs(y) - b + r
    return np.minimum(np.maximum(u, v), 0) + np.hypot(np.maximum(u, 0), np.maximum(v, 0)) - r


def to_segment(x: Any, y: Any, ax: Any, ay: Any, bx: Any, by: Any) -> np.ndarray:
    """Return (...) distances from (x, y) to what lies between two places."""
    ex, ey = bx - ax, by - ay
    t = np.clip(((x - ax) * ex + (y - ay) * ey) / np.maximum(ex * ex + ey * ey, 1e-20), 0, 1)
    return np.hypot(x - ax - t * ex, y - ay - t * ey)


def _star(x: np.ndarray, y: np.ndarray, radius: np.ndarray, n: np.ndarray, inner: np.ndarray) -> np.ndarray:
    """Return distances to a star with a tip upwards: in one half of a point, all others being its mirror images."""
    half = np.pi / n
    angle = np.abs(np.mod(np.arctan2(x, y) + half, 2 * half) - half)
    r = np.hypot(x, y)
    u, v = r * np.cos(angle), r * np.sin(angle)  # u towards the tip
    ax, bx, by = radius, radius * inner * np.cos(half), radius * inner * np.sin(half)
    inside = (bx - ax) * v - by * (u - ax) > 0
    return np.where(inside, -1.0, 1.0) * to_segment(u, v, ax, 0.0, bx, by)


def _arrow(
    y: np.ndarray, x: np.ndarray, half: np.ndarray, up: np.ndarray, shaft: np.ndarray, head: np.ndarray
) -> np.ndarray:
    """Return distances to an arrow to the right, of its upper half."""
    shaft = np.minimum(shaft, up)
    head = np.minimum(head, 2 * half)
    neck = half - head
    far = to_segment(x, y, -half, 0.0, -half, shaft)
    far = np.minimum(far, to_segment(x, y, -half, shaft, neck, shaft))
    far = np.minimum(far, to_segment(x, y, neck, shaft, neck, up))
    far = np.minimum(far, to_segment(x, y, neck, up, half, 0.0))
    in_shaft = (x >= -half) & (x <= neck) & (y <= shaft)
    in_head = (x > neck) & (x <= half) & (y * head <= up * (half - x))
    return np.where(in_shaft | in_head, -1.0, 1.0) * far
