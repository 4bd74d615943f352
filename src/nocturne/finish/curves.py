"""The filmic tone curve, over stops from middle grey."""

import numpy as np

from nocturne.scene import finish as steps


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
