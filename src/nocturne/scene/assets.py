"""The meshes and pictures that a document refers to, loaded."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from nocturne.colour.lookup import LookUpTable
from nocturne.scene.change import Change
from nocturne.scene.document import RENDERED, Document
from nocturne.scene.files import values_named, values_of
from nocturne.scene.forms import form_mesh
from nocturne.scene.patterns.tiles import together
from nocturne.scene.shapes import Mesh, turned_over
from nocturne.scene.smoothing import smoothed
from nocturne.scene.thing import Thing
from nocturne.scene.uvs import placed_uvs


@dataclass(frozen=True)
class Named:
    """The files that a document names, as `Assets` is keyed."""

    meshes: frozenset[str] = frozenset()
    images: frozenset[tuple[str, str]] = frozenset()
    luts: frozenset[str] = frozenset()

    @staticmethod
    def of(document: Document) -> "Named":
        """Return the files that a document names."""
        return Named._holding(values_named(document))

    @staticmethod
    def by(change: Change) -> "Named":
        """Return the files that what an edit changed names: of all items of a part if some came or went."""
        found = set()
        for part in RENDERED:
            items = change.items(part)
            found |= values_of(getattr(change.after, part) if items is None else [item for _, item in items])
        if change.touches("finish"):
            found |= values_of(change.after.finish.steps)
        return Named._holding(found)

    @staticmethod
    def _holding(found: set[tuple[str, str, str]]) -> "Named":
        return Named(
            frozenset(value for holds, value, _ in found if holds == "model"),
            frozenset((value, space) for holds, value, space in found if holds == "picture"),
            frozenset(value for holds, value, _ in found if holds == "table"),
        )

    def but(self, other: "Named | Assets") -> "Named":
        """Return what is not in another."""
        return Named(
            frozenset(self.meshes.difference(other.meshes)),
            frozenset(self.images.difference(other.images)),
            frozenset(self.luts.difference(other.luts)),
        )

    def __bool__(self) -> bool:
        """Return True if any file is named."""
        return bool(self.meshes or self.images or self.luts)


@dataclass(frozen=True, repr=False)
class Assets:
    """Loaded files by the names the document uses.

    meshes: by `Thing.mesh`. images: by `Step.picture`; (h, w, 3) float32, colour in the working space, top row first;
    sets of tiles as in `scene.patterns.tiles`. luts: look-up tables by path. problems: what could not be loaded and
    stands in as a placeholder, one sentence each.
    """

    meshes: Mapping[str, Mesh] = field(default_factory=dict)
    images: Mapping[tuple[str, str], np.ndarray] = field(default_factory=dict)
    luts: Mapping[str, LookUpTable] = field(default_factory=dict)
    problems: tuple[str, ...] = ()

    def with_more(self, more: "Assets") -> "Assets":
        """Return these and further models and pictures."""
        return replace(self, meshes={**self.meshes, **more.meshes}, images={**self.images, **more.images})

    def picture(self, path: str) -> np.ndarray | None:
        """Return an (h, w, 3) picture of colours, of a set of tiles all together; None if it is not loaded."""
        image = self.images.get((path, "colour"))
        return together(image) if image is not None else None

    def shape(self, thing: Thing) -> Mesh | None:
        """Return the mesh of a thing, with the smoothing it wants; None if it has none, or its model is not loaded."""
        mesh = form_mesh(thing.form) if thing.form is not None else self.meshes.get(thing.mesh)
        if mesh is None:
            return None
        mesh = placed_uvs(mesh, thing.uv_placing)
        if thing.turned_over:
            mesh = turned_over(mesh)
        if thing.smoothing == "own":
            return mesh
        angle = {"angle": thing.edge_deg, "flat": 0.0, "smooth": 180.0}[thing.smoothing]
        return smoothed(mesh, angle, thing.weld_m)
