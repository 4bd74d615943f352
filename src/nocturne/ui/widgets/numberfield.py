"""The number field: a value with its unit, dragged by its label, typed in any unit of its kind."""

import contextlib
import itertools
from collections.abc import Callable

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget

from nocturne.scene import quantities
from nocturne.ui.widgets.entry import Entry

_drags = itertools.count(1)
UNIT_SHOWN = {"x": "×", "f/": ""}


class DragLabel(QLabel):
    """A field's name; dragging across it changes the value, double-click goes back to the default."""

    dragged = Signal(float, bool)  # pixels since the press times fineness, whether it has ended
    reset = Signal()

    def __init__(self, text: str) -> None:
        super().__init__(text)
        self.setObjectName("soft")
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self._from: QPoint | None = None
        self._moved = 0.0
        self._last = 0.0
        self._is_dragged = False

    def mousePressEvent(self, event) -> None:
        """Begin a drag."""
        if event.button() == Qt.MouseButton.LeftButton:
            self._from, self._moved, self._last = event.position().toPoint(), 0.0, event.position().x()
            self._is_dragged = False

    def mouseMoveEvent(self, event) -> None:
        """Follow a drag: Shift fine, Ctrl coarse."""
        if self._from is None:
            return
        fine = {Qt.KeyboardModifier.ShiftModifier: 0.1, Qt.KeyboardModifier.ControlModifier: 10.0}
        factor = next((f for key, f in fine.items() if event.modifiers() & key), 1.0)
        x = event.position().x()
        self._moved += (x - self._last) * factor
        self._last = x
        # Once begun, it is followed also to where it began.
        self._is_dragged |= abs(self._moved) >= 1 or factor < 1
        if self._is_dragged:
            self.dragged.emit(self._moved, False)

    def mouseReleaseEvent(self, event) -> None:
        """End a drag."""
        if self._from is not None:
            self._from = None
            if self._is_dragged:
                self.dragged.emit(self._moved, True)

    def mouseDoubleClickEvent(self, event) -> None:
        """Ask for the default."""
        self.reset.emit()


class NumberField(QWidget):
    """One number with a unit. `edited` while it changes, `committed` once at the end; both carry value and drag."""

    edited = Signal(float, object)
    committed = Signal(float, object)
    last_length: "NumberField | None" = None  # the field for a length that was used last, in any window

    # For several things at once: a function of each one's value, typed as "+0.1" or "x2", or a step; and its drag.
    changed = Signal(object, object)
    given = Signal(str, float)  # one of the units in `also`, and the value that was typed in it

    def __init__(
        self,
        label: str,
        *,
        unit: str = "",
        low: float | None = None,
        high: float | None = None,
        soft_high: float | None = None,
        log: bool = False,
        default: float = 0.0,
        kind: str = "number",
        help: str = "",
        label_width: int = 104,
    ) -> None:
        super().__init__()
        self.unit, self.low, self.high, self.soft_high = unit, low, high, soft_high
        self.log, self.default, self.kind, self.help = log, default, kind, help
        self.also: tuple[str, ...] = ()
        self._value = float(default)
        self._from = 0.0
        self._merge: object = None
        self._shown: tuple | None = None  # value and unit that the entry shows
        self.is_for_several = self._differs = False
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        self.label = DragLabel(label)
        if label_width:
            self.label.setFixedWidth(label_width)
        self.entry = Entry()
        self.entry.setAccessibleName(label)
        self.entry.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.unit_label = QLabel(UNIT_SHOWN.get(unit, unit))
        self.unit_label.setObjectName("soft")
        self.unit_label.setFixedWidth(30)
        row.addWidget(self.label)
        row.addWidget(self.entry, 1)
        row.addWidget(self.unit_label)
        self.label.dragged.connect(self._drag)
        self.label.reset.connect(lambda: self._take(self.default))
        self.entry.editingFinished.connect(self._typed)
        # Enter ends the typing, so that the next single letter is a command again.
        self.entry.returnPressed.connect(lambda: self.entry.property("wrong") or self.entry.clearFocus())
        self.entry.given_up.connect(self._give_up)
        self.entry.installEventFilter(self)
        self.setFocusProxy(self.entry)
        self._describe("")
        self.show_value(self._value)

    @property
    def value(self) -> float:
        """Return the value in the field's unit."""
        return self._value

    def show_value(self, value: float) -> None:
        """Show a value without saying so."""
        if self.label._from is None:
            self._from = value
        self._differs = False
        if self._shown == (value, self.unit) and not self.entry.isModified():
            return
        self._value = value
        if not self.entry.hasFocus() or not self.entry.isModified():
            self._write(value)
            self._wrong(False)

    def show_differing(self, values: tuple[float, ...]) -> None:
        """Say that several things have different values here; the first is what dragging starts from."""
        self.show_value(values[0])
        self._differs = True
        if not (self.entry.hasFocus() and self.entry.isModified()):
            self._shown = None
            self.entry.clear()
            self.entry.setModified(False)
            self.entry.setPlaceholderText("differ")

    def _write(self, value: float) -> None:
        self._shown = (value, self.unit)
        self.entry.setText(self._text(value))
        self.entry.setModified(False)

    def set_unit(self, unit: str) -> None:
        """Show another unit."""
        self.unit = unit
        self.unit_label.setText(UNIT_SHOWN.get(unit, unit))

    def _text(self, value: float) -> str:
        text = quantities.shown(value, unit=self.unit, kind=self.kind)
        return f"f/{text}" if self.kind == "fnumber" else text

    def _clamped(self, value: float) -> float:
        if self.low is not None:
            value = max(value, self.low)
        if self.high is not None:
            value = min(value, self.high)
        return round(value) if self.kind == "whole" else value

    def _stepped(self, pixels: float) -> float:
        return self._step(pixels)(self._from)

    def _step(self, pixels: float) -> Callable[[float], float]:
        """Return what a drag of so many pixels does to a value."""
        if self.log and self._from > 0:
            return lambda value: value * 2.0 ** (pixels / 40)
        if self.soft_high is not None:
            reach = self.soft_high - (self.low or 0)
        elif self.low is not None and self.high is not None and self.high - self.low <= 1000:
            reach = self.high - self.low
        else:
            reach = {"°": 180.0, "m": 4.0, "mm": 100.0}.get(self.unit, max(abs(self._from), 1.0) * 4)
        return lambda value: value + pixels * reach / 300

    def _drag(self, pixels: float, ended: bool) -> None:
        if self._merge is None:
            self._merge = ("drag", next(_drags))
            self._from = self._value
        merge = self._merge
        if ended:
            self._merge = None
        if self._differs:
            self.changed.emit(self._step(pixels), merge)
            return
        value = self._clamped(self._stepped(pixels))
        self._value = value
        self._write(value)
        (self.committed if ended else self.edited).emit(value, merge)

    def _typed(self) -> None:
        if not self.entry.isModified():
            return
        multiplies = self.log or self.kind in ("power", "shutter")
        try:
            if self.is_for_several or self.entry.text().strip()[:1] in ("x", "×", "*", "/"):
                change = quantities.change_of(self.entry.text(), unit=self.unit, multiplies=multiplies)
                if change is not None:
                    self.entry.setModified(False)
                    self._wrong(False)
                    if self.is_for_several:
                        self.changed.emit(change, None)
                    else:
                        self._take(self._clamped(change(self._value)))
                    return
            value = quantities.parse(self.entry.text(), unit=self.unit, current=self._value, multiplies=multiplies)
        except ValueError as error:
            if not self._typed_in_another_unit():
                self._wrong(True)
                self._describe(str(error))
            return
        self.entry.setModified(False)
        self._wrong(False)
        self._take(self._clamped(value))

    def _give_up(self) -> None:
        self._wrong(False)
        self._value = self._from

    def _typed_in_another_unit(self) -> bool:
        for unit in self.also:
            with contextlib.suppress(ValueError):
                value = quantities.parse(self.entry.text(), unit=unit)
                self.entry.setModified(False)
                self._wrong(False)
                self.given.emit(unit, self._clamped(value))
                return True
        return False

    def _take(self, value: float) -> None:
        self._value = self._from = value
        self._write(value)
        self.committed.emit(value, None)

    def _wrong(self, wrong: bool) -> None:
        if bool(self.entry.property("wrong")) != wrong:
            self.entry.setProperty("wrong", wrong)
            self.entry.style().unpolish(self.entry)
            self.entry.style().polish(self.entry)
            if not wrong:
                self._describe("")

    def _describe(self, fault: str) -> None:
        limits = ""
        if self.low is not None and self.high is not None and self.high < 1e5:
            unit = UNIT_SHOWN.get(self.unit, self.unit)
            limits = f" {self._text(self.low)} to {self._text(self.high)}{' ' + unit if unit else ''}."
        text = fault or (self.help + limits).strip()
        for widget in (self.entry, self.label):
            widget.setToolTip(text)

    def take_length(self, metres: float) -> None:
        """Take a length as if it were typed."""
        self._take(self._clamped(metres * {"mm": 1e3, "nm": 1e9}.get(self.unit, 1.0)))

    def _note_length(self) -> None:
        if self.unit in ("m", "mm") and NumberField.last_length is not self:
            NumberField.last_length = self
            self.destroyed.connect(lambda: _forget(self))

    def eventFilter(self, watched, event) -> bool:
        """Step with the up and down keys, give up with Escape."""
        if event.type() == event.Type.FocusIn:
            self._note_length()
        if event.type() == event.Type.KeyPress:
            if event.key() == Qt.Key.Key_Escape and self.entry.isModified():
                self.entry.give_up()
                return True
            steps = {Qt.Key.Key_Up: 1, Qt.Key.Key_Down: -1}
            if event.key() in steps:
                if not self.entry.finish():
                    return True
                fine = 0.1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
                self._from = self._value
                size = 1 if self.kind == "whole" else 8 * fine
                step = steps[event.key()] * size
                if self._differs:
                    self.changed.emit((lambda v: v + step) if self.kind == "whole" else self._step(step), None)
                    return True
                value = self._value + step if self.kind == "whole" else self._stepped(step)
                self._take(self._clamped(value))
                return True
        return super().eventFilter(watched, event)


def _forget(field: NumberField) -> None:
    if NumberField.last_length is field:
        NumberField.last_length = None


class VectorField(QWidget):
    """Two or three numbers under one name: place, turn, size."""

    edited = Signal(object, object)
    committed = Signal(object, object)
    changed = Signal(object, object)  # as of a number field; which axis is `axis`

    def __init__(
        self, label: str, *, axes: str = "xyz", unit: str = "", default: tuple = (0, 0, 0), help: str = ""
    ) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        name = QLabel(label)
        name.setObjectName("soft")
        name.setFixedWidth(54)
        name.setToolTip(help)
        row.addWidget(name)
        self.fields: list[NumberField] = []
        self.axis = 0  # that was edited last
        for axis, start in zip(axes, default):
            field = NumberField(axis, unit=unit, default=start, help=help, label_width=8)
            field.entry.setAccessibleName(f"{label} {axis}")
            field.unit_label.hide()
            field.layout().setSpacing(2)
            k = len(self.fields)
            field.edited.connect(lambda _, merge, k=k: self._emit(self.edited, k, merge))
            field.committed.connect(lambda _, merge, k=k: self._emit(self.committed, k, merge))
            field.changed.connect(lambda change, merge, k=k: self._change(k, change, merge))
            self.fields.append(field)
            field.entry.setStyleSheet("padding: 2px 1px;")
            row.addWidget(field, 1)

    @property
    def value(self) -> tuple[float, ...]:
        """Return the numbers."""
        return tuple(field.value for field in self.fields)

    def _emit(self, signal, axis: int, merge: object) -> None:
        self.axis = axis
        signal.emit(self.value, merge)

    def _change(self, axis: int, change, merge: object) -> None:
        self.axis = axis
        self.changed.emit(change, merge)

    def show_differing(self, values: tuple[tuple, ...]) -> None:
        """Show the numbers that are the same for several things, and which differ."""
        for field, numbers in zip(self.fields, zip(*values)):
            if len(set(numbers)) > 1:
                field.show_differing(numbers)
            else:
                field.show_value(numbers[0])

    def set_for_several(self, on: bool) -> None:
        """Take "+0.1" as a change of each, or as a value."""
        for field in self.fields:
            field.is_for_several = on

    def show_value(self, value: tuple) -> None:
        """Show numbers without saying so."""
        for field, number in zip(self.fields, value):
            field.show_value(number)
