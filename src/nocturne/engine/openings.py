"""Openings that light comes in by, found: holes in the walls about a camera, and the flat face of a thing.

Rays go out from the eye into all directions; where a cluster of them meets nothing there is an opening, and what they
pass on its rim is the wall. In the wall's plane the opening is then felt out by short rays straight through it, which
no jamb and no angle hides.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import scipy  # its parts are loaded when they are asked for

from nocturne.engine.embree import Stage
from nocturne.engine.layout.masks import SHADOW_RAYS
from nocturne.errors import SceneError
from nocturne.jobs import Update
from nocturne.scene.fields import Vector
from nocturne.scene.placing import turn_of
from nocturne.scene.shapes import Mesh

_ROWS, _COLUMNS = 120, 240  # directions about the eye: a degree and a half each
_LEAST_CELLS = 6  # of them, for an opening
_MOST = 12  # openings
_MOST_OPEN = 0.45  # of all directions: beyond it the eye stands in the open
_ALIKE = np.cos(np.radians(12))  # normals of one wall
_STRAIGHT = np.cos(np.radians(1.5))  # a wall that is so nearly upright or level is
_BAR = 0.15  # metres: what parts the panes of one window
_BEFORE, _THROUGH = 0.04, 1.2  # metres before the wall at which a short ray begins, and how far it goes
_GRID = 40  # short rays along each side of the part of the wall that is felt
_HALVINGS = 8  # of the way from what is open to what is not
_SPARE = 0.004  # metres by which an opening is larger than what was felt


@dataclass(frozen=True)
class Opening:
    """A rectangle in its own x and y, light going along its own minus z; metres, degrees as a thing's."""

    place: Vector
    turn_deg: Vector
    width: float
    height: float


def find_openings(stage: Stage, eye: np.ndarray) -> Iterator[Update]:
    """Find the openings in the walls about a point; the last update's `result` is a tuple of `Opening`, largest first.

    Things that shadow rays pass (thin clear sheets) count as open; whatever else blocks light blocks here.

    Raises
    ------
    SceneError
        If the point does not stand between walls.
    """
    eye = np.asarray(eye, float)
    yield Update(0, 1, "Looking for openings")
    directions = _directions()
    flat = directions.reshape(-1, 3)
    distances, normals, _ = stage.surfaces(np.broadcast_to(eye, flat.shape), flat, SHADOW_RAYS)
    normals[(normals * flat).sum(1) > 0] *= -1
    seen = _Seen(eye, directions, distances.reshape(_ROWS, _COLUMNS), normals.reshape(_ROWS, _COLUMNS, 3))
    is_open = ~np.isfinite(seen.distances)
    if _share(is_open) > _MOST_OPEN:
        raise SceneError(
            "No openings were looked for: the camera stands in the open.",
            hint="Go into the room whose windows you mean, then look again.",
        )
    holes: list[_Hole] = []
    regions = _regions(is_open)
    for k, region in enumerate(regions):
        yield Update(k + 1, len(regions) + 1, "Looking for openings")
        hole = _felt(stage, seen, region)
        while hole is not None:
            beside = next((other for other in holes if hole.is_beside(other)), None)
            if beside is None:
                holes.append(hole)
                break
            holes.remove(beside)
            hole = hole.joined(beside)
    found = sorted((hole.opening() for hole in holes), key=lambda opening: -opening.width * opening.height)
    yield Update(1, 1, "Looked for openings", result=tuple(found))


def _directions() -> np.ndarray:
    theta = (np.arange(_ROWS) + 0.5) / _ROWS * np.pi
    phi = (np.arange(_COLUMNS) + 0.5) / _COLUMNS * 2 * np.pi
    s = np.sin(theta)[:, None]
    return np.stack([s * np.cos(phi), s * np.sin(phi), np.broadcast_to(np.cos(theta)[:, None], s.shape) + 0 * phi], -1)


@dataclass(frozen=True, eq=False, repr=False)
class _Seen:
    """What rays from an eye met: by direction the distance, infinite for nothing, and the normal towards the eye."""

    eye: np.ndarray
    directions: np.ndarray
    distances: np.ndarray
    normals: np.ndarray


def _share(cells: np.ndarray) -> float:
    """Return the share of all directions that cells hold."""
    weight = np.sin((np.arange(_ROWS) + 0.5) / _ROWS * np.pi)[:, None]
    return float((cells * weight).sum() / (weight.sum() * _COLUMNS))


def _regions(is_open: np.ndarray) -> list[np.ndarray]:
    """Return the open regions that are large enough, largest first; the first and the last column touch."""
    marks, n = scipy.ndimage.label(is_open, np.ones((3, 3)))
    for a, b in zip(marks[:, 0], marks[:, -1]):
        if a and b and a != b:
            marks[marks == b] = a
    regions = [marks == k for k in range(1, n + 1)]
    regions = [region for region in regions if region.sum() >= _LEAST_CELLS]
    return sorted(regions, key=_share, reverse=True)[:_MOST]


def _felt(stage: Stage, seen: _Seen, region: np.ndarray) -> "_Hole | None":
    eye = seen.eye
    wrapped = np.pad(region, ((0, 0), (6, 6)), mode="wrap")
    rim = scipy.ndimage.binary_dilation(wrapped, iterations=4)[:, 6:-6] & np.isfinite(seen.distances)
    if not rim.any():
        return None
    normals = seen.normals[rim]
    points = eye + seen.directions[rim] * seen.distances[rim][:, None]
    alike = normals @ normals.T > _ALIKE
    # Rounded edges face other ways: the commonest normal is the wall's.
    axis = np.median(normals[alike[alike.sum(1).argmax()]], axis=0)
    axis /= np.linalg.norm(axis)
    straight = np.round(axis)
    axis = straight if axis @ straight > _STRAIGHT else axis
    on_wall = normals @ axis > _ALIKE
    depth = np.median(points[on_wall] @ axis)
    through = seen.directions[region]
    towards = through @ axis
    through = through[towards < -0.05]
    if not len(through):
        return None
    wall = _Wall(stage, axis, depth)
    return wall.hole(wall.along(eye + through * ((depth - eye @ axis) / (through @ axis))[:, None]))


@dataclass(frozen=True)
class _Wall:
    """The plane of a wall: its normal into the room, and where along it the plane lies."""

    stage: Stage
    normal: np.ndarray
    depth: float

    @property
    def axes(self) -> tuple[np.ndarray, np.ndarray]:
        """Return the axes in the plane: level, and upwards."""
        up = np.array([0, 0, 1.0]) if abs(self.normal[2]) < 0.9 else np.array([0, 1.0, 0])
        x = np.cross(up, self.normal)
        x /= np.linalg.norm(x)
        return x, np.cross(self.normal, x)

    def along(self, points: np.ndarray) -> np.ndarray:
        """Return (n, 2) places in the plane of points."""
        return points @ np.array(self.axes).T

    def is_open(self, places: np.ndarray) -> np.ndarray:
        """Return whether short rays straight through the wall at (..., 2) places meet nothing."""
        x, y = self.axes
        flat = places.reshape(-1, 2)
        starts = flat[:, :1] * x + flat[:, 1:] * y + self.normal * (self.depth + _BEFORE)
        distances, _, _ = self.stage.surfaces(starts, np.broadcast_to(-self.normal, starts.shape), SHADOW_RAYS)
        return (distances > _THROUGH).reshape(places.shape[:-1])

    def hole(self, seen: np.ndarray) -> "_Hole | None":
        """Return the rectangle about what is open around the places that were seen through it; None if nothing is."""
        low, high = np.quantile(seen, 0.02, axis=0), np.quantile(seen, 0.98, axis=0)
        for _ in range(4):
            spare = 0.3 + 0.4 * (high - low)
            lowest, step = low - spare, (high - low + 2 * spare) / _GRID
            cells = np.stack(np.meshgrid(*(lowest[k] + (np.arange(_GRID) + 0.5) * step[k] for k in (0, 1))), -1)
            is_open = self.is_open(cells)
            marks, _ = scipy.ndimage.label(is_open)
            at = np.clip(((seen - lowest) / step).astype(int), 0, _GRID - 1)
            wanted = np.unique(marks[at[:, 1], at[:, 0]])
            kept = np.isin(marks, wanted[wanted > 0])
            if not kept.any():
                return None
            rows, columns = np.flatnonzero(kept.any(1)), np.flatnonzero(kept.any(0))
            low = lowest + np.array([columns[0], rows[0]]) * step
            high = lowest + np.array([columns[-1] + 1, rows[-1] + 1]) * step
            ends = {columns[0], rows[0]} & {0} | {columns[-1], rows[-1]} & {_GRID - 1}
            if not ends:
                return _Hole(self, *self._refined(low, high, step))
        return None  # no wall ends it: a gap between things, not an opening

    def _refined(self, low: np.ndarray, high: np.ndarray, step: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Return both corners, felt out more finely along each side."""
        corners = [low.copy(), high.copy()]
        shares = (np.arange(4 * _GRID) + 0.5) / (4 * _GRID)
        for axis in (0, 1):
            other = 1 - axis
            for side, out in ((0, -1.0), (1, 1.0)):
                # Between a cell inside of the side and a cell outside of it, the last line with anything open on it.
                inner, outer = corners[side][axis] - out * step[axis], corners[side][axis] + out * step[axis]
                for _ in range(_HALVINGS):
                    line = np.empty((len(shares), 2))
                    line[:, axis] = middle = (inner + outer) / 2
                    line[:, other] = low[other] + shares * (high[other] - low[other])
                    if self.is_open(line).any():
                        inner = middle
                    else:
                        outer = middle
                corners[side][axis] = outer + out * _SPARE
        return corners[0], corners[1]


@dataclass(frozen=True)
class _Hole:
    """A rectangle in a wall's plane, from corner to corner."""

    wall: _Wall
    low: np.ndarray
    high: np.ndarray

    def _in(self, wall: _Wall) -> np.ndarray:
        """Return both corners in another wall's plane, (2, 2)."""
        x, y = self.wall.axes
        at = [corner[0] * x + corner[1] * y + self.wall.normal * self.wall.depth for corner in (self.low, self.high)]
        return np.sort(wall.along(np.array(at)), axis=0)

    def is_beside(self, other: "_Hole") -> bool:
        """Return True if no more than a bar parts it from another hole in the same wall."""
        a, b = self.wall, other.wall
        if a.normal @ b.normal < _ALIKE or abs(a.depth - b.depth) > _BAR:
            return False
        low, high = other._in(a)
        return bool((np.maximum(low, self.low) - np.minimum(high, self.high) < _BAR).all())

    def joined(self, other: "_Hole") -> "_Hole":
        """Return the rectangle about both."""
        low, high = other._in(self.wall)
        return _Hole(self.wall, np.minimum(self.low, low), np.maximum(self.high, high))

    def opening(self) -> Opening:
        """Return it as an opening."""
        x, y = self.wall.axes
        middle = (self.low + self.high) / 2
        place = middle[0] * x + middle[1] * y + self.wall.normal * self.wall.depth
        return _opening(place, x, self.wall.normal, *(self.high - self.low))


def _opening(place: np.ndarray, x: np.ndarray, normal: np.ndarray, width: float, height: float) -> Opening:
    """Return an opening whose light goes along `normal`, its width along x."""
    turn = np.stack([x, np.cross(-normal, x), -normal], axis=1)
    return Opening(
        tuple(float(v) for v in np.round(place, 4)), turn_of(turn), round(float(width), 4), round(float(height), 4)
    )


def opening_of_face(mesh: Mesh, matrix: np.ndarray, eye: np.ndarray) -> Opening:
    """Return the smallest rectangle about the largest flat face of a placed mesh that faces a point, light towards it.

    matrix: (4, 4), the mesh's to the world's.

    Raises
    ------
    SceneError
        If no face faces that way.
    """
    world = (mesh.vertices[mesh.triangles] @ matrix[:3, :3].T + matrix[:3, 3]).astype(float)
    cross = np.cross(world[:, 1] - world[:, 0], world[:, 2] - world[:, 0])
    area = np.linalg.norm(cross, axis=1)
    normals = cross / np.maximum(area, 1e-30)[:, None]
    # Either side of a pane may be the one that its triangles face.
    normals[((np.asarray(eye) - world[:, 0]) * normals).sum(1) < 0] *= -1
    depth = (world[:, 0] * normals).sum(1)
    size = float(np.ptp(world.reshape(-1, 3), axis=0).max())
    best, most, nearest = None, 0.0, 0.0
    for k in np.argsort(-area)[:32]:
        flat = (normals @ normals[k] > 0.999) & (np.abs(depth - depth[k]) < 1e-3 * size)
        whole = float(area[flat].sum())
        # Of both sides of a pane the one that is nearer.
        if whole > 1.02 * most or (whole > 0.98 * most and depth[k] > nearest):
            best, most, nearest = flat, whole, float(depth[k])
    if best is None:
        raise _no_face()
    normal = normals[best].mean(0)
    normal /= np.linalg.norm(normal)
    wall = _Wall(None, normal, float(depth[best].mean()))
    return _smallest(wall, wall.along(world[best].reshape(-1, 3)))


def _no_face() -> SceneError:
    return SceneError("The thing has no face to lay a portal on.", hint="Choose a pane, or a face of a wall.")


def _smallest(wall: _Wall, places: np.ndarray) -> Opening:
    """Return the rectangle of least area about places in a plane.

    One of its sides lies along one of their hull's (Freeman and Shapira 1975).
    """
    try:
        hull = places[scipy.spatial.ConvexHull(places).vertices]
    except scipy.spatial.QhullError as error:
        raise _no_face() from error
    best = None
    # Level first, so that of equals the one that stands upright is taken.
    for edge in [np.array([1.0, 0.0]), *(np.roll(hull, -1, 0) - hull)]:
        if np.linalg.norm(edge) <= 0:
            continue
        x = edge / np.linalg.norm(edge)
        turned = hull @ np.array([x, (-x[1], x[0])]).T
        low, high = turned.min(0), turned.max(0)
        if best is None or np.prod(high - low) < 0.999 * best[0]:
            best = float(np.prod(high - low)), x, low, high
    _, x, low, high = best
    level, up = wall.axes
    axis, other = x[0] * level + x[1] * up, -x[1] * level + x[0] * up
    middle = (low + high) / 2
    place = middle[0] * axis + middle[1] * other + wall.normal * wall.depth
    return _opening(place, axis, wall.normal, *(high - low))
