"""How pictures lie on a thing: its own placing, over that of its material; fitted, turned, picked up and given."""

import math

import numpy as np

from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.uvs import AS_MADE

FIELDS = ("uv_size", "uv_turn_deg", "uv_shift")


def turned(document: Document, ids: tuple[str, ...], by_deg: float) -> Document:
    """Return the document with the pictures on things turned further."""
    things = [document.find("things", id) for id in ids]
    values = {t.id: {"uv_turn_deg": (t.uv_turn_deg + by_deg + 180.0) % 360.0 - 180.0} for t in things if t is not None}
    return edit.alter_each(document, "things", values)


def fitted(document: Document, assets: Assets, ids: tuple[str, ...]) -> Document:
    """Return the document with pictures as large as the things: one fills the larger side of their coordinates."""
    values = {}
    for id in ids:
        thing = document.find("things", id)
        mesh = assets.shape(edit.changed(thing, **dict(zip(FIELDS, AS_MADE)))) if thing is not None else None
        if mesh is None or not len(mesh.uvs):
            continue
        turn = math.radians(thing.uv_turn_deg)
        c, s = math.cos(turn), math.sin(turn)
        uvs = mesh.uvs.astype(float) @ np.array([[c, s], [-s, c]])
        low, size = uvs.min(0), float(np.ptp(uvs, axis=0).max())
        if size > 0:
            values[id] = {"uv_size": size, "uv_shift": tuple(float(v) for v in -low / size)}
    return edit.alter_each(document, "things", values)


def given(document: Document, source: str, ids: tuple[str, ...]) -> Document:
    """Return the document with pictures lying on things as they do on another one."""
    thing = document.find("things", source)
    if thing is None:
        return document
    placing = {name: getattr(thing, name) for name in FIELDS}
    return edit.alter_each(document, "things", {id: placing for id in ids if document.find("things", id) is not None})
