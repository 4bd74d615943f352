"""The card of overlapping glass and liquid: what wins over what, and what light meets at their walls."""

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QWidget,
)

from nocturne.engine.overlaps import Found
from nocturne.scene import edit, mediaorder
from nocturne.scene.mediaorder import AIR, Meeting
from nocturne.ui.panels.cards import Card
from nocturne.ui.session import Session
from nocturne.ui.widgets.bending import Bending, told
from nocturne.ui.widgets.words import section, soft

_ID = Qt.ItemDataRole.UserRole


class MediaCard(Card):
    """An ordered list to drag, the walls that occur with their ratios, the order that the shapes suggest."""

    look_wanted = Signal()

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent, "Order of glass and liquid", 440, 560)
        self.session, self.found = session, None
        self.column.addWidget(
            soft("Where closed shapes overlap, the one that stands higher here exists. Drag to reorder.")
        )
        self.order = QListWidget()
        self.order.setAccessibleName("Glass and liquid, the one that wins first")
        self.order.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.order.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.order.setFixedHeight(150)
        self.order.model().rowsMoved.connect(lambda *_: self._dragged())
        self.order.currentItemChanged.connect(lambda item, _: item and session.choose("materials", item.data(_ID)))
        self.column.addWidget(self.order)
        keys = QHBoxLayout()
        self.up, self.down = QPushButton("Higher"), QPushButton("Lower")
        self.up.setToolTip("Alt+Up")
        self.down.setToolTip("Alt+Down")
        self.up.setShortcut("Alt+Up")
        self.down.setShortcut("Alt+Down")
        self.up.clicked.connect(lambda: self.shift(-1))
        self.down.clicked.connect(lambda: self.shift(1))
        self.suggest = QPushButton("As the shapes suggest")
        self.suggest.clicked.connect(self._suggest)
        for button in (self.up, self.down):
            keys.addWidget(button)
        keys.addWidget(self.suggest, 1)
        self.column.addLayout(keys)
        self.hint = soft("")
        self.column.addWidget(self.hint)
        self.column.addWidget(section("Walls that light meets"))
        self.walls = QListWidget()
        self.walls.setAccessibleName("Walls between media")
        self.walls.setFixedHeight(104)
        self.walls.currentRowChanged.connect(lambda _: self._show_wall())
        self.column.addWidget(self.walls)
        self.bending = Bending()
        self.column.addWidget(self.bending)
        self.words = QLabel()
        self.words.setObjectName("soft")
        self.words.setWordWrap(True)
        self.column.addWidget(self.words)
        self.column.addStretch(1)
        self.counts = QCheckBox("Overlaps by this order")
        self.counts.setToolTip("Off: every wall bends light as if air were on its other side, to compare")
        self.counts.clicked.connect(self._switch)
        self.column.addWidget(self.counts)
        session.document_changed.connect(self._on_changed)
        self._pairs: list[tuple[str, str]] = []
        self._show()

    def _on_changed(self, change) -> None:
        before = set(self.ids())
        self._show()
        if change.touches("things") or set(self.ids()) != before:
            self.look_wanted.emit()

    def ids(self) -> list[str]:
        """Return the media in the order that is shown."""
        return [self.order.item(i).data(_ID) for i in range(self.order.count())]

    def show_found(self, found: Found) -> None:
        """Show what the shapes say."""
        self.found = found
        self._show()

    def _show(self) -> None:
        document = self.session.document
        media = mediaorder.media(document)
        chosen = self.session.chosen.get("materials", "")
        with QSignalBlocker(self.order):
            self.order.clear()
            for material in media:
                known = mediaorder.substance(material)
                row = QListWidgetItem(f"{material.name}    {material.specular_ior:.4g}", self.order)
                row.setData(_ID, material.id)
                row.setToolTip(
                    f"{known.name}: {known.source}" if known else "Its index is not one of the measured ones"
                )
                if material.id == chosen:
                    self.order.setCurrentItem(row)
        self.counts.setChecked(document.quality.overlaps)
        for button in (self.up, self.down):
            button.setEnabled(len(media) > 1)
        self._show_walls()
        ids = [m.id for m in media]
        wanted = mediaorder.suggested(ids, self._meetings(ids))
        self.suggest.setEnabled(wanted != ids or bool(mediaorder.unsettled(document, self._meetings(ids))))
        self.hint.setText(self._hint(ids, wanted))

    def _meetings(self, ids: list[str]) -> list[Meeting]:
        """Return what the shapes said of media that are still such."""
        return [m for m in (self.found.meetings if self.found else ()) if m.winner in ids and m.loser in ids]

    def _hint(self, ids: list[str], wanted: list[str]) -> str:
        meetings = self._meetings(ids)
        names = {m.id: m.name for m in self.session.document.materials}
        if not ids:
            return "Nothing here is closed glass or liquid."
        if self.found is None:
            return "Looking at the shapes…"
        if not meetings:
            return "No two of them overlap, so their order changes nothing yet."
        tied = mediaorder.unsettled(self.session.document, meetings)
        if wanted == ids and tied:
            return (
                f"“{tied[0].names[0]}” meets “{tied[0].names[1]}”, and both have the same precedence: only the list of "
                "materials says which one exists. Settle it as the shapes suggest, or drag."
            )
        if wanted == ids:
            return "The shapes suggest this very order."
        wrong = next(m for m in meetings if ids.index(m.winner) > ids.index(m.loser))
        return (
            f"“{wrong.names[0]}” lies in “{wrong.names[1]}”, so “{names[wrong.winner]}” should stand above "
            f"“{names[wrong.loser]}”."
        )

    def _show_walls(self) -> None:
        document = self.session.document
        names = {m.id: m.name for m in document.materials}
        there = {m.id for m in mediaorder.media(document)}
        pairs = [p for p in (self.found.walls if self.found else ()) if {*p} <= there | {AIR}]
        row = max(self.walls.currentRow(), 0)
        with QSignalBlocker(self.walls):
            self.walls.clear()
            for above, below in pairs:
                ratio = mediaorder.ratio(document, above, below)
                self.walls.addItem(f"{names.get(above, 'Air')} → {names.get(below, 'Air')}    × {ratio:.4g}")
            self.walls.setCurrentRow(min(row, len(pairs) - 1))
        self._pairs = pairs
        self._show_wall()

    def _show_wall(self) -> None:
        row, document = self.walls.currentRow(), self.session.document
        is_there = 0 <= row < len(self._pairs)
        self.bending.setVisible(is_there)
        self.words.setVisible(is_there)
        if is_there:
            above, below = self._pairs[row]
            names = {m.id: m.name for m in document.materials}
            ratio = mediaorder.ratio(document, above, below)
            self.bending.show_wall(names.get(above, "Air"), names.get(below, "Air"), ratio)
            self.words.setText(told(ratio))

    def _dragged(self) -> None:
        ids = self.ids()
        self._put(ids)

    def shift(self, by: int) -> None:
        """Move the chosen medium up or down by one."""
        row, ids = self.order.currentRow(), self.ids()
        to = row + by
        if 0 <= row < len(ids) and 0 <= to < len(ids):
            ids.insert(to, ids.pop(row))
            self._put(ids)

    def _suggest(self) -> None:
        if self.found is not None:
            self._put(mediaorder.suggested(self.ids(), self.found.meetings))

    def _put(self, ids: list[str]) -> None:
        self.session.edit(mediaorder.ordered, ids, label="Order glass and liquid")

    def _switch(self, on: bool) -> None:
        quality = self.session.document.quality.id
        label = "Overlaps by order" if on else "Overlaps as walls against air"
        self.session.edit(edit.alter, "qualities", quality, overlaps=on, label=label)
