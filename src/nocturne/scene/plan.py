"""The set seen from above, as the lens looks along it: where things stand by their distance and to either side."""

import math

import numpy as np

from nocturne.scene.assets import Assets
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.projection import camera_axes


def footprints(document: Document, assets: Assets, view: View) -> np.ndarray:
    """Return (n, 4) of what a view may see: nearest, farthest distance ahead of the lens, left and right of it, metres.

    One row for each shown thing with a shape whose bounding box reaches into the width of the picture.
    """
    right, _, ahead = camera_axes(view)
    axes, eye = np.stack([ahead, right]), np.array(view.eye)
    rows = []
    for thing in document.things:
        mesh = assets.meshes.get(thing.mesh)
        matrix, shown = document.placements[thing.id]
        if mesh is None or not shown:
            continue
        low, high = mesh.bounds
        corners = np.array([[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])
        distance, side = axes @ ((corners @ matrix[:3, :3].T + matrix[:3, 3]) - eye).T
        rows.append((distance.min(), distance.max(), side.min(), side.max()))
    found = np.array(rows, float).reshape(-1, 4)
    _, far, left, right_of = found.T
    half = view.sensor_mm / (2 * view.focal_mm)
    is_seen = (far > 0) & (right_of > (view.shift_x - 1) * half * far) & (left < (view.shift_x + 1) * half * far)
    return found[is_seen]


def reach_for(distance: float) -> float:
    """Return how far a plan goes that shows a distance well within: 1, 2 or 5 times a power of ten, metres."""
    wanted = max(distance, 1e-3) * 1.5
    ten = 10.0 ** math.floor(math.log10(wanted))
    return next(k * ten for k in (1, 2, 5, 10) if k * ten >= wanted * (1 - 1e-9))
