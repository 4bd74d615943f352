"""The window's icon: a lamp's light under a night sky, drawn at the sizes that desktops ask for."""

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPainterPath, QPixmap, QRadialGradient

from nocturne.ui.theme import tokens as t

_SIZES = (16, 24, 32, 48, 64, 128, 256)


def window_icon() -> QIcon:
    """Return the application's icon."""
    icon = QIcon()
    for side in _SIZES:
        icon.addPixmap(_drawn(side))
    return icon


def _drawn(side: int) -> QPixmap:
    pixmap = QPixmap(side, side)
    pixmap.fill(Qt.GlobalColor.transparent)
    with QPainter(pixmap) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.scale(side, side)
        night = QPainterPath()
        night.addRoundedRect(QRectF(0.03, 0.03, 0.94, 0.94), 0.2, 0.2)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(t.GROUND))
        painter.drawPath(night)
        painter.setClipPath(night)
        # A cone of light from a lamp at the top onto a floor.
        lamp, half = QPointF(0.5, 0.22), math.tan(math.radians(27))
        glow = QRadialGradient(lamp, 0.75)
        glow.setColorAt(0, QColor(t.LAMP))
        faint = QColor(t.LAMP)
        faint.setAlpha(30)
        glow.setColorAt(1, faint)
        cone = QPainterPath(lamp)
        cone.lineTo(0.5 - half * 0.58, 0.8)
        cone.lineTo(0.5 + half * 0.58, 0.8)
        painter.setBrush(glow)
        painter.drawPath(cone)
        painter.setBrush(QColor(t.LAMP).darker(140))
        painter.drawEllipse(QPointF(0.5, 0.8), half * 0.58, 0.09)
        painter.setBrush(QColor(t.LAMP))
        painter.drawEllipse(lamp, 0.1, 0.1)
    return pixmap
