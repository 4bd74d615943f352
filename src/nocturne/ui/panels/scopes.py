"""Histogram and waveform of the picture, above the sheet."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from nocturne.finish.meter import HISTOGRAM_HIGH, HISTOGRAM_LOW, Scopes
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.style import font

_CHANNELS = (QColor(226, 118, 118), QColor(128, 196, 140), QColor(124, 150, 232))


class ScopesPanel(QWidget):
    """The exposed light by stops from grey, the shown colours, and brightness across the picture."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setFixedHeight(186)
        self.setAccessibleName("Histogram and waveform")
        self.setToolTip(
            "Above: how much of the picture has which brightness, in stops from middle grey, before the grade. "
            "Below: brightness of what is shown, from left to right across the picture."
        )
        self.scopes: Scopes | None = None
        self._wave: QImage | None = None

    def show_scopes(self, scopes: Scopes | None) -> None:
        """Show the newest scopes; None leaves the old ones."""
        if scopes is None:
            return
        self.scopes = scopes
        share = np.sqrt(scopes.waveform / max(scopes.waveform.max(), 1))
        grey = np.clip(31 + 215 * np.minimum(share * 2.2, 1), 0, 255).astype(np.uint8)
        rgb = np.ascontiguousarray(np.repeat(grey[..., None], 3, axis=2))
        self._wave = QImage(rgb.data, 192, 96, 576, QImage.Format.Format_RGB888).copy()
        self.update()

    def paintEvent(self, event) -> None:
        """Draw both."""
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.fillRect(self.rect(), QColor(t.PANEL))
            room = QRectF(self.rect()).adjusted(14, 8, -14, -8)
            top = QRectF(room.left(), room.top(), room.width(), 72)
            low = QRectF(room.left(), top.bottom() + 20, room.width(), 70)
            for box in (top, low):
                painter.fillRect(box, QColor(t.GROUND))
            if self.scopes is None:
                return
            self._draw_histogram(painter, top)
            if self._wave is not None:
                painter.drawImage(low, self._wave)
            painter.setPen(QPen(QColor(t.LINE), 1))
            for k in (0.25, 0.5, 0.75):
                y = low.bottom() - k * low.height()
                painter.drawLine(QPointF(low.left(), y), QPointF(low.right(), y))

    def _draw_histogram(self, painter: QPainter, box: QRectF) -> None:
        counts = self.scopes.stops / max(self.scopes.stops.max(), 1)
        n = len(counts)
        shape = [box.bottomLeft()]
        shape += [
            QPointF(box.left() + (i + 0.5) / n * box.width(), box.bottom() - np.sqrt(v) * box.height() * 0.94)
            for i, v in enumerate(counts)
        ]
        shape.append(box.bottomRight())
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor("#6a6a6a"))
        painter.drawPolygon(QPolygonF(shape))
        # The shown colours as lines over it, each over the whole width from black to white.
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for counts, colour in zip(self.scopes.channels, _CHANNELS):
            share = np.sqrt(counts / max(self.scopes.channels[:, 1:-1].max(), 1))
            line = [
                QPointF(box.left() + (i + 0.5) / 64 * box.width(), box.bottom() - min(v, 1) * box.height() * 0.94)
                for i, v in enumerate(share)
            ]
            painter.setPen(QPen(colour, 1))
            painter.drawPolyline(QPolygonF(line))
        painter.setFont(font(9))
        reach = HISTOGRAM_HIGH - HISTOGRAM_LOW
        for stop in range(-8, 7, 2):
            x = box.left() + (stop - HISTOGRAM_LOW) / reach * box.width()
            painter.setPen(QPen(QColor(t.LINE), 1))
            painter.drawLine(QPointF(x, box.bottom() - 4), QPointF(x, box.bottom()))
            painter.setPen(QColor(t.INK_SOFT))
            word = "grey" if stop == 0 else f"{stop:+d}"
            painter.drawText(QRectF(x - 16, box.bottom() + 2, 32, 13), Qt.AlignmentFlag.AlignCenter, word)
        words = []
        if self.scopes.clipped > 0.0005:
            words.append(f"{self.scopes.clipped * 100:.1f} % clipped")
        if self.scopes.black > 0.0005:
            words.append(f"{self.scopes.black * 100:.1f} % black")
        if words:
            painter.setPen(QColor(t.CARE if self.scopes.clipped > 0.0005 else t.INK_SOFT))
            painter.drawText(box.adjusted(4, 2, -6, 0), Qt.AlignmentFlag.AlignRight, "   ".join(words))
