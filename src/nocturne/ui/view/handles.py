"""Handles in the picture: a star of three arms with which the chosen thing or light is moved, turned and sized.

Each arm ends in a round knob (move along it) and, beyond it, a square one (size along it); the arc between two arms
turns about the third; the ring in the middle moves in the plane of the picture; a light's diamond is its aim.
"""

import math
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from nocturne.scene import placing
from nocturne.scene.camera import View, half_width
from nocturne.scene.document import Document
from nocturne.scene.lights import Light, Turned
from nocturne.scene.projection import camera_axes, pixel_ray, project, seen_along
from nocturne.scene.shapes import rotation
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.style import font

_ARM, _SQUARE, _ARC, _AIM, _RING = 66.0, 88.0, 42.0, 130.0, 9.0  # pixels from the middle
_GRAB = 9.0
_GRID = 0.05  # metres
_CATCH = 14.0  # pixels
_AXES = "xyz"


@dataclass(frozen=True)
class Grip:
    """One handle: what it does ("move", "free", "turn", "size", "aim"), its axis, where it is drawn."""

    kind: str
    axis: int
    at: QPointF
    path: tuple[QPointF, ...] = ()

    def distance(self, to: QPointF) -> float:
        """Return how far a point is from the handle, pixels."""
        places = self.path or (self.at,)
        return min(math.hypot(p.x() - to.x(), p.y() - to.y()) for p in places)


@dataclass(frozen=True, eq=False)
class Star:
    """The handles of one choice on one view, in the picture's rectangle."""

    view: View
    rect: QRectF
    part: str
    ids: tuple[str, ...]
    middle: np.ndarray
    grips: tuple[Grip, ...]
    per_pixel: float  # metres of the set for a pixel at the middle

    def screen(self, point: np.ndarray) -> QPointF:
        """Return where a point of the set lies in the widget."""
        (u, v), _ = project(self.view, np.asarray(point, float))
        return QPointF(self.rect.left() + u * self.rect.width(), self.rect.top() + v * self.rect.height())

    def grip_at(self, at: QPointF) -> Grip | None:
        """Return the handle under a point of the widget."""
        near = [(grip.distance(at), i, grip) for i, grip in enumerate(self.grips)]
        distance, _, grip = min(near, default=(math.inf, 0, None))
        return grip if distance <= _GRAB else None


def star(document: Document, part: str, ids: tuple[str, ...], rect: QRectF) -> Star | None:
    """Return the handles of what is chosen, None if it has no place or lies behind the camera."""
    if not ids:
        return None
    middle = placing.centre(document, part, ids[-1])
    if middle is None:
        return None
    view = document.view
    (u, v), distance = project(view, middle)
    if distance <= 0.02 or not (-0.5 < u < 1.5 and -0.5 < v < 1.5):
        return None
    per_pixel = 2 * half_width(view, float(distance)) / rect.width()
    made = Star(view, rect, part, ids, middle, (), per_pixel)
    return Star(view, rect, part, ids, middle, tuple(_grips(document, made)), per_pixel)


def _grips(document: Document, made: Star) -> list[Grip]:
    item = document.find(made.part, made.ids[-1])
    light = item if isinstance(item, Light) else None
    turns = light is None or isinstance(light, Turned)
    if light is None:
        own = document.placement(item.id)[:3, :3]
    else:
        own = rotation(document.standing(light).turn_deg) if turns else np.eye(3)
    own = own / np.maximum(np.linalg.norm(own, axis=0), 1e-12)
    sizable = [0, 1, 2] if light is None else [axis for axis, _ in light.handles]
    # All points at once: a projection for each would cost more than the drawing.
    offsets = [np.zeros((1, 3)), np.eye(3) * _ARM, own[:, sizable].T * _SQUARE]
    if turns:
        offsets += [arc * _ARC for arc in _ARCS]
    aims = isinstance(light, Turned) and light.can_aim
    if aims:
        offsets.append(-own[:, 2:3].T * _AIM)
    offset = np.concatenate(offsets) * made.per_pixel
    (places, _), rect = project(made.view, made.middle + offset), made.rect
    at = [QPointF(rect.left() + u * rect.width(), rect.top() + v * rect.height()) for u, v in places]
    middle, at = at[0], at[1:]
    grips = [Grip("free", 3, middle)]
    grips += [Grip("move", axis, at[axis]) for axis in range(3) if _apart(at[axis], middle) > 14]
    grips += [Grip("size", axis, p) for axis, p in zip(sizable, at[3:]) if _apart(p, middle) > 18]
    rest = at[3 + len(sizable) :]
    if turns:
        grips += [Grip("turn", k, rest[9 * k + 4], tuple(rest[9 * k : 9 * k + 9])) for k in range(3)]
    if aims:
        grips.append(Grip("aim", 2, rest[-1]))
    return grips


def _apart(a: QPointF, b: QPointF) -> float:
    return math.hypot(a.x() - b.x(), a.y() - b.y())


def _arc(axis: int) -> np.ndarray:
    """Return nine points of the arc between the two arms that an axis turns."""
    a, b = (np.eye(3)[k] for k in range(3) if k != axis)
    return np.stack([a * math.cos(x) + b * math.sin(x) for x in np.linspace(0.25, 0.75, 9) * math.pi / 2])


_ARCS = tuple(_arc(axis) for axis in range(3))


def room(made: Star) -> QRectF:
    """Return the part of the widget that the handles fill."""
    places = [p for grip in made.grips for p in (grip.at, *grip.path)]
    xs, ys = [p.x() for p in places], [p.y() for p in places]
    edge = 28.0  # for knobs and letters
    return QRectF(QPointF(min(xs) - edge, min(ys) - edge), QPointF(max(xs) + edge, max(ys) + edge))


def draw(painter: QPainter, made: Star, held: Grip | None) -> None:
    """Draw the handles; the one that is held or under the pointer stands out."""
    middle = made.screen(made.middle)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    moves = [grip for grip in made.grips if grip.kind == "move"]
    lines = QPainterPath()
    for grip in made.grips:
        if grip.kind in ("move", "aim"):
            lines.moveTo(middle)
            lines.lineTo(grip.at)
        elif grip.kind == "turn":
            lines.addPolygon(QPolygonF(list(grip.path)))
    for width, colour in ((3.4, QColor(0, 0, 0, 150)), (1.4, QColor(t.MOON))):
        painter.strokePath(lines, QPen(colour, width))
    for grip in made.grips:
        painter.setPen(QPen(QColor(0, 0, 0, 190), 1))
        is_held = held is not None and (grip.kind, grip.axis) == (held.kind, held.axis)
        painter.setBrush(QColor(t.INK if is_held else t.MOON))
        r = 6.0 if is_held else 5.0
        if grip.kind == "move":
            painter.drawEllipse(grip.at, r, r)
        elif grip.kind == "size":
            painter.drawRect(QRectF(grip.at.x() - r + 1, grip.at.y() - r + 1, 2 * r - 2, 2 * r - 2))
        elif grip.kind == "aim":
            x, y = grip.at.x(), grip.at.y()
            corners = ((x, y - r - 1), (x + r + 1, y), (x, y + r + 1), (x - r - 1, y))
            painter.setBrush(QColor(t.INK if is_held else t.LAMP))
            painter.drawPolygon(QPolygonF([QPointF(*c) for c in corners]))
        elif grip.kind == "turn" and is_held:
            painter.drawEllipse(grip.at, 4, 4)
        elif grip.kind == "free":
            painter.setBrush(QColor(230, 230, 230, 120) if is_held else Qt.BrushStyle.NoBrush)
            for pen in (QPen(QColor(0, 0, 0, 150), 3.4), QPen(QColor(t.MOON), 1.4)):
                painter.setPen(pen)
                painter.drawEllipse(middle, _RING, _RING)
    painter.setFont(font(11, weight=600))
    for grip in moves:
        out = grip.at - middle
        length = max(math.hypot(out.x(), out.y()), 1.0)
        at = grip.at + out * (13 / length)
        box = QRectF(at.x() - 8, at.y() - 8, 16, 16)
        for dx, colour in ((1, QColor(0, 0, 0, 200)), (0, QColor(t.INK))):
            painter.setPen(colour)
            painter.drawText(box.translated(dx, dx), Qt.AlignmentFlag.AlignCenter, _AXES[grip.axis])


def dragged(
    document: Document,
    made: Star,
    grip: Grip,
    start: QPointF,
    now: QPointF,
    *,
    fine: bool,
    snap: bool,
    anchors: np.ndarray | None = None,
) -> Document:
    """Return the document, as it was when the drag began, with the handle dragged from one point to another.

    fine: a tenth of the way. snap: to a grid of 5 cm, in whole steps of 15 degrees or a tenth of the size. anchors:
    (n, 3) points of the set that catch the pivot when the ring is dragged so.
    """
    k = 0.1 if fine else 1.0
    if grip.kind == "free":
        right, up, _ = camera_axes(made.view)
        dx, dy = (now.x() - start.x()) * k, (now.y() - start.y()) * k
        by = (right * dx - up * dy) * made.per_pixel
        if snap:
            by = _caught(made, made.middle + by, anchors) - made.middle
        return placing.moved(document, made.part, made.ids, by)
    middle = made.screen(made.middle)
    if grip.kind == "move":
        arm = grip.at - middle
        length = math.hypot(arm.x(), arm.y())
        along = ((now.x() - start.x()) * arm.x() + (now.y() - start.y()) * arm.y()) / length
        # An arm that points at the camera is short on the screen: a pixel along it is more metres.
        metres = along * k * made.per_pixel * _ARM / length
        if snap:
            at = float(made.middle[grip.axis])
            metres = round((at + metres) / _GRID) * _GRID - at
        return placing.moved(document, made.part, made.ids, np.eye(3)[grip.axis] * metres)
    if grip.kind == "turn":
        a0 = math.atan2(start.y() - middle.y(), start.x() - middle.x())
        a1 = math.atan2(now.y() - middle.y(), now.x() - middle.x())
        angle = (a0 - a1 + math.pi) % (2 * math.pi) - math.pi  # screen y points down
        axis = np.eye(3)[grip.axis]
        angle *= k * (1 if axis @ seen_along(made.view, made.middle) <= 0 else -1)
        angle = round(angle / math.radians(15)) * math.radians(15) if snap else angle
        return placing.turned(document, made.part, made.ids, axis=axis, angle=angle, pivot=made.middle)
    arm = grip.at - middle
    length = math.hypot(arm.x(), arm.y())
    along = ((now.x() - start.x()) * arm.x() + (now.y() - start.y()) * arm.y()) / length
    factor = max(1 + along * k / length, 0.02)
    factor = max(round(factor * 10) / 10, 0.1) if snap else factor
    return placing.sized(document, made.part, made.ids[-1], axis=grip.axis, factor=factor)


def _caught(made: Star, point: np.ndarray, anchors: np.ndarray | None) -> np.ndarray:
    """Return the anchor that lies nearest to a point in the picture, if one is near, else the grid's nearest point."""
    if anchors is not None and len(anchors):
        size = np.array((made.rect.width(), made.rect.height()))
        places, ahead = project(made.view, anchors)
        gaps = np.linalg.norm((places - project(made.view, point)[0]) * size, axis=1)
        gaps[ahead <= 0] = np.inf
        if gaps.min() <= _CATCH:
            return anchors[int(gaps.argmin())]
    return np.round(point / _GRID) * _GRID


def aim_point(made: Star, at: QPointF, hit: np.ndarray | None) -> np.ndarray:
    """Return what a light is aimed at by a point of the widget: the surface there, else a point as far as the light."""
    if hit is not None:
        return hit
    u = (at.x() - made.rect.left()) / made.rect.width()
    v = (at.y() - made.rect.top()) / made.rect.height()
    _, distance = project(made.view, made.middle)
    origin, direction = pixel_ray(made.view, u, v)
    return origin + direction * float(distance) * 1.5
