"""The pieces below the picture: small pictures that are dragged onto what they are to stand on."""

from PySide6.QtCore import QMimeData, QSignalBlocker, QSize, Qt, Signal
from PySide6.QtGui import QColor, QIcon, QImage
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListView,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from nocturne.pieces.piece import Piece
from nocturne.ui.panels.lists import untinted
from nocturne.ui.theme import tokens as t
from nocturne.ui.view.hands.dropping import PIECE_MIME

PICTURE = QSize(104, 78)
_CARD = QSize(116, 112)
_ID = Qt.ItemDataRole.UserRole


class _Strip(QListWidget):
    """Cards in a row, which can be dragged onto the picture."""

    def mimeTypes(self) -> list[str]:
        """Return what a dragged card is."""
        return [PIECE_MIME]

    def mimeData(self, items) -> QMimeData:
        """Return the id of the dragged piece."""
        data = QMimeData()
        if items:
            data.setData(PIECE_MIME, items[0].data(_ID).encode())
        return data


class PieceStrip(QWidget):
    """Finds, keeps, renames and removes pieces; what is activated comes to stand where the view aims."""

    placed = Signal(str)
    keep_wanted = Signal()
    renamed = Signal(str, str)
    removed = Signal(str)
    seen = Signal()
    filtered = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.pieces: tuple[Piece, ...] = ()
        self._pictures: dict[str, QImage] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 10, 8, 6)
        row.setSpacing(8)
        side = QVBoxLayout()
        side.setSpacing(6)
        heading = QLabel("Pieces")
        heading.setObjectName("heading")
        side.addWidget(heading)
        self.words = QLineEdit()
        self.words.setPlaceholderText("Find")
        self.words.setAccessibleName("Find a piece")
        self.words.textChanged.connect(lambda _: (self._fill(), self.filtered.emit()))
        self.keep = QPushButton("Keep the choice")
        self.keep.setToolTip("Keep what is chosen as a piece for all projects   Ctrl+Alt+K")
        self.keep.clicked.connect(self.keep_wanted)
        side.addWidget(self.words)
        side.addWidget(self.keep)
        side.addStretch(1)
        holder = QWidget()
        holder.setLayout(side)
        holder.setFixedWidth(138)
        row.addWidget(holder)
        self.view = _Strip()
        self.view.setObjectName("cards")
        self.view.setAccessibleName("Pieces")
        self.view.setViewMode(QListView.ViewMode.IconMode)
        self.view.setFlow(QListView.Flow.LeftToRight)
        self.view.setWrapping(False)
        self.view.setMovement(QListView.Movement.Static)
        self.view.setIconSize(PICTURE)
        self.view.setGridSize(_CARD)
        self.view.setUniformItemSizes(True)
        self.view.setDragEnabled(True)
        self.view.setDragDropMode(QAbstractItemView.DragDropMode.DragOnly)
        self.view.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed)
        self.view.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.view.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.view.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.view.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.view.customContextMenuRequested.connect(self._ask)
        self.view.itemActivated.connect(lambda item: self.placed.emit(item.data(_ID)))
        self.view.itemChanged.connect(self._on_changed)
        row.addWidget(self.view, 1)

    def show_pieces(self, pieces: tuple[Piece, ...]) -> None:
        """Show pieces, own ones first."""
        self.pieces = pieces
        self._fill()

    def show_picture(self, id: str, image: QImage) -> None:
        """Show a piece's picture."""
        self._pictures[id] = image
        with QSignalBlocker(self.view):
            for i in range(self.view.count()):
                if self.view.item(i).data(_ID) == id:
                    self.view.item(i).setIcon(self._icon(id))

    def shown(self) -> list[str]:
        """Return the ids of the pieces that are shown, in their order."""
        return [self.view.item(i).data(_ID) for i in range(self.view.count())]

    def chosen_id(self) -> str:
        """Return the current card's piece, "" if none is."""
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
            for piece in self.pieces:
                if not piece.matches(self.words.text()):
                    continue
                item = QListWidgetItem(self._icon(piece.id), piece.name, self.view)
                item.setData(_ID, piece.id)
                about = f"\n{piece.words}" if piece.words else ""
                item.setToolTip(f"{piece.kind}: {piece.name}{about}\nDrag it onto what it is to stand on")
                if piece.is_own:
                    item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
                if piece.id == chosen:
                    self.view.setCurrentItem(item)

    def _icon(self, id: str) -> QIcon:
        image = self._pictures.get(id)
        if image is None:
            image = QImage(PICTURE, QImage.Format.Format_RGB32)
            image.fill(QColor(t.RAISED))
        return untinted(image)

    def _on_changed(self, item: QListWidgetItem) -> None:
        name = item.text().strip()
        piece = next((p for p in self.pieces if p.id == item.data(_ID)), None)
        if piece is None or name == piece.name:
            return
        if name:
            self.renamed.emit(piece.id, name)
        else:
            self._fill()

    def menu_for(self, id: str) -> QMenu:
        """Return what can be done with a piece."""
        piece = next(p for p in self.pieces if p.id == id)
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.addAction("Put it where the view aims", lambda: self.placed.emit(id))
        if piece.is_own:
            menu.addSeparator()
            menu.addAction("Rename it   F2", lambda: self.view.editItem(self.view.currentItem()))
            menu.addAction("Take it off the shelf", lambda: self.removed.emit(id))
        return menu

    def _ask(self, at) -> None:
        item = self.view.itemAt(at)
        if item is not None:
            self.view.setCurrentItem(item)
            self.menu_for(item.data(_ID)).exec(self.view.viewport().mapToGlobal(at))
