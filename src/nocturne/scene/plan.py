"""The set seen from above, as the lens looks along it: where things stand by their distance and to either side."""

import math

import numpy as np

from nocturne.scene.assets import Assets
from nocturne.scene.camera import View, half_width
from nocturne.scene.document import Document
from nocturne.scene.projection import camera_axes


def footprints(document: Document, assets: Assets, view: View) -> np.ndarray:
    """Return (n, 4) of what a view may see: nearest, farthest distance ahead of the lens, left and right of it, metres.

    One row for each shown thing with a shape whose bounding box reaches into the width of the picture.
    """
    right, _, ahead = camera_axes(view)
    axes, placements = np.stack([ahead, right]), document.placements
    seen = [
        (mesh.bounds, placements[thing.id][0])
        for thing in document.things
        if placements[thing.id][1] and (mesh := assets.shape(thing)) is not None
    ]
    if not seen:
        return np.zeros((0, 4))
    bounds, matrices = (np.stack(column) for column in zip(*seen))
    linear = axes @ matrices[:, :3, :3]  # from each thing's own space to (ahead, aside)
    middle = np.einsum("nij,nj->ni", linear, bounds.mean(1)) + (matrices[:, :3, 3] - np.array(view.eye)) @ axes.T
    reach = np.einsum("nij,nj->ni", np.abs(linear), (bounds[:, 1] - bounds[:, 0]) / 2)
    found = np.stack(
        [(middle - reach)[:, 0], (middle + reach)[:, 0], (middle - reach)[:, 1], (middle + reach)[:, 1]], 1
    )
    _, far, left, right_of = found.T
    half = half_width(view, far)
    is_seen = (far > 0) & (right_of > (view.shift_x - 1) * half) & (left < (view.shift_x + 1) * half)
    return found[is_seen]


def reach_for(distance: float) -> float:
    """Return how far a plan goes that shows a distance well within: 1, 2 or 5 times a power of ten, metres."""
    wanted = max(distance, 1e-3) * 1.5
    ten = 10.0 ** math.floor(math.log10(wanted))
    return next(k * ten for k in (1, 2, 5, 10) if k * ten >= wanted * (1 - 1e-9))
