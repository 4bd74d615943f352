"""Curves through points, as they are drawn by hand."""

import numpy as np

Point = tuple[float, float]


def curve(points: tuple[Point, ...], x: np.ndarray) -> np.ndarray:
    """Return what a curve makes of numbers: monotone between its points, straight on beyond them.

    References
    ----------
    Fritsch and Butland, "A method for constructing local monotone piecewise cubic interpolants", 1984.
    """
    from scipy.interpolate import PchipInterpolator  # here, as it takes half a second to load

    ordered = sorted(dict(points).items())
    if len(ordered) < 2:
        return np.asarray(x, float)
    at, to = np.array(ordered).T
    inside = PchipInterpolator(at, to)(np.clip(x, at[0], at[-1]))
    return inside + np.minimum(x - at[0], 0) + np.maximum(x - at[-1], 0)
