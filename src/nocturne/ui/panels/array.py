"""The card that asks for an array of the choice: in a line, a grid, a ring, or along points."""

from collections.abc import Callable
from functools import partial

import numpy as np
from PySide6.QtWidgets import QCheckBox, QComboBox, QPushButton, QWidget

from nocturne.scene import placing
from nocturne.ui.panels.cards import Card
from nocturne.ui.widgets.numberfield import NumberField, VectorField

_HOW = (("line", "In a line"), ("grid", "In a grid"), ("ring", "In a ring"), ("points", "Along points"))


class ArrayCard(Card):
    """How many copies of the choice, and where; `go` is given what makes them, and whether materials are their own."""

    def __init__(self, parent: QWidget, go: Callable[..., None], ask_points: Callable[[], tuple | None]) -> None:
        super().__init__(parent, "Array of the choice", 360, 330)
        self._ask_points, self.points = ask_points, ()
        self.how = QComboBox()
        self.how.setAccessibleName("How they are arranged")
        for value, words in _HOW:
            self.how.addItem(words, value)
        self.how.currentIndexChanged.connect(lambda _: self._show())
        self.number = NumberField("How many in all", low=2, high=1000, default=5, kind="whole")
        self.counts = VectorField("How many", default=(3.0, 3.0, 1.0), help="Along x, y and z of the set")
        self.step = VectorField("Step (m)", unit="m", default=(1.0, 1.0, 1.0), help="From one to the next, in the set")
        self.about = VectorField("About (m)", unit="m", default=(0.0, 0.0, 0.0), help="The middle of the ring")
        self.angle = NumberField("Turn by", unit="°", default=72.0, help="From one to the next, about the vertical")
        self.file = QPushButton("Points from a file…")
        self.file.setToolTip("Three numbers a line, metres, as CSV or plain text; or the corners of a model")
        self.file.clicked.connect(self._read)
        self.turns = QCheckBox("Turn with the line")
        self.turns.setChecked(True)
        self.unique = QCheckBox("With materials of their own")
        self.unique.setToolTip("Off: all share theirs, and a change reaches each of them")
        self.number.committed.connect(lambda n, _: self.angle.show_value(360.0 / max(n, 1)))
        rows = (self.how, self.number, self.counts, self.step, self.about, self.angle, self.file, self.turns)
        for widget in (*rows, self.unique):
            self.column.addWidget(widget)
        self.step.show_value((1.0, 0.0, 0.0))
        self.column.addStretch(1)
        self.make = QPushButton("Make")
        self.make.setObjectName("main")
        self.make.clicked.connect(lambda: self._make(go))
        self.column.addWidget(self.make)
        self._show()

    def _show(self) -> None:
        how = self.how.currentData()
        shown = {
            "line": {self.number, self.step},
            "grid": {self.counts, self.step},
            "ring": {self.number, self.about, self.angle},
            "points": {self.number, self.file, self.turns},
        }
        for widget in set().union(*shown.values()):
            widget.setVisible(widget in shown[how])
        self.make.setEnabled(how != "points" or len(self.points) > 1)

    def _read(self) -> None:
        self.points = self._ask_points() or self.points
        if self.points:
            self.file.setText(f"{len(self.points):,} points")
        self._show()

    def _make(self, go: Callable[..., None]) -> None:
        n, step = round(self.number.value), np.array(self.step.value)
        counts = tuple(max(round(v), 1) for v in self.counts.value)
        turn = {"step": np.array((0.0, 0.0, self.angle.value)), "about": np.array(self.about.value)}
        how = {
            "line": partial(placing.in_array, n=n, step=step),
            "grid": partial(placing.in_grid, counts=counts, step=step),
            "ring": partial(placing.in_array, n=n, **turn),
            "points": partial(placing.along, points=np.array(self.points), n=n, turns=self.turns.isChecked()),
        }[self.how.currentData()]
        self.close()
        go(how, makes_unique=self.unique.isChecked())
