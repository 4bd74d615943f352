"""Edits: pure functions (document, ...) -> document; what an edit does not touch stays the same object."""

from collections.abc import Iterable, Iterator
from itertools import count
from typing import Any

import numpy as np
from pydantic import ValidationError

from nocturne.colour.spaces import luminance
from nocturne.errors import SceneError
from nocturne.scene.desk import Cue, Strip, gains
from nocturne.scene.document import PARTS, Document, free_id, free_name, is_part, without_number
from nocturne.scene.fields import Model
from nocturne.scene.lights import Sunlike, chroma
from nocturne.scene.thing import Thing


def changed(model: Model, **values: Any) -> Any:
    """Return a copy of a model with some fields changed and checked; the model itself if nothing differs.

    Raises
    ------
    SceneError
        If a value does not fit its field.
    """
    if all(getattr(model, name) == value for name, value in values.items()):
        return model
    # Items were checked when they were made: of a part that holds nothing else, only what joins them is checked.
    sound = {name: value for name, value in values.items() if isinstance(model, Document) and is_part(name, value)}
    left_out = PARTS if isinstance(model, Document) else ()
    fields = {name: getattr(model, name) for name in type(model).model_fields if name not in left_out}
    wanted = {name: value for name, value in values.items() if name not in sound}
    try:
        # Checking makes new tuples; what was not touched must stay the very same object, as others compare by `is`.
        checked = type(model)(**{**fields, **wanted}) if wanted else None
        out = replaced(model, **{name: getattr(checked, name) for name in wanted}, **sound)
        if sound:
            out.check(sound)
    except ValidationError as error:
        first = error.errors()[0]
        name = str(first["loc"][0]) if first["loc"] else ""
        raise SceneError(f"{name}: {first['msg']}.", where=name) from error
    except ValueError as error:
        raise SceneError(f"{error}.", where=next(iter(sound))) from error
    return out


def replaced(model: Model, **values: Any) -> Any:
    """Return a copy of a model with some fields replaced by these very objects, which must fit; nothing is checked."""
    out = model.model_copy(update=values)
    for name in set(out.__dict__) - set(type(model).model_fields):
        del out.__dict__[name]  # cached properties of the old model
    return out


def put(document: Document, part: str, item: Model) -> Document:
    """Return the document with an item replaced by id, or added at the end."""
    items, i = getattr(document, part), document.number(part, item.id)
    if i is None:
        return changed(document, **{part: (*items, item)})
    return document if items[i] == item else changed(document, **{part: (*items[:i], item, *items[i + 1 :])})


def alter(document: Document, part: str, id: str, **values: Any) -> Document:
    """Return the document with fields of one item changed.

    Raises
    ------
    SceneError
        If the item is not there or a value does not fit.
    """
    item = document.find(part, id)
    if item is None:
        raise SceneError(f"There is no {part} “{id}”.", where=f"{part}/{id}")
    return put(document, part, changed(item, **values))


def alter_many(document: Document, part: str, ids: Iterable[str], **values: Any) -> Document:
    """Return the document with the same fields of several items changed, however many: the document is checked once.

    Raises
    ------
    SceneError
        If a value does not fit.
    """
    wanted = set(ids)
    items = getattr(document, part)
    new = tuple(changed(item, **values) if item.id in wanted else item for item in items)
    return document if all(a is b for a, b in zip(items, new)) else changed(document, **{part: new})


def alter_each(document: Document, part: str, values: dict[str, dict[str, Any]]) -> Document:
    """Return the document with fields of several items changed, for each by its id; the document is checked once.

    Raises
    ------
    SceneError
        If a value does not fit.
    """
    items = getattr(document, part)
    new = tuple(changed(item, **values[item.id]) if item.id in values else item for item in items)
    return document if all(a is b for a, b in zip(items, new)) else changed(document, **{part: new})


def remove(document: Document, part: str, *ids: str) -> Document:
    """Return the document without some items; a group of things goes with all that is in it.

    Raises
    ------
    SceneError
        If no view or no quality level would be left.
    """
    gone = {id for id in ids if document.find(part, id) is not None}
    if not gone:
        return document
    if part == "things":
        gone = document.with_members(gone)
        lights = tuple(light for light in document.lights if light.parent not in gone)
        if len(lights) < len(document.lights):
            document = changed(document, lights=lights)
    left = tuple(item for item in getattr(document, part) if item.id not in gone)
    if part == "views" and not left:
        raise SceneError("The last view cannot be removed.", hint="Add another one first.")
    if part == "qualities" and not left:
        raise SceneError("The last quality level cannot be removed.", hint="Copy it first.")
    if part == "things":
        left = tuple(without_things(thing, gone) for thing in left)
    document = changed(document, **{part: left})
    if part == "materials":
        things = tuple(_without_materials(t, gone) for t in document.things)
        left = tuple(changed(m, layer_over="") if m.layer_over in gone else m for m in document.materials)
        document = changed(document, things=things, materials=left)
    return document


def without_things(thing: Thing, gone: set[str]) -> Thing:
    """Return a scatter or cutaway that names none of the things that are gone; another thing as it is."""
    if thing.cutaway is not None and not gone.isdisjoint(thing.cutaway.of):
        left = tuple(id for id in thing.cutaway.of if id not in gone)
        return changed(thing, cutaway=changed(thing.cutaway, of=left))
    scatter = thing.scatter
    if scatter is None or gone.isdisjoint(scatter.named):
        return thing
    values = {
        "sources": tuple(s for s in scatter.sources if s.thing not in gone),
        "keep_out": tuple(id for id in scatter.keep_out if id not in gone),
        **{name: "" for name in ("on", "look_at") if getattr(scatter, name) in gone},
    }
    return changed(thing, scatter=changed(scatter, **values))


def _without_materials(thing: Thing, gone: set[str]) -> Thing:
    if thing.material in gone:
        thing = changed(thing, material="")
    if any(face.material in gone for face in thing.faces):
        kept = tuple(face if face.material not in gone else changed(face, material="") for face in thing.faces)
        thing = changed(thing, faces=kept)
    return thing


def duplicate(document: Document, part: str, id: str) -> tuple[Document, str]:
    """Return the document with a copy of an item behind it, and the copy's id; a group is copied with its members."""
    item = document.find(part, id)
    if item is None:
        raise SceneError(f"There is no {part} “{id}”.", where=f"{part}/{id}")
    copy = changed(
        item,
        id=free_id(document, part, _STEMS.get(part, part.removesuffix("s"))),
        name=free_name(document, part, item.name),
    )
    items = getattr(document, part)
    at = items.index(item) + 1
    if part != "things":
        return changed(document, **{part: (*items[:at], copy, *items[at:])}), copy.id
    members, ids = _members_copied(document, id, copy)
    # What was copied along is what the copies name.
    members = [naming_copies(thing, ids) for thing in (copy, *members)]
    document = changed(document, things=(*items[:at], *members, *items[at:]))
    for light in document.lights:
        if light.parent in ids:
            document, new = duplicate(document, "lights", light.id)
            document = alter(document, "lights", new, parent=ids[light.parent])
    return document, copy.id


def naming_copies(thing: Thing, ids: dict[str, str]) -> Thing:
    """Return a scatter or cutaway that names copies instead of what they were copied from; another thing as it is."""
    if thing.cutaway is not None:
        return changed(thing, cutaway=changed(thing.cutaway, of=tuple(ids.get(id, id) for id in thing.cutaway.of)))
    scatter = thing.scatter
    if scatter is None or ids.keys().isdisjoint(scatter.named):
        return thing
    values = {
        "sources": tuple(changed(s, thing=ids.get(s.thing, s.thing)) for s in scatter.sources),
        "keep_out": tuple(ids.get(id, id) for id in scatter.keep_out),
        **{name: ids.get(getattr(scatter, name), getattr(scatter, name)) for name in ("on", "look_at")},
    }
    return changed(thing, scatter=changed(scatter, **values))


def _members_copied(document: Document, group: str, copy: Thing) -> tuple[list[Thing], dict[str, str]]:
    """Return copies of all that is in a group, near and far, to be put into its copy, and their ids by old ones."""
    inside: dict[str, list[Thing]] = {}
    for thing in document.things:
        inside.setdefault(thing.parent, []).append(thing)
    ids = {thing.id for thing in document.things} | {copy.id}
    names = {thing.name for thing in document.things} | {copy.name}
    numbers: dict[str, Iterator[int]] = {}  # by what is counted, so that a thousand members are not counted anew each

    def free(stem: str, taken: set[str], first: int, apart: str) -> str:
        counter = numbers.setdefault(f"{stem}{apart}", count(first))
        found = next(name for n in counter if (name := f"{stem}{apart}{n}") not in taken)
        taken.add(found)
        return found

    copies, made, left = {group: copy.id}, [], [group]
    while left:
        parent = left.pop()
        for thing in inside.get(parent, ()):
            if thing.id in copies:
                continue  # groups that are in each other
            id, name = free("thing", ids, 1, "-"), free(without_number(thing.name), names, 2, " ")
            made.append(changed(thing, id=id, name=name, parent=copies[parent]))
            copies[thing.id] = made[-1].id
            left.append(thing.id)
    return made, copies


_STEMS = {"qualities": "quality"}
_ACTIVE = {"views": "active_view", "qualities": "active_quality"}


def copied(document: Document, part: str, ids: tuple[str, ...]) -> tuple[Document, tuple[str, ...]]:
    """Return the document with copies of items, each behind its own, and the copies' ids.

    What is in a group that is copied too is copied once, with it. A copied view or quality level is the active one.
    """
    new: list[str] = []
    for id in ids:
        if part == "things" and document.groups_of(id) & set(ids):
            continue
        document, copy = duplicate(document, part, id)
        new.append(copy)
    if new and part in _ACTIVE:
        document = changed(document, **{_ACTIVE[part]: new[-1]})
    return document, tuple(new)


def move(document: Document, part: str, id: str, to: int) -> Document:
    """Return the document with an item at another place of its part."""
    items = list(getattr(document, part))
    item = document.find(part, id)
    if item is None:
        raise SceneError(f"There is no {part} “{id}”.", where=f"{part}/{id}")
    items.remove(item)
    items.insert(min(max(to, 0), len(items)), item)
    return document if tuple(items) == getattr(document, part) else changed(document, **{part: tuple(items)})


_SHARED_BY_SUN_AND_SKY = ("azimuth_deg", "elevation_deg", "turbidity")


def alter_light(document: Document, id: str, **values: Any) -> Document:
    """Return the document with fields of a light changed; a sun and the sky that share their place share the change.

    Raises
    ------
    SceneError
        If the light is not there or a value does not fit.
    """
    before = document.find("lights", id)
    document = alter(document, "lights", id, **values)
    shared = {name: value for name, value in values.items() if name in _SHARED_BY_SUN_AND_SKY}
    if not shared or not isinstance(before, Sunlike) or not before.together:
        return document
    for other in document.lights:
        is_twin = isinstance(other, Sunlike) and other.kind != before.kind and other.together
        if is_twin and all(getattr(other, name) == getattr(before, name) for name in ("azimuth_deg", "elevation_deg")):
            document = alter(document, "lights", other.id, **shared)
    return document


def set_strip(document: Document, group: str, **values: Any) -> Document:
    """Return the document with a strip of the light desk changed."""
    strip = changed(document.strip(group), **values)
    others = {s.group: s for s in document.desk}
    if others.get(group) == strip:
        return document
    others[group] = strip
    return changed(document, desk=tuple(others.values()))


def set_finish(document: Document, **values: Any) -> Document:
    """Return the document with some of the finish changed."""
    return changed(document, finish=changed(document.finish, **values))


def keep_cue(document: Document, name: str = "") -> tuple[Document, str]:
    """Return the document with the desk's state stored as a cue, and the cue's id."""
    id = free_id(document, "cues", "cue")
    strips = tuple(document.strip(group) for group in document.light_groups)
    name = name or free_name(document, "cues", f"Cue {len(document.cues) + 1}")
    return put(document, "cues", Cue(id=id, name=name, strips=strips)), id


def store_cue(document: Document, id: str) -> Document:
    """Return the document with the desk's state stored in a cue that is there."""
    return alter(document, "cues", id, strips=tuple(document.strip(group) for group in document.light_groups))


def desk_to_lights(document: Document) -> Document:
    """Return the document whose lights shine as the desk mixes them, and whose desk is neutral.

    Light groups that the desk lets through at all keep shining, brighter or dimmer and in the desk's tint; those it
    holds back are switched off. The sun and the physical sky have no colour of their own: their tint stays on the desk.
    """
    groups = document.light_groups
    gain = {group: g.astype(float) for group, g in zip(groups, gains(groups, document.desk))}
    left: dict[str, tuple] = {}
    lights = []
    for light in document.lights:
        g = gain[light.group]
        if not light.gives_light:
            lights.append(light)
        elif not g.any():
            lights.append(changed(light, on=False))
        elif not light.has_own_colour:
            top = float(g.max())
            left[light.group] = tuple(float(v) for v in g / top)
            lights.append(changed(light, power=light.power * top))
        elif np.ptp(g) < 1e-9:
            lights.append(changed(light, power=light.power * float(g[0])))
        else:
            rgb = chroma(light) * g
            y = float(luminance(rgb))
            colour = tuple(float(v) for v in rgb / rgb.max())
            lights.append(changed(light, power=light.power * y, colour_from="colour", colour=colour))
    materials = []
    for material in document.materials:
        g = gain.get(material.emission_group or "light")
        if material.is_emitter and g is not None and not np.allclose(g, 1):
            top = float(g.max())
            name = "emission_luminance" if material.emission_unit == "nit" else "emission_power"
            values = {name: getattr(material, name) * top}
            if top > 0 and np.ptp(g) > 1e-9:
                base = np.array(material.glow_color)
                rgb = base * g / top
                values |= {"emission_color": tuple(float(v) for v in rgb), "emission_color_from": "colour"}
                if name == "emission_power":
                    # A power holds whatever the colour is, so what the tint takes is taken from it.
                    values[name] *= float(luminance(rgb)) / max(float(luminance(base)), 1e-12)
            materials.append(changed(material, **values))
        else:
            materials.append(material)
    desk = tuple(Strip(group=group, tint=left.get(group, (1.0, 1.0, 1.0))) for group in groups)
    return changed(document, lights=tuple(lights), materials=tuple(materials), desk=desk)


def recall_cue(document: Document, id: str) -> Document:
    """Return the document with the desk set to a cue."""
    cue = document.find("cues", id)
    if cue is None:
        raise SceneError(f"There is no cue “{id}”.", where=f"cues/{id}")
    return changed(document, desk=cue.strips)


def rename_group(document: Document, old: str, new: str) -> Document:
    """Return the document with a light group renamed wherever it stands."""
    if not new or new == old:
        return document
    if new in document.light_groups:
        raise SceneError(f"There is a light group “{new}” already.", where="groups", hint="Take another name.")
    cues = tuple(
        changed(c, strips=tuple(changed(s, group=new) if s.group == old else s for s in c.strips))
        for c in document.cues
    )
    return changed(
        document,
        groups=tuple(new if g == old else g for g in document.light_groups),
        lights=tuple(changed(li, group=new) if li.group == old else li for li in document.lights),
        # A glow that names no group is in “light”.
        materials=tuple(
            changed(m, emission_group=new) if (m.emission_group or (m.is_emitter and "light")) == old else m
            for m in document.materials
        ),
        desk=tuple(changed(s, group=new) if s.group == old else s for s in document.desk),
        cues=cues,
    )
