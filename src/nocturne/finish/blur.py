"""Blurring by a normal distribution, along rows and then along columns."""

import numpy as np

from nocturne.engine.entries import compiled
from nocturne.finish.kernels import in_bands


@compiled("void(float32[:,::1], float32[::1], int64, float32[:,::1], int64, int64)")
def _blur_rows(wide, weights, step, out, y0, y1):
    """Sum each row with itself, moved by so many numbers at each step."""
    for y in range(y0, y1):
        for x in range(out.shape[1]):
            out[y, x] = np.float32(0)
        for k in range(weights.shape[0]):
            weight = weights[k]
            for x in range(out.shape[1]):
                out[y, x] += weight * wide[y, x + k * step]


@compiled("void(float32[:,::1], float32[::1], float32[:,::1], int64, int64)")
def _blur_columns(tall, weights, out, y0, y1):
    """Sum each row with those below it."""
    for y in range(y0, y1):
        for x in range(out.shape[1]):
            out[y, x] = np.float32(0)
        for k in range(weights.shape[0]):
            weight = weights[k]
            for x in range(out.shape[1]):
                out[y, x] += weight * tall[y + k, x]


def gaussian(picture: np.ndarray, sigma: float, *, reach: float) -> np.ndarray:
    """Return (h, w) or (h, w, c) float32 blurred; beyond its edges the picture goes on as it ends.

    sigma: in pixels. reach: how far the distribution goes, in sigmas.
    """
    height, width = picture.shape[:2]
    radius = int(reach * sigma + 0.5)
    if not radius:
        return picture.astype(np.float32)
    at = np.arange(-radius, radius + 1) / sigma
    weights = np.exp(-0.5 * at**2)
    weights = (weights / weights.sum()).astype(np.float32)
    rows = np.asarray(picture, np.float32).reshape(height, width, -1)
    step = rows.shape[2]
    wide = np.pad(rows, ((0, 0), (radius, radius), (0, 0)), mode="edge").reshape(height, -1)
    across = np.empty((height, width * step), np.float32)
    in_bands(height, lambda a, b: _blur_rows(wide, weights, step, across, a, b))
    tall = np.pad(across, ((radius, radius), (0, 0)), mode="edge")
    out = np.empty_like(across)
    in_bands(height, lambda a, b: _blur_columns(tall, weights, out, a, b))
    return out.reshape(picture.shape)
