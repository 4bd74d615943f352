"""How noisy a picture is, from the running sums of luminance and its square."""

import numpy as np

from nocturne.film.film import Film

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
    n = film.samples.astype(float)
    mean, squares = film.moments
    spread = np.maximum(squares - mean**2, 0) * n / np.maximum(n - 1, 1)
    error = Z_95 * np.sqrt(spread / np.maximum(n, 1)) / (mean + _FLOOR * white)
    height, width = n.shape
    rows, columns = -(-height // tile), -(-width // tile)
    sums = np.add.reduceat(np.add.reduceat(error, np.arange(0, height, tile), 0), np.arange(0, width, tile), 1)
    counts = (
        np.minimum(tile, height - np.arange(rows) * tile)[:, None]
        * np.minimum(tile, width - np.arange(columns) * tile)[None, :]
    )
    least = np.minimum.reduceat(
        np.minimum.reduceat(film.samples, np.arange(0, height, tile), 0), np.arange(0, width, tile), 1
    )
    return np.where(least >= 2, sums / counts, np.inf)


def picture_noise(tiles: np.ndarray) -> float:
    """Return one number for a picture: the mean over its tiles."""
    return float(np.mean(tiles))
