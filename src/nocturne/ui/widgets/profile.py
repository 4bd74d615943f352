"""A drawn profile: the half section of a turned shape, its points dragged, added and taken away with the mouse."""

import itertools

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from nocturne.ui.theme import tokens as t

_drags = itertools.count(1)
_GRAB = 9.0
_EDGE = 14.0


class ProfileEditor(QWidget):
    """Points by their distance from the axis, at the left, and their height."""

    edited = Signal(object, object)
    committed = Signal(object, object)

    def __init__(self, label: str, *, help: str = "") -> None:
        super().__init__()
        self.points: tuple[tuple[float, float], ...] = ()
        self._held: int | None = None
        self._merge: object = None
        self._frame: tuple[float, float, float] | None = None  # lowest, metres a pixel, while something is dragged
        self.setFixedHeight(190)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(label)
        self.setToolTip(
            f"{help} Drag points; click on the line adds one, a right click takes one away. The axis is at the left."
        )

    def show_value(self, value: tuple[tuple[float, float], ...]) -> None:
        """Show a profile without saying so."""
        self.points = tuple(value)
        self.update()

    def _scale(self) -> tuple[float, float, float]:
        if self._frame is not None:
            return self._frame
        radius = max(max(r for r, _ in self.points), 1e-6)
        low, high = min(z for _, z in self.points), max(z for _, z in self.points)
        per_pixel = max(radius / (self.width() - 2 * _EDGE), (high - low) / (self.height() - 2 * _EDGE), 1e-9)
        return low, per_pixel, radius

    def at(self, point: tuple[float, float]) -> QPointF:
        """Return where a point of the profile is drawn."""
        low, per_pixel, _ = self._scale()
        return QPointF(_EDGE + point[0] / per_pixel, self.height() - _EDGE - (point[1] - low) / per_pixel)

    def _point(self, at: QPointF) -> tuple[float, float]:
        low, per_pixel, _ = self._scale()
        radius = max((at.x() - _EDGE) * per_pixel, 0.0)
        return round(radius, 5), round(low + (self.height() - _EDGE - at.y()) * per_pixel, 5)

    def _near(self, at: QPointF) -> int | None:
        gaps = [(_length(self.at(p) - at), i) for i, p in enumerate(self.points)]
        gap, i = min(gaps, default=(1e9, 0))
        return i if gap <= _GRAB else None

    def mousePressEvent(self, event) -> None:
        """Take a point, add one on the line, or take one away."""
        at = event.position()
        near = self._near(at)
        if event.button() == Qt.MouseButton.RightButton:
            if near is not None and len(self.points) > 2:
                self._say(self.points[:near] + self.points[near + 1 :], None, ended=True)
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self._merge = ("profile", next(_drags))
        self._frame = self._scale()
        if near is None:
            near = self._where_to_add(at)
            self._say((*self.points[:near], self._point(at), *self.points[near:]), self._merge, ended=False)
        self._held = near

    def _where_to_add(self, at: QPointF) -> int:
        """Return the number that a new point gets: between the two whose line it is nearest to, or at an end."""
        places = [self.at(p) for p in self.points]
        gaps = []
        for i, (a, b) in enumerate(zip(places, places[1:])):
            ab, ap = b - a, at - a
            share = min(max(QPointF.dotProduct(ap, ab) / max(QPointF.dotProduct(ab, ab), 1e-9), 0.0), 1.0)
            gaps.append((_length(a + ab * share - at), i + 1))
        gaps += [(_length(places[0] - at) + 2, 0), (_length(places[-1] - at) + 2, len(places))]
        return min(gaps)[1]

    def mouseMoveEvent(self, event) -> None:
        """Move the point that is held."""
        if self._held is not None:
            i = self._held
            self._say(
                (*self.points[:i], self._point(event.position()), *self.points[i + 1 :]), self._merge, ended=False
            )

    def mouseReleaseEvent(self, event) -> None:
        """Leave it there."""
        if self._held is not None:
            self._held, self._frame = None, None
            self._say(self.points, self._merge, ended=True)

    def _say(self, points: tuple, merge: object, *, ended: bool) -> None:
        self.points = points
        self.update()
        (self.committed if ended else self.edited).emit(points, merge)

    def paintEvent(self, event) -> None:
        """Draw the axis, the section and its points."""
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.fillRect(self.rect(), QColor(t.RAISED))
            painter.setPen(QPen(QColor(t.LINE), 1, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(_EDGE, 0), QPointF(_EDGE, self.height()))
            line = QPolygonF([self.at(p) for p in self.points])
            painter.setPen(QPen(QColor(t.INK), 1.4))
            painter.drawPolyline(line)
            for i, at in enumerate(line):
                painter.setPen(QPen(QColor(t.MOON), 1.2))
                painter.setBrush(QColor(t.MOON) if i == self._held else QColor(t.PANEL))
                painter.drawEllipse(QRectF(at.x() - 3.5, at.y() - 3.5, 7, 7))


def _length(v: QPointF) -> float:
    return (v.x() ** 2 + v.y() ** 2) ** 0.5
