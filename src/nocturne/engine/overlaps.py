"""Which closed shapes of glass and liquid overlap, and which of two should win: found from the shapes."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from nocturne.engine.embree import Shape, Stage
from nocturne.engine.layout.masks import ALL_RAYS
from nocturne.jobs import Update
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.mediaorder import AIR, Meeting
from nocturne.scene.shapes import Mesh

_TRIES = 400  # places in a box, of which those inside of its shape are asked whether they are inside of the other
_ON_IT = 160  # places on a surface that are asked
_MOST = 200  # things that are looked at
_DIRECTIONS = np.array([[0.31, 0.27, 0.91], [-0.42, 0.83, -0.36], [0.71, -0.19, -0.68]])
_SKIN = 0.5  # what shares less of itself only overlaps at its skin


@dataclass(frozen=True, eq=False)
class _Placed:
    name: str
    material: str
    box: np.ndarray
    stage: Stage
    inside: np.ndarray  # (n, 3) places inside of it
    surface: np.ndarray  # (m, 3) places on it


@dataclass(frozen=True)
class Found:
    """What shapes say: media that overlap, and pairs of media ("" is air) that light goes between."""

    meetings: tuple[Meeting, ...]
    walls: tuple[tuple[str, str], ...]


def overlaps(document: Document, assets: Assets) -> Iterator[Update]:
    """Look at every closed shape of glass or liquid; the last update's `result` is `Found`."""
    media = {m.id for m in document.materials if m.is_medium}
    things = [t for t in document.things if t.material in media and document.placements[t.id][1]][:_MOST]
    placed: list[_Placed] = []
    for i, thing in enumerate(things):
        yield Update(i, 2 * len(things), "Looking at glass and liquid")
        mesh = assets.shape(thing)
        if mesh is not None and len(mesh.triangles):
            placed.append(_placed(thing.name, thing.material, mesh, document.placements[thing.id][0]))
    meetings: dict[tuple[str, str], Meeting] = {}
    walls: dict[tuple[str, str], None] = {}
    for i, a in enumerate(placed):
        yield Update(len(things) + i, 2 * len(things), "Looking at what overlaps")
        if not _is_sunk(a, placed):
            walls[AIR, a.material] = None
        for b in placed[i + 1 :]:
            if a.material == b.material or (a.box[0] > b.box[1]).any() or (b.box[0] > a.box[1]).any():
                continue
            met = _meeting(a, b)
            if met is not None:
                meetings.setdefault((met.winner, met.loser), met)
                walls[met.loser, met.winner] = None
    yield Update(1, 1, "Looked", result=Found(tuple(meetings.values()), tuple(walls)))


def _placed(name: str, material: str, mesh: Mesh, matrix: np.ndarray) -> _Placed:
    row = np.ascontiguousarray(matrix[:3].reshape(1, 12), np.float32)
    stage = Stage([Shape.mesh(mesh.vertices, mesh.triangles)], row, np.array([ALL_RAYS], np.uint32))
    corners = mesh.vertices.astype(float) @ matrix[:3, :3].T + matrix[:3, 3]
    box = np.stack([corners.min(0), corners.max(0)])
    places = box[0] + np.random.default_rng(7).random((_TRIES, 3)) * (box[1] - box[0])
    rng = np.random.default_rng(8)
    triangles = mesh.triangles[rng.integers(0, len(mesh.triangles), _ON_IT)]
    return _Placed(name, material, box, stage, places[[_is_in(stage, p) for p in places]], corners[triangles].mean(1))


def _is_in(stage: Stage, place: np.ndarray) -> bool:
    """Return True if a place is inside of a closed shape: most ways out leave it."""
    votes = 0
    for d in _DIRECTIONS / np.linalg.norm(_DIRECTIONS, axis=1, keepdims=True):
        hit = stage.first_hit(place, d, ALL_RAYS)
        votes += hit is not None and hit[2]
    return votes >= 2


def _share(a: _Placed, b: _Placed) -> float:
    """Return how much of a's inside is inside of b, too."""
    return float(np.mean([_is_in(b.stage, p) for p in a.inside])) if len(a.inside) else 0.0


def _meeting(a: _Placed, b: _Placed) -> Meeting | None:
    """Return which of two wins: of two that overlap at their skins the vessel, else what is more inside the other."""
    of_a, of_b = _share(a, b), _share(b, a)
    if max(of_a, of_b) <= 0 and not (_touches(a, b) or _touches(b, a)):
        return None
    sizes = [float(np.prod(p.box[1] - p.box[0])) for p in (a, b)]
    wins_a = of_a > of_b if of_a != of_b else sizes[0] <= sizes[1]
    if max(of_a, of_b) < _SKIN:
        holds_a, holds_b = _holds(a.box, b.box), _holds(b.box, a.box)
        if holds_a != holds_b:
            wins_a = holds_a
    first, second = (a, b) if wins_a else (b, a)
    return Meeting(first.material, second.material, (first.name, second.name))


def _touches(a: _Placed, b: _Placed) -> bool:
    """Return True if some of a's surface is inside of b."""
    near = a.surface[((a.surface >= b.box[0]) & (a.surface <= b.box[1])).all(1)]
    return any(_is_in(b.stage, p) for p in near)


def _holds(outer: np.ndarray, inner: np.ndarray) -> bool:
    slack = 0.02 * (outer[1] - outer[0])
    return bool((inner[0] >= outer[0] - slack).all() and (inner[1] <= outer[1] + slack).all())


def _is_sunk(one: _Placed, placed: list[_Placed]) -> bool:
    """Return True if all of a surface lies inside of other media."""
    others = [p for p in placed if p.material != one.material]
    return bool(others) and all(any(_is_in(p.stage, place) for p in others) for place in one.surface)
