"""A sheet's form: one editor for each described field of a model."""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from nocturne.colour.metals import metals
from nocturne.scene.fields import Description, Model, descriptions
from nocturne.ui.widgets.choice import Choice
from nocturne.ui.widgets.colourchip import ColourChip
from nocturne.ui.widgets.curve import CurveEditor, ShareCurveEditor
from nocturne.ui.widgets.entry import Entry
from nocturne.ui.widgets.face import FaceChoice
from nocturne.ui.widgets.fold import Fold
from nocturne.ui.widgets.lines import LinesEditor
from nocturne.ui.widgets.numberfield import NumberField, VectorField
from nocturne.ui.widgets.openings import OpeningsEditor
from nocturne.ui.widgets.profile import ProfileEditor
from nocturne.ui.widgets.ramp import RampEditor
from nocturne.ui.widgets.words import section

_DRAWN = {
    "curve": CurveEditor,
    "share curve": ShareCurveEditor,
    "profile": ProfileEditor,
    "openings": OpeningsEditor,
    "stops": RampEditor,
    "lines": LinesEditor,
}
_NUMBERS = ("number", "whole", "percent", "shutter", "fnumber", "power")


def _no_brighter(colour: tuple, high: float) -> tuple:
    """Return a colour darkened in its own hue until no part is above a limit: the chooser offers light, too."""
    top = max(colour) / high
    return colour if top <= 1 else tuple(v / top for v in colour)


class Form(QWidget):
    """Editors under section headings; `edited` while dragging, `committed` at the end: name, value, merge."""

    edited = Signal(str, object, object)
    committed = Signal(str, object, object)
    changed = Signal(str, object, object)  # a field, a function of its value for several things at once, and its drag
    pick_wanted = Signal(object)

    def __init__(
        self, models: tuple[type[Model], ...], sections: dict[str, tuple[str, ...]], *, folds: bool = False
    ) -> None:
        super().__init__()
        self._about = descriptions(*models)
        self.editors: dict[str, QWidget] = {}
        self.rows: dict[str, QWidget] = {}
        self._notes: dict[str, QLabel] = {}
        self.headings: dict[str, tuple[QWidget, tuple[str, ...]]] = {}
        self._folded_by_hand: dict[str, bool] = {}
        self._shown: set[str] = set()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        for title, names in sections.items():
            if title:
                heading = self._fold(title) if folds else section(title)
                column.addWidget(heading)
                self.headings[title] = (heading, names)
            for name in names:
                row = self._row(self._about[name])
                self.rows[name] = row
                column.addWidget(row)

    def _fold(self, title: str) -> Fold:
        heading = Fold(title)
        heading.setChecked(True)
        heading.clicked.connect(lambda is_open: self._fold_by_hand(title, is_open))
        return heading

    def _fold_by_hand(self, title: str, is_open: bool) -> None:
        self._folded_by_hand[title] = not is_open
        self.show_only(self._shown)

    def show_idle(self, titles: set[str]) -> None:
        """Fold the sections in which nothing has an effect, and open the others, but for those folded by hand."""
        for title, (heading, _) in self.headings.items():
            if isinstance(heading, Fold):
                heading.show_idle(title in titles)
                heading.setChecked(not self._folded_by_hand.get(title, title in titles))

    def note(self, name: str, words: str) -> None:
        """Write a soft line below a field; empty takes it away."""
        if name not in self._notes:
            label = QLabel()
            label.setObjectName("soft")
            label.setWordWrap(True)
            self.layout().insertWidget(self.layout().indexOf(self.rows[name]) + 1, label)
            self._notes[name] = label
        self._notes[name].setText(words)
        self._notes[name].setVisible(bool(words) and not self.rows[name].isHidden())

    def _row(self, about: Description) -> QWidget:
        name = about.name
        if about.kind in _NUMBERS:
            unit = about.unit or ("%" if about.kind == "percent" else "")
            field = NumberField(
                about.label,
                unit=unit,
                low=about.low,
                high=about.high,
                soft_high=about.soft_high,
                log=about.logarithmic,
                default=about.default,
                kind=about.kind,
                help=about.help,
            )
            cast = round if about.kind == "whole" else float
            field.edited.connect(lambda v, m: self.edited.emit(name, cast(v), m))
            field.committed.connect(lambda v, m: self.committed.emit(name, cast(v), m))
            field.changed.connect(lambda change, merge: self.changed.emit(name, change, merge))
            self.editors[name] = field
            return field
        if about.kind in ("vector", "channels", "lengths", "angles"):
            axes = "rgb" if about.kind == "channels" else "xyz"[: len(about.default)]
            field = VectorField(
                f"{about.label}" + (f" ({about.unit})" if about.unit and about.unit != "×" else ""),
                axes=axes,
                unit=about.unit,
                default=about.default,
                help=about.help,
            )
            field.edited.connect(lambda v, m: self.edited.emit(name, v, m))
            field.committed.connect(lambda v, m: self.committed.emit(name, v, m))
            field.changed.connect(lambda change, merge: self.changed.emit(name, change, merge))
            self.editors[name] = field
            return field
        if about.kind in _DRAWN:
            editor = _DRAWN[about.kind](about.label, help=about.help)
            editor.edited.connect(lambda v, m: self.edited.emit(name, v, m))
            editor.committed.connect(lambda v, m: self.committed.emit(name, v, m))
            self.editors[name] = editor
            return editor
        return self._labelled(about, self._editor(about))

    def _editor(self, about: Description) -> QWidget:
        name = about.name
        if about.kind == "colour":
            chip = ColourChip(about.label, help=about.help)
            high = about.high or 1.0
            chip.edited.connect(lambda v, m: self.edited.emit(name, _no_brighter(v, high), m))
            chip.committed.connect(lambda v, m: self.committed.emit(name, _no_brighter(v, high), m))
            chip.pick_wanted.connect(self.pick_wanted)
            return chip
        if about.kind == "switch":
            box = QCheckBox()
            box.clicked.connect(lambda on: self.committed.emit(name, on, None))
            return box
        if about.kind == "face":
            face = FaceChoice()
            face.committed.connect(lambda v, m: self.committed.emit(name, v, m))
            return face
        if about.kind in ("choice", "unit", "group", "material", "thing", "metal"):
            choice = Choice()
            choices = ((m.key, m.name) for m in metals().values()) if about.kind == "metal" else about.choices
            for value, label in choices:
                choice.addItem(label, value)
            choice.activated.connect(lambda i: self.committed.emit(name, choice.itemData(i), None))
            if about.kind == "group":
                # A new light group is made by typing its name.
                choice.setEditable(True)
                choice.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
                entry = Entry()
                entry.editingFinished.connect(lambda: self._named_group(name, choice))
                choice.setLineEdit(entry)
            return choice
        entry = Entry()
        entry.editingFinished.connect(lambda: self._typed(name, entry))
        return entry

    def _typed(self, name: str, entry: Entry) -> None:
        if entry.isModified():
            entry.setModified(False)
            self.committed.emit(name, entry.text(), None)

    def _named_group(self, name: str, choice: QComboBox) -> None:
        choice.lineEdit().setModified(False)
        text = choice.currentText().strip()
        if text and choice.findText(text) < 0:
            self.committed.emit(name, text, None)

    def _labelled(self, about: Description, editor: QWidget) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(6)
        label = QLabel(about.label)
        label.setObjectName("soft")
        label.setFixedWidth(104)
        label.setToolTip(about.help)
        editor.setToolTip(about.help)
        editor.setAccessibleName(about.label)
        line.addWidget(label)
        line.addWidget(editor, 0 if isinstance(editor, (ColourChip, QCheckBox)) else 1)
        if isinstance(editor, (ColourChip, QCheckBox)):
            line.addStretch(1)
        self.editors[about.name] = editor
        return row

    def set_choices(self, name: str, choices: list[tuple[str, str]]) -> None:
        """Offer (value, label) pairs in a drop-down, keeping what it shows."""
        editor = self.editors[name]
        with QSignalBlocker(editor):
            if [(editor.itemData(i), editor.itemText(i)) for i in range(editor.count())] == choices:
                return
            value = editor.currentData()
            editor.clear()
            for data, label in choices:
                editor.addItem(label, data)
            editor.setCurrentIndex(max(editor.findData(value), 0))

    def show_only(self, names: set[str]) -> None:
        """Show some rows and the headings that have any; what is folded stays so."""
        self._shown = set(names)
        folded = set()
        for heading, of in self.headings.values():
            heading.setVisible(any(name in names for name in of))
            if isinstance(heading, Fold) and not heading.isChecked():
                folded.update(of)
        for name, row in self.rows.items():
            is_there = name in names and name not in folded
            row.setVisible(is_there)
            if name in self._notes:
                self._notes[name].setVisible(is_there and bool(self._notes[name].text()))

    def show_model(self, model: Model) -> None:
        """Show a model's values without saying so."""
        for name, editor in self.editors.items():
            if name in type(model).model_fields:  # a form may serve several kinds
                self._show_value(editor, getattr(model, name))

    def show_several(self, items: list[Model]) -> None:
        """Say of each field whether several models have different values, beside what it shows of the last one."""
        for name, editor in self.editors.items():
            values = [getattr(item, name) for item in items if name in type(item).model_fields]
            differ = len(set(values)) > 1
            if isinstance(editor, VectorField):
                editor.set_for_several(len(items) > 1)
            elif isinstance(editor, NumberField):
                editor.is_for_several = len(items) > 1
            if not differ:
                if isinstance(editor, QCheckBox):
                    editor.setTristate(False)
                continue
            if isinstance(editor, (NumberField, VectorField)):
                editor.show_differing(tuple(reversed(values)))
            elif isinstance(editor, QCheckBox):
                with QSignalBlocker(editor):
                    editor.setCheckState(Qt.CheckState.PartiallyChecked)
            elif isinstance(editor, QComboBox) and not editor.isEditable():
                with QSignalBlocker(editor):
                    editor.setPlaceholderText("differ")
                    editor.setCurrentIndex(-1)
            elif isinstance(editor, QLineEdit) and not (editor.hasFocus() and editor.isModified()):
                with QSignalBlocker(editor):
                    editor.clear()
                    editor.setPlaceholderText("differ")

    def _show_value(self, editor: QWidget, value: Any) -> None:
        if isinstance(editor, (NumberField, VectorField, ColourChip, FaceChoice, *_DRAWN.values())):
            editor.show_value(value)
            return
        with QSignalBlocker(editor):
            if isinstance(editor, QCheckBox):
                editor.setChecked(value)
            elif isinstance(editor, QComboBox):
                editor.setCurrentIndex(editor.findData(value))
            elif isinstance(editor, QLineEdit) and not (editor.hasFocus() and editor.isModified()):
                editor.setText(value)


def value_for_each(form: Form, name: str, value: object) -> Callable[[object], object]:
    """Return what a value that was given in a form makes of a field of one of several."""
    editor = form.editors[name]
    axis = editor.axis if isinstance(editor, VectorField) else None
    # Of a vector only the number that was typed: the others may differ.
    return lambda old: value if axis is None else (*old[:axis], value[axis], *old[axis + 1 :])


def change_for_each(form: Form, name: str, change: Callable[[float], float]) -> Callable[[object], object]:
    """Return what a change that was given in a form makes of a field of one of several, within its limits."""
    editor, about = form.editors[name], form._about[name]

    def held(value: float) -> float:
        value = change(value)
        value = value if about.low is None else max(value, about.low)
        value = value if about.high is None else min(value, about.high)
        return round(value) if about.kind == "whole" else float(value)

    if not isinstance(editor, VectorField):
        return held
    axis = editor.axis
    return lambda old: (*old[:axis], held(old[axis]), *old[axis + 1 :])
