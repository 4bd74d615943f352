"""Lines of the set that are drawn over the picture for a while: borders of chosen faces, measured lengths."""

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from nocturne.scene.camera import View
from nocturne.scene.projection import project
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.style import font
from nocturne.ui.view.overlay import draw_lines


@dataclass(frozen=True, eq=False)
class Drawn:
    """A polyline (n, 3) of the set, and words beside its middle."""

    line: np.ndarray
    words: str = ""


def draw_drawn(painter: QPainter, rect: QRectF, view: View, drawn: tuple[Drawn, ...]) -> None:
    """Draw lines, dots where a line is a point, and words on a dark ground."""
    lines = [d.line for d in drawn if not np.array_equal(d.line[0], d.line[-1])]
    if lines:
        draw_lines(painter, rect, view, lines, t.MOON, 1.8)
    for d in drawn:
        (u, v), ahead = project(view, d.line.mean(0))
        if ahead <= 0:
            continue
        x, y = rect.left() + u * rect.width(), rect.top() + v * rect.height()
        if np.array_equal(d.line[0], d.line[-1]):
            painter.setPen(QPen(QColor(0, 0, 0, 170), 1))
            painter.setBrush(QColor(t.MOON))
            painter.drawEllipse(QRectF(x - 4, y - 4, 8, 8))
        if d.words:
            painter.setFont(font(13, weight=600))
            width = painter.fontMetrics().horizontalAdvance(d.words) + 16
            box = QRectF(x - width / 2, y - 30, width, 22)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(31, 31, 31, 225))
            painter.drawRoundedRect(box, 4, 4)
            painter.setPen(QColor(t.INK))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, d.words)
