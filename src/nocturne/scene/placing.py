"""Moving, turning and sizing things and lights in the set: pure functions from document to document.

Lengths in metres, angles in radians; points and axes are those of the set, whatever group a thing is in.
"""

import math
from collections.abc import Iterable

import numpy as np

from nocturne.errors import SceneError
from nocturne.scene import edit, navigate
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.lights import Light, Placed, Turned
from nocturne.scene.parts import local
from nocturne.scene.shapes import at_pivot, levels, rotation, turn_of, unsized

_LEAST = 1e-4
_LEAST_SIZE = 1e-6
_MOST_MEASURED = 1000  # things in a group: of more, its sheet would hold up every edit
_MOST_ANCHORED = 3000
_MOST_COPIES = 2000  # each a thing of its own
_THIRDS = np.stack(np.meshgrid(*[(0.0, 0.5, 1.0)] * 3, indexing="ij"), axis=-1).reshape(-1, 3)


def _vector(v: np.ndarray) -> tuple[float, float, float]:
    return tuple(round(float(x), 6) + 0.0 for x in v)


def above(document: Document, part: str, id: str) -> np.ndarray:
    """Return the (4, 4) matrix of the group that a thing or a light is in."""
    item = document.find(part, id)
    parent = document.find("things", item.parent) if item is not None else None
    return document.placement(parent.id) if parent is not None else np.eye(4)


def into(document: Document, part: str, id: str, linear: np.ndarray, vector: np.ndarray) -> np.ndarray:
    """Return a vector of the set in the space that a (3, 3) matrix of a thing, or of its group, comes from.

    Raises
    ------
    SceneError
        If the matrix flattens that space, so that there is no way back.
    """
    try:
        return np.linalg.solve(linear, vector)
    except np.linalg.LinAlgError as error:
        raise SceneError(
            f"“{document.find(part, id).name}” or a group it is in has a size of 0.",
            where=f"{part}/{id}/size",
            hint="Give it a size first.",
        ) from error


def tops(document: Document, ids: tuple[str, ...]) -> tuple[str, ...]:
    """Return those of some things that are not inside another of them, so that none is moved twice."""
    chosen = set(ids)
    by_id = {thing.id: thing for thing in document.things}

    def is_inside(id: str) -> bool:
        seen, thing = set(), by_id.get(id)
        while thing is not None and thing.parent and thing.parent not in seen:
            if thing.parent in chosen:
                return True
            seen.add(thing.parent)
            thing = by_id.get(thing.parent)
        return False

    return tuple(id for id in ids if id in by_id and not is_inside(id))


def centre(document: Document, part: str, id: str) -> np.ndarray | None:
    """Return where a thing's pivot, or a light, stands in the set; None if it has no place."""
    matrix = document.placement(id) if part == "things" else None
    if matrix is not None:
        return _at(matrix, document.find("things", id).pivot)
    light = document.find("lights", id) if part == "lights" else None
    return np.array(document.standing(light).place, float) if light is not None and not light.is_infinite else None


def _placed(document: Document, ids: tuple[str, ...]) -> list[str]:
    """Return those of some lights that stand somewhere."""
    return [id for id in ids if isinstance(document.find("lights", id), Placed)]


def _at(matrix: np.ndarray, point: tuple) -> np.ndarray:
    return matrix[:3, :3] @ np.array(point, float) + matrix[:3, 3]


def pivoted(document: Document, id: str, point: np.ndarray) -> Document:
    """Return the document with a thing's pivot at a point of the set; it stands where it did.

    Raises
    ------
    SceneError
        If it, or a group it is in, has no extent in some direction.
    """
    matrix = document.placement(id)
    pivot = into(document, "things", id, matrix[:3, :3], np.asarray(point, float) - matrix[:3, 3])
    return with_pivot(document, id, _vector(pivot))


def with_pivot(document: Document, id: str, pivot: tuple[float, float, float]) -> Document:
    """Return the document with a thing's pivot at a point of its own space; it stands where it did."""
    thing = document.find("things", id)
    place = _at(local(thing.place, thing.turn_deg, thing.size, thing.pivot), pivot)
    return edit.alter(document, "things", id, pivot=pivot, place=_vector(place))


def pivoted_to(document: Document, assets: Assets, ids: tuple[str, ...], *, where: str) -> Document:
    """Return the document with the pivots of things in the "middle" or the middle of the "floor" of each one's box.

    "origin": back to where their shapes have their origin.
    """
    for id in ids:
        if where == "origin":
            document = with_pivot(document, id, (0.0, 0.0, 0.0))
            continue
        box = navigate.bounds_of(document, assets, id)
        if box is not None:
            low, high = box
            middle = (low + high) / 2
            document = pivoted(document, id, middle if where == "middle" else np.append(middle[:2], low[2]))
    return document


def anchors(document: Document, assets: Assets, but: tuple[str, ...]) -> np.ndarray:
    """Return (n, 3) points of the set that others can be put to: corners and middles of each thing's box, its pivot.

    Those of hidden things, of some things and what is in them, and of more than a few thousand are left out.
    """
    left_out = document.with_members(but)
    kept = (thing.id for thing in document.things[:_MOST_ANCHORED] if thing.id not in left_out)
    return anchors_of(document, assets, kept)


def anchors_of(document: Document, assets: Assets, ids: Iterable[str]) -> np.ndarray:
    """Return the (n, 3) anchors of some things that are shown."""
    found = []
    for id in ids:
        thing = document.find("things", id)
        matrix, shown = document.placements.get(id, (None, False))
        mesh = assets.shape(thing) if shown else None
        if mesh is None:
            continue
        points = mesh.bounds[0] + _THIRDS * np.ptp(mesh.bounds, axis=0)
        found.append(np.vstack([points, thing.pivot]) @ matrix[:3, :3].T + matrix[:3, 3])
    return np.concatenate(found) if found else np.zeros((0, 3))


def moved(document: Document, part: str, ids: tuple[str, ...], by: np.ndarray) -> Document:
    """Return the document with things or lights moved by a vector; lights without a place stay as they are."""
    by = np.asarray(by, float)
    for id in tops(document, ids) if part == "things" else _placed(document, ids):
        item = document.find(part, id)
        local = into(document, part, id, above(document, part, id)[:3, :3], by)
        document = edit.alter(document, part, id, place=_vector(np.array(item.place) + local))
    return document


def turned(
    document: Document, part: str, ids: tuple[str, ...], *, axis: np.ndarray, angle: float, pivot: np.ndarray
) -> Document:
    """Return the document with things or lights turned about an axis through a point; what has no place stays."""
    axis = np.asarray(axis, float) / np.linalg.norm(axis)
    from scipy.spatial.transform import Rotation  # here, as it takes long to load

    spin = Rotation.from_rotvec(axis * angle).as_matrix()
    pivot = np.asarray(pivot, float)
    for id in tops(document, ids) if part == "things" else _placed(document, ids):
        item = document.find(part, id)
        group = above(document, part, id)
        frame = unsized(group[:3, :3])
        at = group[:3, :3] @ np.array(item.place) + group[:3, 3]
        place = into(document, part, id, group[:3, :3], pivot + spin @ (at - pivot) - group[:3, 3])
        values = {"place": _vector(place)}
        if part == "things" or isinstance(item, Turned):
            values["turn_deg"] = turn_of(frame.T @ spin @ frame @ rotation(item.turn_deg))
        document = edit.alter(document, part, id, **values)
    return document


def sized(document: Document, part: str, id: str, *, axis: int, factor: float) -> Document:
    """Return the document with a thing or light larger along its own x, y or z (0 to 2), or all of them (3)."""
    item = document.find(part, id)
    if part == "things":
        before = np.array(item.size, float)
        size = before.copy()
        size[slice(None) if axis == 3 else axis] *= factor
        # Never down to 0, from where no factor leads back.
        size = np.where(np.abs(size) < _LEAST_SIZE, np.sign(before) * _LEAST_SIZE, size)
        return edit.alter(document, part, id, size=_vector(size))
    sizes = {name for own_axis, name in item.handles if axis in (own_axis, 3)}
    values = {name: max(getattr(item, name) * factor, _LEAST) for name in sizes}
    return edit.alter(document, part, id, **values) if values else document


def measures(document: Document, assets: Assets, id: str) -> np.ndarray | None:
    """Return how long a thing is along its own x, y and z, in the space it is in, metres; of a group, its box."""
    thing = document.find("things", id)
    if thing is None:
        return None
    mesh = assets.shape(thing)
    if mesh is not None:
        return np.ptp(mesh.bounds, axis=0) * np.abs(thing.size)
    members, placements = document.with_members((id,)), document.placements
    if len(members) > _MOST_MEASURED:
        return None
    back, points = np.linalg.pinv(placements[id][0]), []
    for other in members:
        inner = assets.shape(document.find("things", other))
        if inner is not None:
            corners = np.stack(np.meshgrid(*inner.bounds.T, indexing="ij"), axis=-1).reshape(-1, 3)
            matrix = back @ placements[other][0]
            points.append(corners @ matrix[:3, :3].T + matrix[:3, 3])
    return np.ptp(np.concatenate(points), axis=0) * np.abs(thing.size) if points else None


def measured(document: Document, assets: Assets, id: str, axis: int, length: float, *, in_proportion: bool) -> Document:
    """Return the document with a thing of an exact length along its own x, y or z (0 to 2), metres.

    in_proportion: the other two grow or shrink with it.

    Raises
    ------
    SceneError
        If it has no length along that axis, or the length is not positive.
    """
    now = measures(document, assets, id)
    if now is None or now[axis] < 1e-12:
        raise SceneError("It has no length there.", where=f"things/{id}/size", hint="Size it by a factor.")
    if length <= 0:
        raise SceneError("A length must be more than 0.", where=f"things/{id}/size")
    factor = length / float(now[axis])
    thing = document.find("things", id)
    size = tuple(s * factor if in_proportion or k == axis else s for k, s in enumerate(thing.size))
    return edit.alter(document, "things", id, size=tuple(float(s) for s in size))


def aligned(document: Document, assets: Assets, ids: tuple[str, ...], *, axis: int, side: int) -> Document:
    """Return the document with things moved along an axis of the set so that their boxes line up with the last one's.

    side: -1 for their low sides, 0 for their middles, 1 for their high sides.
    """
    boxes = {id: navigate.bounds_of(document, assets, id) for id in tops(document, ids)}
    boxes = {id: np.stack(box)[:, axis] for id, box in boxes.items() if box is not None}
    if len(boxes) < 2:
        return document
    goal = _edge(list(boxes.values())[-1], side)
    for id, box in boxes.items():
        by = np.zeros(3)
        by[axis] = goal - _edge(box, side)
        document = moved(document, "things", (id,), by)
    return document


def _edge(box: np.ndarray, side: int) -> float:
    return float(box[0] if side < 0 else box[1] if side > 0 else box.mean())


def distributed(document: Document, assets: Assets, ids: tuple[str, ...], *, axis: int) -> Document:
    """Return the document with equal gaps between things' boxes along an axis; the two outermost stay."""
    boxes = {id: navigate.bounds_of(document, assets, id) for id in tops(document, ids)}
    boxes = {id: np.stack(box)[:, axis] for id, box in boxes.items() if box is not None}
    if len(boxes) < 3:
        return document
    order = sorted(boxes, key=lambda id: float(boxes[id].mean()))
    sizes = [float(np.ptp(boxes[id])) for id in order]
    low, high = float(boxes[order[0]][0]), float(boxes[order[-1]][1])
    gap, at = (high - low - sum(sizes)) / (len(order) - 1), low
    for id, size in zip(order, sizes):
        by = np.zeros(3)
        by[axis] = at - float(boxes[id][0])
        document = moved(document, "things", (id,), by)
        at += size + gap
    return document


def mirrored(document: Document, assets: Assets, ids: tuple[str, ...], *, axis: int) -> Document:
    """Return the document with things mirrored along an axis of the set, about the middle of their common box."""
    found = [navigate.bounds_of(document, assets, id) for id in tops(document, ids)]
    corners = [np.stack(box) for box in found if box is not None]
    if not corners:
        return document
    middle = (np.min(corners, axis=(0, 1)) + np.max(corners, axis=(0, 1))) / 2
    flip = np.eye(4)
    flip[axis, axis], flip[axis, 3] = -1.0, 2 * middle[axis]
    for id in tops(document, ids):
        home = above(document, "things", id)
        stands = levels(np.linalg.inv(home) @ flip @ document.placement(id))
        if len(stands) == 1:
            values = at_pivot(stands[0], document.find("things", id).pivot)
            document = edit.alter(document, "things", id, **{k: tuple(v) for k, v in values.items()})
    return document


def on_surface(document: Document, id: str, point: np.ndarray, normal: np.ndarray, *, turns: bool) -> Document:
    """Return the document with a thing's pivot on a point of a surface; turns: its z axis along the unit normal."""
    thing = document.find("things", id)
    stands = document.placement(id)
    pivot = _at(stands, thing.pivot)
    if turns:
        z = stands[:3, 2] / max(float(np.linalg.norm(stands[:3, 2])), 1e-12)
        axis, cosine = np.cross(z, normal), float(z @ normal)
        size = float(np.linalg.norm(axis))
        if size < 1e-9:
            axis, size = np.cross(z, (1.0, 0.0, 0.0) if abs(z[0]) < 0.9 else (0.0, 1.0, 0.0)), 0.0
        angle = math.atan2(size, cosine)
        if angle > 1e-9:
            document = turned(document, "things", (thing.id,), axis=axis, angle=angle, pivot=pivot)
    return moved(document, "things", (id,), np.asarray(point, float) - pivot)


def along(
    document: Document, ids: tuple[str, ...], points: np.ndarray, *, n: int, turns: bool
) -> tuple[Document, tuple[str, ...]]:
    """Return the document with copies of things spread evenly along a line of (m, 3) points, and the copies' ids.

    The things themselves come to stand at its first point, n in all. turns: each is turned about the vertical as the
    line turns from where it begins. A line whose last point is its first one is closed: its end gets no copy.

    Raises
    ------
    SceneError
        If the line has no length.
    """
    points = np.asarray(points, float)
    steps = np.linalg.norm(np.diff(points, axis=0), axis=1)
    points = points[np.concatenate([[True], steps > 0])] if len(points) else points
    way = np.concatenate([[0.0], np.cumsum(steps[steps > 0])])
    if len(points) < 2:
        raise SceneError("A line needs two points that are apart.", where="things")
    is_closed = np.allclose(points[0], points[-1])
    at = np.linspace(0, way[-1], n + 1)[:-1] if is_closed else np.linspace(0, way[-1], n)
    places = np.stack([np.interp(at, way, points[:, k]) for k in range(3)], axis=1)
    leg = np.clip(np.searchsorted(way, at, side="right") - 1, 0, len(points) - 2)
    ahead = (points[1:] - points[:-1])[leg]
    headings = np.unwrap(np.arctan2(ahead[:, 1], ahead[:, 0]))
    ids = tops(document, ids)
    start = centre(document, "things", ids[-1])
    document = moved(document, "things", ids, places[0] - start)
    made: list[str] = []
    for place, heading in zip(places[1:], headings[1:]):
        document, new = edit.copied(document, "things", ids)
        document = moved(document, "things", new, place - places[0])
        if turns:
            angle = float(heading - headings[0])
            document = turned(document, "things", new, axis=np.array([0.0, 0, 1]), angle=angle, pivot=place)
        made += new
    return document, tuple(made)


def in_grid(
    document: Document, ids: tuple[str, ...], *, counts: tuple[int, int, int], step: np.ndarray
) -> tuple[Document, tuple[str, ...]]:
    """Return the document with things and their copies in a grid along the set's axes, and the copies' ids.

    Raises
    ------
    SceneError
        If there would be too many.
    """
    if math.prod(counts) > _MOST_COPIES:
        raise SceneError(
            f"That would be {math.prod(counts):,} copies; {_MOST_COPIES:,} are the most.",
            where="things",
            hint="Scatter them over a grid: copies cost next to nothing there.",
        )
    made: list[str] = []
    for index in np.ndindex(*counts):
        if any(index):
            document, new = edit.copied(document, "things", tops(document, ids))
            document = moved(document, "things", new, np.array(index) * step)
            made += new
    return document, tuple(made)


def in_array(
    document: Document, ids: tuple[str, ...], *, n: int, step: np.ndarray, about: np.ndarray | None = None
) -> tuple[Document, tuple[str, ...]]:
    """Return the document with n - 1 further copies of things, each a step from the one before, and their ids.

    step: (3,) a shift in the set, metres; with `about`, a point, its z is a turn about the vertical there in degrees.
    Copies share their meshes.
    """
    made: list[str] = []
    for k in range(1, n):
        document, new = edit.copied(document, "things", tops(document, ids))
        if about is None:
            document = moved(document, "things", new, np.asarray(step, float) * k)
        else:
            angle = math.radians(float(step[2])) * k
            document = turned(document, "things", new, axis=np.array([0.0, 0, 1]), angle=angle, pivot=about)
        made += new
    return document, tuple(made)


def aimed(light: Light, point: np.ndarray) -> Light:
    """Return the light turned so that it shines, along its minus z, at a point; its x axis stays level."""
    back = np.array(light.place, float) - np.asarray(point, float)
    distance = np.linalg.norm(back)
    if distance < 1e-6:
        return light
    z = back / distance
    x = np.cross((0.0, 0.0, 1.0), z)
    x = x / np.linalg.norm(x) if np.linalg.norm(x) > 1e-6 else np.array([1.0, 0.0, 0.0])
    return edit.changed(light, turn_deg=turn_of(np.stack([x, np.cross(z, x), z], axis=1)))


def aim(document: Document, id: str, point: np.ndarray) -> Document:
    """Return the document with a light aimed at a point of the set, whatever group it is in."""
    light = document.find("lights", id)
    frame = unsized(above(document, "lights", id)[:3, :3])
    turn = rotation(aimed(document.standing(light), point).turn_deg)
    return edit.alter(document, "lights", id, turn_deg=turn_of(frame.T @ turn))


def on_floor(document: Document, assets: Assets, id: str, *, floor: float = 0.0) -> Document:
    """Return the document with a thing moved up or down so that its lowest point stands on a height."""
    box = navigate.bounds_of(document, assets, id)
    if box is None or math.isclose(box[0][2], floor, abs_tol=1e-9):
        return document
    return moved(document, "things", (id,), np.array([0.0, 0.0, floor - box[0][2]]))
