"""What is drawn by many strokes but seldom changes: drawn once, then laid on at every painting."""

from collections.abc import Callable

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QWidget


class Layer:
    """A transparent image of a part of a widget, kept until something that it shows changes."""

    def __init__(self) -> None:
        self._key: object = None
        self._image = QImage()

    def draw_on(self, widget: QWidget, key: object, paint: Callable[[QPainter], None]) -> None:
        """Draw what `paint` draws over the whole of a widget that is being painted."""
        with QPainter(widget) as painter:
            self.draw(painter, QRectF(widget.rect()), key, paint)

    def draw(self, painter: QPainter, area: QRectF, key: object, paint: Callable[[QPainter], None]) -> None:
        """Draw what `paint` draws within an area of the widget; it is asked again only if the key changes."""
        ratio = painter.device().devicePixelRatioF()
        room = area.toAlignedRect()
        if room.isEmpty():
            return
        key = (room, ratio, key)
        if self._key != key:
            self._key = key
            self._image = QImage(room.size() * ratio, QImage.Format.Format_ARGB32_Premultiplied)
            self._image.setDevicePixelRatio(ratio)
            self._image.fill(Qt.GlobalColor.transparent)
            with QPainter(self._image) as inner:
                inner.setRenderHint(QPainter.RenderHint.Antialiasing)
                inner.translate(-room.topLeft())
                inner.setClipRect(area)
                paint(inner)
        painter.drawImage(room.topLeft(), self._image)
