"""Where points of the set lie in the picture of a view, and which lines stand for lights there."""

import math
from functools import lru_cache

import numpy as np

from nocturne.scene import navigate
from nocturne.scene.camera import View
from nocturne.scene.lights import Light, Turned
from nocturne.scene.shapes import rotation

_NEAR = 0.02  # metres before the lens at which lines are cut


@lru_cache(maxsize=8)
def _axes(eye: tuple, target: tuple, roll_deg: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    return navigate.rolled_axes(View(id="", eye=eye, target=target, roll_deg=roll_deg))


def camera_axes(view: View) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return the unit vectors right, up and ahead of a view, with its roll."""
    return _axes(view.eye, view.target, view.roll_deg)


def _in_camera(view: View, points: np.ndarray) -> np.ndarray:
    """Return (..., 3): right, up, ahead of the eye, metres."""
    return (np.asarray(points, float) - np.array(view.eye)) @ np.stack(camera_axes(view)).T


def _to_picture(view: View, local: np.ndarray) -> np.ndarray:
    half_x = view.sensor_mm / (2 * view.focal_mm)
    half_y = half_x * view.height / view.width
    ahead = np.maximum(local[..., 2], 1e-9)
    x = (local[..., 0] / ahead / half_x - view.shift_x + 1) / 2
    y = (1 - local[..., 1] / ahead / half_y + view.shift_y) / 2
    return np.stack([x, y], axis=-1)


def project(view: View, points: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return (..., 2) places in the picture, 0..1 from its top left, and (...,) distances ahead of the eye, metres.

    Places of points behind the eye (distance <= 0) have no meaning.
    """
    local = _in_camera(view, points)
    return _to_picture(view, local), local[..., 2]


def project_line(view: View, line: np.ndarray) -> list[np.ndarray]:
    """Return the pieces, (n, 2) each, of a polyline (n, 3) that lie before the lens."""
    local = _in_camera(view, line)
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


def pixel_direction(view: View, u: float, v: float) -> np.ndarray:
    """Return the unit direction through a place of the picture, 0..1 from its top left."""
    half_x = view.sensor_mm / (2 * view.focal_mm)
    half_y = half_x * view.height / view.width
    right, up, ahead = camera_axes(view)
    d = ahead + right * (2 * u - 1 + view.shift_x) * half_x + up * (1 - 2 * v + view.shift_y) * half_y
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


def plane_lines(view: View, distance: float, reach: float) -> list[np.ndarray]:
    """Return a grid of polylines in the plane that is sharp, at a distance ahead of the lens, metres."""
    right, up, ahead = camera_axes(view)
    half_x = view.sensor_mm / (2 * view.focal_mm) * distance
    half_y = half_x * view.height / view.width
    middle = np.array(view.eye) + ahead * distance
    lines = []
    for k in np.linspace(-reach, reach, 5):
        a, b = right * half_x, up * half_y
        lines.append(np.stack([middle + a * k - b * reach, middle + a * k + b * reach]))
        lines.append(np.stack([middle + b * k - a * reach, middle + b * k + a * reach]))
    return lines
