"""Cards that come up over the window and go at Escape or a click elsewhere: command list, history, keys."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from nocturne.scene.history import History
from nocturne.ui.commands import COMMANDS, MENUS, Command
from nocturne.ui.widgets.entry import Filter

_ROW = Qt.ItemDataRole.UserRole
# What the mouse does in the picture, for the help sheet.
MOUSE = (
    ("Left drag", "Orbit about the clicked point"),
    ("Middle or Shift drag", "Move sideways"),
    ("Wheel or right drag", "Go nearer or further"),
    ("Click", "Choose a thing or a light"),
    ("Ctrl click", "Choose one more, or one less"),
    ("Alt click", "Choose all of the same material"),
    ("Ctrl wheel", "Zoom the picture; middle drag moves it"),
    ("Arrows, Shift or Alt arrows", "Orbit, move, look around"),
    ("Drag a field's label", "Change it; Shift fine, Ctrl coarse, double-click default"),
)


class Card(QFrame):
    """A small frame over the window; it is gone for good when it closes, unless `stays`."""

    def __init__(self, parent: QWidget, title: str, width: int, height: int, *, stays: bool = False) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose, not stays)
        self.setObjectName("card")
        self.setFixedSize(width, height)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(14, 12, 14, 12)
        self.column.setSpacing(8)
        heading = QLabel(title)
        heading.setObjectName("heading")
        self.column.addWidget(heading)

    def open(self) -> None:
        """Show the card in the upper middle of its window."""
        window = self.parentWidget()
        at = window.mapToGlobal(window.rect().topLeft())
        self.move(
            at.x() + (window.width() - self.width()) // 2, at.y() + max((window.height() - self.height()) // 4, 40)
        )
        self.show()


class CommandList(Card):
    """Every command, found by any part of its words; Enter does it."""

    def __init__(self, window) -> None:
        super().__init__(window, "Find a command", 460, 420, stays=True)
        self.window_ = window
        self.words = Filter()
        self.words.setPlaceholderText("Type what you want to do")
        self.words.setAccessibleName("Find a command")
        self.list = QListWidget()
        self.list.setAccessibleName("Commands")
        self.column.addWidget(self.words)
        self.column.addWidget(self.list, 1)
        self.words.textChanged.connect(self._fill)
        self.words.returnPressed.connect(self._run)
        self.words.installEventFilter(self)
        self.list.itemActivated.connect(lambda _: self._run())
        self.list.itemClicked.connect(lambda _: self._run())
        self._fill("")

    def open(self) -> None:
        """Show the list, empty of words."""
        self.words.clear()
        self._fill("")
        super().open()
        self.words.setFocus()

    def _fill(self, text: str) -> None:
        words = text.casefold().split()
        self.list.clear()
        for command in COMMANDS:
            said = f"{command.title} {command.menu} {command.help}".casefold()
            if all(word in said for word in words):
                keys = f"    {command.keys}" if command.keys else ""
                row = QListWidgetItem(f"{command.title}{keys}")
                row.setToolTip(command.help or f"{command.menu} menu")
                row.setData(_ROW, command)
                if not command.enabled(self.window_):
                    row.setFlags(row.flags() & ~Qt.ItemFlag.ItemIsEnabled)
                self.list.addItem(row)
        if self.list.count():
            self.list.setCurrentRow(0)

    def _run(self) -> None:
        row = self.list.currentItem()
        if row is not None and row.flags() & Qt.ItemFlag.ItemIsEnabled:
            command: Command = row.data(_ROW)
            self.hide()
            self.window_.do_command(command)

    def eventFilter(self, watched, event) -> bool:
        """Move the choice by the arrow keys while typing."""
        if event.type() == event.Type.KeyPress and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            step = 1 if event.key() == Qt.Key.Key_Down else -1
            n = self.list.count()
            if n:
                self.list.setCurrentRow(min(max(self.list.currentRow() + step, 0), n - 1))
            return True
        return super().eventFilter(watched, event)


class HistoryCard(Card):
    """The steps of this session, the newest first; a click goes to one."""

    def __init__(self, parent: QWidget, history: History, go: Callable[[int], None]) -> None:
        super().__init__(parent, "History", 340, 420)
        self.go = go
        self.list = QListWidget()
        self.list.setAccessibleName("Steps, the newest first")
        self.column.addWidget(self.list, 1)
        note = QLabel("Steps above the marked one are undone; they stay until you change something.")
        note.setObjectName("soft")
        note.setWordWrap(True)
        self.column.addWidget(note)
        for i in range(len(history.steps) - 1, -1, -1):
            step = history.steps[i]
            saved = "   · saved" if step.document is history.saved else ""
            row = QListWidgetItem(f"{step.label}{saved}")
            row.setData(_ROW, i)
            self.list.addItem(row)
            if i == history.at:
                self.list.setCurrentItem(row)
        self.list.itemClicked.connect(self._go)
        self.list.itemActivated.connect(self._go)
        self.list.setFocus()

    def _go(self, row: QListWidgetItem) -> None:
        step = row.data(_ROW)
        self.close()
        self.go(step)


class FactsCard(Card):
    """A few facts, a line each."""

    def __init__(self, parent: QWidget, title: str, rows: list[tuple[str, str]]) -> None:
        super().__init__(parent, title, 420, 70 + 26 * len(rows))
        grid = QGridLayout()
        grid.setColumnStretch(1, 1)
        grid.setHorizontalSpacing(16)
        for i, (heading, words) in enumerate(rows):
            label = QLabel(heading)
            label.setObjectName("soft")
            fact = QLabel(words)
            fact.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            grid.addWidget(label, i, 0)
            grid.addWidget(fact, i, 1)
        self.column.addLayout(grid)
        self.column.addStretch(1)


class KeysCard(Card):
    """The help sheet: what the mouse does, and every key."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent, "Keys and mouse", 720, 600)
        inside = QWidget()
        inside.setObjectName("panel")
        grid = QGridLayout(inside)
        grid.setHorizontalSpacing(26)
        columns = [QVBoxLayout(), QVBoxLayout()]
        blocks = [("Mouse", MOUSE)]
        for menu in MENUS:
            rows = tuple((c.keys, c.title) for c in COMMANDS if c.menu == menu and c.keys)
            if rows:
                blocks.append((menu, rows))
        heights = [0, 0]
        for title, rows in blocks:
            side = heights.index(min(heights))
            heights[side] += len(rows) + 2
            columns[side].addLayout(_block(title, rows))
        for i, column in enumerate(columns):
            column.addStretch(1)
            grid.addLayout(column, 0, i)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setWidget(inside)
        self.column.addWidget(area, 1)


def _block(title: str, rows: tuple[tuple[str, str], ...]) -> QGridLayout:
    grid = QGridLayout()
    grid.setVerticalSpacing(3)
    grid.setHorizontalSpacing(12)
    heading = QLabel(title)
    heading.setObjectName("section")
    grid.addWidget(heading, 0, 0, 1, 2)
    for i, (keys, words) in enumerate(rows, 1):
        key = QLabel(keys)
        key.setObjectName("key")
        what = QLabel(words)
        what.setWordWrap(True)
        grid.addWidget(key, i, 0, Qt.AlignmentFlag.AlignTop)
        grid.addWidget(what, i, 1)
    grid.setColumnStretch(1, 1)
    return grid
