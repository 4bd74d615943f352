"""The set's outline: things in their groups. Rows are asked for as they are seen, so that ten thousand cost no more."""

import json

from PySide6.QtCore import (
    QAbstractItemModel,
    QItemSelection,
    QItemSelectionModel,
    QMimeData,
    QModelIndex,
    QObject,
    Qt,
    Signal,
)
from PySide6.QtGui import QColor, QIcon
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTreeView

from nocturne.scene import arrange, edit
from nocturne.scene.document import Document
from nocturne.scene.lights import Light
from nocturne.scene.parts import differing
from nocturne.scene.thing import Thing
from nocturne.ui.panels.lists import ListPanel
from nocturne.ui.session import Session
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.icons import icon
from nocturne.ui.widgets.entry import Filter

THINGS_MIME = "application/x-nocturne-things"
_FAINT = "#7d7d7d"
_WHOLE_ROW = QItemSelectionModel.SelectionFlag.Rows


class OutlineModel(QAbstractItemModel):
    """Things, and the lights in their groups, as a tree: names, then shown or hidden, then locked or not."""

    renamed = Signal(str, str, str)  # part, id, name
    dropped = Signal(object, str, str)  # things' ids, the group they go to, the thing they come before

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.things: tuple[Thing, ...] = ()
        self.lights: tuple[Light, ...] = ()  # those in groups
        self._number: dict[tuple[str, str], int] = {}  # of an item in both, by part and id
        self._members: dict[int, list[int]] = {-1: []}  # by the number of a group, -1 for the top
        self._row: list[int] = []
        self._above: list[int] = []

    def show(self, things: tuple[Thing, ...], lights: tuple[Light, ...] = ()) -> bool:
        """Take things and lights; return False if they stand in the tree as before, and only changed rows are told."""
        lights = tuple(light for light in lights if light.parent)
        if not self._stand_as_before(self.things, things) or not self._stand_as_before(self.lights, lights):
            self._take(things, lights)
            return True
        for part, old, new in (("things", self.things, things), ("lights", self.lights, lights)):
            changed = [(old[i], new[i]) for i in differing(old, new)]
            setattr(self, part, new)
            for a, b in changed:
                if _look(a) != _look(b):
                    self.dataChanged.emit(self.index_of(b.id, 0, part), self.index_of(b.id, 2, part))
        return False

    @staticmethod
    def _stand_as_before(old: tuple, new: tuple) -> bool:
        which = differing(old, new)
        return which is not None and all((old[i].id, old[i].parent) == (new[i].id, new[i].parent) for i in which)

    def _take(self, things: tuple[Thing, ...], lights: tuple[Light, ...]) -> None:
        self.beginResetModel()
        self.things, self.lights = things, lights
        items = (*things, *lights)
        self._number = {("things", thing.id): i for i, thing in enumerate(things)}
        self._above = [self._number.get(("things", item.parent), -1) for item in items]
        self._number |= {("lights", light.id): len(things) + i for i, light in enumerate(lights)}
        self._cut_loops()
        self._members, self._row = {-1: []}, []
        for i, above in enumerate(self._above):
            row = self._members.setdefault(above, [])
            self._row.append(len(row))
            row.append(i)
        self.endResetModel()

    def _cut_loops(self) -> None:
        """Put what is its own group's group, as in a damaged file, to the top: else no one would ever see it."""
        sound: set[int] = {-1}
        for i in range(len(self._above)):
            path, at = [], i
            while at not in sound and at not in path:
                path.append(at)
                at = self._above[at]
            if at not in sound:
                self._above[at] = -1
            sound.update(path)

    def item(self, index: QModelIndex) -> Thing | Light:
        """Return the thing or light of a row."""
        i = index.internalId()
        return self.things[i] if i < len(self.things) else self.lights[i - len(self.things)]

    def part(self, index: QModelIndex) -> str:
        """Return "things" or "lights"."""
        return "things" if index.internalId() < len(self.things) else "lights"

    def index_of(self, id: str, column: int = 0, part: str = "things") -> QModelIndex:
        """Return where a thing or light stands, an invalid index if it does not."""
        i = self._number.get((part, id))
        return QModelIndex() if i is None else self.createIndex(self._row[i], column, i)

    def selection(self, ids: tuple[str, ...]) -> QItemSelection:
        """Return the rows of some things, neighbours together: each range costs Qt a walk through all others."""
        rows: dict[int, list[int]] = {}
        for i in {self._number[("things", id)] for id in ids if ("things", id) in self._number}:
            rows.setdefault(self._above[i], []).append(self._row[i])
        chosen = QItemSelection()
        for above, places in rows.items():
            members, places = self._members[above], sorted(places)
            first = places[0]
            for row, beyond in zip(places, [*places[1:], -1]):
                if beyond != row + 1:
                    chosen.select(self.createIndex(first, 0, members[first]), self.createIndex(row, 0, members[row]))
                    first = beyond
        return chosen

    def found(self, words: str) -> list[str]:
        """Return the ids of the things whose names hold some words, in the order of the tree."""
        words = words.casefold().strip()
        if not words:
            return []
        return [thing.id for thing in self.things if words in thing.name.casefold()]

    # ---- what the view asks ----------------------------------------------------------------------------------------

    def index(self, row: int, column: int, parent: QModelIndex = QModelIndex()) -> QModelIndex:  # noqa: B008 - Qt's own
        """Return the index of a row within a group."""
        members = self._members.get(parent.internalId() if parent.isValid() else -1, [])
        return self.createIndex(row, column, members[row]) if 0 <= row < len(members) else QModelIndex()

    def parent(self, index: QModelIndex) -> QModelIndex:
        """Return the group a row is in."""
        above = self._above[index.internalId()] if index.isValid() else -1
        return QModelIndex() if above < 0 else self.createIndex(self._row[above], 0, above)

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        """Return how many things a group has."""
        if parent.column() > 0:
            return 0
        return len(self._members.get(parent.internalId() if parent.isValid() else -1, ()))

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        """Return three: name, shown or hidden, locked or not."""
        return 3

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole):
        """Return what a cell shows."""
        if not index.isValid():
            return None
        item, column = self.item(index), index.column()
        is_shown = item.visible if isinstance(item, Thing) else item.on
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return item.name if column == 0 else None
        if role == Qt.ItemDataRole.DecorationRole:
            return _icon_of(item, column, is_shown)
        if role == Qt.ItemDataRole.ForegroundRole and not is_shown:
            return QColor(_FAINT)
        if role == Qt.ItemDataRole.ToolTipRole and column == 1:
            return "Shown in the picture; click hides it" if is_shown else "Hidden; click shows it"
        if role == Qt.ItemDataRole.ToolTipRole and column == 2 and isinstance(item, Thing):
            return "Locked; click frees it" if item.locked else "Click locks it: no choosing in the picture, no moving"
        if role == Qt.ItemDataRole.AccessibleTextRole and column == 1:
            return "shown" if is_shown else "hidden"
        if role == Qt.ItemDataRole.AccessibleTextRole and column == 2 and isinstance(item, Thing):
            return "locked" if item.locked else "free"
        return None

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        """Return that names can be typed, and rows dragged into groups."""
        flags = super().flags(index)
        if not index.isValid():
            return flags | Qt.ItemFlag.ItemIsDropEnabled
        if index.column() == 0:
            flags |= Qt.ItemFlag.ItemIsEditable
        if self.part(index) == "things":
            flags |= Qt.ItemFlag.ItemIsDragEnabled
            if self.item(index).is_group:
                flags |= Qt.ItemFlag.ItemIsDropEnabled
        return flags

    def setData(self, index: QModelIndex, value: object, role: int = Qt.ItemDataRole.EditRole) -> bool:
        """Take a name."""
        name = str(value).strip()
        if role != Qt.ItemDataRole.EditRole or not name or name == self.item(index).name:
            return False
        self.renamed.emit(self.part(index), self.item(index).id, name)
        return True

    def supportedDropActions(self) -> Qt.DropAction:
        """Return that rows move."""
        return Qt.DropAction.MoveAction

    def mimeTypes(self) -> list[str]:
        """Return what dragged rows are."""
        return [THINGS_MIME]

    def mimeData(self, indexes: list[QModelIndex]) -> QMimeData:
        """Return the ids of dragged things."""
        data = QMimeData()
        ids = dict.fromkeys(self.item(i).id for i in indexes if self.part(i) == "things")
        data.setData(THINGS_MIME, json.dumps(list(ids)).encode())
        return data

    def dropMimeData(self, data: QMimeData, action, row: int, column: int, parent: QModelIndex) -> bool:
        """Say what was dropped where; the document answers, so no row is moved here."""
        ids = tuple(json.loads(bytes(data.data(THINGS_MIME)).decode() or "[]"))
        group = self.item(parent).id if parent.isValid() else ""
        members = self._members.get(parent.internalId() if parent.isValid() else -1, [])
        before = self.things[members[row]].id if 0 <= row < len(members) and members[row] < len(self.things) else ""
        if ids:
            self.dropped.emit(ids, group, before)
        return False


def _look(item: Thing | Light) -> tuple:
    return (item.name, item.visible, item.locked) if isinstance(item, Thing) else (item.name, item.on)


def _icon_of(item: Thing | Light, column: int, is_shown: bool) -> QIcon | None:
    if column == 1:
        return icon("eye", t.INK_SOFT) if is_shown else icon("hidden", _FAINT)
    if column == 2:
        return icon("locked", t.INK_SOFT) if isinstance(item, Thing) and item.locked else None
    if isinstance(item, Light):
        return icon(item.kind, t.LAMP if is_shown else _FAINT)
    kind = "thing" if item.has_shape else "group" if item.is_group else "cutaway" if item.cutaway else "scatter"
    return icon(kind, t.INK_SOFT)


class Outline(ListPanel):
    """The set: things in their groups, shown or hidden."""

    def _make_view(self) -> QTreeView:
        view = QTreeView()
        self.model = OutlineModel(view)
        self._following = False  # while the choice is shown, not made
        view.setModel(self.model)
        view.setHeaderHidden(True)
        view.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        view.setUniformRowHeights(True)
        view.setIndentation(14)
        header = view.header()
        header.setStretchLastSection(False)
        header.setMinimumSectionSize(24)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        for column in (1, 2):
            header.setSectionResizeMode(column, QHeaderView.ResizeMode.Fixed)
            header.resizeSection(column, 22)
        view.setEditTriggers(QAbstractItemView.EditTrigger.DoubleClicked | QAbstractItemView.EditTrigger.EditKeyPressed)
        view.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        view.setExpandsOnDoubleClick(False)
        self.model.renamed.connect(
            lambda part, id, name: self.session.edit(edit.alter, part, id, name=name, label="Rename")
        )
        self.model.dropped.connect(self._drop)
        view.selectionModel().selectionChanged.connect(self._selected)
        view.clicked.connect(self._clicked)
        return view

    def __init__(self, session: Session, part: str, title: str, empty: str) -> None:
        super().__init__(session, part, title, empty)
        self.find = Filter()
        self.find.setPlaceholderText("Find")
        self.find.setAccessibleName("Find a thing by its name")
        self.find.setClearButtonEnabled(True)
        self.find.textEdited.connect(lambda _: self._seek())
        self.find.returnPressed.connect(lambda: self._seek(1))
        self.find.setVisible(False)
        self.layout().insertWidget(1, self.find)

    def show_document(self, document: Document) -> None:
        """Show the things, keeping which groups are open and what is chosen."""
        shown, new = self._items or (None, None), (document.things, document.lights)
        if all(a is b for a, b in zip(shown, new)):
            return
        self._items = new
        self.empty.setVisible(not document.things)
        self.find.setVisible(bool(document.things))
        open_before = [id for id in self._groups() if self.view.isExpanded(self.model.index_of(id))]
        self._following = True
        if self.model.show(document.things, document.lights):
            for id in open_before:
                self.view.setExpanded(self.model.index_of(id), True)
            self._select(self.current(document))
        self._following = False

    def _groups(self) -> list[str]:
        return [self.model.things[i].id for i in self.model._members if i >= 0]

    def _drop(self, ids: tuple[str, ...], group: str, before: str) -> None:
        self.session.edit(arrange.put_into, "things", ids, group, before=before, label="Move in the outline")

    def _seek(self, step: int = 0) -> None:
        """Show the first thing whose name holds what is typed, or the one after that."""
        found = self.model.found(self.find.text())
        now = self.session.chosen.get("things", "")
        at = found.index(now) + step if now in found else 0
        self.find.setProperty("wrong", bool(self.find.text()) and not found)
        self.find.style().polish(self.find)
        if found:
            self.find.setToolTip(f"{at % len(found) + 1} of {len(found)}; Enter shows the next")
            self.session.choose("things", found[at % len(found)])

    def _clicked(self, index: QModelIndex) -> None:
        item = self.model.item(index)
        if isinstance(item, Light):
            if index.column() == 1:
                self.session.edit(edit.alter, "lights", item.id, on=not item.on, label="Off" if item.on else "On")
            return
        values = {1: ("visible", "Hide", "Show"), 2: ("locked", "Unlock", "Lock")}.get(index.column())
        if values is not None:
            name, when_on, when_off = values
            is_on = getattr(item, name)
            self.session.edit(edit.alter, "things", item.id, **{name: not is_on}, label=when_on if is_on else when_off)

    def _selected(self) -> None:
        if self._following:
            return
        rows = self.view.selectionModel().selectedRows()
        current = self.view.currentIndex()
        if current.isValid() and self.model.part(current) == "lights" and current in rows:
            self.session.choose("lights", self.model.item(current).id)
            self.session.go_to("light")
            return
        ids = tuple(self.model.item(index).id for index in rows if self.model.part(index) == "things")
        last = self.model.item(current).id if current.isValid() else ""
        if last in ids:
            ids = (*(i for i in ids if i != last), last)
        self.session.choose_many("things", ids)

    def _select(self, id: str) -> None:
        was, self._following = self._following, True
        chosen, main = self.view.selectionModel(), self.model.index_of(id)
        all_chosen = self.model.selection((*self.session.also.get("things", ()), id))
        above = main.parent()
        while above.isValid():
            self.view.setExpanded(above, True)
            above = above.parent()
        chosen.setCurrentIndex(main, QItemSelectionModel.SelectionFlag.NoUpdate)
        chosen.select(all_chosen, QItemSelectionModel.SelectionFlag.ClearAndSelect | _WHOLE_ROW)
        if main.isValid():
            self.view.scrollTo(main)
        self._following = was
