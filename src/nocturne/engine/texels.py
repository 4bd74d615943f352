"""Encoding one level of a picture for the kernels, and halving it; both hold no interpreter."""

import numpy as np

from nocturne.engine.entries import SAFE_MATH, compiled

ACROSS, DOWN = 4, 2  # texels of a tile: eight of eight bytes each are a cache line
MOST = 65535


@compiled("void(float32[:,:,::1], float32, uint16[:,::1])", math=SAFE_MATH)
def _encode(image, scale, out):
    """Write the root of the parts of `scale` that values are, tile after tile; what is below 0 is 0."""
    height = image.shape[0]
    width = image.shape[1]
    tiles = (width + ACROSS - 1) // ACROSS
    for y in range(height):
        for x in range(width):
            at = ((y // DOWN) * tiles + x // ACROSS) * (ACROSS * DOWN) + (y % DOWN) * ACROSS + x % ACROSS
            for k in range(3):
                value = max(image[y, x, k], np.float32(0))
                out[at, k] = np.uint16(np.sqrt(value / scale) * np.float32(MOST) + np.float32(0.5))


@compiled("void(float32[:,:,::1], float32[:,:,::1])", math=SAFE_MATH)
def _halve(image, out):
    quarter = np.float32(0.25)
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            for k in range(3):
                upper = image[2 * y, 2 * x, k] + image[2 * y, 2 * x + 1, k]
                lower = image[2 * y + 1, 2 * x, k] + image[2 * y + 1, 2 * x + 1, k]
                out[y, x, k] = (upper + lower) * quarter


def encoded(image: np.ndarray, scale: float) -> np.ndarray:
    """Return (n, 4) uint16 of an (h, w, 3) float32 picture, tile after tile; what lies outside it is not read.

    scale: the largest number there is, which the largest one stands for; numbers are told apart by their roots.
    """
    height, width, _ = image.shape
    out = np.zeros((-(-height // DOWN) * -(-width // ACROSS) * DOWN * ACROSS, 4), np.uint16)
    _encode(image, scale, out)
    return out


def halved(image: np.ndarray) -> np.ndarray:
    """Return an (h, w, 3) picture at half its size, rounded down, at least 1: means over equal areas."""
    height, width, _ = image.shape
    if height % 2 == width % 2 == 0:
        out = np.empty((height // 2, width // 2, 3), np.float32)
        _halve(image, out)
        return out
    for axis in (0, 1):
        n = image.shape[axis]
        if n == 1:
            continue
        rows = np.moveaxis(image, axis, 0)
        if n % 2 == 0:
            rows = (rows[0::2] + rows[1::2]) * np.float32(0.5)
        else:
            # Each new pixel covers a whole one, and of both beside it as much as makes up n / (n // 2) in all.
            m = n // 2
            after = (np.arange(1, m + 1, dtype=np.float32) / n).reshape(-1, *[1] * (rows.ndim - 1))
            before = np.float32((m + 1) / n) - after
            rows = rows[0:-1:2] * before + rows[1::2] * np.float32(m / n) + rows[2::2] * after
        image = np.moveaxis(rows, 0, axis)
    return np.ascontiguousarray(image)
