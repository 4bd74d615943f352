"""The curve editors: points over stops from middle grey with the picture's brightness behind them, or from 0 to 1."""

import itertools

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from nocturne.scene.curves import curve
from nocturne.scene.finish import CURVE_HIGH, CURVE_LOW, Point
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.style import font

_drags = itertools.count(1)
_GRAB = 9.0  # pixels
_INSET = 10.0
_KEYS = (Qt.Key.Key_Delete, Qt.Key.Key_Backspace, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down)


class CurveEditor(QWidget):
    """A curve's points. `edited` while one moves, `committed` at the end; both carry the points and the drag.

    Drag a point; click the curve to add one; double-click, or Delete, takes the chosen one away. Left and Right choose
    the next point, Up and Down move it (Shift finely).
    """

    edited = Signal(object, object)
    committed = Signal(object, object)
    low, high = CURVE_LOW, CURVE_HIGH
    apart = 0.15  # that points keep between them
    steps = 0.2, 0.02  # of the keys, and finely
    lines = tuple(range(int(CURVE_LOW), int(CURVE_HIGH) + 1, 2))
    only_rises = True

    def __init__(self, name: str, *, help: str = "") -> None:
        super().__init__()
        self.setAccessibleName(f"{name} curve")
        self.setAccessibleDescription("Left and Right choose a point, Up and Down move it, Delete takes it away.")
        self.setToolTip(f"{help} Click to add a point, drag it, double-click to take it away.".strip())
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(140, 150)
        self.setMouseTracking(True)
        self.points: tuple[Point, ...] = ((self.low, self.low), (self.high, self.high))
        self.chosen = 0
        self._histogram: np.ndarray | None = None
        self._drag: tuple[int, object] | None = None

    @property
    def value(self) -> tuple[Point, ...]:
        """Return the points."""
        return self.points

    def show_value(self, points: tuple[Point, ...]) -> None:
        """Show points without saying so."""
        if self._drag is None:
            self.points = tuple(tuple(p) for p in points)
            self.chosen = min(self.chosen, len(self.points) - 1)
            self.update()

    def show_histogram(self, counts: np.ndarray | None) -> None:
        """Show how much of the picture has which brightness: counts over the curve's stops."""
        self._histogram = counts
        self.update()

    # ---- places ----------------------------------------------------------------------------------------------------

    def _room(self) -> QRectF:
        return QRectF(self.rect()).adjusted(_INSET, _INSET, -_INSET, -_INSET - 10)

    def at(self, point: Point) -> QPointF:
        """Return where a point lies in the widget."""
        room, reach = self._room(), self.high - self.low
        return QPointF(
            room.left() + (point[0] - self.low) / reach * room.width(),
            room.bottom() - (point[1] - self.low) / reach * room.height(),
        )

    def _stops(self, at: QPointF) -> Point:
        room, reach = self._room(), self.high - self.low
        x = self.low + (at.x() - room.left()) / room.width() * reach
        y = self.low + (room.bottom() - at.y()) / room.height() * reach
        return min(max(x, self.low), self.high), min(max(y, self.low), self.high)

    def _near(self, at: QPointF) -> int | None:
        for i, point in enumerate(self.points):
            if (self.at(point) - at).manhattanLength() < _GRAB:
                return i
        return None

    # ---- changes ---------------------------------------------------------------------------------------------------

    def _moved(self, i: int, to: Point) -> tuple[Point, ...]:
        """Return the points with one moved, kept between its neighbours."""
        points = list(self.points)
        low_x = points[i - 1][0] + self.apart if i else self.low
        high_x = points[i + 1][0] - self.apart if i + 1 < len(points) else self.high
        low_y = points[i - 1][1] if i and self.only_rises else self.low
        high_y = points[i + 1][1] if i + 1 < len(points) and self.only_rises else self.high
        points[i] = (round(min(max(to[0], low_x), high_x), 3), round(min(max(to[1], low_y), high_y), 3))
        return tuple(points)

    def _say(self, points: tuple[Point, ...], merge: object, ended: bool) -> None:
        self.points = points
        self.update()
        (self.committed if ended else self.edited).emit(points, merge)

    def _remove(self, i: int) -> None:
        if 0 < i < len(self.points) - 1:
            self.chosen = max(i - 1, 0)
            self._say((*self.points[:i], *self.points[i + 1 :]), None, True)

    def mousePressEvent(self, event) -> None:
        """Take hold of a point, or add one."""
        if event.button() != Qt.MouseButton.LeftButton:
            return
        merge, i = ("curve", next(_drags)), self._near(event.position())
        if i is None:
            to = self._stops(event.position())
            if any(abs(to[0] - x) < self.apart for x, _ in self.points):
                return
            i = sum(x < to[0] for x, _ in self.points)
            points = (*self.points[:i], to, *self.points[i:])
            self.points = points
            self._drag, self.chosen = (i, merge), i
            self._say(self._moved(i, to), merge, False)
        self._drag, self.chosen = (i, merge), i
        self.update()

    def mouseMoveEvent(self, event) -> None:
        """Move the point that is held."""
        if self._drag is not None:
            i, merge = self._drag
            self._say(self._moved(i, self._stops(event.position())), merge, False)
        near = self._near(event.position()) is not None
        self.setCursor(Qt.CursorShape.SizeAllCursor if near else Qt.CursorShape.CrossCursor)

    def mouseReleaseEvent(self, event) -> None:
        """Let go."""
        if self._drag is not None:
            _, merge = self._drag
            self._drag = None
            self._say(self.points, merge, True)

    def mouseDoubleClickEvent(self, event) -> None:
        """Take a point away."""
        i = self._near(event.position())
        self._drag = None
        if i is not None:
            self._remove(i)

    def event(self, event) -> bool:
        """Keep the keys that edit points from being commands of the window."""
        if event.type() == QEvent.Type.ShortcutOverride and event.key() in _KEYS:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event) -> None:
        """Choose, move and remove points by keys."""
        step = self.steps[bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)]
        x, y = self.points[self.chosen]
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.chosen = (self.chosen + (1 if event.key() == Qt.Key.Key_Right else -1)) % len(self.points)
            self.update()
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            up = step if event.key() == Qt.Key.Key_Up else -step
            self._say(self._moved(self.chosen, (x, y + up)), None, True)
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self._remove(self.chosen)
        else:
            super().keyPressEvent(event)

    # ---- drawing ---------------------------------------------------------------------------------------------------

    def paintEvent(self, event) -> None:
        """Draw the scale, the picture's brightness, the curve and its points."""
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            room = self._room()
            painter.fillRect(room, QColor(t.GROUND))
            if self._histogram is not None and self._histogram.max() > 0:
                self._draw_histogram(painter, room)
            painter.setFont(font(9))
            for stop in self.lines:
                at = self.at((stop, stop))
                painter.setPen(QPen(QColor(t.LINE if stop else "#6a6a6a"), 1))
                painter.drawLine(QPointF(at.x(), room.top()), QPointF(at.x(), room.bottom()))
                painter.drawLine(QPointF(room.left(), at.y()), QPointF(room.right(), at.y()))
                painter.setPen(QColor(t.INK_SOFT))
                label = self.label_of(stop)
                painter.drawText(QRectF(at.x() - 16, room.bottom() + 2, 32, 14), Qt.AlignmentFlag.AlignCenter, label)
            stops = np.linspace(self.low, self.high, 120)
            line = [self.at((x, y)) for x, y in zip(stops, np.clip(curve(self.points, stops), self.low, self.high))]
            painter.setPen(QPen(QColor(t.INK), 1.6))
            painter.drawPolyline(QPolygonF(line))
            for i, point in enumerate(self.points):
                painter.setPen(QPen(QColor(t.GROUND), 1))
                painter.setBrush(QColor(t.MOON if i == self.chosen else t.INK))
                painter.drawEllipse(self.at(point), 4.5, 4.5)
            if self.hasFocus():
                painter.setPen(QPen(QColor(t.MOON), 1))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(room)

    def label_of(self, line: float) -> str:
        """Return what is written at a line of the scale."""
        return f"{line:+d}" if line else "grey"

    def _draw_histogram(self, painter: QPainter, room: QRectF) -> None:
        share = np.sqrt(self._histogram / self._histogram.max())
        n = len(share)
        shape = [QPointF(room.left(), room.bottom())]
        for i, v in enumerate(share):
            x = room.left() + (i + 0.5) / n * room.width()
            shape.append(QPointF(x, room.bottom() - v * room.height() * 0.8))
        shape.append(QPointF(room.right(), room.bottom()))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(t.RAISED))
        painter.drawPolygon(QPolygonF(shape))


class ShareCurveEditor(CurveEditor):
    """A curve from numbers between 0 and 1 to such numbers; it may fall as well as rise."""

    low, high = 0.0, 1.0
    apart = 0.01
    steps = 0.05, 0.005
    lines = (0, 0.25, 0.5, 0.75, 1)
    only_rises = False

    def label_of(self, line: float) -> str:
        """Return what is written at a line of the scale."""
        return f"{line:g}"
