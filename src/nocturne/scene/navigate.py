"""Moving a view: pure functions from view to view. Lengths in metres, angles in radians."""

import math

import numpy as np

from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.camera import View, half_width
from nocturne.scene.document import Document
from nocturne.scene.fields import within
from nocturne.scene.scattering import copies_of

_STEEPEST = math.radians(89.0)


def _rounded(v: np.ndarray) -> tuple[float, float, float]:
    return tuple(round(float(x), 5) for x in v)


def axes(view: View) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return the unit vectors right, up and ahead of a view, without its roll."""
    ahead = np.array(view.target, float) - np.array(view.eye, float)
    size = np.linalg.norm(ahead)
    ahead = ahead / size if size > 1e-9 else np.array([0.0, 1.0, 0.0])
    right = np.cross(ahead, (0, 0, 1))
    if np.linalg.norm(right) < 1e-6:
        right = np.array([1.0, 0, 0])
    right = right / np.linalg.norm(right)
    return right, np.cross(right, ahead), ahead


def rolled_axes(view: View) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return the unit vectors right, up and ahead of a view, with its roll: those of its picture."""
    right, up, ahead = axes(view)
    c, s = math.cos(math.radians(view.roll_deg)), math.sin(math.radians(view.roll_deg))
    return right * c + up * s, up * c - right * s, ahead


def _turned(v: np.ndarray, axis: np.ndarray, angle: float) -> np.ndarray:
    c, s = math.cos(angle), math.sin(angle)
    return v * c + np.cross(axis, v) * s + axis * (axis @ v) * (1 - c)


def orbit(view: View, *, pivot: np.ndarray, turn: float, tilt: float) -> View:
    """Return the view swung about a point: `turn` about the vertical, `tilt` up or down; it never goes over the top."""
    right, _, ahead = axes(view)
    height = math.asin(float(np.clip(ahead[2], -1, 1)))
    tilt = min(max(height + tilt, -_STEEPEST), _STEEPEST) - height
    pivot = np.asarray(pivot, float)
    out = []
    for point in (view.eye, view.target):
        v = _turned(np.array(point, float) - pivot, right, tilt)
        out.append(_rounded(pivot + _turned(v, np.array([0.0, 0, 1]), turn)))
    return edit.changed(view, eye=out[0], target=out[1])


def metres_a_share(view: View, depth: float) -> float:
    """Return how far a pan by the frame's width goes for what lies at a depth to keep up with the pointer, metres."""
    return 2 * half_width(view, max(depth, 0.05))


def pan(view: View, *, across: float, up: float) -> View:
    """Return the view moved sideways and up, in metres in the plane of its picture."""
    right, above, _ = rolled_axes(view)
    move = right * across + above * up
    return edit.changed(view, eye=_rounded(np.array(view.eye) + move), target=_rounded(np.array(view.target) + move))


def dolly(view: View, *, towards: np.ndarray, part: float) -> View:
    """Return the view moved by a part of the way towards a point; the aim keeps its place ahead."""
    eye, towards = np.array(view.eye, float), np.asarray(towards, float)
    move = (towards - eye) * part
    if view.projection == "orthographic":
        return _spanned(view, towards, part)
    if np.linalg.norm(towards - eye - move) < 0.01:
        return view
    target = np.array(view.target, float)
    _, _, ahead = axes(view)
    left = max((target - eye - move) @ ahead, 0.05)
    return edit.changed(view, eye=_rounded(eye + move), target=_rounded(eye + move + ahead * left))


def _spanned(view: View, towards: np.ndarray, part: float) -> View:
    """Return an orthographic view with a smaller or larger frame; a point keeps its place in the picture."""
    right, up, _ = rolled_axes(view)
    span = within(View, "span_m", view.span_m * (1 - part))
    away = (towards - np.array(view.eye)) * (1 - span / view.span_m)
    return edit.changed(pan(view, across=float(away @ right), up=float(away @ up)), span_m=span)


def look(view: View, *, turn: float, tilt: float) -> View:
    """Return the view turned about its own eye."""
    return orbit(view, pivot=np.array(view.eye, float), turn=turn, tilt=tilt)


def bring_into_view(view: View, low: np.ndarray, high: np.ndarray) -> View:
    """Return the view moved, not turned, so that a box fills the frame, wherever the frame is shifted to.

    Of a sphere of radius r whose middle is D ahead in the middle of the frame, the outermost point lies h beside that
    middle (at unit distance) if D h = r sqrt(1 + (|s| + h)^2), with s the frame's shift in the same measure.
    """
    centre, radius = (low + high) / 2, max(float(np.linalg.norm(high - low)) / 2, 1e-3)
    right, up, ahead = rolled_axes(view)
    if view.projection == "panorama":
        return edit.changed(view, target=_rounded(centre))
    if view.projection == "orthographic":
        span = within(View, "span_m", 2.1 * radius * max(1.0, view.width / view.height))
        shift = (right * view.shift_x + up * view.shift_y * view.height / view.width) * span / 2
        away = max(float(np.linalg.norm(np.subtract(view.target, view.eye))), 2 * radius)
        eye = centre - shift - ahead * away
        return edit.changed(view, eye=_rounded(eye), target=_rounded(eye + ahead * away), span_m=span)
    half = half_width(view, 1.0)
    halves = np.array((half, half * view.height / view.width))
    shift = halves * (view.shift_x, view.shift_y)
    distance = 1.05 * radius * float((np.sqrt(1 + (np.abs(shift) + halves) ** 2) / halves).max())
    eye = centre - (ahead + right * shift[0] + up * shift[1]) * distance
    return edit.changed(view, eye=_rounded(eye), target=_rounded(eye + ahead * distance))


def bounds_of(document: Document, assets: Assets, id: str) -> tuple[np.ndarray, np.ndarray] | None:
    """Return the (low, high) corners of a thing and its members in the set, None if it has no shape."""
    wanted, corners = document.with_members((id,)), []
    for thing in document.things:
        mesh = assets.shape(thing) if thing.id in wanted else None
        if mesh is not None:
            low, high = mesh.bounds
            box = np.array(
                [[x, y, z, 1.0] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])]
            )
            corners.append(box @ document.placements[thing.id][0][:3].T)
        if thing.id in wanted and thing.scatter is not None:
            for part in copies_of(document, assets, thing):
                box = np.stack(np.meshgrid(*part.mesh.bounds.T, indexing="ij"), axis=-1).reshape(-1, 3)
                each = np.einsum("nij,kj->nki", part.matrices[:, :3, :3], box) + part.matrices[:, None, :3, 3]
                stands = document.placements[thing.id][0]
                corners.append(each.reshape(-1, 3) @ stands[:3, :3].T + stands[:3, 3])
    if not corners:
        return None
    points = np.concatenate(corners)
    return points.min(0), points.max(0)
