"""Blurring by a normal distribution, along rows and then along columns."""

import numpy as np

from nocturne.engine.entries import compiled
from nocturne.finish.kernels import in_bands


@compiled("void(float32[::1], int64, int64, float32[::1], float32[:,::1], int64, int64)")
def _sum_moved(numbers, row, step, weights, out, y0, y1):
    """Sum rows of so many numbers with themselves, moved by so many at each weight."""
    for y in range(y0, y1):
        for x in range(out.shape[1]):
            out[y, x] = np.float32(0)
        for k in range(weights.shape[0]):
            weight = weights[k]
            first = y * row + k * step
            for x in range(out.shape[1]):
                out[y, x] += weight * numbers[first + x]


def gaussian(picture: np.ndarray, sigma: float, *, reach: float, beyond: str = "edge") -> np.ndarray:
    """Return (h, w) or (h, w, c) float32 blurred.

    sigma: in pixels. reach: how far the distribution goes, in sigmas. beyond: its edges the picture goes on as it ends
    ("edge"), or turns back ("symmetric"), which keeps its sum.
    """
    height, width = picture.shape[:2]
    radius = int(reach * sigma + 0.5)
    if not radius:
        return picture.astype(np.float32)
    at = np.arange(-radius, radius + 1) / sigma
    weights = np.exp(-0.5 * at**2)
    weights = (weights / weights.sum()).astype(np.float32)
    rows = np.asarray(picture, np.float32).reshape(height, width, -1)
    n = rows.shape[2]
    out = np.empty((height, width * n), np.float32)
    wide = np.pad(rows, ((0, 0), (radius, radius), (0, 0)), mode=beyond).ravel()
    in_bands(height, lambda a, b: _sum_moved(wide, len(wide) // height, n, weights, out, a, b))
    tall = np.pad(out, ((radius, radius), (0, 0)), mode=beyond).ravel()
    in_bands(height, lambda a, b: _sum_moved(tall, width * n, width * n, weights, out, a, b))
    return out.reshape(picture.shape)
