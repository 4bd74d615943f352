"""The contact sheet below the picture: a card for each proof, the live picture first."""

from PySide6.QtCore import QAbstractListModel, QEvent, QModelIndex, QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPen, QPixmap
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QLabel,
    QListView,
    QMenu,
    QPushButton,
    QStyle,
    QStyledItemDelegate,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from nocturne.io.proofs import Proof
from nocturne.jobs import duration
from nocturne.ui.panels.lists import tool
from nocturne.ui.proofroom import ProofRoom
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.icons import icon, icon_size
from nocturne.ui.theme.style import font
from nocturne.ui.widgets.entry import Filter

_CARD = QSize(136, 119)
_PROOF = Qt.ItemDataRole.UserRole
_STAR = QRect(_CARD.width() - 26, 6, 18, 18)


def facts(proof: Proof) -> str:
    """Return a proof's time, noise and quality in a line."""
    noise = f"{proof.noise * 100:.1f} %" if proof.noise else "…"
    return f"{duration(proof.seconds)}  ·  {noise}  ·  {proof.quality}"


class _Cards(QAbstractListModel):
    """The proofs that the filter lets through, newest first."""

    def __init__(self, room: ProofRoom) -> None:
        super().__init__()
        self.room = room
        self.shown: tuple[Proof, ...] = ()
        self.words, self.only_starred = "", False

    def refresh(self) -> None:
        """Take the room's proofs anew."""
        words = self.words.casefold()
        wanted = tuple(
            proof
            for proof in reversed(self.room.proofs)
            if (proof.starred or not self.only_starred)
            and words in f"{proof.name} {proof.note} {proof.view} {proof.quality}".casefold()
        )
        self.beginResetModel()
        self.shown = wanted
        self.endResetModel()

    def rowCount(self, parent=None) -> int:
        """Return how many cards there are."""
        return len(self.shown)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole):
        """Return a proof, or its words for those who cannot see the card."""
        proof = self.shown[index.row()]
        if role == _PROOF:
            return proof
        if role == Qt.ItemDataRole.ToolTipRole:
            note = f"\n{proof.note}" if proof.note else ""
            size = f"{proof.width} × {proof.height}"
            return (
                f"{proof.name}{note}\n{facts(proof)}\n{size}, {proof.samples:.0f} samples, {proof.view}\n{proof.made}"
            )
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return f"{proof.name}, {facts(proof)}"
        return None


class _Card(QStyledItemDelegate):
    """Draws a card."""

    def __init__(self, room: ProofRoom) -> None:
        super().__init__()
        self.room = room
        self.showing, self.second = "", ""
        self._thumbs: dict[tuple, QPixmap] = {}
        self._drawn: dict[tuple, QPixmap] = {}

    def sizeHint(self, option, index) -> QSize:
        """Return a card's size."""
        return _CARD

    def paint(self, painter: QPainter, option, index) -> None:
        """Draw a card, as it was drawn before if nothing of it has changed."""
        proof: Proof = index.data(_PROOF)
        ratio = painter.device().devicePixelRatioF()
        is_chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        image, is_stale = self.room.thumbs.get(proof.id), self.room.is_stale(proof)
        key = (proof, is_chosen, self.showing, self.second, image and image.cacheKey(), is_stale, ratio)
        if key not in self._drawn:
            if len(self._drawn) > 200:
                self._drawn.clear()
            card = self._drawn[key] = QPixmap(_CARD * ratio)
            card.setDevicePixelRatio(ratio)
            card.fill(QColor(t.PANEL))
            with QPainter(card) as inner:
                self._draw(inner, proof, image, is_chosen=is_chosen, is_stale=is_stale)
        painter.drawPixmap(option.rect.topLeft(), self._drawn[key])

    def _draw(self, painter: QPainter, proof: Proof, image: QImage | None, *, is_chosen: bool, is_stale: bool) -> None:
        """Draw thumbnail, name, facts, star, and a corner if the scene has changed since."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        box = QRectF(QPointF(), _CARD).adjusted(3, 3, -3, -3)
        edge = t.MOON if proof.id in (self.showing, self.second) else t.LINE if is_chosen else t.RAISED
        painter.setPen(QPen(QColor(edge), 1.4 if edge == t.MOON else 1))
        painter.setBrush(QColor(t.RAISED))
        painter.drawRoundedRect(box, 4, 4)
        picture = QRectF(box.left() + 4, box.top() + 4, box.width() - 8, (box.width() - 8) * 9 / 16)
        painter.fillRect(picture, QColor("#000000"))
        if image is not None:
            fitted = self._fitted(proof.id, image, picture, painter.device().devicePixelRatioF())
            size = fitted.deviceIndependentSize()
            at = picture.center() - QPointF(size.width() / 2, size.height() / 2)
            painter.drawPixmap(at, fitted)
        if is_stale:
            path = QPainterPath()
            path.moveTo(picture.bottomRight())
            path.lineTo(picture.right() - 14, picture.bottom())
            path.lineTo(picture.right(), picture.bottom() - 14)
            painter.fillPath(path, QColor(t.CARE))
        star = QRectF(_STAR)
        painter.setFont(font(15))
        painter.setPen(QColor(0, 0, 0, 200))
        painter.drawText(star.translated(1, 1), Qt.AlignmentFlag.AlignCenter, "★" if proof.starred else "☆")
        painter.setPen(QColor(t.MOON if proof.starred else t.INK))
        painter.drawText(star, Qt.AlignmentFlag.AlignCenter, "★" if proof.starred else "☆")
        if proof.id in (self.showing, self.second):
            painter.setFont(font(11, weight=600))
            mark = "A" if proof.id == self.showing else "B"
            badge = QRectF(picture.left() + 4, picture.top() + 4, 18, 18)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(t.MOON))
            painter.drawRoundedRect(badge, 4, 4)
            painter.setPen(QColor(t.GROUND))
            painter.drawText(badge, Qt.AlignmentFlag.AlignCenter, mark)
        words = QRectF(box.left() + 6, picture.bottom() + 2, box.width() - 12, 17)
        painter.setFont(font(12))
        painter.setPen(QColor(t.INK))
        name = painter.fontMetrics().elidedText(proof.name, Qt.TextElideMode.ElideRight, int(words.width()))
        painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(font(10))
        painter.setPen(QColor(t.INK_SOFT))
        line = painter.fontMetrics().elidedText(facts(proof), Qt.TextElideMode.ElideRight, int(words.width()))
        painter.drawText(words.translated(0, 16), Qt.AlignmentFlag.AlignVCenter, line)

    def _fitted(self, id: str, image: QImage, room: QRectF, ratio: float) -> QPixmap:
        """Return a thumbnail at the size it is drawn, made once."""
        key = (id, room.width(), ratio)
        if key not in self._thumbs:
            if len(self._thumbs) > 500:
                self._thumbs.clear()
            made = QPixmap.fromImage(
                image.scaled(
                    (room.size() * ratio).toSize(),
                    Qt.AspectRatioMode.KeepAspectRatio,
                    Qt.TransformationMode.SmoothTransformation,
                )
            )
            made.setDevicePixelRatio(ratio)
            self._thumbs[key] = made
        return self._thumbs[key]

    def editorEvent(self, event, model, option, index) -> bool:
        """Star a proof by a click on its star."""
        if event.type() == QEvent.Type.MouseButtonRelease and event.button() == Qt.MouseButton.LeftButton:
            if _STAR.adjusted(-3, -3, 3, 3).translated(option.rect.topLeft()).contains(event.position().toPoint()):
                proof = index.data(_PROOF)
                self.room.alter(proof.id, starred=not proof.starred)
                return True
        return False


class ContactSheet(QWidget):
    """The proofs, with what can be done with them."""

    keep_wanted = Signal()
    show_wanted = Signal(str)
    compare_wanted = Signal(str)
    live_wanted = Signal()
    print_wanted = Signal()

    def __init__(self, room: ProofRoom) -> None:
        super().__init__()
        self.room = room
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 6, 6)
        row.setSpacing(10)
        side = QVBoxLayout()
        side.setContentsMargins(0, 0, 0, 0)
        side.setSpacing(4)
        head = QHBoxLayout()
        title = QLabel("Contact sheet")
        title.setObjectName("heading")
        head.addWidget(title, 1)
        head.addWidget(tool("export", "Print the sheet as a PDF", self.print_wanted.emit))
        side.addLayout(head)
        filters = QHBoxLayout()
        filters.setSpacing(2)
        self.words = Filter()
        self.words.setPlaceholderText("Find")
        self.words.setAccessibleName("Find a proof")
        self.words.setToolTip("Show only proofs with these words in their name, note, view or quality")
        self.words.textChanged.connect(self._filter)
        self.starred = QToolButton()
        self.starred.setObjectName("plain")
        self.starred.setCheckable(True)
        self.starred.setIcon(icon("star", t.INK_SOFT, on=t.MOON))
        self.starred.setIconSize(icon_size())
        self.starred.setToolTip("Show only starred proofs")
        self.starred.setAccessibleName("Only starred proofs")
        self.starred.toggled.connect(self._filter)
        filters.addWidget(self.words, 1)
        filters.addWidget(self.starred)
        side.addLayout(filters)
        keep = QPushButton("Keep this proof")
        keep.setToolTip("Keep the picture with the settings that made it   Alt+P")
        keep.clicked.connect(self.keep_wanted)
        self.live = QPushButton("Live picture")
        self.live.setToolTip("Go back to the live picture   Esc")
        self.live.clicked.connect(self.live_wanted)
        side.addWidget(keep)
        side.addWidget(self.live)
        side.addStretch(1)
        holder = QWidget()
        holder.setLayout(side)
        holder.setFixedWidth(138)
        row.addWidget(holder)
        self.model, self.card = _Cards(room), _Card(room)
        self.view = QListView()
        self.view.setObjectName("cards")
        self.view.setAccessibleName("Proofs")
        self.view.setModel(self.model)
        self.view.setItemDelegate(self.card)
        self.view.setFlow(QListView.Flow.LeftToRight)
        self.view.setWrapping(False)
        self.view.setUniformItemSizes(True)
        self.view.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.view.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.view.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.view.customContextMenuRequested.connect(self._ask)
        self.view.clicked.connect(self._clicked)
        self.view.activated.connect(lambda index: self.show_wanted.emit(index.data(_PROOF).id))
        self.view.setFixedHeight(_CARD.height() + 14)
        row.addWidget(self.view, 1, Qt.AlignmentFlag.AlignTop)
        self.empty = QLabel(
            "Finished renders land here with the settings that made them, to compare and to go back to. "
            "Press Alt+P to keep the picture as it is now."
        )
        self.empty.setObjectName("soft")
        self.empty.setWordWrap(True)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        row.addWidget(self.empty, 1)
        self._stale: tuple[bool, ...] = ()
        room.listed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the room's proofs, keeping the current one."""
        chosen = self.chosen_id()
        self.model.refresh()
        has_any = bool(self.room.proofs)
        self.view.setVisible(has_any)
        self.empty.setVisible(not has_any)
        for i, proof in enumerate(self.model.shown):
            if proof.id == chosen:
                self.view.setCurrentIndex(self.model.index(i))

    def chosen_id(self) -> str:
        """Return the current card's proof, "" if none is."""
        index = self.view.currentIndex()
        return index.data(_PROOF).id if index.isValid() else ""

    def mark(self, showing: str, second: str, *, is_final: bool = False) -> None:
        """Mark which proofs are seen, A and B, and whether a final render is seen in the live picture's place."""
        self.card.showing, self.card.second = showing, second
        self.live.setEnabled(bool(showing or second or is_final))
        self.view.viewport().update()

    def repaint_cards(self) -> None:
        """Draw the cards anew if the scene has changed so that other ones are out of date."""
        stale = tuple(self.room.is_stale(proof) for proof in self.model.shown)
        if stale != self._stale:
            self._stale = stale
            self.view.viewport().update()

    def _filter(self) -> None:
        self.model.words, self.model.only_starred = self.words.text().strip(), self.starred.isChecked()
        self.refresh()

    def _clicked(self, index: QModelIndex) -> None:
        from PySide6.QtWidgets import QApplication

        proof = index.data(_PROOF)
        if QApplication.keyboardModifiers() & Qt.KeyboardModifier.ControlModifier:
            self.compare_wanted.emit(proof.id)
        else:
            self.show_wanted.emit(proof.id)

    def menu_for(self, id: str) -> QMenu:
        """Return what can be done with a proof."""
        proof = self.room.find(id)
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.addAction("Show it", lambda: self.show_wanted.emit(id))
        menu.addAction("Compare with it", lambda: self.compare_wanted.emit(id))
        menu.addAction(
            "Take its star away" if proof.starred else "Star it",
            lambda: self.room.alter(id, starred=not proof.starred),
        )
        menu.addSeparator()
        menu.addAction("Take it off the sheet", lambda: self.room.remove(id))
        return menu

    def _ask(self, at) -> None:
        index = self.view.indexAt(at)
        if index.isValid():
            self.menu_for(index.data(_PROOF).id).exec(self.view.viewport().mapToGlobal(at))
