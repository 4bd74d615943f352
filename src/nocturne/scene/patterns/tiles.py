"""Sets of tiles as they are loaded: one array (up, across, h, w, 3) of all their pictures, the lowest row first.

A picture alone is (h, w, 3).
"""

import numpy as np


def spread(image: np.ndarray) -> tuple[int, int]:
    """Return how many squares of the texture coordinates a picture covers, across and up: (1, 1) if it is no set."""
    return (image.shape[1], image.shape[0]) if image.ndim == 5 else (1, 1)


def together(image: np.ndarray) -> np.ndarray:
    """Return the one (h, w, 3) picture that a set of tiles makes, the top row first; a picture alone as it is."""
    if image.ndim == 3:
        return image
    up, across, height, width, _ = image.shape
    rows = image[::-1].swapaxes(1, 2)
    return np.ascontiguousarray(rows).reshape(up * height, across * width, 3)
