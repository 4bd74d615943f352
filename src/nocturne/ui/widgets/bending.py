"""How light bends at a wall between two media, drawn."""

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from nocturne.scene.mediaorder import bent
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.style import font

_ANGLES_DEG = (25.0, 50.0, 70.0)


class Bending(QWidget):
    """Three rays that come down onto a level wall, and where they go below it; what is reflected whole is drawn so."""

    def __init__(self) -> None:
        super().__init__()
        self.names, self.ratio = ("", ""), 1.0
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("How light bends at this wall")

    def sizeHint(self) -> QSize:
        """Return the size it wants."""
        return QSize(240, 108)

    def show_wall(self, above: str, below: str, ratio: float) -> None:
        """Draw light that goes from one medium into another; ratio: the second's index over the first's."""
        self.names, self.ratio = (above, below), ratio
        self.setAccessibleDescription(told(ratio))
        self.update()

    def paintEvent(self, event) -> None:
        """Draw the wall, its normal and the rays."""
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setFont(font(t.LABEL_PX))
            middle, half = QPointF(self.width() / 2, self.height() / 2), self.height() / 2 - 4
            painter.fillRect(QRectF(0, middle.y(), self.width(), half + 4), QColor(t.RAISED))
            painter.setPen(QPen(QColor(t.LINE), 1, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(middle.x(), 2), QPointF(middle.x(), self.height() - 2))
            for degrees in _ANGLES_DEG:
                angle = math.radians(degrees)
                painter.setPen(QPen(QColor(t.INK), 1.4))
                painter.drawLine(_at(middle, half, -math.sin(angle), -math.cos(angle)), middle)
                onward = bent(angle, self.ratio)
                if onward is None:
                    painter.setPen(QPen(QColor(t.CARE), 1.4))
                    painter.drawLine(middle, _at(middle, half, math.sin(angle), -math.cos(angle)))
                else:
                    painter.drawLine(middle, _at(middle, half, math.sin(onward), math.cos(onward)))
            painter.setPen(QColor(t.INK_SOFT))
            room = QRectF(6, 2, self.width() - 12, self.height() - 4)
            painter.drawText(room, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop, self.names[0])
            painter.drawText(room, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignBottom, self.names[1])


def _at(middle: QPointF, length: float, x: float, y: float) -> QPointF:
    # As long as reaches the edge above or below, so that all end on a line.
    scale = length / max(abs(y), 0.25)
    return QPointF(middle.x() + x * scale, middle.y() + y * scale)


def told(ratio: float) -> str:
    """Return in words what a wall of an index ratio does."""
    if abs(ratio - 1) < 1e-4:
        return "Not seen: both bend light alike."
    reflected = 100 * ((ratio - 1) / (ratio + 1)) ** 2
    face_on = f"{reflected:.2g} % is reflected face on"
    if ratio > 1:
        return f"Light turns towards the normal; {face_on}."
    return f"Light turns away from the normal; {face_on}, all beyond {math.degrees(math.asin(ratio)):.0f}°."
