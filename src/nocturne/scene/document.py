"""The document: everything a project says, frozen; edits make new ones that share what did not change."""

import hashlib
import re
from collections import Counter
from collections.abc import Iterable, Set
from functools import cached_property, reduce
from itertools import count
from typing import Literal

import numpy as np
from pydantic import model_validator

from nocturne.errors import SceneError
from nocturne.scene import parts
from nocturne.scene.camera import View
from nocturne.scene.desk import Cue, Strip
from nocturne.scene.fields import Model
from nocturne.scene.finish import Finish
from nocturne.scene.lights import KINDS, AnyLight, Placed
from nocturne.scene.materials import Material
from nocturne.scene.outputs import Quality, standard_qualities
from nocturne.scene.shapes import turned_with
from nocturne.scene.thing import Thing

FORMAT_VERSION = 8
PARTS = ("things", "materials", "lights", "views", "cues", "qualities")
RENDERED = ("things", "materials", "lights")


class Document(Model):
    """A whole project, without the meshes and pictures it refers to by relative path."""

    format: Literal["nocturne-project"] = "nocturne-project"
    version: int = FORMAT_VERSION
    name: str = "Untitled"
    things: tuple[Thing, ...] = ()
    materials: tuple[Material, ...] = ()
    lights: tuple[AnyLight, ...] = ()
    groups: tuple[str, ...] = ()
    views: tuple[View, ...] = (View(id="view-1", name="View 1"),)
    active_view: str = "view-1"
    qualities: tuple[Quality, ...] = standard_qualities()
    active_quality: str = "review"
    desk: tuple[Strip, ...] = ()
    cues: tuple[Cue, ...] = ()
    finish: Finish = Finish()

    @model_validator(mode="after")
    def _ids_are_unique(self):
        self.check(PARTS)
        return self

    def check(self, names: Iterable[str]) -> None:
        """Check what pydantic cannot: that ids are unique in these parts, and that there is a view.

        Raises
        ------
        ValueError
            If not.
        """
        for part in names:
            items = getattr(self, part)
            if len(parts.numbers(items, part)) != len(items):
                twice = next(id for id, n in Counter(item.id for item in items).items() if n > 1)
                raise ValueError(f"{part}: “{twice}” is there twice")
        if not self.views:
            raise ValueError("views: there must be one")

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
    def desk_groups(self) -> tuple[str, ...]:
        """Return the light groups that a light or material names; without any (a saved render alone), the listed."""
        used = {light.group for light in self.lights if light.gives_light}
        used |= {m.emission_group or "light" for m in self.materials if m.is_emitter}
        return tuple(group for group in self.light_groups if group in used) if used else self.groups

    @cached_property
    def lit_groups(self) -> tuple[str, ...]:
        """Return the light groups that give light now, at least one: a film holds no others."""
        lit = {light.group for light in self.standing_lights if light.on and light.gives_light and light.power > 0}
        lit |= {m.emission_group or "light" for m in self.materials if m.is_emitter}
        return tuple(group for group in self.light_groups if group in lit) or self.light_groups[:1]

    def number(self, part: str, id: str) -> int | None:
        """Return the number of an item in its part, None if it is not there."""
        return parts.numbers(getattr(self, part), part).get(id) if part in PARTS else None

    def find(self, part: str, id: str) -> Model | None:
        """Return the item of a part by id, None if it is not there."""
        i = self.number(part, id)
        return getattr(self, part)[i] if i is not None else None

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

    @property
    def standing_lights(self) -> tuple[AnyLight, ...]:
        """Return the lights as they stand in the set: those in groups moved, turned and hidden with them."""
        if not parts.of_part(self.lights, "any in groups", lambda lights, *_: any(light.parent for light in lights)):
            return self.lights
        return parts.of_two(self.lights, self.placements, lambda: tuple(map(self.standing, self.lights)))

    def standing(self, light: AnyLight) -> AnyLight:
        """Return a light as it stands in the set; its size stays its own, however its group is sized."""
        stands = self.placements.get(light.parent) if light.parent else None
        if stands is None:
            return light
        matrix, shown = stands
        values: dict = {"on": light.on and shown}
        if isinstance(light, Placed):
            values["place"] = tuple(float(v) for v in matrix[:3, :3] @ np.array(light.place) + matrix[:3, 3])
        if "turn_deg" in type(light).model_fields:
            values["turn_deg"] = turned_with(matrix, light.turn_deg)
        return light.model_copy(update=values)

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
        return parts.with_members(self.things, ids)

    @property
    def placements(self) -> dict[str, tuple[np.ndarray, bool]]:
        """Return for each thing its (4, 4) world matrix and whether it and all its groups are shown."""
        return parts.placements(self.things)

    def placement(self, id: str) -> np.ndarray | None:
        """Return the (4, 4) world matrix of one thing, None if it is not there: quicker than all `placements`."""
        thing, path = self.find("things", id), []
        while thing is not None and thing.id not in path:
            path.append(thing.id)
            thing = self.find("things", thing.parent)
        chain = (self.find("things", i) for i in reversed(path))
        matrices = [parts.local(t.place, t.turn_deg, t.size, t.pivot) for t in chain]
        return reduce(np.matmul, matrices).copy() if matrices else None


_ITEMS = {
    "things": {Thing},
    "materials": {Material},
    "lights": set(KINDS.values()),
    "views": {View},
    "cues": {Cue},
    "qualities": {Quality},
}


def is_part(name: str, value: object) -> bool:
    """Return True if a value is a part of that name and holds nothing but items of it, which were checked when made."""
    return name in _ITEMS and isinstance(value, tuple) and set(map(type, value)) <= _ITEMS[name]


def render_key(document: Document) -> tuple:
    """Return what decides the film; documents with equal keys differ only in exposure, desk and finish."""
    view = document.view
    lens = (
        view.eye,
        view.target,
        view.roll_deg,
        view.projection,
        view.span_m if view.projection == "orthographic" else view.focal_mm / view.sensor_mm,
        view.shift_x,
        view.shift_y,
        view.width / view.height,
        view.depth_of_field
        and (
            view.f_number,
            view.focal_mm,
            "middle" if view.focus_middle else view.focus_m,
            view.blades,
            view.blades_turn_deg,
        ),
        view.cut_m,
        view.far_m,
    )
    quality = document.quality
    paths = (
        quality.diffuse_bounces,
        quality.reflections,
        quality.transmissions,
        quality.bounces,
        quality.clamp,
        quality.regularise,
        *(() if quality.overlaps else ("every wall",)),
    )
    # Names decide nothing that is rendered.
    rendered = (parts.unnamed(getattr(document, part), part) for part in RENDERED)
    return (*rendered, document.lit_groups, lens, paths)


def film_digest(document: Document) -> str:
    """Return a short hash of what decides the film; the same in another process."""
    things, materials, lights, groups, lens, paths = render_key(document)
    digest = hashlib.sha256()
    for what, part in zip(RENDERED, (things, materials, lights)):
        digest.update(parts.digest(part, what))
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
    return unused_name({item.name for item in getattr(document, part)}, stem)


def unused_name(names: Set[str], stem: str, first: int = 2) -> str:
    """Return a name that is not among some; first: the number from which on one is looked for."""
    if stem not in names:
        return stem
    stem = without_number(stem)
    return next(name for n in count(first) if (name := f"{stem} {n}") not in names)


def free_group(document: Document, stem: str) -> str:
    """Return a name that no light group has."""
    name, n = stem, 2
    while name in document.light_groups:
        name, n = f"{without_number(stem)} {n}", n + 1
    return name


def without_number(name: str) -> str:
    """Return a name without the number that tells it from others of the same name."""
    return re.sub(r"(?<=\S) \d+$", "", name)
