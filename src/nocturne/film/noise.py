"""How noisy a picture is, from the running sums of luminance and its square."""

import numpy as np

from nocturne.film.film import Film
from nocturne.film.layout import SQUARES

Z_95 = 1.96
# Differences in the dark are seen less: the error is taken against the brightness plus this part of white.
_FLOOR = 0.05


def tile_noise(film: Film, white: float, tile: int = 32) -> np.ndarray:
    """Return the noise of each tile: the mean over its pixels of the relative error at 95 %.

    Parameters
    ----------
    film : Film
    white : float
        Luminance that is displayed as 1, cd/m2.
    tile : int
        Edge in pixels.

    Returns
    -------
    (rows, columns) float64 array
        Infinite where a pixel has fewer than two samples.
    """
    height, width = film.samples.shape
    starts = np.arange(0, width, tile)
    widths = np.diff([*starts, width])
    # Band by band: what one step writes is still in the processor's cache for the next.
    bands = [slice(y, min(y + tile, height)) for y in range(0, height, tile)]
    return np.array([_band_noise(film.samples[rows], film.variance[rows], white, starts, widths) for rows in bands])


def _band_noise(
    samples: np.ndarray, sums: np.ndarray, white: float, starts: np.ndarray, widths: np.ndarray
) -> np.ndarray:
    """Return (columns,) noise of the tiles of a band: samples (h, w), sums (h, w, 2)."""
    n = np.maximum(samples, 1).astype(float)
    mean, squares = sums[..., SQUARES.offsets["SUM"]] / n, sums[..., SQUARES.offsets["SUM_OF_SQUARES"]] / n
    spread = np.maximum(squares - mean * mean, 0) / np.maximum(n - 1, 1)
    error = Z_95 * np.sqrt(spread) / (mean + _FLOOR * white)
    least = np.minimum.reduceat(samples.min(0), starts)
    return np.where(least >= 2, np.add.reduceat(error.sum(0), starts) / (widths * len(samples)), np.inf)


def picture_noise(tiles: np.ndarray) -> float:
    """Return one number for a picture: the mean over its tiles."""
    return float(np.mean(tiles))
