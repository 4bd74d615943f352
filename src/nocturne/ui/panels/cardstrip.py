"""Strips of cards below the picture, which are found by words and dragged onto the picture: pieces, materials."""

from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QMimeData, QSignalBlocker, QSize, Qt, Signal
from PySide6.QtGui import QColor, QIcon, QImage
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QLabel,
    QListView,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from nocturne.ui.panels.lists import untinted
from nocturne.ui.theme import tokens as t
from nocturne.ui.widgets.entry import Filter

_ID = Qt.ItemDataRole.UserRole


@dataclass(frozen=True)
class About:
    """What a strip is of.

    title, one: what all and what one are called; mime: what a dragged card is; picture: how large a small picture is;
    keep, keep_help: the button that keeps what is chosen; use: what activating a card does; drag: where it is dragged.
    """

    title: str
    one: str
    mime: str
    picture: QSize
    keep: str
    keep_help: str
    use: str
    drag: str


class _Strip(QListWidget):
    """Cards in a row, which can be dragged onto the picture."""

    def __init__(self, mime: str) -> None:
        super().__init__()
        self._mime = mime

    def mimeTypes(self) -> list[str]:
        """Return what a dragged card is."""
        return [self._mime]

    def mimeData(self, items) -> QMimeData:
        """Return the id of the dragged card."""
        data = QMimeData()
        if items:
            data.setData(self._mime, items[0].data(_ID).encode())
        return data


class CardStrip(QWidget):
    """Finds, keeps, renames and removes cards; one is dragged onto the picture, or used by a double click."""

    used = Signal(str)
    keep_wanted = Signal()
    renamed = Signal(str, str)
    removed = Signal(str)
    seen = Signal()
    filtered = Signal()

    def __init__(self, about: About) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.about = about
        self.cards: tuple[Any, ...] = ()
        self._pictures: dict[str, QImage] = {}
        self.also: tuple[tuple[str, Any], ...] = ()  # what else can be done with a card: words, and the signal for it
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 10, 8, 6)
        row.setSpacing(8)
        side = QVBoxLayout()
        side.setSpacing(6)
        heading = QLabel(about.title)
        heading.setObjectName("heading")
        side.addWidget(heading)
        self.words = Filter()
        self.words.setPlaceholderText("Find")
        self.words.setAccessibleName(f"Find a {about.one}")
        self.words.textChanged.connect(lambda _: (self._fill(), self.filtered.emit()))
        self.keep = QPushButton(about.keep)
        self.keep.setToolTip(about.keep_help)
        self.keep.clicked.connect(self.keep_wanted)
        side.addWidget(self.words)
        self.side = side
        side.addWidget(self.keep)
        side.addStretch(1)
        holder = QWidget()
        holder.setLayout(side)
        holder.setFixedWidth(138)
        row.addWidget(holder)
        self.view = _Strip(about.mime)
        self.view.setObjectName("cards")
        self.view.setAccessibleName(about.title)
        self.view.setViewMode(QListView.ViewMode.IconMode)
        self.view.setFlow(QListView.Flow.LeftToRight)
        self.view.setWrapping(False)
        self.view.setMovement(QListView.Movement.Static)
        self.view.setIconSize(about.picture)
        self.view.setGridSize(about.picture + QSize(12, 34))
        self.view.setUniformItemSizes(True)
        self.view.setDragEnabled(True)
        self.view.setDragDropMode(QAbstractItemView.DragDropMode.DragOnly)
        self.view.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed)
        self.view.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.view.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.view.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.view.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.view.customContextMenuRequested.connect(self._ask)
        self.view.itemActivated.connect(lambda item: self.used.emit(item.data(_ID)))
        self.view.itemChanged.connect(self._on_changed)
        row.addWidget(self.view, 1)

    def show_cards(self, cards: tuple[Any, ...]) -> None:
        """Show cards, each with `id`, `name`, `kind`, `words`, `is_own` and `matches`."""
        self.cards = cards
        self._fill()

    def is_wanted(self, card: Any) -> bool:
        """Return True for a card that is to be shown: it is of the words that are typed."""
        return card.matches(self.words.text())

    def show_picture(self, id: str, image: QImage) -> None:
        """Show a card's picture."""
        self._pictures[id] = image
        with QSignalBlocker(self.view):
            for i in range(self.view.count()):
                if self.view.item(i).data(_ID) == id:
                    self.view.item(i).setIcon(self._icon(id))

    def shown(self) -> list[str]:
        """Return the ids of the cards that are shown, in their order."""
        return [self.view.item(i).data(_ID) for i in range(self.view.count())]

    def chosen_id(self) -> str:
        """Return the current card's id, "" if none is."""
        item = self.view.currentItem()
        return item.data(_ID) if item is not None else ""

    def showEvent(self, event) -> None:
        """Say that it is looked at: pictures are only made then."""
        super().showEvent(event)
        self.seen.emit()

    def _fill(self) -> None:
        chosen = self.chosen_id()
        with QSignalBlocker(self.view):
            self.view.clear()
            for card in self.cards:
                if not self.is_wanted(card):
                    continue
                item = QListWidgetItem(self._icon(card.id), card.name, self.view)
                item.setData(_ID, card.id)
                told = f"\n{card.words}" if card.words else ""
                item.setToolTip(f"{card.kind}: {card.name}{told}\n{self.about.drag}")
                if card.is_own:
                    item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
                if card.id == chosen:
                    self.view.setCurrentItem(item)

    def _icon(self, id: str) -> QIcon:
        image = self._pictures.get(id)
        if image is None:
            image = QImage(self.about.picture, QImage.Format.Format_RGB32)
            image.fill(QColor(t.RAISED))
        return untinted(image)

    def _on_changed(self, item: QListWidgetItem) -> None:
        name = item.text().strip()
        card = next((c for c in self.cards if c.id == item.data(_ID)), None)
        if card is None or name == card.name:
            return
        if name:
            self.renamed.emit(card.id, name)
        else:
            self._fill()

    def menu_for(self, id: str) -> QMenu:
        """Return what can be done with a card."""
        card = next(c for c in self.cards if c.id == id)
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.addAction(self.about.use, lambda: self.used.emit(id))
        for words, signal in self.also:
            menu.addAction(words, lambda s=signal: s.emit(id))
        if card.is_own:
            menu.addSeparator()
            menu.addAction("Rename it   F2", lambda: self.view.editItem(self.view.currentItem()))
            menu.addAction("Take it off the shelf", lambda: self.removed.emit(id))
        return menu

    def _ask(self, at) -> None:
        item = self.view.itemAt(at)
        if item is not None:
            self.view.setCurrentItem(item)
            self.menu_for(item.data(_ID)).exec(self.view.viewport().mapToGlobal(at))
