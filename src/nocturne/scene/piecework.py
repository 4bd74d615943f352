"""Things taken out of a set as a piece, and pieces put into a set."""

from collections.abc import Callable

import numpy as np

from nocturne.errors import SceneError
from nocturne.scene import arrange, edit, navigate, placing
from nocturne.scene.assets import Assets
from nocturne.scene.bringing import Ids
from nocturne.scene.document import Document, free_group, free_name
from nocturne.scene.faces import materials_of
from nocturne.scene.files import renamed
from nocturne.scene.layering import with_those_below
from nocturne.scene.stocking import joined
from nocturne.scene.thing import FaceMaterial


def taken(document: Document, assets: Assets, ids: tuple[str, ...], name: str) -> Document:
    """Return a document of things and all that belongs to them: one group, the middle of its floor in the origin.

    What a scatter among them copies comes along, hidden if it was not chosen.

    Raises
    ------
    SceneError
        If none of them has a shape.
    """
    ids = placing.tops(document, ids)
    boxes = [navigate.bounds_of(document, assets, id) for id in ids]
    corners = [np.stack(box) for box in boxes if box is not None]
    if not corners:
        raise SceneError("A piece needs something with a shape.", where="things", hint="Choose things first.")
    low, high = np.min(corners, axis=(0, 1)), np.max(corners, axis=(0, 1))
    for id in _needed(document, ids):
        document = edit.alter(document, "things", id, visible=False)
        document = placing.moved(document, "things", (id,), (low + high) / 2 - document.placement(id)[:3, 3])
        ids = (*ids, id)
    document, group = arrange.grouped(document, ids)
    document = arrange.put_into(document, "things", (group,), "")
    floor = np.array([(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, low[2]])
    document = placing.moved(document, "things", (group,), -floor)
    document = edit.alter(document, "things", group, name=name)
    kept = document.with_members((group,))
    gone = {thing.id for thing in document.things} - kept
    things = tuple(edit.without_things(thing, gone) for thing in document.things if thing.id in kept)
    worn = {id for thing in things for id in materials_of(thing)}
    lights = tuple(light for light in document.lights if light.parent in kept)
    groups = tuple(dict.fromkeys(light.group for light in lights))
    worn = with_those_below(document, worn)
    materials = tuple(m for m in document.materials if m.id in worn)
    return Document(name=name, things=things, materials=materials, lights=lights, groups=groups)


def _needed(document: Document, ids: tuple[str, ...]) -> list[str]:
    """Return what scatters among things copy, or go by, and is not among them."""
    found: list[str] = []
    left, inside = list(document.with_members(ids)), document.with_members(ids)
    while left:
        thing = document.find("things", left.pop())
        for id in thing.scatter.named if thing is not None and thing.scatter is not None else ():
            if id and id not in inside and document.find("things", id) is not None:
                found.append(id)
                more = document.with_members((id,))
                left += more - inside
                inside |= more
    return found


def placed(document: Document, piece: Document, at: np.ndarray, *, moved: Callable[[str], str]) -> tuple[Document, str]:
    """Return the document with a piece standing at a point of the set, upright, and the id of what it is in.

    Materials that are there already are shared. moved: how the document names a file that the piece names.
    """
    ids = Ids(document)
    new = {thing.id: ids.free("things", "thing") for thing in piece.things}
    materials, worn = joined(document, piece.materials, moved=moved, ids=ids, things=new)
    top = next(thing for thing in piece.things if thing.parent not in new)
    things = []
    for thing in piece.things:
        values: dict = {
            "id": new[thing.id],
            "parent": new.get(thing.parent, ""),
            "material": worn.get(thing.material, ""),
            "faces": tuple(_face(face, worn) for face in thing.faces),
        }
        if thing is top:
            values["name"] = free_name(document, "things", thing.name)
            values["place"] = tuple(round(float(v), 6) for v in np.add(thing.place, at))
        things.append(renamed(edit.naming_copies(thing, new).model_copy(update=values), moved))
    lights, groups = [], document
    for light in piece.lights:
        fader = free_group(groups, light.group)
        groups = edit.replaced(groups, groups=(*groups.light_groups, fader))
        values = {"id": ids.free("lights", "light"), "group": fader, "parent": new.get(light.parent, "")}
        lights.append(renamed(light.model_copy(update=values), moved))
    document = edit.changed(
        document,
        things=(*document.things, *things),
        materials=(*document.materials, *materials),
        lights=(*document.lights, *lights),
        groups=groups.groups if lights else document.groups,
    )
    return document, new[top.id]


def _face(face: FaceMaterial, worn: dict[str, str]) -> FaceMaterial:
    return face.model_copy(update={"material": worn.get(face.material, "")})
