"""The way to the screen: OpenColorIO's built-in configuration, baked to a table that is fast enough for the desk."""

from functools import cache

import numpy as np
import PyOpenColorIO as ocio

from nocturne.colour.named import CONFIG, WORKING_SPACE, config
from nocturne.finish.kernels import lut_axis
from nocturne.kept import kept

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
    # On disk, as the library lets nothing else run while it makes it: a sixth of a second at each start.
    (table,) = kept(
        "view", (_DISPLAY, _VIEWS[view], CONFIG, ocio.GetVersion(), axis), (__file__,), lambda: _made(view, axis)
    )
    return table


def _made(view: str, axis: np.ndarray) -> tuple[np.ndarray]:
    grid = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).astype(np.float32)
    return (np.clip(through_view(grid.reshape(-1, 3), view).reshape(grid.shape), 0, 1),)
