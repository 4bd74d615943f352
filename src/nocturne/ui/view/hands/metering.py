"""The meter at the pointer: its area, and what it reads."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from nocturne.ui.theme import tokens as t
from nocturne.ui.view import overlay, reading

_SIZES = (1, 5, 15, 45, 101)  # pixels of the picture


class Metering:
    """Reads the picture at the pointer while it is on."""

    def __init__(self, view) -> None:
        self._view = view
        self.is_on = False
        self._size = _SIZES[0]

    def resize(self, notches: float) -> None:
        """Read a larger or smaller area."""
        i = _SIZES.index(self._size) + (1 if notches > 0 else -1)
        self._size = _SIZES[min(max(i, 0), len(_SIZES) - 1)]
        self._view.update()

    def reading_at(self, at: QPointF):
        """Return the reading at a point of the widget, None outside the picture."""
        pixel = self._view.pixel_at(at)
        return reading.reading(self._view.print, pixel, self._size) if pixel is not None else None

    def draw(self, painter: QPainter, at: QPointF) -> None:
        """Draw the area and what is read in it."""
        view, read = self._view, self.reading_at(at)
        if read is None:
            overlay.draw_hint(painter, view.frame_rect(), "The meter: point at the picture; the wheel changes its area")
            return
        half = max(self._size * view.scale() / view.devicePixelRatioF() / 2, 3.0)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        box = QRectF(at.x() - half, at.y() - half, 2 * half, 2 * half)
        for pen in (QPen(QColor(0, 0, 0, 180), 3), QPen(QColor(t.INK), 1)):
            painter.setPen(pen)
            painter.drawRect(box)
        overlay.draw_reading(painter, QRectF(view.rect()), at, read)
