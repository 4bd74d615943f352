"""The document: everything a project says, frozen; edits make new ones that share what did not change."""

import hashlib
import re
from collections.abc import Callable, Iterable
from functools import cached_property, lru_cache, reduce
from typing import Any, Literal

import numpy as np
from pydantic import model_validator

from nocturne.errors import SceneError
from nocturne.scene.camera import View
from nocturne.scene.desk import Cue, Strip
from nocturne.scene.fields import Model
from nocturne.scene.finish import Finish
from nocturne.scene.lights import AnyLight
from nocturne.scene.materials import Material
from nocturne.scene.outputs import Quality, standard_qualities
from nocturne.scene.shapes import Thing, transform

FORMAT_VERSION = 5
PARTS = ("things", "materials", "lights", "views", "cues", "qualities")


class Document(Model):
    """A whole project, without the meshes and pictures it refers to by relative path."""

    format: Literal["nocturne-project"] = "nocturne-project"
    version: int = FORMAT_VERSION
    name: str = "Untitled"
    things: tuple[Thing, ...] = ()
    materials: tuple[Material, ...] = ()
    lights: tuple[AnyLight, ...] = ()
    groups: tuple[str, ...] = ("light",)
    views: tuple[View, ...] = (View(id="view-1", name="View 1"),)
    active_view: str = "view-1"
    qualities: tuple[Quality, ...] = standard_qualities()
    active_quality: str = "review"
    desk: tuple[Strip, ...] = ()
    cues: tuple[Cue, ...] = ()
    finish: Finish = Finish()

    @model_validator(mode="after")
    def _ids_are_unique(self):
        for part in PARTS:
            seen: set[str] = set()
            for item in getattr(self, part):
                if item.id in seen:
                    raise ValueError(f"{part}: “{item.id}” is there twice")
                seen.add(item.id)
        if not self.views:
            raise ValueError("views: there must be one")
        return self

    @property
    def view(self) -> View:
        """Return the active view, the first if the active one is gone."""
        return next((v for v in self.views if v.id == self.active_view), self.views[0])

    @property
    def quality(self) -> Quality:
        """Return the active quality level."""
        return next((q for q in self.qualities if q.id == self.active_quality), self.qualities[0])

    @cached_property
    def light_groups(self) -> tuple[str, ...]:
        """Return every light group's name: the listed ones, then any that a light or material names besides."""
        names = dict.fromkeys(self.groups)
        names.update(dict.fromkeys(light.group for light in self.lights))
        names.update(dict.fromkeys(m.emission_group or "light" for m in self.materials if m.is_emitter))
        return tuple(names) or ("light",)

    @cached_property
    def lit_groups(self) -> tuple[str, ...]:
        """Return the light groups that give light now, at least one: a film holds no others."""
        lit = {light.group for light in self.lights if light.on and light.power > 0}
        lit |= {m.emission_group or "light" for m in self.materials if m.is_emitter}
        return tuple(group for group in self.light_groups if group in lit) or self.light_groups[:1]

    @cached_property
    def _index(self) -> dict[tuple[str, str], Model]:
        return {(part, item.id): item for part in PARTS for item in getattr(self, part)}

    def find(self, part: str, id: str) -> Model | None:
        """Return the item of a part by id, None if it is not there."""
        return self._index.get((part, id))

    def named(self, part: str, name: str) -> Model:
        """Return the item of a part by name or id.

        Raises
        ------
        SceneError
            If there is none; the hint lists those there are.
        """
        for item in getattr(self, part):
            if name in (item.id, item.name) or item.name.casefold() == name.casefold():
                return item
        there = ", ".join(item.name for item in getattr(self, part)) or "none"
        raise SceneError(f"There is no “{name}” among the {part}.", where=part, hint=f"There are: {there}.")

    def strip(self, group: str) -> Strip:
        """Return the desk's strip of a group, a neutral one if it has none."""
        return next((s for s in self.desk if s.group == group), Strip(group=group))

    def children(self, parent: str) -> Iterable[Thing]:
        """Yield the things directly in a group ("" for the top)."""
        return (thing for thing in self.things if thing.parent == parent)

    def groups_of(self, id: str) -> set[str]:
        """Return all groups that a thing is in, near and far."""
        groups: set[str] = set()
        thing = self.find("things", id)
        while thing is not None and thing.parent and thing.parent not in groups:
            groups.add(thing.parent)
            thing = self.find("things", thing.parent)
        return groups - {id}

    def with_members(self, ids: Iterable[str]) -> set[str]:
        """Return things and all that is in groups among them, near and far."""
        inside: dict[str, list[str]] = {}
        for thing in self.things:
            inside.setdefault(thing.parent, []).append(thing.id)
        found, left = set(ids), list(ids)
        while left:
            for id in inside.get(left.pop(), ()):
                if id not in found:
                    found.add(id)
                    left.append(id)
        return found

    @property
    def placements(self) -> dict[str, tuple[np.ndarray, bool]]:
        """Return for each thing its (4, 4) world matrix and whether it and all its groups are shown."""
        return _of_part(self.things, "placements", _placements)

    def placement(self, id: str) -> np.ndarray | None:
        """Return the (4, 4) world matrix of one thing, None if it is not there: quicker than all `placements`."""
        thing, path = self.find("things", id), []
        while thing is not None and thing.id not in path:
            path.append(thing.id)
            thing = self.find("things", thing.parent)
        matrices = [_local(t.place, t.turn_deg, t.size) for t in (self.find("things", i) for i in reversed(path))]
        return reduce(np.matmul, matrices).copy() if matrices else None


# What was worked out from a part, with the part: documents that share it share the result, and it is compared by `is`.
_worked_out: dict[str, list[tuple[tuple, Any]]] = {}
_MOST_KEPT = 6


def _of_part(part: tuple, what: str, work_out: Callable[..., Any]) -> Any:
    kept = _worked_out.setdefault(what, [])
    for known, result in kept:
        if known is part:
            return result
    result = work_out(part, *(kept[0] if kept else ((), None)))
    kept.insert(0, (part, result))
    del kept[_MOST_KEPT:]
    return result


@lru_cache(maxsize=1 << 15)
def _local(place: tuple, turn_deg: tuple, size: tuple) -> np.ndarray:
    # Not kept on the thing itself: equality of models compares all they hold, and arrays have no truth value.
    matrix = transform(place, turn_deg, size)
    matrix.flags.writeable = False
    return matrix


def _placements(
    things: tuple[Thing, ...], before: tuple[Thing, ...], known: dict[str, tuple[np.ndarray, bool]] | None
) -> dict[str, tuple[np.ndarray, bool]]:
    """Return the placements; things that stand where they did before keep theirs."""
    by_id = {thing.id: thing for thing in things}
    old = {thing.id: thing for thing in before}
    found: dict[str, tuple[np.ndarray, bool]] = {}

    for thing in things:
        # Up to the first group that is placed or to the top, then down again: groups may be in groups a thousand deep.
        chain: list[Thing] = []
        in_chain: set[str] = set()
        at: Thing | None = thing
        while at is not None and at.id not in found and at.id not in in_chain:
            chain.append(at)
            in_chain.add(at.id)
            at = by_id.get(at.parent)
        # Groups that are in each other (a damaged file) must not hang: the last one stands as if it were in none.
        above = found.get(at.id) if at is not None and at.id not in in_chain else None
        for item in reversed(chain):
            has_parent = above is not None
            stood = old.get(item.id) is item and (item.parent in old) == has_parent
            if stood and above is (known.get(item.parent) if has_parent else None):
                found[item.id] = known[item.id]
            else:
                matrix, shown = _local(item.place, item.turn_deg, item.size), item.visible
                found[item.id] = (matrix, shown) if above is None else (above[0] @ matrix, above[1] and shown)
            above = found[item.id]
    return found


def _digest(part: tuple, before: tuple, known: tuple[tuple[bytes, ...], bytes] | None) -> tuple:
    """Return a hash of each item and one of all; items that were there before keep theirs."""
    old = {id(item): digest for item, digest in zip(before, known[0])} if known is not None else {}
    each = tuple(old.get(id(item)) or hashlib.sha256(item.model_dump_json().encode()).digest() for item in part)
    return each, hashlib.sha256(b"".join(each)).digest()


def _unnamed(part: tuple, before: tuple, known: tuple[tuple, tuple] | None) -> tuple[tuple, tuple]:
    """Return items and the same without their names; those that were there before keep theirs, by which it is equal."""
    old = {id(item): plain for item, plain in zip(before, known[1])} if known is not None else {}
    plain = tuple(old.get(id(item)) or item.model_copy(update={"name": ""}) for item in part)
    return part, plain


def render_key(document: Document) -> tuple:
    """Return what decides the film; documents with equal keys differ only in exposure, desk and finish."""
    view = document.view
    lens = (
        view.eye,
        view.target,
        view.roll_deg,
        view.focal_mm,
        view.sensor_mm,
        view.shift_x,
        view.shift_y,
        view.width / view.height,
        view.depth_of_field and (view.f_number, view.focus_m, view.blades, view.blades_turn_deg),
        view.cut_m,
    )
    quality = document.quality
    paths = (
        quality.diffuse_bounces,
        quality.reflections,
        quality.transmissions,
        quality.bounces,
        quality.clamp,
        quality.regularise,
    )
    # Names decide nothing that is rendered.
    things, materials, lights = (
        _of_part(part, f"unnamed {what}", _unnamed)[1]
        for what, part in (("things", document.things), ("materials", document.materials), ("lights", document.lights))
    )
    return things, materials, lights, document.lit_groups, lens, paths


def film_digest(document: Document) -> str:
    """Return a short hash of what decides the film; the same in another process."""
    things, materials, lights, groups, lens, paths = render_key(document)
    digest = hashlib.sha256()
    for what, part in (("things", things), ("materials", materials), ("lights", lights)):
        digest.update(_of_part(part, f"digest of {what}", _digest)[1])
    digest.update(repr((groups, lens, paths)).encode())
    return digest.hexdigest()[:16]


def free_id(document: Document, part: str, stem: str) -> str:
    """Return an id that no item of the part has."""
    n = 1
    while document.find(part, f"{stem}-{n}") is not None:
        n += 1
    return f"{stem}-{n}"


def free_name(document: Document, part: str, stem: str) -> str:
    """Return a name that no item of the part has: after “Lamp” and “Lamp 2” comes “Lamp 3”."""
    names = {item.name for item in getattr(document, part)}
    if stem not in names:
        return stem
    stem, n = without_number(stem), 2
    while f"{stem} {n}" in names:
        n += 1
    return f"{stem} {n}"


def free_group(document: Document, stem: str) -> str:
    """Return a name that no light group has."""
    name, n = stem, 2
    while name in document.light_groups:
        name, n = f"{without_number(stem)} {n}", n + 1
    return name


def without_number(name: str) -> str:
    """Return a name without the number that tells it from others of the same name."""
    return re.sub(r"(?<=\S) \d+$", "", name)
