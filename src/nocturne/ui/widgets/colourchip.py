"""The colour chip: a colour, and a small chooser in place."""

import colorsys
import itertools

import numpy as np
from PySide6.QtCore import QPointF, QRect, Qt, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPen
from PySide6.QtWidgets import (
    QAbstractButton,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QToolTip,
    QVBoxLayout,
    QWidget,
)

from nocturne.colour.blackbody import blackbody
from nocturne.colour.named import from_working, to_working
from nocturne.colour.spaces import from_srgb, is_displayable, luminance, to_srgb
from nocturne.ui.theme import tokens as t
from nocturne.ui.widgets import screenpick
from nocturne.ui.widgets.choice import Choice
from nocturne.ui.widgets.entry import Entry
from nocturne.ui.widgets.layer import Layer
from nocturne.ui.widgets.numberfield import NumberField, VectorField

# What numbers can be given in, by OpenColorIO's names.
SPACES = (
    ("sRGB Encoded Rec.709 (sRGB)", "sRGB, as on screens"),
    ("Linear Rec.709 (sRGB)", "Linear Rec.709"),
    ("ACEScg", "ACEScg"),
    ("ACES2065-1", "ACES2065-1"),
    ("sRGB Encoded P3-D65", "P3, sRGB encoded"),
    ("Linear P3-D65", "Linear P3-D65"),
    ("Linear Rec.2020", "Linear Rec.2020"),
)
_drags = itertools.count(1)


def to_qcolor(rgb: tuple) -> QColor:
    """Return how a working-space colour looks on the screen, scaled down to fit if it is brighter than white."""
    rgb = np.asarray(rgb, float)
    top = max(1.0, float(rgb.max()))
    r, g, b = to_srgb(rgb / top)
    return QColor.fromRgbF(float(r), float(g), float(b))


class _HueField(QWidget):
    """Hue from left to right, saturation from below upwards, at the chooser's brightness."""

    moved = Signal(float, float, bool)
    _image: QImage | None = None

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(208, 104)
        self.hue, self.saturation = 0.0, 0.0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Hue and saturation")

    def paintEvent(self, event) -> None:
        """Draw the field and the mark."""
        if _HueField._image is None:
            h, s = np.meshgrid(np.linspace(0, 1, 104), np.linspace(1, 0, 52))
            rgb = np.array([[colorsys.hsv_to_rgb(a, b, 0.92) for a, b in zip(x, y)] for x, y in zip(h, s)])
            pixels = np.concatenate([rgb * 255, np.full((*h.shape, 1), 255)], axis=2).astype(np.uint8)
            _HueField._image = QImage(pixels.tobytes(), 104, 52, 416, QImage.Format.Format_RGBX8888).copy()
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(self.rect(), _HueField._image)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(QColor(t.GROUND), 3))
            at = QPointF(self.hue * self.width(), (1 - self.saturation) * self.height())
            painter.drawEllipse(at, 5, 5)
            painter.setPen(QPen(QColor(t.INK), 1.5))
            painter.drawEllipse(at, 5, 5)

    def _go(self, event, ended: bool) -> None:
        self.hue = min(max(event.position().x() / self.width(), 0.0), 0.9999)
        self.saturation = 1 - min(max(event.position().y() / self.height(), 0.0), 1.0)
        self.update()
        self.moved.emit(self.hue, self.saturation, ended)

    def mousePressEvent(self, event) -> None:
        """Take the colour under the pointer."""
        self._go(event, False)

    def mouseMoveEvent(self, event) -> None:
        """Take the colour under the pointer."""
        self._go(event, False)

    def mouseReleaseEvent(self, event) -> None:
        """Settle on the colour under the pointer."""
        self._go(event, True)


class ColourChooser(QFrame):
    """Hue and saturation, brightness, kelvin, hex, pick from the picture."""

    edited = Signal(object, object)
    committed = Signal(object, object)
    pick_wanted = Signal()
    refused = Signal(str)
    last_space = "sRGB Encoded Rec.709 (sRGB)"  # that numbers were given in

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setObjectName("card")
        self._rgb = (1.0, 1.0, 1.0)
        self._merge: object = None
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 12, 12, 12)
        column.setSpacing(6)
        self.field = _HueField()
        self.value = NumberField(
            "Brightness",
            low=0,
            high=1000,
            soft_high=1,
            default=1,
            label_width=72,
            help="Luminance of the colour; 1 is white.",
        )
        self.kelvin = NumberField(
            "Kelvin",
            unit="K",
            low=800,
            high=40000,
            soft_high=12000,
            default=6000,
            label_width=72,
            help="Colour of a glowing body at this temperature.",
        )
        self.hex = Entry()
        self.hex.setAccessibleName("Hex")
        self.hex.setToolTip("sRGB, such as #c08040")
        self.space = Choice()
        self.space.setAccessibleName("Colour space of the numbers")
        self.space.setToolTip("What the three numbers are in")
        for name, words in SPACES:
            self.space.addItem(words, name)
        self.numbers = VectorField("RGB", axes="rgb", help="Red, green and blue in the colour space below")
        self.numbers.edited.connect(lambda v, _: self._from_numbers(v, False))
        self.numbers.committed.connect(lambda v, _: self._from_numbers(v, True))
        self.space.activated.connect(self._take_space)
        self.gamut = QLabel("▲ Outside what this display shows")
        self.gamut.setObjectName("care")
        pick = QPushButton("Pick from the picture")
        self.anywhere = QPushButton("Pick from the screen")
        self.anywhere.setToolTip("From anywhere on the screen, other windows too")
        self.anywhere.clicked.connect(self._pick_anywhere)
        row = QHBoxLayout()
        name = QLabel("Hex")
        name.setObjectName("soft")
        name.setFixedWidth(72)
        row.addWidget(name)
        row.addWidget(self.hex)
        column.addWidget(self.field)
        column.addWidget(self.value)
        column.addWidget(self.kelvin)
        column.addLayout(row)
        column.addWidget(self.numbers)
        column.addWidget(self.space)
        column.addWidget(self.gamut)
        column.addWidget(pick)
        column.addWidget(self.anywhere)
        self.field.moved.connect(self._from_field)
        self.value.edited.connect(lambda v, _: self._from_value(v, False))
        self.value.committed.connect(lambda v, _: self._from_value(v, True))
        self.kelvin.edited.connect(lambda v, _: self._from_kelvin(v, False))
        self.kelvin.committed.connect(lambda v, _: self._from_kelvin(v, True))
        self.hex.editingFinished.connect(self._from_hex)
        pick.clicked.connect(self._pick)

    def show_colour(self, rgb: tuple) -> None:
        """Show a working-space colour without saying so."""
        self._rgb = tuple(float(v) for v in rgb)
        top = max(*self._rgb, 1e-9)
        h, s, _ = colorsys.rgb_to_hsv(*to_srgb(np.array(self._rgb) / top))
        self.field.hue, self.field.saturation = h, s
        self.field.update()
        self.value.show_value(float(luminance(self._rgb)))
        if not self.hex.hasFocus():
            self.hex.setText(to_qcolor(self._rgb).name())
        self._show_numbers()
        self.gamut.setVisible(not is_displayable(self._rgb))

    def _show_numbers(self) -> None:
        self.space.setCurrentIndex(max(self.space.findData(ColourChooser.last_space), 0))
        shown = from_working(np.array(self._rgb), ColourChooser.last_space)
        self.numbers.show_value(tuple(round(float(v), 5) for v in shown))

    def _take_space(self, i: int) -> None:
        """Show the numbers in another colour space; the colour stays, and the choice is kept for the next."""
        ColourChooser.last_space = self.space.itemData(i)
        self._show_numbers()

    def _from_numbers(self, numbers: tuple, ended: bool) -> None:
        rgb = np.maximum(to_working(np.array(numbers), ColourChooser.last_space), 0)
        self._say(rgb, ended, keeps_numbers=not ended)

    def _pick_anywhere(self) -> None:
        self.hide()
        if not screenpick.pick(self._from_screen):
            self.refused.emit("This desktop does not let programs see the screen. Pick from the picture instead.")

    def _from_screen(self, colour: QColor) -> None:
        self._say(from_srgb(colour.redF(), colour.greenF(), colour.blueF()), True)

    def _say(self, rgb, ended: bool, *, keeps_numbers: bool = False) -> None:
        if self._merge is None:
            self._merge = ("colour", next(_drags))
        merge = self._merge
        if ended:
            self._merge = None
        rgb = tuple(round(float(v), 6) for v in rgb)
        self._rgb = rgb
        self.value.show_value(float(luminance(rgb)))
        self.gamut.setVisible(not is_displayable(rgb))
        self.hex.setText(to_qcolor(rgb).name())
        if not keeps_numbers:
            self._show_numbers()
        (self.committed if ended else self.edited).emit(rgb, merge)

    def _at_brightness(self, rgb: np.ndarray, brightness: float) -> np.ndarray:
        y = float(luminance(rgb))
        return np.asarray(rgb) * (brightness / y) if y > 0 else np.full(3, brightness)

    def _from_field(self, hue: float, saturation: float, ended: bool) -> None:
        rgb = from_srgb(*colorsys.hsv_to_rgb(hue, saturation, 1.0))
        self._say(self._at_brightness(rgb, max(float(luminance(self._rgb)), 1e-4)), ended)

    def _from_value(self, value: float, ended: bool) -> None:
        self._say(self._at_brightness(self._rgb, value), ended)

    def _from_kelvin(self, kelvin: float, ended: bool) -> None:
        self._say(self._at_brightness(blackbody(kelvin), max(float(luminance(self._rgb)), 1e-4)), ended)

    def _from_hex(self) -> None:
        colour = QColor(self.hex.text() if self.hex.text().startswith("#") else f"#{self.hex.text()}")
        if colour.isValid() and self.hex.isModified():
            self.hex.setModified(False)
            rgb = from_srgb(colour.redF(), colour.greenF(), colour.blueF())
            self.show_colour(rgb)
            self._say(rgb, True)

    def _pick(self) -> None:
        self.hide()
        self.pick_wanted.emit()


class ColourChip(QAbstractButton):
    """A chip of colour; a click opens the chooser under it. Colours are working-space tuples."""

    edited = Signal(object, object)
    committed = Signal(object, object)
    pick_wanted = Signal(object)  # this chip, which will `take` the colour

    def __init__(self, name: str, *, help: str = "", small: bool = False) -> None:
        super().__init__()
        self.rgb = (1.0, 1.0, 1.0)
        self.setAccessibleName(name)
        self.setToolTip(help or name)
        self.setFixedSize(*(18, 18) if small else (64, 20))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.chooser: ColourChooser | None = None
        self._layer = Layer()
        self.clicked.connect(self.open)

    @property
    def value(self) -> tuple[float, float, float]:
        """Return the colour."""
        return self.rgb

    def show_value(self, rgb: tuple) -> None:
        """Show a colour without saying so."""
        if tuple(rgb) != self.rgb:
            self.rgb = tuple(rgb)
            self.update()
        if self.chooser is not None and self.chooser.isVisible() and self.chooser._merge is None:
            self.chooser.show_colour(self.rgb)

    def open(self) -> None:
        """Open the chooser."""
        if self.chooser is None:
            self.chooser = ColourChooser(self)
            self.chooser.edited.connect(self._changed)
            self.chooser.committed.connect(self._settled)
            self.chooser.pick_wanted.connect(lambda: self.pick_wanted.emit(self))
            self.chooser.refused.connect(self._say_refused)
        self.chooser.show_colour(self.rgb)
        self.chooser.adjustSize()
        at = self.mapToGlobal(self.rect().bottomLeft())
        room = self.screen().availableGeometry()
        at.setX(min(at.x(), room.right() - self.chooser.width()))
        if at.y() + self.chooser.height() > room.bottom():
            at.setY(self.mapToGlobal(self.rect().topLeft()).y() - self.chooser.height())
        self.chooser.move(at)
        self.chooser.show()

    def _say_refused(self, words: str) -> None:
        QToolTip.showText(self.mapToGlobal(self.rect().bottomLeft()), words, self)

    def take(self, rgb: tuple) -> None:
        """Take a colour, as if chosen."""
        self._settled(tuple(float(v) for v in rgb), None)

    def _changed(self, rgb: tuple, merge: object) -> None:
        self.rgb = rgb
        self.update()
        self.edited.emit(rgb, merge)

    def _settled(self, rgb: tuple, merge: object) -> None:
        self.rgb = rgb
        self.update()
        self.committed.emit(rgb, merge)

    def paintEvent(self, event) -> None:
        """Draw the chip."""
        self._layer.draw_on(self, (self.rgb, self.hasFocus()), self._draw)

    def _draw(self, painter: QPainter) -> None:
        """Draw the colour, a corner where the display cannot show it, the focus."""
        painter.setPen(QPen(QColor(t.MOON if self.hasFocus() else t.LINE), 1))
        painter.setBrush(to_qcolor(self.rgb))
        painter.drawRoundedRect(QRect(0, 0, self.width() - 1, self.height() - 1), 4, 4)
        if not is_displayable(self.rgb):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(t.CARE))
            w = self.width()
            painter.drawPolygon([QPointF(w - 9, 1), QPointF(w - 1, 1), QPointF(w - 1, 9)])
