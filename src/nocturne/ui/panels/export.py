"""The export sheet: what goes out, as which kind of file, under which names."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from nocturne.deliver.export import DATA, DEPTHS, SPACES, SPACES_OF, TYPES, Order, items
from nocturne.deliver.naming import DEFAULT, TOKENS
from nocturne.errors import NocturneError
from nocturne.film.film import Film
from nocturne.film.layout import PASS_NAMES
from nocturne.scene.document import Document
from nocturne.ui import files
from nocturne.ui.layout import scrolling
from nocturne.ui.session import Session
from nocturne.ui.widgets.entry import Filter
from nocturne.ui.widgets.words import section, soft

_ID = Qt.ItemDataRole.UserRole


class ExportSheet(QWidget):
    """Everything that decides an export, with a preview of the names."""

    export_wanted = Signal(object)  # an Order
    close_wanted = Signal()

    def __init__(self, session: Session, folder: Callable[[], Path]) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.session, self._folder_of = session, folder
        self.document: Document = session.document
        self.film: Film | None = None
        self._names: list[Path] = []
        self._offered = ""  # the folder that was put in by itself
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        inside = QWidget()
        inside.setObjectName("panel")
        column = QVBoxLayout(inside)
        column.setContentsMargins(14, 10, 14, 14)
        column.setSpacing(6)
        title = QLabel("Export")
        title.setObjectName("heading")
        column.addWidget(title)
        column.addWidget(section("What"))
        self.beauty = self._tick(column, "The picture as it is mixed now", True)
        self.denoised = self._tick(column, "Denoised, where there is a denoised one", True)
        self.groups = self._tick(column, "Each light group", False)
        self.cues = self._ticks(column, "Cues", 74)
        self.passes = self._ticks(column, "Passes", 104)
        self.all_passes = self._tick(column, "All passes", False)
        column.insertWidget(column.indexOf(self.passes), self.all_passes)
        for name in (*PASS_NAMES, *DATA):
            self._add(self.passes, name.replace("_", " ").capitalize(), name)
        column.addWidget(section("As"))
        self.type = self._choice(column, "Type", TYPES)
        self.together = self._tick(column, "Everything in one file, with mattes", True)
        self.together.setToolTip(
            "One OpenEXR with the picture, every light group, all passes, object and material mattes and the settings; "
            "it can be opened on the desk again without its scene"
        )
        self.depth = self._choice(column, "Depth", DEPTHS["exr"])
        self.space = self._choice(column, "Colour space", tuple((s, SPACES[s]) for s in SPACES_OF["exr"]))
        self.space_note = soft("Linear spaces hold the light itself, before exposure and grade.")
        column.addWidget(self.space_note)
        column.addWidget(section("Names"))
        self.template = Filter(DEFAULT)
        self.template.setAccessibleName("Name template")
        self.template.setToolTip("\n".join(f"{{{token}}}  {words}" for token, words in TOKENS.items()))
        column.addWidget(self.template)
        row = QHBoxLayout()
        self.folder = Filter()
        self.folder.setAccessibleName("Folder")
        choose = QPushButton("Folder…")
        choose.clicked.connect(self._ask_folder)
        row.addWidget(self.folder, 1)
        row.addWidget(choose)
        column.addLayout(row)
        self.preview = soft("")
        column.addWidget(self.preview)
        column.addStretch(1)
        outer.addWidget(scrolling(inside), 1)
        keys = QHBoxLayout()
        keys.setContentsMargins(14, 0, 14, 14)
        self.go = QPushButton("Export")
        self.go.setObjectName("main")
        self.go.clicked.connect(self._export)
        close = QPushButton("Close")
        close.clicked.connect(self.close_wanted)
        keys.addWidget(self.go, 1)
        keys.addWidget(close)
        outer.addLayout(keys)
        self.type.currentIndexChanged.connect(self._on_type)
        self.all_passes.clicked.connect(self._tick_passes)
        self.passes.itemChanged.connect(lambda _: self._show_whether_all())
        for signal in (
            self.beauty.toggled,
            self.groups.toggled,
            self.together.toggled,
            self.depth.currentIndexChanged,
            self.space.currentIndexChanged,
            self.template.textChanged,
            self.folder.textChanged,
            self.cues.itemChanged,
            self.passes.itemChanged,
        ):
            signal.connect(lambda *_: self.refresh())

    def _tick_passes(self, on: bool) -> None:
        """Tick every pass, or none."""
        with QSignalBlocker(self.passes):
            for i in range(self.passes.count()):
                self.passes.item(i).setCheckState(Qt.CheckState.Checked if on else Qt.CheckState.Unchecked)
        self.refresh()

    def _show_whether_all(self) -> None:
        self.all_passes.setChecked(len(_ticked(self.passes)) == self.passes.count())

    # ---- parts -----------------------------------------------------------------------------------------------------

    def _tick(self, column: QVBoxLayout, words: str, on: bool) -> QCheckBox:
        box = QCheckBox(words)
        box.setChecked(on)
        column.addWidget(box)
        return box

    def _ticks(self, column: QVBoxLayout, words: str, height: int) -> QListWidget:
        column.addWidget(soft(words))
        view = QListWidget()
        view.setAccessibleName(words)
        view.setFixedHeight(height)
        column.addWidget(view)
        return view

    def _add(self, view: QListWidget, words: str, id: str) -> None:
        row = QListWidgetItem(words)
        row.setData(_ID, id)
        row.setFlags(row.flags() | Qt.ItemFlag.ItemIsUserCheckable)
        row.setCheckState(Qt.CheckState.Unchecked)
        view.addItem(row)

    def _choice(self, column: QVBoxLayout, words: str, choices: tuple) -> QComboBox:
        row = QHBoxLayout()
        label = soft(words, width=84)
        box = QComboBox()
        box.setAccessibleName(words)
        for value, name in choices:
            box.addItem(name, value)
        row.addWidget(label)
        row.addWidget(box, 1)
        column.addLayout(row)
        return box

    # ---- showing ---------------------------------------------------------------------------------------------------

    def show_for(self, document: Document, film: Film) -> None:
        """Offer what a film and its document have."""
        self.document, self.film = document, film
        ticked = set(_ticked(self.cues))
        with QSignalBlocker(self.cues):
            self.cues.clear()
            for cue in document.cues:
                self._add(self.cues, cue.name, cue.id)
                if cue.id in ticked:
                    self.cues.item(self.cues.count() - 1).setCheckState(Qt.CheckState.Checked)
        offered = str(self._folder_of())
        if self.folder.text() in ("", self._offered):
            self.folder.setText(offered)
        self._offered = offered
        self.refresh()

    def begin(self) -> None:
        """Begin with another project: its pictures go into its own folder."""
        self.folder.clear()
        self.film = None

    def names(self) -> list[Path]:
        """Return the files that are announced."""
        return self._names

    def _on_type(self) -> None:
        kind = self.type.currentData()
        for box, choices in (
            (self.depth, DEPTHS[kind]),
            (self.space, tuple((s, SPACES[s]) for s in SPACES_OF[kind])),
        ):
            with QSignalBlocker(box):
                before = box.currentData()
                box.clear()
                for value, name in choices:
                    box.addItem(name, value)
                box.setCurrentIndex(max(box.findData(before), 0))
        self.refresh()

    def order(self) -> Order:
        """Return what is ordered."""
        is_exr = self.type.currentData() == "exr"
        return Order(
            folder=Path(self.folder.text().strip() or ".").expanduser(),
            template=self.template.text().strip(),
            type=self.type.currentData(),
            depth=self.depth.currentData(),
            space=self.space.currentData(),
            beauty=self.beauty.isChecked(),
            cues=_ticked(self.cues),
            groups=self.groups.isChecked(),
            passes=_ticked(self.passes),
            together=is_exr and self.together.isChecked(),
            denoised=self.denoised.isChecked(),
        )

    def refresh(self) -> None:
        """Show the names that the order makes."""
        order = self.order()
        is_exr = order.type == "exr"
        self.together.setVisible(is_exr)
        for widget in (self.beauty, self.groups, self.all_passes, self.passes, self.space):
            widget.setEnabled(not order.together)
        self.space_note.setVisible(order.space != "display" or order.together)
        self._names = []
        if self.film is None:
            return
        try:
            made = items(order, self.document, self.film)
        except NocturneError as error:
            self.preview.setText(f"▲ {error}")
            self.preview.setObjectName("care")
            self.go.setEnabled(False)
        else:
            self._names = [item.path for item in made]
            there = sum(item.path.exists() for item in made)
            lines = [item.path.name for item in made[:6]] + ([f"and {len(made) - 6} more"] if len(made) > 6 else [])
            if there:
                lines.append(f"▲ {there} of these are there already and will be replaced.")
            self.preview.setText("\n".join(lines))
            self.preview.setObjectName("soft")
            self.go.setText("Export" if len(made) == 1 else f"Export {len(made)} files")
            self.go.setEnabled(True)
        self.preview.style().unpolish(self.preview)
        self.preview.style().polish(self.preview)

    def _ask_folder(self) -> None:
        name = files.ask_folder(self, "Export into", self.folder.text())
        if name:
            self.folder.setText(name)

    def _export(self) -> None:
        self.export_wanted.emit(self.order())


def _ticked(view: QListWidget) -> tuple[str, ...]:
    rows = [view.item(i) for i in range(view.count())]
    return tuple(row.data(_ID) for row in rows if row.checkState() == Qt.CheckState.Checked)
