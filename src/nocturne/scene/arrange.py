"""Groups: made, undone, changed by dragging; what is in them stays where it stands in the set."""

from collections.abc import Iterable
from itertools import count

import numpy as np

from nocturne.errors import SceneError
from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document, free_id, free_name
from nocturne.scene.lights import Light
from nocturne.scene.placing import tops
from nocturne.scene.scattering import made_real
from nocturne.scene.shapes import at_pivot, levels, rotation, turn_of, unsized
from nocturne.scene.thing import Thing

MOST_REAL = 20_000
_NOWHERE = {"place": (0.0, 0.0, 0.0), "size": (1.0, 1.0, 1.0)}


def grouped(document: Document, things: tuple[str, ...]) -> tuple[Document, str]:
    """Return the document with things in a new group, and its id.

    The group is where the first of them was in the tree, and stands where the last one does, so that it turns about it.
    """
    inner = tops(document, things)
    if not inner:
        return document, ""
    items = [document.find("things", id) for id in inner]
    parents = {item.parent for item in items}
    parent = parents.pop() if len(parents) == 1 else ""
    place = items[-1].place if items[-1].parent == parent else (0.0, 0.0, 0.0)
    group = Thing(
        id=free_id(document, "things", "thing"), name=free_name(document, "things", "Group"), parent=parent, place=place
    )
    chosen = set(inner)
    at = min((i for i, thing in enumerate(document.things) if thing.id in chosen), default=len(document.things))
    document = edit.changed(document, things=(*document.things[:at], group, *document.things[at:]))
    return put_into(document, "things", inner, group.id), group.id


def ungrouped(document: Document, groups: Iterable[str]) -> tuple[Document, tuple[str, ...]]:
    """Return the document without some groups, and the ids of what was in them, which stays where it stands.

    What was in a hidden group is hidden.
    """
    left: list[str] = []
    for id in groups:
        group = document.find("things", id)
        if group is None or not group.is_group:
            continue
        members = tuple(thing.id for thing in document.children(id))
        lights = tuple(light.id for light in document.lights if light.parent == id)
        if not group.visible:
            document = edit.alter_many(document, "things", members, visible=False)
            document = edit.alter_many(document, "lights", lights, on=False)
        document = put_into(document, "things", members, group.parent)
        document = put_into(document, "lights", lights, group.parent)
        views = tuple(v if v.parent != id else edit.changed(v, parent=group.parent, home=()) for v in document.views)
        document = edit.changed(document, views=views)
        document = edit.remove(document, "things", id)
        left += members
    return document, tuple(left)


def put_into(document: Document, part: str, ids: tuple[str, ...], group: str, *, before: str = "") -> Document:
    """Return the document with things or lights in another group ("" for the top), standing where they did in the set.

    before: of things, the one that they come before in its list; else they come last.

    Raises
    ------
    SceneError
        If a thing would be in itself, or the group has a size of 0.
    """
    ids = tops(document, ids) if part == "things" else tuple(id for id in ids if document.find(part, id) is not None)
    if part == "things" and group and (group in ids or document.groups_of(group) & set(ids)):
        raise SceneError("A group cannot be in itself.", where=f"things/{group}")
    home = document.placement(group) if group else np.eye(4)
    if home is None or abs(np.linalg.det(home[:3, :3])) < 1e-24:
        raise SceneError("That group has a size of 0.", where=f"things/{group}/size", hint="Give it a size first.")
    back = np.linalg.inv(home)
    moved, extra = {}, []
    for id in ids:
        item = document.find(part, id)
        if item.parent == group:
            continue
        if isinstance(item, Light):
            moved[id] = _light_in(document, item, group, home, back)
            continue
        stands = levels(back @ document.placement(id))
        pivot = item.pivot if len(stands) == 1 else (0.0, 0.0, 0.0)
        stands[0] = at_pivot(stands[0], pivot)
        parent = group
        if len(stands) > 1:  # sheared by how its old or new groups are sized: an outer group takes that up
            outer = Thing(id=f"{id}-outer-{len(document.things)}", name=item.name, parent=group, **stands[0])
            extra.append(outer)
            parent = outer.id
        rounded = {name: tuple(round(v, 9) + 0.0 for v in values) for name, values in stands[-1].items()}
        moved[id] = edit.changed(item, parent=parent, pivot=pivot, **{**_NOWHERE, **rounded})
    items = tuple(moved.get(item.id, item) for item in getattr(document, part))
    if part == "things":
        items = _in_order((*items, *extra), set(ids), before)
    return document if items == getattr(document, part) else edit.changed(document, **{part: items})


def _light_in(document: Document, light: Light, group: str, home: np.ndarray, back: np.ndarray) -> Light:
    stands = document.standing(light)
    values: dict = {"parent": group}
    if hasattr(light, "place"):
        values["place"] = tuple(round(float(v), 9) + 0.0 for v in back[:3, :3] @ np.array(stands.place) + back[:3, 3])
    if hasattr(light, "turn_deg"):
        values["turn_deg"] = turn_of(unsized(home[:3, :3]).T @ rotation(stands.turn_deg))
    return edit.changed(light, **values)


def _in_order(things: tuple[Thing, ...], moved: set[str], before: str) -> tuple[Thing, ...]:
    """Return things with those that were moved before another one, where one is named."""
    if not before or before in moved or all(thing.id != before for thing in things):
        return things
    taken = [thing for thing in things if thing.id in moved]
    rest = [thing for thing in things if thing.id not in moved]
    at = next(i for i, thing in enumerate(rest) if thing.id == before)
    return (*rest[:at], *taken, *rest[at:])


def scatter_made_real(document: Document, assets: Assets, id: str) -> tuple[Document, int]:
    """Return the document with a scatter turned into a group of things, one for each copy, and how many those are.

    Copies of a group are groups with copies of all that is in it; meshes stay shared.

    Raises
    ------
    SceneError
        If they are too many to be things.
    """
    copies = made_real(document, assets, id)
    inside = {root: document.with_members((root,)) - {root} for root in {copy.id for copy in copies}}
    members = {root: [t for t in document.things if t.id in ids] for root, ids in inside.items()}
    n = sum(1 + len(members[copy.id]) for copy in copies)
    if n > MOST_REAL:
        raise SceneError(
            f"That would be {n:,} things; {MOST_REAL:,} are the most.", where=f"things/{id}", hint="Leave it a scatter."
        )
    taken, numbers = {thing.id for thing in document.things}, count(1)

    def free() -> str:
        return next(name for k in numbers if (name := f"thing-{k}") not in taken)

    new: list[Thing] = []
    for copy in copies:
        ids = {copy.id: free()}
        new.append(copy.model_copy(update={"id": ids[copy.id]}))
        for member in members[copy.id]:
            ids[member.id] = free()
        new += [m.model_copy(update={"id": ids[m.id], "parent": ids[m.parent]}) for m in members[copy.id]]
    group = edit.changed(document.find("things", id), scatter=None)
    document = edit.put(document, "things", group)
    return edit.changed(document, things=(*document.things, *new)), n


def locked(document: Document, ids: Iterable[str]) -> set[str]:
    """Return those of some things that are locked, or in a locked group."""
    found = set()
    for id in ids:
        thing = document.find("things", id)
        groups = document.groups_of(id) if thing is not None else ()
        if thing is not None and (thing.locked or any(document.find("things", g).locked for g in groups)):
            found.add(id)
    return found


def hidden_for(document: Document, ids: Iterable[str]) -> tuple[str, ...]:
    """Return which shown things and groups must be hidden so that only some things, and what is in them, are shown."""
    kept = document.with_members(ids)
    above_them = set().union(*(document.groups_of(id) for id in ids)) if kept else set()
    return tuple(
        thing.id
        for thing in document.things
        if thing.visible
        and thing.id not in kept
        and thing.id not in above_them
        and (not thing.parent or thing.parent in above_them)
    )
