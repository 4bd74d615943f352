"""Views that move with a group of the set."""

import math

import numpy as np

from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.edit import changed
from nocturne.scene.navigate import axes, rolled_axes
from nocturne.scene.shapes import unsized


def with_carried_views(document: Document) -> Document:
    """Return the document with each view where the group has carried it that it moves with; the same if none has moved.

    A view keeps how its group stood when it was placed: what has happened to the group since then happens to it.
    """
    views = tuple(_carried(view, document) if view.parent or view.home else view for view in document.views)
    return document if all(a is b for a, b in zip(views, document.views)) else changed(document, views=views)


def _carried(view: View, document: Document) -> View:
    matrix = document.placement(view.parent) if view.parent else None
    if matrix is None:
        return changed(view, parent="", home=())
    home = tuple(float(v) for v in matrix[:3].ravel())
    if home == view.home:
        return view
    before = np.vstack([np.reshape(view.home, (3, 4)), (0, 0, 0, 1)]) if view.home else matrix
    if not view.home or min(abs(np.linalg.det(m[:3, :3])) for m in (before, matrix)) < 1e-18:
        return changed(view, home=home)
    by = matrix @ np.linalg.inv(before)
    eye, target = (tuple(float(v) for v in by[:3, :3] @ np.array(p) + by[:3, 3]) for p in (view.eye, view.target))
    _, up, _ = rolled_axes(view)
    moved = view.model_copy(update={"eye": eye, "target": target, "roll_deg": 0.0})
    right, above, _ = axes(moved)
    up = unsized(by[:3, :3]) @ up
    roll = math.degrees(math.atan2(float(-(up @ right)), float(up @ above)))
    return changed(view, eye=eye, target=target, roll_deg=round(roll, 6) + 0.0, home=home)
