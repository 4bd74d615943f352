"""The openings of a room: a row of numbers for each, added and taken away."""

from PySide6.QtCore import QSignalBlocker, Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QToolButton, QVBoxLayout, QWidget

from nocturne.scene import edit
from nocturne.scene.forms import Opening
from nocturne.scene.forms.room import WALLS
from nocturne.ui.theme.icons import icon
from nocturne.ui.widgets.numberfield import VectorField
from nocturne.ui.widgets.words import soft

_NUMBERS = ("along", "sill", "width", "height")


class OpeningsEditor(QWidget):
    """Windows and doors by wall, distance along it, sill, width and height."""

    edited = Signal(object, object)
    committed = Signal(object, object)

    def __init__(self, label: str, *, help: str = "") -> None:
        super().__init__()
        self.openings: tuple[Opening, ...] = ()
        self.rows: list[_Row] = []
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(5)
        words = soft(f"{label}: along, sill, width, height (m)")
        words.setToolTip(help)
        self.column.addWidget(words)
        self.add = QPushButton("Add an opening")
        self.add.clicked.connect(lambda: self._say((*self.openings, Opening()), None, ended=True))
        self.column.addWidget(self.add)

    def show_value(self, value: tuple[Opening, ...]) -> None:
        """Show openings without saying so."""
        self.openings = tuple(value)
        while len(self.rows) > len(value):
            self.rows.pop().deleteLater()
        while len(self.rows) < len(value):
            row = _Row(len(self.rows))
            row.altered.connect(self._alter)
            row.removed.connect(lambda i: self._say(self.openings[:i] + self.openings[i + 1 :], None, ended=True))
            self.rows.append(row)
            self.column.insertWidget(len(self.rows), row)
        for row, opening in zip(self.rows, value):
            row.show_opening(opening)

    def _alter(self, i: int, values: dict, merge: object, ended: bool) -> None:
        new = edit.changed(self.openings[i], **values)
        self._say((*self.openings[:i], new, *self.openings[i + 1 :]), merge, ended=ended)

    def _say(self, openings: tuple, merge: object, *, ended: bool) -> None:
        (self.committed if ended else self.edited).emit(openings, merge)


class _Row(QWidget):
    altered = Signal(int, object, object, bool)
    removed = Signal(int)

    def __init__(self, i: int) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        row = QHBoxLayout()
        self.wall = QComboBox()
        self.wall.setAccessibleName(f"Wall of opening {i + 1}")
        for wall in WALLS:
            self.wall.addItem(f"{wall.capitalize()} wall", wall)
        self.wall.activated.connect(lambda _: self.altered.emit(i, {"wall": self.wall.currentData()}, None, True))
        remove = QToolButton()
        remove.setObjectName("plain")
        remove.setIcon(icon("remove"))
        remove.setToolTip("Close this opening")
        remove.setAccessibleName(f"Close opening {i + 1}")
        remove.clicked.connect(lambda: self.removed.emit(i))
        row.addWidget(self.wall, 1)
        row.addWidget(remove)
        column.addLayout(row)
        self.numbers = VectorField(f"Opening {i + 1}", axes="aswh", unit="m", default=(1.0, 0.9, 1.2, 1.2))
        self.numbers.edited.connect(lambda v, m: self.altered.emit(i, dict(zip(_NUMBERS, v)), m, False))
        self.numbers.committed.connect(lambda v, m: self.altered.emit(i, dict(zip(_NUMBERS, v)), m, True))
        column.addWidget(self.numbers)

    def show_opening(self, opening: Opening) -> None:
        """Show an opening without saying so."""
        with QSignalBlocker(self.wall):
            self.wall.setCurrentIndex(self.wall.findData(opening.wall))
        self.numbers.show_value(tuple(getattr(opening, name) for name in _NUMBERS))
