"""The sheet of a proof: its name and note, how it is compared, what differs, and the way back to its settings."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QButtonGroup,
    QGridLayout,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from nocturne.io.proofs import Proof
from nocturne.scene.compare import PARTS, Difference, differences
from nocturne.scene.document import Document
from nocturne.ui.panels.contact import facts
from nocturne.ui.view.compare import MODE_NAMES, MODES
from nocturne.ui.widgets.entry import Entry
from nocturne.ui.widgets.words import section, soft

_PART = Qt.ItemDataRole.UserRole


class ProofSheet(QWidget):
    """What stands in the sheet's place while a proof is shown or compared."""

    altered = Signal(str, dict)  # proof, values
    mode_wanted = Signal(str)
    back_wanted = Signal(object)  # the parts to go back to
    close_wanted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.proof: Proof | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 14, 14)
        column.setSpacing(6)
        self.title = QLabel()
        self.title.setObjectName("heading")
        column.addWidget(self.title)
        self.name, self.note = Entry(), Entry()
        for field, label, words, key in (
            (self.name, "Name", "", "name"),
            (self.note, "Note", "What is good or wrong about it", "note"),
        ):
            row = QHBoxLayout()
            word = soft(label, width=44)
            field.setAccessibleName(f"Proof {label.lower()}")
            field.setPlaceholderText(words)
            field.editingFinished.connect(lambda f=field, k=key: self._said(f, k))
            row.addWidget(word)
            row.addWidget(field)
            column.addLayout(row)
        self.facts = soft()
        column.addWidget(self.facts)
        column.addWidget(section("Compare"))
        grid = QGridLayout()
        grid.setSpacing(4)
        self.modes: dict[str, QPushButton] = {}
        group = QButtonGroup(self)
        helps = {
            "wipe": "One picture left of an edge that you drag, the other right of it",
            "flip": "One picture, then the other in the same place   V",
            "side": "Both beside each other, zoomed and moved together",
            "difference": "How far they differ, four times as strong",
        }
        for i, mode in enumerate(MODES):
            button = QPushButton(MODE_NAMES[mode])
            button.setCheckable(True)
            button.setToolTip(helps[mode])
            button.clicked.connect(lambda _=False, m=mode: self.mode_wanted.emit(m))
            group.addButton(button)
            grid.addWidget(button, i // 2, i % 2)
            self.modes[mode] = button
        column.addLayout(grid)
        self.against = soft()
        column.addWidget(self.against)
        self.section = section("What differs")
        column.addWidget(self.section)
        self.tree = QTreeWidget()
        self.tree.setAccessibleName("Settings that differ")
        self.tree.setHeaderLabels(["Setting", "There", "Now"])
        self.tree.setRootIsDecorated(True)
        self.tree.setIndentation(12)
        header = self.tree.header()
        header.setStretchLastSection(False)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        for column_ in (1, 2):
            header.setSectionResizeMode(column_, QHeaderView.ResizeMode.Interactive)
            header.resizeSection(column_, 66)
        self.tree.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column.addWidget(self.tree, 1)
        self.part = QPushButton("Go back to the ticked parts")
        self.part.setToolTip("Take these parts of the proof's settings over; undo takes it back")
        self.part.clicked.connect(lambda: self.back_wanted.emit(self.ticked()))
        self.whole = QPushButton("Go back to all of it")
        self.whole.setToolTip("Make every setting what it was in the proof; undo takes it back")
        self.whole.clicked.connect(lambda: self.back_wanted.emit(tuple(PARTS)))
        close = QPushButton("Back to the live picture")
        close.setToolTip("Leave the proof   Esc")
        close.clicked.connect(self.close_wanted)
        for button in (self.part, self.whole, close):
            column.addWidget(button)

    def _said(self, field: Entry, key: str) -> None:
        if self.proof is not None and field.isModified():
            field.setModified(False)
            text = field.text().strip()
            if text or key == "note":
                self.altered.emit(self.proof.id, {key: text})

    def show_proof(self, proof: Proof, before: Document, now: Document, *, mode: str, against: str) -> None:
        """Show a proof, what differs between its document and the one of now, and how it is compared."""
        if self.proof is None or self.proof.id != proof.id or not self.name.hasFocus():
            self.name.setText(proof.name)
            self.note.setText(proof.note)
        self.proof = proof
        self.title.setText("★  Proof" if proof.starred else "Proof")
        made = proof.made.replace("T", "  ").split(".")[0].split("+")[0]
        denoised = ", denoised" if proof.denoised else ""
        self.facts.setText(
            f"{facts(proof)}\n{proof.width} × {proof.height}, {proof.samples:.0f} samples{denoised}\n"
            f"{proof.view}, {made}"
        )
        for name, button in self.modes.items():
            button.setChecked(name == mode)
        self.against.setText(against)
        self._fill(differences(before, now))

    def _fill(self, found: list[Difference]) -> None:
        ticked = set(self.ticked()) if self.tree.topLevelItemCount() else set()
        self.tree.clear()
        by_part: dict[str, list[Difference]] = {}
        for difference in found:
            by_part.setdefault(difference.part, []).append(difference)
        for part in PARTS:
            if part not in by_part:
                continue
            top = QTreeWidgetItem([f"{PARTS[part]} ({len(by_part[part])})"])
            top.setData(0, _PART, part)
            top.setFlags(top.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            top.setCheckState(0, Qt.CheckState.Checked if part in ticked else Qt.CheckState.Unchecked)
            for difference in by_part[part][:400]:
                words = " ".join(w for w in (difference.owner, difference.label.lower()) if w)
                row = QTreeWidgetItem(top, [words, difference.before, difference.after])
                row.setToolTip(0, f"{words}: {difference.before} in the proof, {difference.after} now")
            self.tree.addTopLevelItem(top)
            top.setExpanded(True)
        n = len(found)
        self.section.setText("Nothing differs" if not n else f"What differs: {n} setting{'' if n == 1 else 's'}")
        for widget in (self.part, self.whole):
            widget.setEnabled(bool(n))

    def ticked(self) -> tuple[str, ...]:
        """Return the parts that are ticked."""
        tops = [self.tree.topLevelItem(i) for i in range(self.tree.topLevelItemCount())]
        return tuple(top.data(0, _PART) for top in tops if top.checkState(0) == Qt.CheckState.Checked)
