"""The light desk below the picture: a strip for each light group, and the cues."""

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from nocturne.scene import edit
from nocturne.scene.desk import Strip
from nocturne.scene.document import Document
from nocturne.ui.panels.lists import tool
from nocturne.ui.session import Session
from nocturne.ui.widgets.fader import FaderStrip

_ID = Qt.ItemDataRole.UserRole


class LightDesk(QWidget):
    """The bank of faders; the picture changes while one moves, without a new render."""

    pick_wanted = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.strips: dict[str, FaderStrip] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 6, 6)
        row.setSpacing(10)
        side = QVBoxLayout()
        side.setSpacing(4)
        head = QHBoxLayout()
        title = QLabel("Light desk")
        title.setObjectName("heading")
        head.addWidget(title, 1)
        head.addWidget(tool("reset", "Reset the desk: every group as it is", self.reset))
        side.addLayout(head)
        self.cues = QListWidget()
        self.cues.setAccessibleName("Cues")
        self.cues.setToolTip("A cue is a stored state of the desk; click one to recall it")
        self.cues.itemClicked.connect(lambda item: self.recall(item.data(_ID)))
        self.cues.itemActivated.connect(lambda item: self.recall(item.data(_ID)))
        side.addWidget(self.cues, 1)
        keys = QHBoxLayout()
        keep = QPushButton("Keep a cue")
        keep.setToolTip("Store the desk's state")
        keep.clicked.connect(self.keep)
        keys.addWidget(keep, 1)
        keys.addWidget(tool("remove", "Remove the chosen cue", self.remove))
        side.addLayout(keys)
        holder = QWidget()
        holder.setLayout(side)
        holder.setFixedWidth(138)
        side.setContentsMargins(0, 0, 0, 0)
        row.addWidget(holder)
        self.bank = QHBoxLayout()
        self.bank.setContentsMargins(0, 0, 0, 0)
        self.bank.setSpacing(5)
        bank = QWidget()
        bank.setObjectName("panel")
        bank.setLayout(self.bank)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setFrameShape(QScrollArea.Shape.NoFrame)
        area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(bank)
        row.addWidget(area, 1)
        self._cues: object = None
        session.document_changed.connect(lambda _, document: self.show_document(document))

    def show_document(self, document: Document) -> None:
        """Show the desk's state and the cues."""
        if tuple(self.strips) != document.light_groups:
            while self.bank.count():
                item = self.bank.takeAt(0)
                if item.widget():
                    item.widget().deleteLater()
            self.strips = {}
            for group in document.light_groups:
                strip = FaderStrip(group)
                strip.changed.connect(self._changed)
                strip.tint.pick_wanted.connect(self.pick_wanted)
                self.strips[group] = strip
                self.bank.addWidget(strip)
            self.bank.addStretch(1)
        for group, strip in self.strips.items():
            strip.show_strip(document.strip(group))
        if self._cues != document.cues:
            self._cues = document.cues
            with QSignalBlocker(self.cues):
                self.cues.clear()
                for cue in document.cues:
                    item = QListWidgetItem(cue.name)
                    item.setData(_ID, cue.id)
                    self.cues.addItem(item)

    def _changed(self, group: str, values: dict, merge: object) -> None:
        what = {"stops": "fader", "on": "power", "solo": "solo", "tint": "tint"}[next(iter(values))]
        self.session.edit(edit.set_strip, group, label=f"{group}: {what}", merge=merge, **values)

    def show_group(self, group: str, image: object) -> None:
        """Show a group's light alone above its fader."""
        if group in self.strips:
            self.strips[group].thumb.show_image(image)

    def reset(self) -> None:
        """Put every fader to 0, everything on, no solo, no tint."""
        strips = tuple(Strip(group=g) for g in self.session.document.light_groups)
        self.session.edit(lambda d: edit.changed(d, desk=strips), label="Reset the desk")

    def keep(self) -> None:
        """Store the desk's state as a cue."""
        document, id = edit.keep_cue(self.session.document)
        self.session.push(document, "Keep a cue")
        self.session.said.emit(f"Kept as “{document.find('cues', id).name}”.", False)

    def recall(self, id: str) -> None:
        """Set the desk to a cue."""
        self.session.edit(edit.recall_cue, id, label="Recall a cue")

    def remove(self) -> None:
        """Remove the chosen cue."""
        item = self.cues.currentItem()
        if item is not None:
            self.session.edit(edit.remove, "cues", item.data(_ID), label="Remove a cue")
