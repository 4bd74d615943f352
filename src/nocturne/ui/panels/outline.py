"""The set's outline: things in their groups. Rows are asked for as they are seen, so that ten thousand cost no more."""

from PySide6.QtCore import QAbstractItemModel, QItemSelection, QItemSelectionModel, QModelIndex, Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTreeView

from nocturne.scene import edit
from nocturne.scene.document import Document
from nocturne.scene.parts import differing
from nocturne.scene.thing import Thing
from nocturne.ui.panels.lists import ListPanel
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.style import icon

_FAINT = "#7d7d7d"
_WHOLE_ROW = QItemSelectionModel.SelectionFlag.Rows


class OutlineModel(QAbstractItemModel):
    """Things as a tree: the first column names them, the second shows and hides them."""

    def __init__(self) -> None:
        super().__init__()
        self.things: tuple[Thing, ...] = ()
        self._number: dict[str, int] = {}  # of a thing in `things`, by id
        self._members: dict[int, list[int]] = {-1: []}  # by the number of a group, -1 for the top
        self._row: list[int] = []
        self._above: list[int] = []

    def show(self, things: tuple[Thing, ...]) -> bool:
        """Take things; return False if they stand in the tree as before, and only rows that changed are told of."""
        old, which = self.things, differing(self.things, things)
        pairs = [(old[i], things[i]) for i in which or ()]
        if which is not None and all((a.id, a.parent) == (b.id, b.parent) for a, b in pairs):
            self.things = things
            for a, b in pairs:
                if (a.name, a.visible) != (b.name, b.visible):
                    self.dataChanged.emit(self.index_of(b.id), self.index_of(b.id, 1))
            return False
        self.beginResetModel()
        self.things = things
        self._number = {thing.id: i for i, thing in enumerate(things)}
        self._above = [self._number.get(thing.parent, -1) for thing in things]
        self._cut_loops()
        self._members, self._row = {-1: []}, []
        for i, above in enumerate(self._above):
            row = self._members.setdefault(above, [])
            self._row.append(len(row))
            row.append(i)
        self.endResetModel()
        return True

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

    def thing(self, index: QModelIndex) -> Thing:
        """Return the thing of a row."""
        return self.things[index.internalId()]

    def index_of(self, id: str, column: int = 0) -> QModelIndex:
        """Return where a thing stands, an invalid index if it does not."""
        i = self._number.get(id)
        return QModelIndex() if i is None else self.createIndex(self._row[i], column, i)

    def selection(self, ids: tuple[str, ...]) -> QItemSelection:
        """Return the rows of some things, neighbours together: each range costs Qt a walk through all others."""
        rows: dict[int, list[int]] = {}
        for i in {self._number[id] for id in ids if id in self._number}:
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
        """Return two: name, and shown or hidden."""
        return 2

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole):
        """Return what a cell shows."""
        if not index.isValid():
            return None
        thing, is_name = self.thing(index), index.column() == 0
        if role == Qt.ItemDataRole.DisplayRole:
            return thing.name if is_name else None
        if role == Qt.ItemDataRole.DecorationRole:
            if is_name:
                return icon("thing" if thing.has_shape else "group", t.INK_SOFT)
            return icon("eye", t.INK_SOFT) if thing.visible else icon("hidden", _FAINT)
        if role == Qt.ItemDataRole.ForegroundRole and not thing.visible:
            return QColor(_FAINT)
        if role == Qt.ItemDataRole.ToolTipRole and not is_name:
            return "Shown in the picture; click hides it" if thing.visible else "Hidden; click shows it"
        if role == Qt.ItemDataRole.AccessibleTextRole and not is_name:
            return "shown" if thing.visible else "hidden"
        return None


class Outline(ListPanel):
    """The set: things in their groups, shown or hidden."""

    def _make_view(self) -> QTreeView:
        self.model = OutlineModel()
        self._following = False  # while the choice is shown, not made
        view = QTreeView()
        view.setModel(self.model)
        view.setHeaderHidden(True)
        view.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        view.setUniformRowHeights(True)
        view.setIndentation(14)
        header = view.header()
        header.setStretchLastSection(False)
        header.setMinimumSectionSize(24)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.Fixed)
        header.resizeSection(1, 26)
        view.selectionModel().selectionChanged.connect(self._selected)
        view.clicked.connect(self._clicked)
        return view

    def show_document(self, document: Document) -> None:
        """Show the things, keeping which groups are open and what is chosen."""
        if document.things is self._items:
            return
        self._items = document.things
        self.empty.setVisible(not document.things)
        open_before = [id for id in self._groups() if self.view.isExpanded(self.model.index_of(id))]
        self._following = True
        if self.model.show(document.things):
            for id in open_before:
                self.view.setExpanded(self.model.index_of(id), True)
            self._select(self.current(document))
        self._following = False

    def _groups(self) -> list[str]:
        return [self.model.things[i].id for i in self.model._members if i >= 0]

    def _clicked(self, index: QModelIndex) -> None:
        if index.column() == 1:
            thing = self.model.thing(index)
            self.session.edit(
                edit.alter, "things", thing.id, visible=not thing.visible, label="Hide" if thing.visible else "Show"
            )

    def _selected(self) -> None:
        if self._following:
            return
        ids = tuple(self.model.thing(index).id for index in self.view.selectionModel().selectedRows())
        current = self.view.currentIndex()
        last = self.model.thing(current).id if current.isValid() else ""
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
