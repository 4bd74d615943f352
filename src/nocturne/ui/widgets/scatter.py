"""The numbers of a scatter: what is copied, over what, how it turns and grows, and what is kept clear."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QToolButton, QVBoxLayout, QWidget

from nocturne.scene import edit
from nocturne.scene.document import Document
from nocturne.scene.scatter import Scatter, Source
from nocturne.ui.theme.icons import icon
from nocturne.ui.widgets.form import Form
from nocturne.ui.widgets.numberfield import NumberField
from nocturne.ui.widgets.words import section, soft

_SECTIONS = {
    "Copies": ("over", "on", "number", "counts", "spacing", "apart", "jitter", "seed"),
    "Turn and size": ("upright", "turn_deg", "step_deg", "look_at", "smallest", "largest"),
    "Where": ("steepest_deg", "lowest", "highest", "density", "margin"),
}
_OVER = {
    "grid": {"counts", "spacing"},
    "surface": {"on", "number", "upright", "steepest_deg", "density"},
    "points": {"on", "upright", "steepest_deg"},
}


class ScatterEditor(QWidget):
    """Edits a scatter; `altered` carries new values and the id of a drag."""

    altered = Signal(object, object)  # values by field, merge
    real_wanted = Signal()
    file_wanted = Signal()
    picture_wanted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.scatter = Scatter()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        column.addWidget(section("What is copied"))
        self.sources = NamedRows("Copy this too…", with_weight=True)
        self.sources.altered.connect(self._on_sources)
        column.addWidget(self.sources)
        self.form = Form((Scatter,), _SECTIONS)
        self.form.edited.connect(lambda name, value, merge: self.altered.emit({name: value}, merge))
        self.form.committed.connect(lambda name, value, merge: self.altered.emit({name: value}, merge))
        column.addWidget(self.form)
        column.addWidget(section("Kept clear"))
        self.clear = NamedRows("Keep clear of…", with_weight=False)
        self.clear.altered.connect(lambda rows: self.altered.emit({"keep_out": tuple(id for id, _ in rows)}, None))
        column.addWidget(self.clear)
        self.told = soft("")
        column.addWidget(self.told)
        self.file = QPushButton("Points from a file…")
        self.file.setToolTip("Three numbers a line, metres, as CSV or plain text; or the corners of a model")
        self.file.clicked.connect(self.file_wanted)
        column.addWidget(self.file)
        self.picture = QPushButton("Choose a picture for the density…")
        self.picture.clicked.connect(self.picture_wanted)
        column.addWidget(self.picture)
        self.real = QPushButton("Make the copies real")
        self.real.setToolTip("Each becomes a thing of its own that can be moved; they share their meshes")
        self.real.clicked.connect(self.real_wanted)
        column.addWidget(self.real)

    def show_scatter(self, scatter: Scatter, document: Document, own: str, told: str) -> None:
        """Show a scatter; own: the id of the thing that it is."""
        self.scatter = scatter
        names = [(thing.id, thing.name) for thing in document.things if thing.id != own]
        shaped = [(thing.id, thing.name) for thing in document.things if thing.has_shape]
        self.form.set_choices("on", [("", "Typed points" if scatter.over == "points" else "Nothing"), *shaped])
        self.form.set_choices("look_at", [("", "Nothing"), *names])
        self.form.show_model(scatter)
        hidden = set().union(*_OVER.values()) - _OVER[scatter.over]
        hidden |= set() if scatter.keep_out else {"margin"}
        self.form.show_only(set(self.form.rows) - hidden)
        self.sources.show_rows([(s.thing, s.weight) for s in scatter.sources], names)
        self.clear.show_rows([(id, 1.0) for id in scatter.keep_out], names)
        self.file.setVisible(scatter.over == "points")
        self.picture.setVisible(scatter.over == "surface")
        self.told.setText(told)

    def _on_sources(self, rows: list[tuple[str, float]]) -> None:
        sources = tuple(edit.changed(Source(thing=id), weight=weight) for id, weight in rows)
        self.altered.emit({"sources": sources}, None)


class NamedRows(QWidget):
    """Things by name, each with a weight perhaps, taken away by its button and added from a list."""

    altered = Signal(object)

    def __init__(self, words: str, *, with_weight: bool) -> None:
        super().__init__()
        self.with_weight, self.rows, self.values = with_weight, [], []
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(3)
        self.add = QComboBox()
        self.add.setAccessibleName(words)
        self.words = words
        self.add.activated.connect(self._add)
        self.column.addWidget(self.add)

    def show_rows(self, values: list[tuple[str, float]], names: list[tuple[str, str]]) -> None:
        """Show rows of (id, weight); names: what can be added."""
        by_id = dict(names)
        for row in self.rows:
            self.column.removeWidget(row)
            row.deleteLater()
        self.values = values
        self.rows = [self._row(i, by_id.get(id, "gone"), weight) for i, (id, weight) in enumerate(values)]
        for i, row in enumerate(self.rows):
            self.column.insertWidget(i, row)
        taken = {id for id, _ in values}
        left = [(id, name) for id, name in names if id not in taken]
        if [self.add.itemData(i) for i in range(1, self.add.count())] != [id for id, _ in left]:
            self.add.clear()
            self.add.addItem(self.words, "")
            for id, name in left:
                self.add.addItem(name, id)
        self.add.setCurrentIndex(0)

    def _row(self, i: int, name: str, weight: float) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        if self.with_weight:
            field = NumberField(name, low=0, high=1e6, soft_high=10, default=1.0, help="How often it is taken")
            field.entry.setAccessibleName(f"Weight of {name}")
            field.show_value(weight)
            field.committed.connect(lambda value, _: self._weigh(i, value))
            line.addWidget(field, 1)
        else:
            line.addWidget(soft(name), 1)
        remove = QToolButton()
        remove.setObjectName("plain")
        remove.setIcon(icon("remove"))
        remove.setAccessibleName(f"Leave {name} out")
        remove.setToolTip("Leave it out")
        remove.clicked.connect(lambda: self.altered.emit(self.values[:i] + self.values[i + 1 :]))
        line.addWidget(remove)
        return row

    def _weigh(self, i: int, weight: float) -> None:
        self.altered.emit([*self.values[:i], (self.values[i][0], float(weight)), *self.values[i + 1 :]])

    def _add(self, index: int) -> None:
        id = self.add.itemData(index)
        if id:
            self.altered.emit([*self.values, (id, 1.0)])
