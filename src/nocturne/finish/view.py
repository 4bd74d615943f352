"""The way to the screen: OpenColorIO's built-in configuration, baked to a table that is fast enough for the desk."""

from functools import cache

import numpy as np
import PyOpenColorIO as ocio

from nocturne.colour.named import WORKING_SPACE, config
from nocturne.finish.kernels import lut_axis

_DISPLAY = "sRGB - Display"
_VIEWS = {"aces": "ACES 2.0 - SDR 100 nits (Rec.709)", "plain": "Un-tone-mapped"}


@cache
def _processor(view: str) -> ocio.CPUProcessor:
    transform = ocio.DisplayViewTransform(src=WORKING_SPACE, display=_DISPLAY, view=_VIEWS[view])
    return config().getProcessor(transform).getDefaultCPUProcessor()


def through_view(rgb: np.ndarray, view: str) -> np.ndarray:
    """Return exact display values of (..., 3) exposed ACEScg; slow, for tables and tests."""
    out = np.ascontiguousarray(rgb, np.float32).copy()
    _processor(view).applyRGB(out)
    return out


@cache
def view_table(view: str) -> np.ndarray:
    """Return the (n, n, n, 3) float32 table of a view at `lut_axis`; (1, 1, 1, 3) for the plain view, which needs none.

    The plain view clips, and a table would round that corner off.
    """
    if view == "plain":
        return np.zeros((1, 1, 1, 3), np.float32)
    axis = lut_axis()
    axis[0] = 0.0
    grid = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).astype(np.float32)
    table = through_view(grid.reshape(-1, 3), view).reshape(grid.shape)
    table = np.clip(table, 0, 1)
    return table
