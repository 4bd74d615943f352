"""Curves over stops from middle grey: free ones through points, and the filmic tone curve."""

import numpy as np
from scipy.interpolate import PchipInterpolator

from nocturne.scene import finish as steps


def curve(points: tuple[steps.Point, ...], stops: np.ndarray) -> np.ndarray:
    """Return a curve's stops out for stops in: monotone between its points, straight on beyond them.

    References
    ----------
    Fritsch and Butland, "A method for constructing local monotone piecewise cubic interpolants", 1984.
    """
    ordered = sorted(dict(points).items())
    if len(ordered) < 2:
        return np.asarray(stops, float)
    x, y = np.array(ordered).T
    inside = PchipInterpolator(x, y)(np.clip(stops, x[0], x[-1]))
    return inside + np.minimum(stops - x[0], 0) + np.maximum(stops - x[-1], 0)


def toned(step: steps.Tone, stops: np.ndarray) -> np.ndarray:
    """Return stops from middle grey after the tone curve.

    Contrast is a slope about grey. Highlights and shadows are gains that set in softly to either side. The shoulder
    bends the bright side over, s / (1 + shoulder s / 5); the toe bends the dark side down, s (1 + toe |s| / (|s| + 4)).
    """
    s = np.asarray(stops, float) * step.contrast
    up, down = np.maximum(s, 0), np.minimum(s, 0)
    up = up + step.highlights * up / (up + 2)
    up = up / (1 + step.shoulder * np.maximum(up, 0) / 5)
    down = down + step.shadows * down / (down - 2)
    depth = np.abs(np.minimum(down, 0))
    return up + down - depth * step.toe * depth / (depth + 4)
