"""The meshes and pictures that a document refers to, loaded."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from nocturne.colour.lookup import LookUpTable
from nocturne.scene.document import Document
from nocturne.scene.files import values_named
from nocturne.scene.shapes import Mesh


@dataclass(frozen=True)
class Named:
    """The files that a document names, as `Assets` is keyed."""

    meshes: frozenset[str] = frozenset()
    images: frozenset[tuple[str, str]] = frozenset()
    luts: frozenset[str] = frozenset()

    @staticmethod
    def of(document: Document) -> "Named":
        """Return the files that a document names."""
        found = values_named(document)
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

    meshes: by `Thing.mesh`. images: by (path, "colour" or "data"); (h, w, 3) float32, colour in the working space, top
    row first. luts: look-up tables by path. problems: what could not be loaded and
    stands in as a placeholder, one sentence each.
    """

    meshes: Mapping[str, Mesh] = field(default_factory=dict)
    images: Mapping[tuple[str, str], np.ndarray] = field(default_factory=dict)
    luts: Mapping[str, LookUpTable] = field(default_factory=dict)
    problems: tuple[str, ...] = ()
