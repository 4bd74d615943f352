"""A cutaway to begin with: what lets one look into chosen things from where the camera is."""

import numpy as np

from nocturne.errors import SceneError
from nocturne.scene import edit, navigate
from nocturne.scene.assets import Assets
from nocturne.scene.cutaway import Cutaway
from nocturne.scene.document import Document, free_id, free_name
from nocturne.scene.projection import seen_along
from nocturne.scene.thing import Thing

_TURNS = {(0, 1): (0.0, 90.0, 0.0), (0, -1): (0.0, -90.0, 0.0), (1, 1): (-90.0, 0.0, 0.0), (1, -1): (90.0, 0.0, 0.0)}


def cut_away(document: Document, assets: Assets, ids: tuple[str, ...], kind: str) -> tuple[Document, str]:
    """Return the document with a cutaway that opens things on the side that the camera sees, and its id.

    Raises
    ------
    SceneError
        If none of them has a shape.
    """
    boxes = [navigate.bounds_of(document, assets, id) for id in ids]
    corners = [np.stack(box) for box in boxes if box is not None]
    if not corners:
        raise SceneError("There is nothing to cut: choose things with a shape.", where="things")
    low, high = np.min(corners, axis=(0, 1)), np.max(corners, axis=(0, 1))
    middle, size = (low + high) / 2, np.maximum(high - low, 1e-6)
    towards = -seen_along(document.view, middle)
    axis = int(np.abs(towards[:2]).argmax())
    side = 1 if towards[axis] >= 0 else -1
    values: dict = {"kind": kind, "of": ids}
    place, turn = middle.copy(), (0.0, 0.0, 0.0)
    if kind == "ball":
        place += towards * size / 2
        values["radius"] = _plain(0.4 * float(size.max()))
    elif kind == "box":
        room = size * 1.1
        place[axis] += side * room[axis] / 4
        room[axis] /= 2
        values |= dict(zip(("width", "depth", "height"), map(_plain, room)))
    else:
        turn = _TURNS[axis, side]
        values |= {"width": _plain(1.2 * float(size.max())), "depth": _plain(1.2 * float(size.max()))}
    thing = Thing(
        id=free_id(document, "things", "thing"),
        name=free_name(document, "things", "Cutaway"),
        cutaway=edit.changed(Cutaway(), **values),
        place=tuple(round(float(v), 4) for v in place),
        turn_deg=turn,
    )
    return edit.put(document, "things", thing), thing.id


def _plain(length: float) -> float:
    return float(f"{max(length, 1e-5):.3g}")
