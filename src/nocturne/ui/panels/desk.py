"""The light desk below the picture: a strip for each light group, and the cues."""

import time

from PySide6.QtCore import QSignalBlocker, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QIcon, QImage
from PySide6.QtWidgets import (
    QAbstractItemView,
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
from nocturne.scene.change import Change
from nocturne.scene.desk import Strip, blended
from nocturne.scene.document import Document
from nocturne.ui.panels.lists import tool, untinted
from nocturne.ui.session import Session
from nocturne.ui.widgets.fader import FaderStrip
from nocturne.ui.widgets.numberfield import NumberField

_ID = Qt.ItemDataRole.UserRole
_THUMB = QSize(44, 25)
_FRAME_MS = 33


class LightDesk(QWidget):
    """The bank of faders; the picture changes while one moves, without a new render."""

    pick_wanted = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.strips: dict[str, FaderStrip] = {}
        self._cues: object = None
        self._filling = False
        self._fade: tuple | None = None
        self._is_fading = False
        self._thumbs: dict[str, QIcon] = {}
        self._clock = QTimer(self)
        self._clock.setInterval(_FRAME_MS)
        self._clock.timeout.connect(self._fade_on)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 6, 6)
        row.setSpacing(8)
        row.addWidget(self._side())
        row.addWidget(self._bank(), 1)
        row.addWidget(self._cue_column())
        session.document_changed.connect(self._follow)

    # ---- layout ----------------------------------------------------------------------------------------------------

    def _side(self) -> QWidget:
        side = QVBoxLayout()
        side.setContentsMargins(0, 0, 0, 0)
        side.setSpacing(4)
        title = QLabel("Light desk")
        title.setObjectName("heading")
        side.addWidget(title)
        for words, help, action in (
            ("All on", "Every light group on, no solo", lambda: self.all_power(True)),
            ("All off", "Every light group off, to build the light up one by one", lambda: self.all_power(False)),
            ("Reset", "Every group as it was rendered: faders at 0, on, no solo, no tint", self.reset),
            (
                "Write to lights",
                "The lights of the set take the faders over, and the desk becomes neutral; undo takes it back",
                self.apply_to_lights,
            ),
        ):
            button = QPushButton(words)
            button.setToolTip(help)
            button.clicked.connect(lambda _=False, a=action: a())
            side.addWidget(button)
        side.addStretch(1)
        holder = QWidget()
        holder.setLayout(side)
        holder.setFixedWidth(112)
        return holder

    def _bank(self) -> QScrollArea:
        self.bank = QHBoxLayout()
        self.bank.setContentsMargins(0, 0, 0, 0)
        self.bank.setSpacing(5)
        self.bank.addStretch(1)
        bank = QWidget()
        bank.setObjectName("panel")
        bank.setLayout(self.bank)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setFrameShape(QScrollArea.Shape.NoFrame)
        area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(bank)
        return area

    def _cue_column(self) -> QWidget:
        side = QVBoxLayout()
        side.setContentsMargins(0, 0, 0, 0)
        side.setSpacing(4)
        head = QHBoxLayout()
        head.setSpacing(2)
        title = QLabel("Cues")
        title.setObjectName("soft")
        head.addWidget(title, 1)
        head.addWidget(tool("add", "Keep the desk's state as a cue   Alt+K", self.keep))
        head.addWidget(tool("save", "Store the desk's state in the chosen cue", self.store))
        head.addWidget(tool("remove", "Remove the chosen cue", self.remove))
        side.addLayout(head)
        self.cues = QListWidget()
        self.cues.setAccessibleName("Cues")
        self.cues.setToolTip("A stored state of the desk. Click recalls it, F2 renames it, drag changes the order.")
        self.cues.setIconSize(_THUMB)
        self.cues.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.cues.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.cues.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed)
        self.cues.itemClicked.connect(lambda item: self.recall(item.data(_ID)))
        self.cues.itemActivated.connect(lambda item: self.recall(item.data(_ID)))
        self.cues.itemChanged.connect(self._renamed)
        self.cues.model().rowsMoved.connect(self._reordered)
        side.addWidget(self.cues, 1)
        self.seconds = NumberField(
            "Blend in",
            unit="s",
            low=0,
            high=60,
            soft_high=10,
            default=0,
            label_width=52,
            help="How long a recalled cue takes to come; 0: at once.",
        )
        side.addWidget(self.seconds)
        holder = QWidget()
        holder.setLayout(side)
        holder.setFixedWidth(152)
        return holder

    # ---- showing ---------------------------------------------------------------------------------------------------

    def _follow(self, change: Change) -> None:
        if self._fade is not None and not self._is_fading and change.touches("desk", "cues"):
            self._stop_fade()  # an undo, say: the next tick would take it back
        if change.touches("desk", "cues", "groups", "lights", "materials"):
            self.show_document(change.after)

    def show_document(self, document: Document) -> None:
        """Show the desk's state and the cues."""
        if tuple(self.strips) != document.desk_groups:
            self._make_strips(document.desk_groups)
        for group, strip in self.strips.items():
            strip.show_strip(document.strip(group))
        if self._cues != document.cues:
            self._cues = document.cues
            chosen = self.cues.currentItem().data(_ID) if self.cues.currentItem() else ""
            self._filling = True
            with QSignalBlocker(self.cues):
                self.cues.clear()
                for cue in document.cues:
                    item = QListWidgetItem(cue.name)
                    item.setData(_ID, cue.id)
                    item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
                    if cue.id in self._thumbs:
                        item.setIcon(self._thumbs[cue.id])
                    self.cues.addItem(item)
                    if cue.id == chosen:
                        self.cues.setCurrentItem(item)
            self._filling = False

    def _make_strips(self, groups: tuple[str, ...]) -> None:
        """Have a strip for each group in their order; those that stay keep what is done with them."""
        old, self.strips = self.strips, {}
        for group in groups:
            self.strips[group] = old.pop(group, None) or self._strip(group)
        for strip in old.values():
            self.bank.removeWidget(strip)
            strip.hide()
            strip.deleteLater()
        for i, strip in enumerate(self.strips.values()):
            if self.bank.indexOf(strip) != i:
                self.bank.insertWidget(i, strip)

    def _strip(self, group: str) -> FaderStrip:
        strip = FaderStrip(group)
        strip.changed.connect(self._changed)
        strip.renamed.connect(self._rename_group)
        strip.tint.pick_wanted.connect(self.pick_wanted)
        return strip

    def show_group(self, group: str, image: QImage) -> None:
        """Show a group's light alone above its fader."""
        if group in self.strips:
            self.strips[group].thumb.show_image(image)

    def show_cue(self, id: str, image: QImage) -> None:
        """Show the picture under a cue beside its name."""
        fitted = image.scaled(
            _THUMB * 2, Qt.AspectRatioMode.KeepAspectRatioByExpanding, Qt.TransformationMode.SmoothTransformation
        )
        self._thumbs[id] = untinted(fitted)
        if self.cues.state() == QAbstractItemView.State.EditingState:
            return  # a changed row would take back what is being typed
        with QSignalBlocker(self.cues):
            for i in range(self.cues.count()):
                if self.cues.item(i).data(_ID) == id:
                    self.cues.item(i).setIcon(self._thumbs[id])

    # ---- strips ----------------------------------------------------------------------------------------------------

    def _changed(self, group: str, values: dict, merge: object) -> None:
        self._stop_fade()
        what = {"stops": "fader", "on": "power", "solo": "solo", "tint": "tint"}[next(iter(values))]
        self.session.edit(edit.set_strip, group, label=f"{group}: {what}", merge=merge, **values)

    def _rename_group(self, group: str, name: str) -> None:
        self.session.edit(edit.rename_group, group, name, label="Rename a light group")

    def all_power(self, on: bool) -> None:
        """Switch every group on or off, and end solo."""
        self._stop_fade()
        document = self.session.document
        strips = tuple(edit.changed(document.strip(g), on=on, solo=False) for g in document.light_groups)
        self.session.edit(lambda d: edit.changed(d, desk=strips), label="All on" if on else "All off")

    def reset(self) -> None:
        """Put every fader to 0, everything on, no solo, no tint."""
        self._stop_fade()
        strips = tuple(Strip(group=g) for g in self.session.document.light_groups)
        self.session.edit(lambda d: edit.changed(d, desk=strips), label="Reset the desk")

    def apply_to_lights(self) -> None:
        """Write the desk back to the lights of the set."""
        self._stop_fade()
        if not self.session.document.lights and not any(m.is_emitter for m in self.session.document.materials):
            self.session.said.emit("There is no light in this project that the desk could be written to.", True)
            return
        self.session.edit(edit.desk_to_lights, label="Write the desk to the lights")
        self.session.said.emit("The lights took the desk over; the desk is neutral. Undo takes it back.", False)

    # ---- cues ------------------------------------------------------------------------------------------------------

    def keep(self) -> None:
        """Store the desk's state as a new cue."""
        document, id = edit.keep_cue(self.session.document)
        self.session.push(document, "Keep a cue")
        self.session.said.emit(f"Kept as “{document.find('cues', id).name}”.", False)

    def _chosen(self) -> str:
        item = self.cues.currentItem()
        return item.data(_ID) if item is not None else ""

    def store(self) -> None:
        """Store the desk's state in the chosen cue."""
        if self._chosen():
            self.session.edit(edit.store_cue, self._chosen(), label="Store in a cue")

    def remove(self) -> None:
        """Remove the chosen cue."""
        if self._chosen():
            self.session.edit(edit.remove, "cues", self._chosen(), label="Remove a cue")

    def step_cue(self, by: int) -> None:
        """Recall the next cue, or the one before."""
        n = self.cues.count()
        if n:
            row = self.cues.currentRow()
            row = (row + by) % n if row >= 0 else 0
            self.cues.setCurrentRow(row)
            self.recall(self.cues.item(row).data(_ID))

    def recall(self, id: str) -> None:
        """Set the desk to a cue, over the time it takes to blend in."""
        self._stop_fade()
        cue = self.session.document.find("cues", id)
        if cue is None or self.seconds.value <= 0:
            self.session.edit(edit.recall_cue, id, label="Recall a cue")
            return
        document = self.session.document
        before = tuple(document.strip(group) for group in document.light_groups)
        self._fade = (cue, before, time.monotonic(), self.seconds.value, ("fade", id, time.monotonic()))
        self._clock.start()

    def _fade_on(self) -> None:
        if self._fade is None:
            self._clock.stop()
            return
        cue, before, started, seconds, merge = self._fade
        share = min((time.monotonic() - started) / seconds, 1.0)
        if share >= 1:
            self._stop_fade()
        strips = blended(before, cue.strips, share)
        self._is_fading = True
        try:
            self.session.edit(lambda d: edit.changed(d, desk=strips), label=f"Blend to “{cue.name}”", merge=merge)
        finally:
            self._is_fading = False

    def _stop_fade(self) -> None:
        self._fade = None
        self._clock.stop()

    def _renamed(self, item: QListWidgetItem) -> None:
        name = item.text().strip()
        if name:
            self.session.edit(edit.alter, "cues", item.data(_ID), name=name, label="Rename a cue")

    def _reordered(self) -> None:
        if self._filling:
            return
        document = self.session.document
        for i in range(self.cues.count()):
            document = edit.move(document, "cues", self.cues.item(i).data(_ID), i)
        self._cues = document.cues
        self.session.push(document, "Move a cue")
