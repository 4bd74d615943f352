"""The preflight's findings, each with buttons that mend it."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from nocturne.preflight.findings import Finding, Mend
from nocturne.ui.layout import scrolling
from nocturne.ui.session import Session


class PreflightSheet(QWidget):
    """What is probably wrong with the project."""

    chosen = Signal(str, str)  # part, id
    files_wanted = Signal()
    check_wanted = Signal()
    close_wanted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.session = session
        self.found: list[Finding] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 14, 14)
        column.setSpacing(6)
        self.title = QLabel("Preflight")
        self.title.setObjectName("heading")
        column.addWidget(self.title)
        self.note = QLabel()
        self.note.setObjectName("soft")
        self.note.setWordWrap(True)
        column.addWidget(self.note)
        self.rows = QVBoxLayout()
        self.rows.setContentsMargins(0, 0, 0, 0)
        self.rows.setSpacing(8)
        inside = QWidget()
        inside.setObjectName("panel")
        holder = QVBoxLayout(inside)
        holder.setContentsMargins(0, 0, 0, 0)
        holder.addLayout(self.rows)
        holder.addStretch(1)
        column.addWidget(scrolling(inside), 1)
        keys = QHBoxLayout()
        for words, action in (("Check again", self.check), ("Close", self.close_wanted.emit)):
            button = QPushButton(words)
            button.clicked.connect(lambda _=False, a=action: a())
            keys.addWidget(button)
        column.addLayout(keys)

    def check(self) -> None:
        """Ask for the checks."""
        self.title.setText("Preflight")
        self.note.setText("Checking…")
        self.check_wanted.emit()

    def show_findings(self, found: list[Finding]) -> None:
        """Show findings."""
        self.found = found
        while self.rows.count():
            widget = self.rows.takeAt(0).widget()
            widget.hide()
            widget.deleteLater()
        wrong = sum(finding.is_wrong for finding in found)
        self.title.setText(f"Preflight: {len(found)} to look at" if found else "Preflight: nothing found")
        self.note.setText(
            f"{wrong} probably wrong, {len(found) - wrong} worth a look. Every mend can be undone."
            if found
            else "No missing files, doubled light, odd sizes or powers, walls in one place, or cameras inside things."
        )
        for finding in found[:200]:
            self.rows.addWidget(self._card(finding))

    def _card(self, finding: Finding) -> QFrame:
        card = QFrame()
        card.setObjectName("strip")
        column = QVBoxLayout(card)
        column.setContentsMargins(10, 8, 10, 8)
        column.setSpacing(5)
        words = QLabel(f"{'▲' if finding.is_wrong else '·'} {finding.words}")
        words.setWordWrap(True)
        words.setObjectName("care" if finding.is_wrong else "")
        column.addWidget(words)
        for mend in finding.mends:
            button = QPushButton(mend.label)
            button.clicked.connect(lambda _=False, m=mend: self._mend(m))
            column.addWidget(button)
        if finding.id:
            show = QPushButton("Show it")
            show.setObjectName("link")
            show.clicked.connect(lambda: self.chosen.emit(finding.part, finding.id))
            column.addWidget(show)
        return card

    def _mend(self, mend: Mend) -> None:
        self.session.edit(mend.edit, label=mend.label)
        if mend.loads_files:
            self.files_wanted.emit()
        self.check()
