"""The list at the left of the picture: what the stage works on."""

from collections.abc import Callable

from PySide6.QtCore import QMimeData, QSignalBlocker, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QImage, QPainter, QPixmap
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from nocturne.scene import edit, metals
from nocturne.scene.document import Document
from nocturne.scene.materials import Material
from nocturne.ui.session import Session
from nocturne.ui.swatchroom import SwatchRoom
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.icons import icon, icon_size
from nocturne.ui.view.hands.dropping import MATERIAL_MIME
from nocturne.ui.widgets.colourchip import to_qcolor

_ID = Qt.ItemDataRole.UserRole
_SEVERAL = ("lights", "materials")  # parts of which several can be chosen and edited at once


def tool(name: str, text: str, action: Callable) -> QToolButton:
    """Return a small button with an icon, named by its tooltip."""
    button = QToolButton()
    button.setObjectName("plain")
    button.setIcon(icon(name))
    button.setIconSize(icon_size())
    button.setToolTip(text)
    button.setAccessibleName(text.split("   ")[0])
    button.setFixedSize(28, 26)
    button.clicked.connect(lambda: action())
    return button


def swatch_icon(colour: tuple, *, glows: bool = False) -> QIcon:
    """Return a dot of a working-space colour; what glows has a ring."""
    pixmap = QPixmap(36, 36)
    pixmap.setDevicePixelRatio(2)
    pixmap.fill(Qt.GlobalColor.transparent)
    with QPainter(pixmap) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QColor(t.LAMP if glows else t.LINE))
        painter.setBrush(to_qcolor(colour))
        painter.drawEllipse(1, 1, 16, 16)
    return QIcon(pixmap)


def untinted(image: QImage) -> QIcon:
    """Return an icon that looks the same when its row is chosen."""
    icon_of_image = QIcon()
    for mode in (QIcon.Mode.Normal, QIcon.Mode.Selected, QIcon.Mode.Active):
        icon_of_image.addPixmap(QPixmap.fromImage(image), mode)
    return icon_of_image


class ListPanel(QWidget):
    """A heading with its buttons, and the items of one part of the document."""

    def __init__(self, session: Session, part: str, title: str, empty: str) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.session, self.part, self.empty_text = session, part, empty
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 8, 8)
        column.setSpacing(6)
        self.heading = QHBoxLayout()
        self.heading.setSpacing(2)
        name = QLabel(title)
        name.setObjectName("heading")
        self.heading.addWidget(name, 1)
        column.addLayout(self.heading)
        self.empty = QLabel(empty)
        self.empty.setObjectName("soft")
        self.empty.setWordWrap(True)
        column.addWidget(self.empty)
        self.view = self._make_view()
        self.view.setAccessibleName(title)
        self.view.setIconSize(QSize(18, 18))
        column.addWidget(self.view, 1)
        self._shown: object = None
        self._items: object = None
        session.document_changed.connect(lambda change: self.show_document(change.after))
        session.chosen_changed.connect(self._on_chosen)
        session.assets_changed.connect(lambda: self.show_document(session.document))

    def _make_view(self) -> QWidget:
        view = QListWidget()
        view.setUniformItemSizes(True)
        self._follow_choice(view)
        return view

    def _follow_choice(self, view: QListWidget) -> None:
        """Choose what is marked in a list; several where several can be edited at once."""
        if self.part in _SEVERAL:
            view.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
            view.itemSelectionChanged.connect(lambda: self._choose_marked(view))
        else:
            view.currentItemChanged.connect(lambda item, _: item and self.session.choose(self.part, item.data(_ID)))

    def _choose_marked(self, view: QListWidget) -> None:
        marked = [item.data(_ID) for item in view.selectedItems()]
        current = view.currentItem().data(_ID) if view.currentItem() is not None else ""
        if current in marked:
            marked = [*(id for id in marked if id != current), current]
        if marked:
            self.session.choose_many(self.part, tuple(marked))

    def add_button(self, name: str, text: str, action: Callable) -> QToolButton:
        """Put a button into the heading."""
        button = tool(name, text, action)
        self.heading.addWidget(button)
        return button

    def add_copy_and_remove(self) -> None:
        """Offer to copy and remove what is chosen."""
        self.add_button("copy", "Copy what is chosen", self.copy)
        self.add_button("remove", "Remove what is chosen", self.remove)

    def _ids(self) -> tuple[str, ...]:
        """Return what is chosen here and is there: what was chosen may have been undone."""
        document, chosen = self.session.document, self.session.all_chosen(self.part)
        current = self.current(document)
        if current in chosen:
            return chosen
        return (current,) if document.find(self.part, current) is not None else ()

    def copy(self) -> None:
        """Copy what is chosen and choose the copies."""
        ids = self._ids()
        if not ids:
            self.session.said.emit("Choose what to copy first.", True)
            return
        document, new = edit.copied(self.session.document, self.part, ids)
        self.session.push(document, "Copy")
        self.session.choose_many(self.part, new)

    def remove(self) -> None:
        """Remove what is chosen."""
        ids = self._ids()
        if ids:
            self.session.edit(edit.remove, self.part, *ids, label="Remove")
        else:
            self.session.said.emit("Choose what to remove first.", True)

    def key(self, document: Document) -> object:
        """Return what the list shows; it is only filled again when this changes."""
        return getattr(document, self.part)

    def icon_of(self, item: object, document: Document) -> QIcon | None:
        """Return an item's icon; the same object as long as it looks the same."""
        return None

    def show_document(self, document: Document) -> None:
        """Fill the list, keeping what is chosen."""
        items = getattr(document, self.part)
        key = self.key(document)
        if self._shown is not None and self._shown == key:
            return
        self._shown = key
        self.empty.setVisible(not items)
        with QSignalBlocker(self.view):
            self._fill(items, document)
        self._select(self.current(document))

    def current(self, document: Document) -> str:
        """Return the id of the marked row."""
        return self.session.chosen.get(self.part, "")

    def _fill(self, items: tuple, document: Document) -> None:
        view = self.view
        if [view.item(i).data(_ID) for i in range(view.count())] != [item.id for item in items]:
            view.clear()
            self._looks: list[tuple | None] = [None] * len(items)
            for item in items:
                row = QListWidgetItem(view)
                row.setData(_ID, item.id)
        for i, item in enumerate(items):
            # Only rows that look different now are touched: each costs a layout and a painting.
            look = (item.name, getattr(item, "on", True), self.icon_of(item, document))
            if look != self._looks[i]:
                self._looks[i] = look
                name, on, picture = look
                row = view.item(i)
                row.setText(name)
                row.setForeground(QColor(t.INK if on else "#7d7d7d"))
                if picture is not None:
                    row.setIcon(picture)

    def _on_chosen(self, part: str, id: str) -> None:
        if part == self.part:
            self._select(id)

    def _select(self, id: str) -> None:
        also = set(self.session.also.get(self.part, ())) if self.part in _SEVERAL else set()
        with QSignalBlocker(self.view):
            rows = {self.view.item(i).data(_ID): i for i in range(self.view.count())}
            self.view.setCurrentRow(rows.get(id, -1))
            if id not in rows:
                self.view.clearSelection()
            for other in also & rows.keys():
                self.view.item(rows[other]).setSelected(True)


class _DragList(QListWidget):
    """A list whose rows can be dragged onto the picture."""

    def mimeTypes(self) -> list[str]:
        """Return what a dragged row is."""
        return [MATERIAL_MIME]

    def mimeData(self, items) -> QMimeData:
        """Return the id of the dragged material."""
        data = QMimeData()
        if items:
            data.setData(MATERIAL_MIME, items[0].data(_ID).encode())
        return data


class MaterialList(ListPanel):
    """The materials, each as a swatch on its stand; drag one onto a thing in the picture."""

    def __init__(self, session: Session, part: str, title: str, empty: str, swatches: SwatchRoom) -> None:
        self.swatches = swatches
        self._icons: dict[str, tuple] = {}  # by material: what the icon was made of, and the icon
        super().__init__(session, part, title, empty)
        self.view.setIconSize(QSize(36, 36))
        swatches.made.connect(self._on_made)

    def _make_view(self) -> QWidget:
        view = _DragList()
        view.setUniformItemSizes(True)
        view.setDragEnabled(True)
        view.setDragDropMode(QAbstractItemView.DragDropMode.DragOnly)
        view.setToolTip("Drag a material onto a thing in the picture to give it")
        self._follow_choice(view)
        return view

    def icon_of(self, item, document):
        """Return the material's swatch; its colour as a dot until there is one."""
        # Swatches take processor time from the picture, so they are only made for those who look at the list.
        image = self.swatches.image(item, self.session.document, self.session.assets) if self.isVisible() else None
        made_of = (image,) if image is not None else (item, self.session.assets)
        known, made = self._icons.get(item.id, ((), None))
        if len(known) != len(made_of) or any(a is not b for a, b in zip(known, made_of)):
            made = untinted(image) if image is not None else self._dot(item)
            self._icons[item.id] = (made_of, made)
        return made

    def _dot(self, item: Material) -> QIcon:
        if item.is_emitter:
            return swatch_icon(item.emission_color, glows=True)
        if item.metal_from in metals.BY_INDEX and item.base_metalness > 0:
            return swatch_icon(metals.face_on(item))
        for step in item.steps:
            image = self.session.assets.images.get(step.picture)
            if step.parameter == "base_color" and image is not None:
                return swatch_icon(tuple(image[..., ::16, ::16, :].reshape(-1, 3).mean(0)))
        return swatch_icon(item.transmission_color if item.transmission_weight > 0.5 else item.base_color)

    def showEvent(self, event) -> None:
        """Ask for the swatches that are missing or old."""
        self._shown = None
        self.show_document(self.session.document)

    def _on_made(self, id: str, image) -> None:
        self._shown = None
        if self.isVisible():
            self.show_document(self.session.document)

    def key(self, document: Document) -> object:
        """Return the materials, the pictures that colour them, and the stand they are shown on."""
        return document.materials, tuple(self.session.assets.images), self.swatches.stand, self.swatches.size_m


class LightList(ListPanel):
    """Lights and environments, by group; a tick at each says whether it is on."""

    def _make_view(self) -> QWidget:
        view = super()._make_view()
        view.setToolTip("The tick turns a light on or off; of several chosen ones all")
        view.itemChanged.connect(self._switch)
        return view

    def _fill(self, items: tuple, document: Document) -> None:
        super()._fill(items, document)
        for i, light in enumerate(items):
            row = self.view.item(i)
            state = Qt.CheckState.Checked if light.on else Qt.CheckState.Unchecked
            if row.data(Qt.ItemDataRole.CheckStateRole) != state.value:
                row.setFlags(row.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                row.setCheckState(state)

    def _switch(self, row: QListWidgetItem) -> None:
        on, id = row.checkState() == Qt.CheckState.Checked, row.data(_ID)
        light = self.session.document.find("lights", id)
        if light is None or light.on == on:
            return
        chosen = self.session.all_chosen("lights")
        ids = chosen if id in chosen else (id,)
        self.session.edit(edit.alter_many, "lights", ids, label="Light on" if on else "Light off", on=on)

    def key(self, document: Document) -> object:
        """Return what rows show; how bright a light is is not among it."""
        return tuple((light.id, light.name, light.kind, light.on) for light in document.lights)

    def icon_of(self, item, document):
        """Return the icon of the light's kind."""
        return icon(item.kind, t.LAMP if item.on else "#7d7d7d")


class QualityList(ListPanel):
    """The quality levels; the chosen one is used."""

    def icon_of(self, item, document):
        """Return a slider, marked if it is in use."""
        return icon("quality", t.MOON if item.id == document.quality.id else t.INK_SOFT)

    def current(self, document: Document) -> str:
        """Return the level in use."""
        return document.quality.id

    def key(self, document: Document) -> object:
        """Return the levels and which one is active."""
        return document.qualities, document.active_quality


def menu_under(button: QToolButton, choices: list[tuple[str, Callable]]) -> None:
    """Show a menu of choices under a button."""
    menu = QMenu(button)
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    for label, action in choices:
        menu.addAction(label, action)
    menu.exec(button.mapToGlobal(button.rect().bottomLeft()))
