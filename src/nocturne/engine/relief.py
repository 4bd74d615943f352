"""Which things are drawn with their relief as real geometry, as fine as the view asks, kept while nothing changed."""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from nocturne.engine.heights import Heights
from nocturne.scene.assets import Assets
from nocturne.scene.camera import View, half_angle
from nocturne.scene.displacing import MOST_TRIANGLES, Displaced, Divided, Relief, displaced, divided
from nocturne.scene.document import Document
from nocturne.scene.faces import materials_of
from nocturne.scene.materials import Material
from nocturne.scene.patterns import every
from nocturne.scene.projection import camera_axes
from nocturne.scene.shapes import Mesh

MOST_IN_ALL = 3 * MOST_TRIANGLES  # of one picture; as many are kept of those before it
_MOST_DIVIDED = 8  # meshes that are kept as they were divided
_FINEST = 2e-5  # metres: single precision tells no more apart
_NEAR = 1e-3
_TURN = 0.25  # to what directions are rounded
_ROUNDED_OFF = 0.3  # radians: more than that loses
_BESIDE = 4.0  # how much longer edges are that are not in the frame, and only seen in mirrors and as shadows


@dataclass(frozen=True)
class Look:
    """From where, and how finely, a set is looked at."""

    eye: tuple[float, float, float]
    per_metre: float  # a pixel's width, by how far away it is
    always: float  # and beside that
    ahead: tuple[float, float, float] = (0.0, 0.0, 1.0)
    widest: float = -2.0  # cosine to what lies ahead, from where on nothing is in the frame

    @classmethod
    def of(cls, view: View, width: int) -> "Look":
        """Return how a view is looked through in a picture of a width, pixels."""
        if view.projection == "orthographic":
            return cls(view.eye, 0.0, view.span_m / width)
        per_metre = 2 * half_angle(view) / width
        if view.projection == "panorama":
            return cls(view.eye, per_metre, 0.0)
        half = math.atan(half_angle(view) * math.hypot(1.0, view.height / view.width))
        shift = math.hypot(view.shift_x, view.shift_y)
        widest = math.cos(min(half * (1 + shift) + _ROUNDED_OFF, math.pi))
        return cls(view.eye, per_metre, 0.0, tuple(map(float, camera_axes(view)[2])), widest)

    def towards(self, low: np.ndarray, high: np.ndarray) -> "Look":
        """Return it rounded, as seen from something between two corners, so that small moves change nothing."""
        eye = np.array(self.eye)
        away = float(np.linalg.norm(np.maximum(np.maximum(low - eye, eye - high), 0)))
        away = max(away, 0.02 * float(np.linalg.norm(high - low)), _NEAR)
        grid = 2.0 ** math.floor(math.log2(away / 4))
        eye = tuple(float(v) for v in np.round(eye / grid) * grid)
        ahead = tuple(round(v / _TURN) * _TURN for v in self.ahead)
        return Look(eye, _rounded(self.per_metre), _rounded(self.always), ahead, self.widest)

    def fineness(self, pixels: float) -> Callable[[np.ndarray], np.ndarray]:
        """Return how long an edge may be at places (n, 3), metres, (n,)."""

        def length(places: np.ndarray) -> np.ndarray:
            to = places - self.eye
            away = np.maximum(np.linalg.norm(to, axis=1), _NEAR)
            is_out = to @ (np.array(self.ahead) / np.linalg.norm(self.ahead)) < self.widest * away
            by = np.where(is_out, pixels * _BESIDE, pixels)
            return np.maximum(by * (away * self.per_metre + self.always), _FINEST)

        return length


def _rounded(value: float) -> float:
    """Return a value rounded down to a step of a half stop."""
    return 2.0 ** (math.floor(2 * math.log2(value)) / 2) if value > 0 else 0.0


@dataclass(frozen=True)
class Moved:
    """What became of one thing: how many triangles it has now, and whether there should have been more."""

    thing: str
    triangles: int
    is_cut: bool


class Reliefs:
    """Displaces what documents one after another want displaced; what did not change is there already."""

    def __init__(self) -> None:
        # Beside each what it came from: keys name meshes and pictures by where they lie, so these must stay there.
        # The last used one last: the live picture and small ones want others in turn.
        self._kept: dict[tuple, tuple[tuple, Displaced]] = {}
        self._divided: dict[tuple, tuple[tuple, Divided]] = {}
        self._document: Document | None = None
        self._assets: Assets | None = None
        self._look: Look | None = None
        self.moved: tuple[Moved, ...] = ()
        self.heights: Heights | None = None  # what works out heights; None: NumPy, more slowly

    def begin(self, document: Document, assets: Assets, look: Look) -> None:
        """Say what is drawn next, and from where it is looked at. `heights` may be said before."""
        self._document, self._assets, self._look = document, assets, look
        self.moved = ()

    def end(self) -> None:
        """Forget what was not asked for since long ago, if there is too much of it."""
        while len(self._divided) > _MOST_DIVIDED:
            self._divided.pop(next(iter(self._divided)))
        total = sum(len(made.mesh.triangles) for _, made in self._kept.values())
        room = MOST_IN_ALL + sum(m.triangles for m in self.moved)
        for key in list(self._kept):
            if total <= room:
                return
            total -= len(self._kept.pop(key)[1].mesh.triangles)

    def of(
        self,
        mesh: Mesh,
        of_face: np.ndarray | None,
        worn: tuple[str, ...],
        matrix: np.ndarray,
        *,
        seed: int,
        thing: str,
    ) -> Displaced | None:
        """Return a mesh as its materials move it, None if none of them does; the same object while all is the same."""
        materials = [self._document.find("materials", id) for id in worn]
        if not any(m is not None and m.heights for m in materials):
            return None
        look = self._look.towards(*_box(mesh, matrix))
        pixels = min(m.relief_pixels for m in materials if m is not None and m.heights)
        reliefs = tuple(_relief(m) for m in materials)
        steps = [step for r in reliefs if r is not None for step in every(r.steps)]
        in_set = any(step.anchor == "set" for step in steps)
        stands = matrix if in_set else matrix[:3, :3]
        pictures = tuple(self._assets.images.get(s.picture) for s in steps if s.picture is not None)
        # Where a thing stands counts for how it is looked at: that is in its own frame.
        seen_from = np.round(np.linalg.solve(matrix[:3, :3], np.array(look.eye) - matrix[:3, 3]), 6)
        room = max(MOST_IN_ALL - sum(m.triangles for m in self.moved), len(mesh.triangles) + 2)
        most = min(MOST_TRIANGLES, room)
        moves = tuple(relief is not None for relief in reliefs)
        asked = (
            *(id(mesh), b"" if of_face is None else of_face.tobytes(), matrix[:3, :3].tobytes(), seen_from.tobytes()),
            *(look.per_metre, look.always, look.ahead, look.widest, pixels, most, moves),
        )
        key = (
            *(asked, seed, stands.tobytes(), *map(id, pictures)),
            *((None if r is None else (r.steps, r.depth, r.middle)) for r in reliefs),
        )
        _, made = self._kept.pop(key, (None, None))
        if made is None:
            # How it is divided does not hang on what its heights are: those are what is tried out.
            _, parts = self._divided.pop(asked, (None, None))
            if parts is None:
                wanted = np.array(moves)[np.zeros(len(mesh.triangles), int) if of_face is None else of_face]
                parts = divided(mesh, wanted, matrix, look.fineness(pixels), most)
            self._divided[asked] = (mesh,), parts
            asked_by = self.heights.of if self.heights is not None else None
            made = displaced(mesh, parts, of_face, reliefs, matrix, self._assets.images, seed=seed, asked=asked_by)
        self._kept[key] = (mesh, pictures), made
        self.moved = (*self.moved, Moved(thing, len(made.mesh.triangles), made.is_cut))
        return made


def _relief(material: Material | None) -> Relief | None:
    if material is None or not material.heights:
        return None
    return Relief(material.heights, material.relief_depth, material.relief_middle)


def displacing(document: Document) -> tuple:
    """Return what decides which materials move surfaces, and how."""
    return tuple(
        (m.id, m.heights, m.relief_depth, m.relief_middle, m.relief_pixels) for m in document.materials if m.heights
    )


def looks(document: Document, assets: Assets, look: Look) -> tuple:
    """Return how the things whose surfaces move are looked at, rounded: while that is the same, they are divided so.

    Of scatters, whose copies stand anywhere, as it is.
    """
    moving = {m.id for m in document.materials if m.heights}
    out: list[tuple] = [(look,)] if any(thing.scatter is not None for thing in document.things) else []
    for thing in document.things:
        if moving.isdisjoint(materials_of(thing)):
            continue
        mesh = assets.shape(thing)
        if mesh is not None:
            out.append((thing.id, look.towards(*_box(mesh, document.placements[thing.id][0]))))
    return tuple(out)


def _box(mesh: Mesh, matrix: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return the lowest and the highest corner of a placed mesh's box."""
    corners = mesh.bounds[np.array(np.meshgrid([0, 1], [0, 1], [0, 1])).reshape(3, -1).T, [0, 1, 2]]
    corners = corners @ matrix[:3, :3].T + matrix[:3, 3]
    return corners.min(0), corners.max(0)
