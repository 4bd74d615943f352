"""The plan for focus: the set from above with the lens at the left; the plane that is sharp is dragged along it."""

import itertools

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from nocturne.scene.camera import View, half_width
from nocturne.scene.exposing import sharp_range
from nocturne.scene.plan import reach_for
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.style import font
from nocturne.ui.widgets.layer import Layer

_drags = itertools.count(1)
_LEFT, _RIGHT, _LOW = 16.0, 10.0, 18.0


class FocusPlan(QWidget):
    """Where things stand before the lens, what is sharp, and the plane of focus to drag. Values are metres."""

    edited = Signal(float, object)
    committed = Signal(float, object)

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(112)
        self.setMinimumWidth(180)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Plan for focus")
        self.setToolTip("The set from above, the lens at the left. Drag to where it should be sharp.")
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self._view: View | None = None
        self._things = np.zeros((0, 4))
        self.reach = 5.0
        self._merge: object = None
        self._layer = Layer()

    def show_view(self, view: View, things: np.ndarray) -> None:
        """Show a view's lens and the footprints, (n, 4), before it."""
        self._view, self._things = view, things
        if self._merge is None:  # a scale that changes under the pointer cannot be dragged on
            self.reach = reach_for(view.focus_m)
        self.update()

    def x_of(self, distance: float) -> float:
        """Return where a distance lies across the widget."""
        return _LEFT + distance / self.reach * (self.width() - _LEFT - _RIGHT)

    def _at(self, x: float) -> float:
        distance = (x - _LEFT) / (self.width() - _LEFT - _RIGHT) * self.reach
        return round(min(max(distance, 0.01), self.reach * 1.5), 4)

    # ---- painting --------------------------------------------------------------------------------------------------

    def paintEvent(self, event) -> None:
        """Draw the plan."""
        if self._view is not None:
            key = (self._view, self._things.tobytes(), self.reach, self.hasFocus())
            self._layer.draw_on(self, key, self._draw)

    def _draw(self, painter: QPainter) -> None:
        view = self._view
        room = QRectF(0, 0, self.width(), self.height())
        painter.setPen(QPen(QColor(t.MOON if self.hasFocus() else t.LINE), 1))
        painter.setBrush(QColor(t.GROUND))
        painter.drawRoundedRect(room.adjusted(0.5, 0.5, -0.5, -0.5), 4, 4)
        painter.setClipRect(room.adjusted(1, 1, -1, -1))
        middle, scale = (room.height() - _LOW) / 2 + 2, (self.width() - _LEFT - _RIGHT) / self.reach

        def at(distance: float, side: float) -> QPointF:
            return QPointF(self.x_of(distance), middle + side * scale)

        near, far = sharp_range(view)
        wide = 2 * self.reach
        edges = ((0.0, 1), (0.0, -1), (wide, -1), (wide, 1))
        seen = [at(distance, (view.shift_x + side) * half_width(view, distance)) for distance, side in edges]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(t.RAISED))
        painter.drawPolygon(QPolygonF(seen))
        veil = QColor(t.MOON)
        veil.setAlpha(40)
        end = min(self.x_of(far), room.right()) if np.isfinite(far) else room.right()
        painter.fillRect(QRectF(QPointF(self.x_of(near), 1), QPointF(end, room.bottom() - _LOW)), veil)
        painter.save()
        painter.setClipRect(QRectF(1, 1, room.width() - 2, room.height() - _LOW - 1))
        painter.setPen(Qt.PenStyle.NoPen)
        mass = QColor(t.INK)
        mass.setAlpha(46)
        painter.setBrush(mass)
        for first, last, left, right in self._things:
            # A floor or wall that spans the plan says nothing about where to focus.
            if max(last - first, right - left) < 0.25 * self.reach and first < self.reach:
                painter.drawRoundedRect(QRectF(at(first, left), at(last, right)).adjusted(-0.5, -0.5, 0.5, 0.5), 1, 1)
        painter.restore()
        painter.setPen(QPen(QColor(t.INK), 1))
        painter.setBrush(QColor(t.INK))
        painter.drawPolygon(QPolygonF([at(0, 0), at(0, 0) + QPointF(-8, -5), at(0, 0) + QPointF(-8, 5)]))
        x = self.x_of(view.focus_m)
        painter.setPen(QPen(QColor(t.MOON), 2))
        painter.drawLine(QPointF(x, 4), QPointF(x, room.bottom() - _LOW))
        self._draw_scale(painter, room)

    def _draw_scale(self, painter: QPainter, room: QRectF) -> None:
        painter.setFont(font(10))
        painter.setPen(QColor(t.INK_SOFT))
        y = room.bottom() - _LOW
        painter.drawLine(QPointF(_LEFT, y), QPointF(room.right() - _RIGHT, y))
        for k in range(5):
            x = self.x_of(self.reach * k / 4)
            painter.drawLine(QPointF(x, y), QPointF(x, y + 3))
            words = f"{self.reach * k / 4:g}" + (" m" if k == 4 else "")
            side = Qt.AlignmentFlag.AlignRight if k == 4 else Qt.AlignmentFlag.AlignHCenter
            box = QRectF(x - 34, y + 2, 40, 14) if k == 4 else QRectF(x - 30, y + 2, 60, 14)
            painter.drawText(box, side | Qt.AlignmentFlag.AlignVCenter, words)

    # ---- mouse and keys --------------------------------------------------------------------------------------------

    def mousePressEvent(self, event) -> None:
        """Take the plane of focus to the pointer."""
        self._merge = ("focus", next(_drags))
        self.edited.emit(self._at(event.position().x()), self._merge)

    def mouseMoveEvent(self, event) -> None:
        """Drag the plane of focus."""
        if self._merge is not None:
            self.edited.emit(self._at(event.position().x()), self._merge)

    def mouseReleaseEvent(self, event) -> None:
        """Settle there."""
        if self._merge is not None:
            merge, self._merge = self._merge, None
            self.committed.emit(self._at(event.position().x()), merge)
            if self._view is not None:
                self.show_view(self._view, self._things)

    def keyPressEvent(self, event) -> None:
        """Move the plane of focus by a twentieth, by a hundredth with Shift."""
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if event.key() in steps and self._view is not None:
            size = 0.01 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.05
            distance = self._view.focus_m * (1 + size) ** steps[event.key()]
            self.committed.emit(round(min(max(distance, 0.01), 1e5), 4), None)
        else:
            super().keyPressEvent(event)
