"""The ramp editor: stops of colours along a bar."""

import itertools

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPen
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from nocturne.colour.spaces import encode_srgb, working_to_rec709
from nocturne.ui.theme import tokens as t
from nocturne.ui.widgets.colourchip import ColourChip
from nocturne.ui.widgets.numberfield import NumberField

Stop = tuple[float, float, float, float]
_drags = itertools.count(1)
_INSET, _GRAB, _MOST = 8.0, 9.0, 16
_KEYS = (Qt.Key.Key_Delete, Qt.Key.Key_Backspace, Qt.Key.Key_Left, Qt.Key.Key_Right)


class _Bar(QWidget):
    """The bar with its stops; moves are said in places 0..1."""

    def __init__(self, editor: "RampEditor") -> None:
        super().__init__()
        self.editor = editor
        self.setMinimumSize(140, 40)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.held: tuple[int, object] | None = None

    def room(self) -> QRectF:
        """Return where the colours are drawn."""
        return QRectF(self.rect()).adjusted(_INSET, 2, -_INSET, -14)

    def x_of(self, place: float) -> float:
        """Return where a place lies."""
        return self.room().left() + place * self.room().width()

    def place_of(self, x: float) -> float:
        """Return the place at x, 0..1."""
        return float(np.clip((x - self.room().left()) / self.room().width(), 0, 1))

    def near(self, x: float) -> int | None:
        """Return the stop near x, None if there is none."""
        ways = [abs(self.x_of(stop[0]) - x) for stop in self.editor.stops]
        nearest = int(np.argmin(ways))
        return nearest if ways[nearest] < _GRAB else None

    def paintEvent(self, event) -> None:
        """Draw the colours and the stops."""
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            room, stops = self.room(), np.asarray(self.editor.stops)
            at = np.linspace(0, 1, 128)
            colours = np.stack([np.interp(at, stops[:, 0], stops[:, k]) for k in (1, 2, 3)], axis=-1)
            shown = encode_srgb(np.clip(colours @ working_to_rec709().T, 0, 1))
            pixels = np.full((1, 128, 4), 255, np.uint8)
            pixels[0, :, :3] = np.rint(shown * 255)
            painter.drawImage(room, QImage(pixels.data, 128, 1, 512, QImage.Format.Format_RGBX8888).copy())
            painter.setPen(QPen(QColor(t.LINE), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(room)
            for k, stop in enumerate(self.editor.stops):
                x = self.x_of(stop[0])
                is_chosen = k == self.editor.chosen
                painter.setPen(QPen(QColor(t.MOON if is_chosen and self.hasFocus() else t.INK), 1.4))
                painter.drawLine(QPointF(x, room.bottom() - 6), QPointF(x, room.bottom() + 4))
                painter.setBrush(QColor(t.INK) if is_chosen else QColor(t.PANEL))
                painter.drawEllipse(QPointF(x, room.bottom() + 7), 4, 4)

    def mousePressEvent(self, event) -> None:
        """Take hold of a stop, or add one."""
        if event.button() != Qt.MouseButton.LeftButton:
            return
        k = self.near(event.position().x())
        merge = ("ramp", next(_drags))
        if k is None:
            k = self.editor.add(self.place_of(event.position().x()), merge)
            if k is None:
                return
        self.held = (k, merge)
        self.editor.choose(k)

    def mouseMoveEvent(self, event) -> None:
        """Move the stop that is held."""
        if self.held is not None:
            k, merge = self.held
            self.held = (self.editor.move(k, self.place_of(event.position().x()), merge), merge)
        near = self.near(event.position().x()) is not None
        self.setCursor(Qt.CursorShape.SizeHorCursor if near else Qt.CursorShape.CrossCursor)

    def mouseReleaseEvent(self, event) -> None:
        """Let go."""
        if self.held is not None:
            _, merge = self.held
            self.held = None
            self.editor.committed.emit(self.editor.stops, merge)

    def mouseDoubleClickEvent(self, event) -> None:
        """Take a stop away."""
        self.held = None
        k = self.near(event.position().x())
        if k is not None:
            self.editor.remove(k)

    def event(self, event) -> bool:
        """Keep the keys that edit stops from being commands of the window."""
        if event.type() == QEvent.Type.ShortcutOverride and event.key() in _KEYS:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event) -> None:
        """Choose the next stop, or take the chosen one away."""
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            way = 1 if event.key() == Qt.Key.Key_Right else -1
            self.editor.choose((self.editor.chosen + way) % len(self.editor.stops))
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.editor.remove(self.editor.chosen)
        else:
            super().keyPressEvent(event)


class RampEditor(QWidget):
    """Stops of colours: `edited` while something is dragged, `committed` at the end; both carry the stops and the drag.

    Click the bar to add a stop, drag it, double-click or Delete takes it away; below it the chosen one's colour and
    place.
    """

    edited = Signal(object, object)
    committed = Signal(object, object)

    def __init__(self, name: str, *, help: str = "") -> None:
        super().__init__()
        self.stops: tuple[Stop, ...] = ((0.0, 0.0, 0.0, 0.0), (1.0, 1.0, 1.0, 1.0))
        self.chosen = 0
        self.bar = _Bar(self)
        self.bar.setAccessibleName(name)
        self.bar.setToolTip(f"{help} Click to add a stop, drag it, double-click to take it away.".strip())
        self.chip = ColourChip("Colour of the stop", small=True)
        self.chip.edited.connect(lambda v, m: self._recolour(v, m, False))
        self.chip.committed.connect(lambda v, m: self._recolour(v, m, True))
        self.place = NumberField("At", low=0, high=1, default=0, label_width=20)
        self.place.edited.connect(lambda v, m: self.move(self.chosen, v, m))
        self.place.committed.connect(lambda v, m: self.committed.emit(self._with_place(self.chosen, v)[0], m))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(self.bar)
        row = QHBoxLayout()
        row.addWidget(self.chip)
        row.addWidget(self.place, 1)
        column.addLayout(row)

    @property
    def value(self) -> tuple[Stop, ...]:
        """Return the stops."""
        return self.stops

    def show_value(self, stops: tuple[Stop, ...]) -> None:
        """Show stops without saying so."""
        if self.bar.held is None:
            self.stops = tuple(tuple(stop) for stop in stops)
            self.choose(min(self.chosen, len(self.stops) - 1))

    def choose(self, k: int) -> None:
        """Show a stop's colour and place below the bar."""
        self.chosen = k
        self.chip.show_value(self.stops[k][1:])
        self.place.show_value(self.stops[k][0])
        self.bar.update()

    def _with_place(self, k: int, place: float) -> tuple[tuple[Stop, ...], int]:
        moved = (round(place, 4), *self.stops[k][1:])
        others = [*self.stops[:k], *self.stops[k + 1 :]]
        at = sum(stop[0] <= moved[0] for stop in others)
        return (*others[:at], moved, *others[at:]), at

    def move(self, k: int, place: float, merge: object) -> int:
        """Move a stop, and return its number then."""
        self.stops, k = self._with_place(k, place)
        self.choose(k)
        self.edited.emit(self.stops, merge)
        return k

    def add(self, place: float, merge: object) -> int | None:
        """Add a stop of the colour that is there, and return its number; None if there are too many."""
        if len(self.stops) >= _MOST:
            return None
        stops = np.asarray(self.stops)
        colour = tuple(float(np.interp(place, stops[:, 0], stops[:, k])) for k in (1, 2, 3))
        at = sum(stop[0] <= place for stop in self.stops)
        self.stops = (*self.stops[:at], (round(place, 4), *colour), *self.stops[at:])
        self.edited.emit(self.stops, merge)
        return at

    def remove(self, k: int) -> None:
        """Take a stop away; the last one stays."""
        if len(self.stops) > 1:
            self.stops = (*self.stops[:k], *self.stops[k + 1 :])
            self.choose(max(k - 1, 0))
            self.committed.emit(self.stops, None)

    def _recolour(self, colour: tuple, merge: object, ended: bool) -> None:
        held = tuple(min(max(v, 0.0), 1.0) for v in colour)
        k = self.chosen
        self.stops = (*self.stops[:k], (self.stops[k][0], *held), *self.stops[k + 1 :])
        self.bar.update()
        (self.committed if ended else self.edited).emit(self.stops, merge)
