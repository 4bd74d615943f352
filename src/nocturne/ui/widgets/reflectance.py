"""What a metal reflects, drawn over the angle that it is seen at and over the wavelength."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from nocturne.colour.metals import fresnel
from nocturne.colour.spectrum import WAVELENGTHS_NM
from nocturne.scene import metals
from nocturne.scene.materials import Material
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.style import font

_ANGLES = np.linspace(0, 90, 46)
_CHANNELS = (QColor("#e88a8a"), QColor("#8cc8a2"), QColor("#8aa8e8"))
_SEEN_NM = (380.0, 740.0)
_FOOT = 14


class Reflectance(QWidget):
    """Two small graphs of a material's metal: by angle for red, green and blue, by wavelength face on."""

    def __init__(self) -> None:
        super().__init__()
        self.material: Material | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Reflectance of the metal")
        self.setToolTip("Reflectance from 0 to 100 %: by the angle to the normal, and by wavelength where it is known")

    def sizeHint(self) -> QSize:
        """Return the size it wants."""
        return QSize(240, 92)

    def show_material(self, material: Material) -> None:
        """Draw a material's metal."""
        self.material = material
        angles = metals.reflected(material, np.cos(np.radians(_ANGLES[[0, 30, 41]])))
        told = "; ".join(
            f"{label} {', '.join(f'{100 * v:.0f}' for v in rgb)} %"
            for label, rgb in zip(("face on", "at 60°", "at 82°"), angles)
        )
        self.setAccessibleDescription(told)
        self.update()

    def paintEvent(self, event) -> None:
        """Draw both graphs, or one over the whole width."""
        if self.material is None:
            return
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setFont(font(t.LABEL_PX))
            spectrum = metals.spectrum(self.material)
            height = self.height() - _FOOT
            half = self.width() / 2 - 6 if spectrum else self.width()
            left = QRectF(0, 0, half, height)
            rgb = metals.reflected(self.material, np.cos(np.radians(_ANGLES)))
            self._frame(painter, left, ("0°", "angle", "90°"))
            for k, colour in enumerate(_CHANNELS):
                self._line(painter, left, _ANGLES / 90, rgb[:, k], colour)
            if spectrum:
                right = QRectF(self.width() - half, 0, half, height)
                low, high = _SEEN_NM
                seen = WAVELENGTHS_NM[(WAVELENGTHS_NM >= low) & (WAVELENGTHS_NM <= high)][::4]
                wave, n, k = spectrum
                values = fresnel(1.0, np.interp(seen, wave, n), np.interp(seen, wave, k))
                self._frame(painter, right, (f"{low:.0f}", "nm", f"{high:.0f}"))
                self._line(painter, right, (seen - low) / (high - low), values, QColor(t.INK))

    def _frame(self, painter: QPainter, box: QRectF, words: tuple[str, str, str]) -> None:
        painter.fillRect(box, QColor(t.RAISED))
        painter.setPen(QPen(QColor(t.LINE), 1))
        middle = box.top() + box.height() / 2
        painter.drawLine(QPointF(box.left(), middle), QPointF(box.right(), middle))
        painter.setPen(QColor(t.INK_SOFT))
        below = QRectF(box.left(), box.bottom(), box.width(), _FOOT)
        flags = (Qt.AlignmentFlag.AlignLeft, Qt.AlignmentFlag.AlignHCenter, Qt.AlignmentFlag.AlignRight)
        for word, flag in zip(words, flags):
            painter.drawText(below, flag | Qt.AlignmentFlag.AlignBottom, word)

    def _line(self, painter: QPainter, box: QRectF, x: np.ndarray, y: np.ndarray, colour: QColor) -> None:
        points = [
            QPointF(box.left() + a * box.width(), box.bottom() - 1 - min(max(b, 0.0), 1.0) * (box.height() - 2))
            for a, b in zip(x.tolist(), y.tolist())
        ]
        painter.setPen(QPen(colour, 1.5))
        painter.drawPolyline(QPolygonF(points))
