"""A set on its way out: its things with their meshes and what they wear, as writers of any format need it."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from nocturne.errors import BadFile, FileError
from nocturne.io import image
from nocturne.io.models.arrival import Names
from nocturne.io.models.read import picture_inside
from nocturne.scene import faces
from nocturne.scene.assets import Assets
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.files import split
from nocturne.scene.glowing import settled_materials
from nocturne.scene.lights import Light
from nocturne.scene.materials import Material
from nocturne.scene.parts import local
from nocturne.scene.projection import camera_axes
from nocturne.scene.scattering import copies_of
from nocturne.scene.shapes import Mesh
from nocturne.scene.thing import Thing

MOST_COPIES = 50_000  # of one scatter, each written as a thing


@dataclass(frozen=True, eq=False, repr=False)
class Item:
    """One thing: where it stands in its group, and its mesh, whose triangle k wears `worn[of_face[k]]`."""

    id: str
    name: str
    parent: str
    matrix: np.ndarray
    is_shown: bool
    mesh: Mesh | None = None
    mesh_name: str = ""
    worn: tuple[str, ...] = ()
    of_face: np.ndarray | None = None


@dataclass(frozen=True, eq=False, repr=False)
class Outgoing:
    """All that goes out. folder: what paths of pictures are relative to. lost: what is left out already."""

    things: tuple[Item, ...]
    materials: tuple[Material, ...]
    lights: tuple[Light, ...]
    views: tuple[View, ...]
    folder: Path
    document: Document
    lost: tuple[str, ...] = field(default=())
    images: Mapping[tuple[str, str], np.ndarray] = field(default_factory=dict)  # loaded pictures, as in `Assets`

    @classmethod
    def of(cls, document: Document, assets: Assets, folder: Path) -> "Outgoing":
        """Return what goes out of a document: hidden things too, lights as they are, parents before children."""
        names, mesh_names = Names(), {}
        items, lost = [], []
        for thing in _in_order(document):
            mesh = assets.shape(thing)
            if thing.has_shape and mesh is None:
                lost.append(f"“{thing.name}”: its model could not be loaded")
            if thing.rounding_mm > 0:
                lost.append(f"“{thing.name}”: the rounding of its edges")
            if thing.cutaway is not None:
                lost.append(f"“{thing.name}”: a cutaway; what it cuts is whole")
                continue
            if thing.scatter is not None:
                items += _copies(document, assets, thing, names, mesh_names, lost)
                continue
            worn, of_face = faces.worn(thing, mesh) if mesh is not None else ((), None)
            if mesh is not None and id(mesh) not in mesh_names:
                mesh_names[id(mesh)] = names.free(thing.mesh.partition("#")[2] or thing.name)
            items.append(
                Item(
                    thing.id,
                    thing.name,
                    thing.parent,
                    local(thing.place, thing.turn_deg, thing.size, thing.pivot),
                    thing.visible,
                    mesh,
                    mesh_names.get(id(mesh), ""),
                    worn,
                    of_face,
                )
            )
        views = tuple(view for view in document.views if view.projection != "panorama")
        lost += [f"“{view.name}”: a panorama" for view in document.views if view not in views]
        materials = settled_materials(document, assets)
        return cls(tuple(items), materials, document.lights, views, folder, document, tuple(lost), assets.images)

    def home_of(self, light: Light) -> tuple[str, Light]:
        """Return the group that a light can be in without being sized by it, or "", and the light as it is there."""
        matrix = self.document.placement(light.parent) if light.parent else None
        if matrix is None:
            return "", light
        linear = matrix[:3, :3]
        if np.allclose(linear.T @ linear, np.eye(3), atol=1e-6) and np.linalg.det(linear) > 0:
            return light.parent, light
        return "", self.document.standing(light)

    @staticmethod
    def turn_of_view(view: View) -> np.ndarray:
        """Return the (3, 3) rotation of a view: it looks along its minus z, y up."""
        right, up, ahead = camera_axes(view)
        return np.stack([right, up, -ahead], axis=1)

    def picture(self, path: str) -> bytes:
        """Return the bytes of a picture's file.

        Raises
        ------
        FileError
            If it cannot be read.
        """
        file, mark, inner = split(path, "picture")
        if mark:
            data = picture_inside(self.folder / file, inner)
            if not image.ending_of(data):
                raise BadFile(self.folder / path, "it is no picture.", hint="Take it off the material.")
            return data
        image.open_picture(self.folder / path).close()  # a project may name any file as a picture
        try:
            return (self.folder / path).read_bytes()
        except OSError as error:
            raise FileError(self.folder / path, f"it cannot be read ({error.strerror}).") from error


def _copies(
    document: Document, assets: Assets, thing: Thing, names: Names, mesh_names: dict[int, str], lost: list[str]
) -> list[Item]:
    """Return a scatter as a group of its copies; too many of them are told and left out."""
    parts = copies_of(document, assets, thing)
    n = sum(len(part.matrices) for part in parts)
    stands = local(thing.place, thing.turn_deg, thing.size, thing.pivot)
    if n > MOST_COPIES:
        lost.append(f"“{thing.name}”: its {n:,} copies; {MOST_COPIES:,} are the most")
        parts = []
    items = [Item(thing.id, thing.name, thing.parent, stands, thing.visible)]
    for k, part in enumerate(parts):
        if id(part.mesh) not in mesh_names:
            mesh_names[id(part.mesh)] = names.free(f"{thing.name} shape")
        name, worn = mesh_names[id(part.mesh)], (part.material,)
        for i, matrix in enumerate(part.matrices):
            items.append(Item(f"{thing.id}-{k}-{i}", thing.name, thing.id, matrix, True, part.mesh, name, worn))
    return items


def _in_order(document: Document) -> list:
    """Return the things with parents before their children, else as they are; what is its own group goes to the top."""
    inside: dict[str, list] = {}
    known = {thing.id for thing in document.things}
    for thing in document.things:
        inside.setdefault(thing.parent if thing.parent in known else "", []).append(thing)
    out, left, seen = [], list(reversed(inside.get("", []))), set()
    while left:
        thing = left.pop()
        if thing.id in seen:
            continue
        seen.add(thing.id)
        out.append(thing)
        left += reversed(inside.get(thing.id, []))
    return out
