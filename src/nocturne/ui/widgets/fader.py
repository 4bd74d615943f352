"""The fader, marked in stops with 0 in its middle, and the strip of a light group."""

import itertools

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPen
from PySide6.QtWidgets import QAbstractButton, QFrame, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from nocturne.scene.desk import Strip
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.style import font
from nocturne.ui.widgets.colourchip import ColourChip
from nocturne.ui.widgets.entry import Entry
from nocturne.ui.widgets.layer import Layer
from nocturne.ui.widgets.numberfield import NumberField

_drags = itertools.count(1)
REACH = 6.0  # stops from the middle to either end


class Fader(QWidget):
    """An upright fader in stops. `edited` while it moves, `committed` at the end."""

    edited = Signal(float, object)
    committed = Signal(float, object)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(f"{name} fader")
        self.setToolTip("Each stop doubles or halves the light. Shift moves finely, double-click goes to 0.")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumHeight(64)
        self.setFixedWidth(30)
        self.stops, self.lit = 0.0, True
        self._drag: tuple[float, float, object] | None = None
        self._layer = Layer()

    def show_value(self, stops: float, lit: bool = True) -> None:
        """Show a value without saying so."""
        if (stops, lit) != (self.stops, self.lit):
            self.stops, self.lit = stops, lit
            self.update()

    def _track(self) -> tuple[float, float]:
        return 7.0, self.height() - 7.0

    def _y(self, stops: float) -> float:
        top, low = self._track()
        return (top + low) / 2 - max(min(stops, REACH), -REACH) / REACH * (low - top) / 2

    def paintEvent(self, event) -> None:
        """Draw the fader."""
        key = (self.stops, self.lit, self.hasFocus())
        self._layer.draw_on(self, key, self._draw)

    def _draw(self, painter: QPainter) -> None:
        """Draw scale, channel and cap."""
        top, low = self._track()
        x = 12.5
        painter.setPen(QPen(QColor(t.LINE), 2))
        painter.drawLine(QPointF(x, top), QPointF(x, low))
        colour = QColor(t.LAMP) if self.lit else QColor("#7d7d7d")
        painter.setPen(QPen(colour, 2))
        painter.drawLine(QPointF(x, low), QPointF(x, self._y(self.stops)))
        painter.setFont(font(9))
        for stop in range(-6, 7, 2):
            y = self._y(stop)
            painter.setPen(QPen(QColor(t.INK_SOFT if stop == 0 else t.LINE), 1))
            painter.drawLine(QPointF(x + 5, y), QPointF(x + (11 if stop == 0 else 8), y))
        painter.setPen(QColor(t.INK_SOFT))
        painter.drawText(QRectF(x + 12, self._y(0) - 7, 12, 14), Qt.AlignmentFlag.AlignVCenter, "0")
        y = self._y(self.stops)
        painter.setPen(QPen(QColor(t.MOON if self.hasFocus() else t.GROUND), 1))
        painter.setBrush(QColor(t.INK))
        painter.drawRoundedRect(QRectF(x - 8, y - 4.5, 16, 9), 3, 3)
        painter.setPen(QPen(QColor(t.GROUND), 1))
        painter.drawLine(QPointF(x - 6, y), QPointF(x + 6, y))

    def mousePressEvent(self, event) -> None:
        """Begin to move."""
        self._drag = (event.position().y(), self.stops, ("fader", next(_drags)))

    def mouseMoveEvent(self, event) -> None:
        """Follow the pointer."""
        if self._drag is None:
            return
        y, start, merge = self._drag
        fine = 0.1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
        top, low = self._track()
        stops = start + (y - event.position().y()) * 2 * REACH / (low - top) * fine
        self._go(max(min(stops, REACH), -REACH), merge, False)

    def mouseReleaseEvent(self, event) -> None:
        """End the move."""
        if self._drag is not None:
            _, start, merge = self._drag
            self._drag = None
            if self.stops != start:
                self.committed.emit(self.stops, merge)

    def mouseDoubleClickEvent(self, event) -> None:
        """Go to 0."""
        self._drag = None
        self._go(0.0, None, True)

    def keyPressEvent(self, event) -> None:
        """Move by a third of a stop, finer with Shift."""
        steps = {Qt.Key.Key_Up: 1, Qt.Key.Key_Down: -1, Qt.Key.Key_PageUp: 3, Qt.Key.Key_PageDown: -3}
        if event.key() == Qt.Key.Key_Home:
            self._go(0.0, None, True)
        elif event.key() in steps:
            size = 0.1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1 / 3
            self._go(max(min(self.stops + steps[event.key()] * size, REACH), -REACH), None, True)
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event) -> None:
        """Move by a sixth of a stop for each notch."""
        self._go(max(min(self.stops + event.angleDelta().y() / 720, REACH), -REACH), None, True)
        event.accept()

    def _go(self, stops: float, merge: object, ended: bool) -> None:
        if abs(stops) < 0.04 and merge is not None:
            stops = 0.0
        self.stops = stops
        self.update()
        (self.committed if ended else self.edited).emit(stops, merge)


class Toggle(QAbstractButton):
    """A small switch on a strip: a dot for power, a letter for solo."""

    def __init__(self, name: str, mark: str, colour: str, help: str) -> None:
        super().__init__()
        self.setCheckable(True)
        self.setAccessibleName(name)
        self.setToolTip(help)
        self.setFixedSize(18, 18)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._mark, self._colour = mark, colour
        self._layer = Layer()

    def paintEvent(self, event) -> None:
        """Draw the switch."""
        key = (self.isChecked(), self.hasFocus())
        self._layer.draw_on(self, key, self._draw)

    def _draw(self, painter: QPainter) -> None:
        """Draw the mark, filled when on."""
        on = self.isChecked()
        painter.setPen(QPen(QColor(t.MOON if self.hasFocus() else "#7d7d7d"), 1.2))
        painter.setBrush(QColor(self._colour) if on else QColor(t.PANEL))
        if self._mark:
            painter.drawRoundedRect(QRectF(1, 1, 16, 16), 4, 4)
            painter.setPen(QColor(t.GROUND if on else t.INK_SOFT))
            painter.setFont(font(10, weight=600))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self._mark)
        else:
            painter.drawEllipse(QRectF(3, 3, 12, 12))


class LightThumb(QWidget):
    """A small picture of a group's light alone, with the group's name on it; double-click renames the group."""

    renamed = Signal(str)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setFixedHeight(40)
        self.image: QImage | None = None
        self._name = name
        self._layer = Layer()
        self.entry = Entry(parent=self)
        self.entry.setAccessibleName("Name of the light group")
        self.entry.setStyleSheet("padding: 0 3px; min-height: 14px;")
        self.entry.hide()
        self.entry.editingFinished.connect(self._named)
        self.entry.given_up.connect(self.entry.hide)

    def show_image(self, image: QImage) -> None:
        """Show a picture."""
        self.image = image
        self.update()

    def rename(self) -> None:
        """Let the user type another name."""
        self.entry.setText(self._name)
        self.entry.setGeometry(0, self.height() - 18, self.width(), 18)
        self.entry.show()
        self.entry.setFocus()
        self.entry.selectAll()

    def _named(self) -> None:
        if self.entry.isVisible():
            self.entry.hide()
            name = self.entry.text().strip()
            if name and name != self._name:
                self.renamed.emit(name)

    def mouseDoubleClickEvent(self, event) -> None:
        """Rename."""
        self.rename()

    def paintEvent(self, event) -> None:
        """Draw picture and name."""
        self._layer.draw_on(self, self.image and self.image.cacheKey(), self._draw)

    def _draw(self, painter: QPainter) -> None:
        """Draw the picture, filling the room."""
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        shape = QPainterPath()
        shape.addRoundedRect(QRectF(self.rect()), 3, 3)
        painter.setClipPath(shape)
        painter.fillRect(self.rect(), QColor("#000000"))
        if self.image is not None:
            scale = max(self.width() / self.image.width(), self.height() / self.image.height())
            w, h = self.image.width() * scale, self.image.height() * scale
            painter.drawImage(QRectF((self.width() - w) / 2, (self.height() - h) / 2, w, h), self.image)
        band = QRectF(0, self.height() - 16, self.width(), 16)
        painter.fillRect(band, QColor(31, 31, 31, 205))
        painter.setFont(font(11))
        painter.setPen(QColor(t.INK))
        name = painter.fontMetrics().elidedText(self._name, Qt.TextElideMode.ElideRight, self.width() - 8)
        painter.drawText(band.adjusted(5, 0, -3, 0), Qt.AlignmentFlag.AlignVCenter, name)


class FaderStrip(QFrame):
    """One light group on the desk: picture, name, fader, stops, power, solo, tint."""

    changed = Signal(str, dict, object)  # group, values, merge
    renamed = Signal(str, str)  # group, new name

    def __init__(self, group: str) -> None:
        super().__init__()
        self.group = group
        self.setObjectName("strip")
        self.setFixedWidth(73)
        column = QVBoxLayout(self)
        column.setContentsMargins(5, 5, 5, 5)
        column.setSpacing(3)
        self.thumb = LightThumb(group)
        self.thumb.setToolTip(f"{group}: its light alone. Double-click renames the group.")
        self.thumb.renamed.connect(lambda name: self.renamed.emit(group, name))
        self.fader = Fader(group)
        self.stops = NumberField(
            "", unit="stop", low=-12, high=12, default=0, help="Stops from the light as it is.", label_width=1
        )
        self.stops.label.hide()
        self.stops.unit_label.hide()
        self.stops.entry.setFixedWidth(36)
        self.stops.entry.setStyleSheet("padding: 1px 3px;")
        self.stops.entry.setAccessibleName(f"{group} stops")
        self.power = Toggle(f"{group} power", "", t.LAMP, "Light of this group on or off")
        self.solo = Toggle(f"{group} solo", "S", t.MOON, "Solo: show only groups that are soloed")
        self.tint = ColourChip(f"{group} tint", help="Tint of this group's light", small=True)
        column.addWidget(self.thumb)
        row = QHBoxLayout()
        row.setSpacing(2)
        row.addWidget(self.fader)
        side = QVBoxLayout()
        side.setSpacing(4)
        side.addWidget(self.stops)
        keys = QGridLayout()
        keys.setSpacing(3)
        keys.setContentsMargins(0, 0, 0, 0)
        keys.addWidget(self.power, 0, 0)
        keys.addWidget(self.solo, 0, 1)
        keys.addWidget(self.tint, 1, 0)
        side.addLayout(keys)
        side.addStretch(1)
        row.addLayout(side)
        column.addLayout(row, 1)
        self.fader.edited.connect(lambda v, m: self.changed.emit(group, {"stops": round(v, 3)}, m))
        self.fader.committed.connect(lambda v, m: self.changed.emit(group, {"stops": round(v, 3)}, m))
        self.stops.committed.connect(lambda v, m: self.changed.emit(group, {"stops": v}, m))
        self.power.clicked.connect(lambda on: self.changed.emit(group, {"on": on}, None))
        self.solo.clicked.connect(lambda on: self.changed.emit(group, {"solo": on}, None))
        self.tint.edited.connect(lambda v, m: self.changed.emit(group, {"tint": v}, m))
        self.tint.committed.connect(lambda v, m: self.changed.emit(group, {"tint": v}, m))

    def show_strip(self, strip: Strip) -> None:
        """Show a strip's state without saying so."""
        self.fader.show_value(strip.stops, strip.on)
        self.stops.show_value(strip.stops)
        self.power.setChecked(strip.on)
        self.solo.setChecked(strip.solo)
        self.tint.show_value(strip.tint)
