"""How pictures lie on a thing: its own placing, over that of its material; fitted, turned, picked up and given."""

import math

import numpy as np

from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.fields import within
from nocturne.scene.numbered import is_sequence
from nocturne.scene.patterns import Picture, Step
from nocturne.scene.thing import Thing
from nocturne.scene.uvs import AS_MADE

_MOST_ASKED = 20_000  # triangles
FIELDS = ("uv_size", "uv_turn_deg", "uv_shift")


def with_frame(document: Document, frame: int) -> Document:
    """Return the document with every sequence of pictures at one frame."""

    def shown(steps: tuple[Step, ...]) -> tuple[Step, ...]:
        made = []
        for step in steps:
            values = {"steps": shown(step.steps)} if step.steps else {}
            if isinstance(step, Picture) and is_sequence(step.path):
                values["frame_number"] = frame
            made.append(edit.changed(step, **values) if values else step)
        return tuple(made)

    values = {m.id: {"steps": shown(m.steps)} for m in document.materials if m.steps}
    return edit.alter_each(document, "materials", values)


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


def picture_width(document: Document, assets: Assets, id: str) -> float | None:
    """Return how wide a picture lies on a thing, metres in the set: one repeat of the first that its material has.

    Where its texture coordinates are stretched differently, the mean over its area. None if it has no picture, or no
    texture coordinates.
    """
    thing = document.find("things", id)
    material = document.find("materials", thing.material) if thing is not None else None
    step = (
        next((s for s in material.steps if s.picture is not None and s.where == "uv"), None)
        if material is not None
        else None
    )
    mesh = assets.shape(thing) if step is not None else None
    if mesh is None or not all(step.repeat) or not len(mesh.triangles):
        return None
    uvs = mesh.more_uvs if step.uv_set == 2 and mesh.more_uvs is not None else mesh.uvs
    matrix = document.placement(id)
    # The sheet asks at every edit: of a large mesh some of the triangles tell as much.
    triangles = mesh.triangles[:: max(len(mesh.triangles) // _MOST_ASKED, 1)]
    p = mesh.vertices[triangles].astype(float) @ matrix[:3, :3].T
    w = uvs[triangles].astype(float)
    e1, e2, a, b = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0], w[:, 1] - w[:, 0], w[:, 2] - w[:, 0]
    k = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
    is_laid = np.abs(k) > 1e-20
    if not is_laid.any():
        return None
    # The step's u runs along this direction of the thing's own coordinates.
    c, s = math.cos(math.radians(step.turn_deg)), math.sin(math.radians(step.turn_deg))
    rx, ry = step.repeat
    across = (e1 * b[:, 1:] - e2 * a[:, 1:]) * (c / rx) - (e2 * a[:, :1] - e1 * b[:, :1]) * (s / ry)
    area = np.linalg.norm(np.cross(e1, e2), axis=1)[is_laid]
    lengths = np.linalg.norm(across[is_laid], axis=1) / np.abs(k[is_laid])
    return float((lengths * area).sum() / area.sum())


def with_picture_width(document: Document, assets: Assets, ids: tuple[str, ...], width: float) -> Document:
    """Return the document with pictures of a width, metres, on things; those without a picture stay as they are."""
    values = {}
    for id in ids:
        now = picture_width(document, assets, id)
        if now is not None and width > 0:
            size = document.find("things", id).uv_size * width / now
            values[id] = {"uv_size": within(Thing, "uv_size", size)}
    return edit.alter_each(document, "things", values)
