"""What a model brings: things, materials, lights and views as parts of a document, with ids of their own."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from nocturne.io.models.cameras import Camera
from nocturne.scene.camera import View
from nocturne.scene.lights import Light
from nocturne.scene.materials import Material
from nocturne.scene.shapes import Mesh
from nocturne.scene.thing import Thing


@dataclass(frozen=True, repr=False)
class Arrival:
    """A model as it was made, in its own units and its own idea of up.

    things: parents before their children; `mesh` is a name in `meshes`. Pictures are named as the model names them, by
    path from its folder, or after a "#" if they are inside it. unit_m: how long one of its units is, metres; up: "y" or
    "z"; is_told: whether the file says so itself. lost: what has no equal here. mended: what was wrong and was put
    right. cameras: what each view was made of. missing: pictures that are named and are not there. outside: what it
    names outside its folder, not read.
    """

    things: tuple[Thing, ...] = ()
    meshes: Mapping[str, Mesh] = field(default_factory=dict)
    materials: tuple[Material, ...] = ()
    lights: tuple[Light, ...] = ()
    views: tuple[View, ...] = ()
    cameras: Mapping[str, Camera] = field(default_factory=dict)
    unit_m: float = 1.0
    up: str = "z"
    is_told: bool = False
    lost: tuple[str, ...] = ()
    mended: tuple[str, ...] = ()
    missing: tuple[str, ...] = ()
    outside: tuple[str, ...] = ()

    @property
    def n_triangles(self) -> int:
        """Return how many triangles are drawn, copies counted each time."""
        return sum(len(self.meshes[thing.mesh].triangles) for thing in self.things if thing.mesh)

    @property
    def is_empty(self) -> bool:
        """Return True if there is nothing in it."""
        return not (self.things or self.materials or self.lights or self.views)

    @property
    def by_node(self) -> dict[str, Mesh]:
        """Return the meshes by the names of the things that have them: older projects name them so."""
        return {thing.name: self.meshes[thing.mesh] for thing in self.parts}

    @property
    def parts(self) -> list[Thing]:
        """Return the things that have a shape."""
        return [thing for thing in self.things if thing.mesh]

    def bounds(self) -> np.ndarray | None:
        """Return the (2, 3) lowest and highest corner of it all, in its own units; None if nothing has a shape."""
        from nocturne.scene.parts import place_things

        placements = place_things(self.things, (), None)
        boxes = []
        for thing in self.parts:
            matrix = placements[thing.id][0]
            if ((np.abs(matrix[:3, :3]) > 1e-12).sum(1) > 1).any():
                corners = self.meshes[thing.mesh].vertices  # of a turned thing the box is larger than it is itself
            else:
                low, high = self.meshes[thing.mesh].bounds
                corners = np.stack(np.meshgrid(*zip(low, high), indexing="ij"), axis=-1).reshape(-1, 3)
            there = corners @ matrix[:3, :3].T + matrix[:3, 3]
            boxes.append(np.stack([there.min(0), there.max(0)]))
        if not boxes:
            return None
        points = np.concatenate(boxes)
        return np.stack([points.min(0), points.max(0)])


class Notes:
    """Gathers what is to be told: a sentence once, however often it happens."""

    def __init__(self) -> None:
        self.lost: dict[str, None] = {}
        self.mended: dict[str, int] = {}
        self.missing: dict[str, None] = {}

    def lose(self, what: str) -> None:
        """Note what has no equal here."""
        self.lost[what] = None

    def mend(self, what: str, n: int = 1) -> None:
        """Note what was put right, and how often."""
        if n:
            self.mended[what] = self.mended.get(what, 0) + n

    def told(self, arrival: Arrival) -> Arrival:
        """Return an arrival with the notes."""
        mended = tuple(f"{n:,} {what}" for what, n in self.mended.items())
        return replace(arrival, lost=tuple(self.lost), mended=mended, missing=tuple(self.missing))


class Names:
    """Gives every item a name that no other has."""

    def __init__(self) -> None:
        self._taken: dict[str, int] = {}

    def free(self, wanted: str) -> str:
        """Return the name, with a number behind it if it is taken."""
        wanted = wanted or "Part"
        if wanted not in self._taken:
            self._taken[wanted] = 1
            return wanted
        n = self._taken[wanted] + 1
        while f"{wanted} {n}" in self._taken:
            n += 1
        self._taken[wanted] = n
        self._taken[f"{wanted} {n}"] = 1
        return f"{wanted} {n}"
