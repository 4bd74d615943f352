"""Laying signs on things: from one side, about the thing's middle, as large as fits."""

from collections.abc import Iterable

import numpy as np

from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.faces import wearing
from nocturne.scene.fields import within
from nocturne.scene.patterns.signs import Emblem, Lettering
from nocturne.scene.patterns.step import Step
from nocturne.scene.thing import Thing

SIDES = (
    ("front", "From the front"),
    ("back", "From the back"),
    ("left", "From the left"),
    ("right", "From the right"),
    ("above", "From above"),
)
_TILTS = {
    "front": (90.0, 0.0, 0.0),
    "back": (90.0, 0.0, 180.0),
    "left": (90.0, 0.0, -90.0),
    "right": (90.0, 0.0, 90.0),
    "above": (0.0, 0.0, 0.0),
}
_SHARE = 0.84  # of the room that it takes
_INSET = 0.08  # of the smaller side, around what frames it


def fitted(
    document: Document, assets: Assets, material: str, step: Step, side: str, first: Iterable[str] = ()
) -> Step | None:
    """Return a sign laid on a thing that wears a material, from a side; None if no thing with a shape does.

    first: ids of things that are asked before the others.
    """
    if not isinstance(step, Lettering | Emblem):
        return None
    chosen = tuple(first)
    wearers = sorted(wearing(document, material), key=lambda thing: thing.id not in chosen)
    box = next((found for thing in wearers if (found := own_box(document, assets, thing)) is not None), None)
    if box is None:
        return None
    low, high = box
    laid = step.model_copy(
        update={
            **{"where": "flat", "anchor": "thing", "tilt": _TILTS[side], "size": (1.0, 1.0, 1.0)},
            **{"origin": tuple(map(float, 0.5 * (low + high))), "repeat": (1.0, 1.0)},
            **{"offset": (0.0, 0.0), "turn_deg": 0.0},
        }
    )
    room = np.abs(laid.frame()[:2, :3] @ (high - low))
    return laid.model_copy(update=_sizes(laid, room))


def _sizes(step: Lettering | Emblem, room: np.ndarray) -> dict[str, float]:
    """Return the values of a sign that fill a room (2,), metres."""
    kind = type(step)
    if isinstance(step, Lettering):
        height = _SHARE * float((room / np.maximum(step.artwork.block, 1e-6)).min())
        return {"height": within(kind, "height", height)}
    if step.style in ("bar", "frame"):
        width, height = room - 2 * _INSET * room.min()
        return {"width": within(kind, "width", float(width)), "height": within(kind, "height", float(height))}
    by = _SHARE * float(min(room[0] / (step.count * (step.across + step.gap) - step.gap), room[1] / step.height))
    names = ("width", "height", "thickness", "gap")
    return {name: within(kind, name, getattr(step, name) * by) for name in names}


def own_box(document: Document, assets: Assets, thing: Thing) -> tuple[np.ndarray, np.ndarray] | None:
    """Return the corners (3,) of a thing in its own frame as patterns have it: metres along its axes, its size in."""
    mesh, matrix = assets.shape(thing), document.placement(thing.id)
    if mesh is None or matrix is None or not len(mesh.vertices):
        return None
    to_set = matrix[:3, :3]
    axes = to_set / np.maximum(np.linalg.norm(to_set, axis=0), 1e-12)
    own = mesh.vertices.astype(float) @ (axes.T @ to_set).T
    return own.min(0), own.max(0)
