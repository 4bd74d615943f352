"""What stands under a pixel."""

from dataclasses import dataclass

import numpy as np

from nocturne.engine.embree import hit_error
from nocturne.engine.layout import camera as cam
from nocturne.engine.layout import corner
from nocturne.engine.layout import instance as inst
from nocturne.engine.layout import mesh as layout
from nocturne.engine.prepare import Prepared

_MOST_BACKS = 64  # lamps seen from behind along one ray


@dataclass(frozen=True)
class Hit:
    """The nearest thing or lamp along a pixel's middle ray."""

    id: str
    name: str
    is_lamp: bool
    distance: float
    point: np.ndarray


def pixel_ray(prepared: Prepared, x: float, y: float) -> tuple[np.ndarray, np.ndarray, float]:
    """Return (origin, unit direction, sight) of the ray through a point of the picture and the lens' middle.

    x, y: in pixels. sight: how far from its origin the camera sees along it, metres.
    """
    origins, directions, sights = _pixel_rays(prepared, np.array([x], float), np.array([y], float))
    return origins[0], directions[0], float(sights[0])


def _pixel_rays(prepared: Prepared, x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return the same of (n,) points."""
    row = prepared.arrays["camera"].astype(float)
    px = (x / prepared.width * 2 - 1 + row[cam.SHIFT_X]) * row[cam.HALF_X]
    py = (1 - y / prepared.height * 2 + row[cam.SHIFT_Y]) * row[cam.HALF_Y]
    px, py = px[:, None], py[:, None]
    right, up, ahead = (row[at : at + 3] for at in (cam.RIGHT, cam.UP, cam.FORWARD))
    origin, a_metre = np.broadcast_to(row[cam.POS : cam.POS + 3], (len(px), 3)), np.ones((len(px), 1))
    if row[cam.KIND] == cam.AROUND:
        d = (right * np.sin(px) + ahead * np.cos(px)) * np.cos(py) + up * np.sin(py)
    elif row[cam.KIND] == cam.PARALLEL:
        origin, d = origin + right * px + up * py, np.broadcast_to(ahead, (len(px), 3))
    else:
        d = right * px + up * py + ahead
        a_metre = np.linalg.norm(d, axis=1, keepdims=True)
    d = d / np.linalg.norm(d, axis=1, keepdims=True)
    return origin + d * row[cam.CUT] * a_metre, d, ((row[cam.FAR] - row[cam.CUT]) * a_metre)[:, 0]


def facing(prepared: Prepared, width: int, height: int) -> np.ndarray:
    """Return (height, width) int8 of what the picture's parts show: 1 the side that faces out, -1 the other, 0 nothing.

    Lamps' own shapes are nothing, and hide what is behind them.
    """
    x, y = np.meshgrid((np.arange(width) + 0.5) / width, (np.arange(height) + 0.5) / height)
    origins, directions, sights = _pixel_rays(prepared, x.ravel() * prepared.width, y.ravel() * prepared.height)
    distances, normals, instances = prepared.stage.surfaces(origins, directions)
    side = np.where((normals * directions).sum(1) > 0, -1, 1)
    is_thing = (instances >= 0) & (instances < len(prepared.object_ids) - prepared.n_lamps) & (distances <= sights)
    return np.where(is_thing, side, 0).astype(np.int8).reshape(height, width)


def pick(prepared: Prepared, x: float, y: float) -> Hit | None:
    """Return what is hit first at a point of the picture, None for nothing."""
    origin, direction, sight = _past_backs(prepared, *pixel_ray(prepared, x, y))
    found = prepared.stage.first_hit(origin, direction)
    if found is None or found[1] > sight:
        return None
    instance, distance, leaving = found
    is_lamp = instance >= len(prepared.object_ids) - prepared.n_lamps
    if is_lamp and leaving:
        return None
    point = origin + direction * distance
    return Hit(
        prepared.object_ids[instance],
        prepared.objects[instance],
        is_lamp,
        float(np.linalg.norm(point - prepared.arrays["camera"][cam.POS : cam.POS + 3])),
        point,
    )


def _past_backs(
    prepared: Prepared, origin: np.ndarray, direction: np.ndarray, sight: float
) -> tuple[np.ndarray, np.ndarray, float]:
    """Return a ray that starts behind the lamps it meets from behind at first: they are not there."""
    n_things = len(prepared.object_ids) - prepared.n_lamps
    for _ in range(_MOST_BACKS):
        found = prepared.stage.first_hit(origin, direction)
        if found is None or found[0] < n_things or not found[2]:
            break
        point = origin + direction * found[1]
        origin, sight = point + direction * hit_error(point), sight - found[1]
    return origin, direction, sight


@dataclass(frozen=True, eq=False)
class Face:
    """The triangle of a thing along a pixel's middle ray; corners (3, 3) and point in the set, metres."""

    id: str
    triangle: int
    point: np.ndarray
    corners: np.ndarray


def face_at(prepared: Prepared, x: float, y: float) -> Face | None:
    """Return the face of a thing that is hit first at a point of the picture; None for nothing, or a lamp.

    A face where something is cut away has no number: it is -1.
    """
    origin, direction, sight = _past_backs(prepared, *pixel_ray(prepared, x, y))
    found = prepared.stage.first_face(origin, direction)
    if found is None or found[2] > sight or found[0] >= len(prepared.object_ids) - prepared.n_lamps:
        return None
    instance, triangle, distance = found
    arrays = prepared.arrays
    mesh = arrays["mesh_i"][arrays["inst_i"][instance, inst.MESH]]
    corners = arrays["tris"][mesh[layout.FIRST_TRIANGLE] + triangle].astype(np.int64) + mesh[layout.FIRST_VERTEX]
    matrix = arrays["inst_xf"][instance].reshape(3, 4).astype(float)
    places = arrays["corners"][corners][:, corner.ROW.span("POSITION")].astype(float)
    whole = prepared.pieces.get(instance)
    number = triangle if whole is None else int(whole[triangle])
    world = places @ matrix[:, :3].T + matrix[:, 3]
    return Face(prepared.object_ids[instance], number, origin + direction * distance, world)


def focus_distance(prepared: Prepared, point: np.ndarray) -> float:
    """Return the distance of a point from the lens, as it is focused: along the camera's axis if it has one, metres."""
    row = prepared.arrays["camera"].astype(float)
    way = point - row[cam.POS : cam.POS + 3]
    return float(np.linalg.norm(way) if row[cam.KIND] == cam.AROUND else way @ row[cam.FORWARD : cam.FORWARD + 3])
