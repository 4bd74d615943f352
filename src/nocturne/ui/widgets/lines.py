"""The editor of several lines of text: what is typed is shown at once, and is one step back."""

import itertools

from PySide6.QtCore import QEvent, QSignalBlocker, Signal
from PySide6.QtWidgets import QLabel, QPlainTextEdit, QVBoxLayout, QWidget

from nocturne.ui.widgets.entry import leaves_to_document

_typings = itertools.count(1)
_LINES = 3


class _Entry(QPlainTextEdit):
    left = Signal()

    def event(self, event: QEvent) -> bool:
        """Leave undo and redo to the document where the text has nothing of its own to take back."""
        text = self.document()
        if leaves_to_document(event, undo=text.isUndoAvailable(), redo=text.isRedoAvailable()):
            return False
        return super().event(event)

    def focusOutEvent(self, event) -> None:
        """Say that typing has ended."""
        super().focusOutEvent(event)
        self.left.emit()


class LinesEditor(QWidget):
    """A label over a few lines to type in; `edited` at each letter, `committed` when they are left."""

    edited = Signal(object, object)
    committed = Signal(object, object)

    def __init__(self, label: str, *, help: str = "") -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        name = QLabel(label)
        name.setObjectName("soft")
        name.setToolTip(help)
        self.entry = _Entry()
        self.entry.setTabChangesFocus(True)
        self.entry.setToolTip(help)
        self.entry.setAccessibleName(label)
        self.entry.setFixedHeight(self.entry.fontMetrics().lineSpacing() * _LINES + 14)
        self.entry.textChanged.connect(self._typed)
        self.entry.left.connect(self._left)
        self._typing: object = None
        column.addWidget(name)
        column.addWidget(self.entry)

    def show_value(self, value: str) -> None:
        """Show text without saying so; the cursor stays where it is."""
        if value == self.entry.toPlainText():
            return
        cursor = self.entry.textCursor()
        at = cursor.position()
        with QSignalBlocker(self.entry):
            self.entry.setPlainText(value)
        cursor = self.entry.textCursor()
        cursor.setPosition(min(at, len(value)))
        self.entry.setTextCursor(cursor)

    def _typed(self) -> None:
        if self._typing is None:
            self._typing = ("typing", next(_typings))
        self.edited.emit(self.entry.toPlainText(), self._typing)

    def _left(self) -> None:
        if self._typing is not None:
            merge, self._typing = self._typing, None
            self.committed.emit(self.entry.toPlainText(), merge)
