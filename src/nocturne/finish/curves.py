"""The filmic tone curve, over stops from middle grey."""

import numpy as np

from nocturne.scene import finish as steps

_SLOWLY = 1.25  # stops over which a gain sets in, for each stop that it takes away


def toned(step: steps.Tone, stops: np.ndarray) -> np.ndarray:
    """Return stops from middle grey after the tone curve.

    Contrast is a slope about grey. Highlights and shadows are gains that set in softly to either side. The shoulder
    bends the bright side over, s / (1 + shoulder s / 5); the toe bends the dark side down, s (1 + toe |s| / (|s| + 4)).
    What is brighter stays brighter: gains that hold back much set in more slowly.
    """
    s = np.asarray(stops, float) * step.contrast
    up, down = np.maximum(s, 0), np.minimum(s, 0)
    up = up + step.highlights * up / (up + max(2.0, -_SLOWLY * step.highlights))
    up = up / (1 + step.shoulder * np.maximum(up, 0) / 5)
    down = down + step.shadows * down / (down - max(2.0, _SLOWLY * step.shadows))
    depth = np.abs(np.minimum(down, 0))
    return up + down - depth * step.toe * depth / (depth + 4)
