"""Pictures thrown on the set from where a view's camera stands: what is painted over its frame comes to lie there."""

import numpy as np

from nocturne.scene import edit
from nocturne.scene.camera import View, half_width
from nocturne.scene.patterns.step import Step
from nocturne.scene.projection import camera_axes
from nocturne.scene.shapes import turn_of


def thrown(step: Step, view: View) -> Step | None:
    """Return a step whose unit square is the frame of a view, held by the set; None of a panorama.

    A picture shows once, over what is under it. Later changes of the view leave it where it is.
    """
    if view.projection == "panorama":
        return None
    right, up, ahead = camera_axes(view)
    tilt = turn_of(np.stack([right, up, -ahead], axis=1))
    is_flat = view.projection == "orthographic"
    width = view.span_m if is_flat else 2 * half_width(view, 1.0)
    middle = 0.5 if is_flat else 0.0  # a camera's picture has its own middle in the middle
    return edit.changed(
        step,
        where="flat" if is_flat else "camera",
        anchor="set",
        origin=tuple(map(float, view.eye)),
        tilt=tilt,
        size=(width, width * view.height / view.width, 1.0),
        repeat=(1.0, 1.0),
        turn_deg=0.0,
        offset=(middle - view.shift_x / 2, middle - view.shift_y / 2),
        **({"wrap": "under"} if step.kind == "image" else {}),
    )
