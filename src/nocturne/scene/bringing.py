"""What a model brings, made a part of the document: in a group of its own, in metres, z up."""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from itertools import count
from typing import Any, Protocol

import numpy as np

from nocturne.scene import edit, navigate
from nocturne.scene.camera import View
from nocturne.scene.document import Document, free_group, free_id, free_name, unused_name, without_number
from nocturne.scene.fields import within
from nocturne.scene.files import renamed
from nocturne.scene.forms.ground import Ground
from nocturne.scene.forms.room import Room
from nocturne.scene.lights import Light, make_light
from nocturne.scene.materials import Material
from nocturne.scene.shapes import Mesh, transform, turn_of
from nocturne.scene.thing import FaceMaterial, Thing

# From the model's axes to ours: turned about x so that its y points up, or as it is.
_UP = {"y": 90.0, "z": 0.0}
_SIZES = ("width", "height", "radius", "bulb_radius", "length")  # of lights, lengths
_GROUND = 400.0  # how many times as wide as the first model the ground under it is: its edge lies at the horizon
_OVER_SHOULDER_DEG = 40.0  # from behind the viewer to the sun
_INDOORS = {"shutter_s": 1 / 30, "f_number": 4.0, "white_k": 5600.0}


class Camera(Protocol):
    """What this needs of a camera that was read; see `io.models.cameras`."""

    focus: float

    @property
    def up(self) -> np.ndarray:
        """Return the (3,) direction that is up in its picture."""


class Arrival(Protocol):
    """What this needs of a model that was read; see `io.models.arrival`."""

    things: tuple[Thing, ...]
    meshes: dict[str, Mesh]
    materials: tuple[Material, ...]
    lights: tuple[Light, ...]
    views: tuple[View, ...]
    cameras: Mapping[str, Camera]
    unit_m: float
    up: str

    def bounds(self) -> np.ndarray | None:
        """Return the (2, 3) box of it all in its own units."""


@dataclass(frozen=True)
class Wanted:
    """How a model is brought in: how long its unit is, metres; which axis is up; which lights and views come, by id."""

    unit_m: float = 1.0
    up: str = "z"
    lights: frozenset[str] = frozenset()
    views: frozenset[str] = frozenset()

    @classmethod
    def all_of(cls, arrival: Arrival) -> "Wanted":
        """Return that everything comes, as the file says it is."""
        lights, views = ({item.id for item in part} for part in (arrival.lights, arrival.views))
        return cls(arrival.unit_m, arrival.up, frozenset(lights), frozenset(views))

    def matrix(self) -> np.ndarray:
        """Return the (4, 4) matrix from the model's space to metres, z up."""
        return transform((0.0, 0.0, 0.0), (_UP[self.up], 0.0, 0.0), (self.unit_m,) * 3)


def box_in_metres(arrival: Arrival, wanted: Wanted) -> np.ndarray:
    """Return the (2, 3) box of a model in metres, z up; zeros if nothing in it has a shape."""
    box = arrival.bounds()
    if box is None:
        return np.zeros((2, 3))
    corners = np.stack(np.meshgrid(*box.T, indexing="ij"), axis=-1).reshape(-1, 3) @ wanted.matrix()[:3, :3].T
    return np.stack([corners.min(0), corners.max(0)])


def brought(
    document: Document,
    arrival: Arrival,
    wanted: Wanted,
    *,
    base: str,
    name: str,
    named: Callable[[str], str],
    at: np.ndarray | None = None,
) -> tuple[Document, str]:
    """Return the document with a model in it, and the id of the group it is in; "" if it brings materials only.

    base: the model's file as the document names it. named: how the document names a picture that the model names, with
    a "#" first if it is inside the model. at: (3,) the point of the set that the middle of its floor comes to stand
    on; None: its origin is the set's.
    """
    ids, names = Ids(document), _Names(document)
    if not arrival.things and not wanted.lights and not wanted.views:
        materials = tuple(
            renamed(
                m.model_copy(update={"id": ids.free("materials", "material"), "name": names.free("materials", m.name)}),
                named,
            )
            for m in arrival.materials
        )
        return edit.changed(document, materials=(*document.materials, *materials)), ""
    group = ids.free("things", "thing")
    place = np.zeros(3)
    if at is not None:
        low, high = box_in_metres(arrival, wanted)
        place = np.asarray(at, float) - ((low[0] + high[0]) / 2, (low[1] + high[1]) / 2, low[2])
    place = tuple(round(float(v), 4) + 0.0 for v in place)
    things, stands = [Thing(id=group, name=free_name(document, "things", name), place=place)], wanted.matrix()
    new = {thing.id: ids.free("things", "thing") for thing in arrival.things}
    worn = {m.id: ids.free("materials", "material") for m in arrival.materials}
    for thing in arrival.things:
        values: dict[str, Any] = {
            "id": new[thing.id],
            "parent": new.get(thing.parent, group),
            "mesh": f"{base}#{thing.mesh}" if thing.mesh else "",
            "material": worn.get(thing.material, ""),
            "faces": tuple(_face(face, worn) for face in thing.faces),
        }
        if thing.parent not in new:
            values |= _in_metres(thing, wanted, stands)
        things.append(thing.model_copy(update=values))
    groups = document
    lights = []
    for light in arrival.lights:
        if light.id not in wanted.lights:
            continue
        fader = free_group(groups, light.name.lower())
        groups = edit.replaced(groups, groups=(*groups.light_groups, fader))
        values = {"id": ids.free("lights", "light"), "group": fader, "parent": new.get(light.parent, group)}
        values["name"] = names.free("lights", light.name)
        values |= {
            size: within(type(light), size, getattr(light, size) * wanted.unit_m)
            for size in _SIZES
            if hasattr(light, size)
        }
        if light.parent not in new:
            values |= _light_in_metres(light, wanted, stands)
        lights.append(renamed(light.model_copy(update=values), named))
    offset = np.eye(4)
    offset[:3, 3] = place
    views = [
        _view_in_metres(view, offset @ stands, arrival, wanted).model_copy(
            update={"id": ids.free("views", "view"), "name": names.free("views", view.name)}
        )
        for view in arrival.views
        if view.id in wanted.views
    ]
    materials = [
        renamed(m.model_copy(update={"id": worn[m.id], "name": names.free("materials", m.name)}), named)
        for m in arrival.materials
    ]
    document = edit.changed(
        document,
        things=(*document.things, *things),
        materials=(*document.materials, *materials),
        lights=(*document.lights, *lights),
        views=(*document.views, *views),
    )
    return document, group


class Ids:
    """Gives ids that no item of a document has, and none twice."""

    def __init__(self, document: Document) -> None:
        self._document = document
        self._numbers: dict[str, Any] = {}

    def free(self, part: str, stem: str) -> str:
        """Return one that begins with a stem."""
        numbers = self._numbers.setdefault(part, count(1))
        return next(id for n in numbers if self._document.find(part, id := f"{stem}-{n}") is None)


class _Names:
    """Gives names that no item of a document has, and none twice."""

    def __init__(self, document: Document) -> None:
        self._document = document
        self._names: dict[str, set[str]] = {}
        self._numbers: dict[tuple[str, str], int] = {}  # where to look on: thousands may come by one name

    def free(self, part: str, stem: str) -> str:
        names = self._names.setdefault(part, {item.name for item in getattr(self._document, part)})
        key = part, without_number(stem)
        name = unused_name(names, stem, self._numbers.get(key, 2))
        if name != stem:
            self._numbers[key] = int(name.rpartition(" ")[2]) + 1
        names.add(name)
        return name


def _face(face: FaceMaterial, worn: dict[str, str]) -> FaceMaterial:
    return face.model_copy(update={"material": worn.get(face.material, "")})


def _in_metres(thing: Thing, wanted: Wanted, stands: np.ndarray) -> dict:
    """Return how a thing at the top of the model stands in its group: turned upright, in metres."""
    place = stands[:3, :3] @ np.array(thing.place)
    turn = transform((0, 0, 0), (_UP[wanted.up], 0, 0))[:3, :3] @ transform((0, 0, 0), thing.turn_deg)[:3, :3]
    return {
        "place": tuple(float(v) + 0.0 for v in place),
        "turn_deg": turn_of(turn),
        "size": tuple(float(s * wanted.unit_m) for s in thing.size),
    }


def _light_in_metres(light: Light, wanted: Wanted, stands: np.ndarray) -> dict:
    values: dict = {}
    if hasattr(light, "place"):
        values["place"] = tuple(float(v) + 0.0 for v in stands[:3, :3] @ np.array(light.place))
    if hasattr(light, "turn_deg"):
        turn = transform((0, 0, 0), (_UP[wanted.up], 0, 0))[:3, :3]
        values["turn_deg"] = turn_of(turn @ transform((0, 0, 0), light.turn_deg)[:3, :3])
    return values


def _view_in_metres(view: View, matrix: np.ndarray, arrival: Arrival, wanted: Wanted) -> View:
    """Return a view in the set; it aims where it looks, at the depth of the model's middle."""
    eye, target = (matrix[:3, :3] @ np.array(p) + matrix[:3, 3] for p in (view.eye, view.target))
    ahead = (target - eye) / max(float(np.linalg.norm(target - eye)), 1e-30)
    low, high = box_in_metres(arrival, wanted) + matrix[:3, 3]
    scale = abs(float(np.linalg.det(matrix[:3, :3]))) ** (1 / 3)
    camera = arrival.cameras.get(view.id)
    distance = float(((low + high) / 2 - eye) @ ahead)
    if not distance > 1e-3:
        distance = max(float(np.linalg.norm(high - low)), 1.0)
    aim = eye + ahead * distance
    focus = camera.focus * scale if camera is not None and camera.focus > 0 else distance
    stands = view.model_copy(
        update={
            "eye": tuple(map(float, eye)),
            "target": tuple(map(float, aim)),
            "focus_m": min(max(focus, 0.01), 1e5),
            "span_m": within(View, "span_m", view.span_m * scale),
        }
    )
    if camera is None:
        return stands
    right, up, _ = navigate.axes(stands)
    above = matrix[:3, :3] @ camera.up
    roll = math.degrees(math.atan2(-float(above @ right), float(above @ up)))
    return stands.model_copy(update={"roll_deg": round(roll, 9) + 0.0})


def _round_up(length: float) -> float:
    """Return the next of 1, 2, 5, 10, ... that is at least a length."""
    step = 10.0 ** math.floor(math.log10(max(length, 1e-6)))
    return next(step * k for k in (1, 2, 5, 10) if step * k >= length * (1 - 1e-9))


def first_set(
    document: Document,
    low: np.ndarray,
    high: np.ndarray,
    *,
    view: View | None = None,
    with_ground: bool = True,
    room: Room | None = None,
) -> Document:
    """Return the document with a sky and its sun over its first model, a ground under it and the view on it.

    low, high: its corners in the set. view: one that came with it, to be looked through instead. room: what stands
    there is one, at the origin, and is seen from inside. The sun shines over the viewer's shoulder, into a room through
    its first opening. Exposed for daylight.
    """
    document = _with_ground(document, low, high) if with_ground else document
    framed, azimuth, elevation = view, 215.0, 38.0
    if view is None and room is not None and room.openings:
        framed, azimuth, elevation = *_inside(document.view, room), 30.0
    elif view is None:
        framed = navigate.bring_into_view(document.view, low, high)
    if framed is not None and (room is None or not room.openings):
        back = np.subtract(framed.eye, framed.target)
        if np.hypot(back[0], back[1]) > 1e-9:
            azimuth = (math.degrees(math.atan2(back[1], back[0])) + _OVER_SHOULDER_DEG) % 360
    sun = {"azimuth_deg": round(azimuth, 1), "elevation_deg": elevation}
    for kind, power in (("sky", 1.0), ("sun", 1.0)):
        id, name = free_id(document, "lights", "light"), free_name(document, "lights", kind.capitalize())
        light = make_light(id=id, name=name, kind=kind, power=power, group=free_group(document, kind), **sun)
        document = edit.put(document, "lights", light)
    daylight = {"shutter_s": 1 / 125, "f_number": 11.0, "white_k": 5600.0}
    if view is not None:
        document = edit.put(document, "views", edit.changed(view, **daylight))
        return edit.changed(document, active_view=view.id)
    return edit.put(document, "views", edit.changed(framed, **(daylight if room is None else _INDOORS)))


def _inside(view: View, room: Room) -> tuple[View, float]:
    """Return the view from a corner of a room to the light of its first opening, and the azimuth the sun is to have."""
    opening = room.openings[0]
    turn = math.radians({"front": 180.0, "right": 270.0, "back": 0.0, "left": 90.0}[opening.wall])
    long, out = (room.width, room.depth) if opening.wall in ("front", "back") else (room.depth, room.width)

    def stood(x: float, y: float, z: float) -> tuple[float, ...]:
        spun = (x * math.cos(turn) - y * math.sin(turn), x * math.sin(turn) + y * math.cos(turn), z)
        return tuple(round(v, 4) + 0.0 for v in spun)

    # In the wall's own space, as the room builds it: x along it, y out of the room.
    across = opening.along + opening.width / 2 - long / 2
    side = -1.0 if across > 0 else 1.0
    height = min(1.5, 0.6 * room.height)
    eye = stood(side * 0.42 * long, -0.42 * out, height)
    target = stood(across, 0.5 * out, min(opening.sill + opening.height / 2, height))
    azimuth = (math.degrees(turn) + 90.0 + side * 35.0) % 360
    return edit.changed(view, eye=eye, target=target, focal_mm=20.0), azimuth


def _with_ground(document: Document, low: np.ndarray, high: np.ndarray) -> Document:
    width = float(np.linalg.norm((high - low)[:2])) or 1.0
    side = _round_up(_GROUND * max(width, float(high[2] - low[2])))
    if document.find("materials", "ground") is None:
        grey = Material(id="ground", name="Ground", base_color=(0.32, 0.31, 0.3), specular_roughness=0.75)
        document = edit.put(document, "materials", grey)
    # A hair below: a floor of the model's own in the same place would flicker with it.
    hair = 1e-3 * max(width, float(high[2] - low[2]))
    middle = (float((low[0] + high[0]) / 2), float((low[1] + high[1]) / 2), float(low[2]) - hair)
    form = Ground(width=side, depth=side)
    id = free_id(document, "things", "ground")
    ground = Thing(id=id, name=free_name(document, "things", "Ground"), form=form, material="ground", place=middle)
    return edit.put(document, "things", ground)
