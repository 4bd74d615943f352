"""Where points of the set lie in the picture of a view, and which lines stand for lights there."""

import math
from functools import lru_cache

import numpy as np

from nocturne.scene import navigate
from nocturne.scene.camera import View, half_width
from nocturne.scene.cutaway import Cutaway
from nocturne.scene.lights import Light, Turned
from nocturne.scene.shapes import rotation

_NEAR = 0.02  # metres before the lens at which lines are cut
_BENDS = 24  # pieces of a straight line in a panorama


@lru_cache(maxsize=8)
def _axes(eye: tuple, target: tuple, roll_deg: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    return navigate.rolled_axes(View(id="", eye=eye, target=target, roll_deg=roll_deg))


def camera_axes(view: View) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return the unit vectors right, up and ahead of a view, with its roll."""
    return _axes(view.eye, view.target, view.roll_deg)


def _in_camera(view: View, points: np.ndarray) -> np.ndarray:
    """Return (..., 3): right, up, ahead of the eye, metres."""
    return (np.asarray(points, float) - np.array(view.eye)) @ np.stack(camera_axes(view)).T


def _halves(view: View) -> tuple[float, float]:
    half = half_width(view, 1.0)
    return half, half * view.height / view.width


def _to_picture(view: View, local: np.ndarray) -> np.ndarray:
    half_x, half_y = _halves(view)
    across, over, ahead = np.moveaxis(local, -1, 0)
    if view.projection == "panorama":
        across, over = np.arctan2(across, ahead), np.arctan2(over, np.hypot(across, ahead))
    elif view.projection == "perspective":
        ahead = np.maximum(ahead, 1e-9)
        across, over = across / ahead, over / ahead
    x = (across / half_x - view.shift_x + 1) / 2
    y = (1 - over / half_y + view.shift_y) / 2
    if view.projection == "panorama":
        x = x % 1.0
    return np.stack([x, y], axis=-1)


def _distances(view: View, local: np.ndarray) -> np.ndarray:
    return np.linalg.norm(local, axis=-1) if view.projection == "panorama" else local[..., 2]


def project(view: View, points: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return (..., 2) places in the picture, 0..1 from its top left, and (...,) distances ahead of the eye, metres.

    Places of points behind the eye (distance <= 0) have no meaning. A panorama has none behind it: its distances are
    those from the eye.
    """
    local = _in_camera(view, points)
    return _to_picture(view, local), _distances(view, local)


def project_line(view: View, line: np.ndarray) -> list[np.ndarray]:
    """Return the pieces, (n, 2) each, of a polyline (n, 3) that lie before the lens."""
    local = _in_camera(view, line)
    if view.projection == "panorama":
        return _around(view, local)
    if (local[:, 2] >= _NEAR).all():
        return [_to_picture(view, local)]
    pieces: list[list[np.ndarray]] = [[]]
    for a, b in zip(local, local[1:]):
        if a[2] < _NEAR and b[2] < _NEAR:
            continue
        if a[2] < _NEAR or b[2] < _NEAR:
            cut = a + (b - a) * (_NEAR - a[2]) / (b[2] - a[2])
            a, b = (cut, b) if a[2] < _NEAR else (a, cut)
        if pieces[-1] and np.allclose(pieces[-1][-1], a):
            pieces[-1].append(b)
        else:
            pieces.append([a, b])
    return [_to_picture(view, np.array(piece)) for piece in pieces if piece]


def _around(view: View, local: np.ndarray) -> list[np.ndarray]:
    """Return a polyline in a panorama: bent, and in pieces where it leaves on one side to come in on the other."""
    parts = np.linspace(0, 1, _BENDS, endpoint=False)[:, None]
    fine = [a + (b - a) * parts for a, b in zip(local, local[1:])]
    at = _to_picture(view, np.concatenate([*fine, local[-1:]]))
    return [piece for piece in np.split(at, np.flatnonzero(np.abs(np.diff(at[:, 0])) > 0.5) + 1) if len(piece) > 1]


def pixel_ray(view: View, u: float, v: float) -> tuple[np.ndarray, np.ndarray]:
    """Return the (origin, unit direction) of the ray through a place of the picture, 0..1 from its top left."""
    eye = np.array(view.eye, float)
    if view.projection != "orthographic":
        return eye, pixel_direction(view, u, v)
    right, up, ahead = camera_axes(view)
    half_x, half_y = _halves(view)
    across, over = (2 * u - 1 + view.shift_x) * half_x, (1 - 2 * v + view.shift_y) * half_y
    return eye + right * across + up * over, ahead


def seen_along(view: View, point: np.ndarray) -> np.ndarray:
    """Return the unit direction in which a point of the set is seen."""
    if view.projection == "orthographic":
        return camera_axes(view)[2]
    way = np.asarray(point, float) - np.array(view.eye)
    return way / max(float(np.linalg.norm(way)), 1e-12)


def pixel_direction(view: View, u: float, v: float) -> np.ndarray:
    """Return the unit direction through a place of the picture, 0..1 from its top left."""
    half_x, half_y = _halves(view)
    right, up, ahead = camera_axes(view)
    across, over = (2 * u - 1 + view.shift_x) * half_x, (1 - 2 * v + view.shift_y) * half_y
    if view.projection == "orthographic":
        return ahead
    if view.projection == "panorama":
        return (right * math.sin(across) + ahead * math.cos(across)) * math.cos(over) + up * math.sin(over)
    d = ahead + right * across + up * over
    return d / np.linalg.norm(d)


def _circle(radius: float, n: int = 32) -> np.ndarray:
    a = np.linspace(0, 2 * math.pi, n + 1)
    return np.stack([np.cos(a) * radius, np.sin(a) * radius, np.zeros(n + 1)], axis=-1)


def light_lines(light: Light, reach: float) -> list[np.ndarray]:
    """Return polylines (n, 3) in the set that show a light's shape, and where it shines over a length, metres.

    Infinite lights have none.
    """
    if light.is_infinite:
        return []
    place = np.array(light.place)
    turn = rotation(light.turn_deg) if isinstance(light, Turned) else np.eye(3)
    return [line @ turn.T + place for line in light.lines(reach)]


def cutaway_lines(cutaway: Cutaway, matrix: np.ndarray) -> list[np.ndarray]:
    """Return polylines (n, 3) in the set that show a cutaway that stands by a (4, 4) matrix, and which side it cuts."""
    x, y, z = cutaway.half_size
    if cutaway.kind == "ball":
        circle = _circle(cutaway.radius)
        lines = [circle, circle[:, [2, 0, 1]], circle[:, [1, 2, 0]]]
    else:
        ring = np.array([(-x, -y), (x, -y), (x, y), (-x, y), (-x, -y)])
        lines = [np.insert(ring, 2, height, axis=1) for height in sorted({-z, z})]
        lines += [np.array([(*corner, -z), (*corner, z)]) for corner in ring[:4]] if z else []
        if cutaway.kind == "plane":
            away = 0.25 * max(x, y)
            lines.append(np.array([(0.0, 0.0, 0.0), (0.0, 0.0, away)]))
            lines += [np.array([(0.0, 0.0, away), (s * away / 5, 0.0, away * 0.75)]) for s in (1, -1)]
    return [line @ matrix[:3, :3].T + matrix[:3, 3] for line in lines]


def plane_lines(view: View, distance: float, reach: float) -> list[np.ndarray]:
    """Return a grid of polylines in the plane that is sharp, at a distance ahead of the lens, metres.

    What is sharp in a panorama is a ball around the eye, of which there is nothing to be seen.
    """
    if view.projection == "panorama":
        return []
    right, up, ahead = camera_axes(view)
    half_x = half_width(view, distance)
    half_y = half_x * view.height / view.width
    middle = np.array(view.eye) + ahead * distance
    lines = []
    for k in np.linspace(-reach, reach, 5):
        a, b = right * half_x, up * half_y
        lines.append(np.stack([middle + a * k - b * reach, middle + a * k + b * reach]))
        lines.append(np.stack([middle + b * k - a * reach, middle + b * k + a * reach]))
    return lines
