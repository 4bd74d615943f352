"""Lines to type in, and the one that is half typed: a value that counts only once the typing is finished.

Whatever alters, saves, renders or closes, and whatever changes what is selected, finishes the typing first (`finish`);
undo gives it up (`give_up`). So a value reaches what it was typed for, and nothing goes by without it.
"""

import weakref

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import QApplication, QLineEdit, QWidget
from shiboken6 import isValid

GIVES_UP = "gives-up-typing"  # a property of buttons that take back, and so do not finish what is being typed
_half_typed: "weakref.ref[Entry] | None" = None


class Entry(QLineEdit):
    """A line whose value is taken at Enter, or when it is left. It says `editingFinished` or `given_up`.

    Whoever takes the value sets `setModified(False)`, or the property "wrong" if it makes no sense.
    """

    given_up = Signal()

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(text, parent)
        self._before = text
        self.textChanged.connect(self._note)
        self.textEdited.connect(lambda _: _begin(self))

    def _note(self, text: str) -> None:
        if not self.isModified():
            self._before = text

    def finish(self) -> bool:
        """Take what is typed; return False if it makes no sense."""
        if self.isModified():
            self.editingFinished.emit()
        if self.property("wrong"):
            return False
        self.setModified(False)
        return True

    def give_up(self) -> None:
        """Show again what was there before."""
        self.setText(self._before)
        self.setModified(False)
        self.given_up.emit()

    def event(self, event: QEvent) -> bool:
        """Leave undo and redo to the document where the line has nothing of its own to take back."""
        if leaves_to_document(event, undo=self.isUndoAvailable(), redo=self.isRedoAvailable()):
            return False
        return super().event(event)

    def keyPressEvent(self, event) -> None:
        """Give up with Escape."""
        if event.key() == Qt.Key.Key_Escape and self.isModified():
            self.give_up()
        else:
            super().keyPressEvent(event)


class Filter(QLineEdit):
    """A line that acts at each letter: there is nothing to finish."""

    def event(self, event: QEvent) -> bool:
        """As an entry."""
        if leaves_to_document(event, undo=self.isUndoAvailable(), redo=self.isRedoAvailable()):
            return False
        return super().event(event)


def leaves_to_document(event: QEvent, *, undo: bool, redo: bool) -> bool:
    """Return True for the keys of undo or redo, and let them pass, where a text has nothing of its own to take back."""
    if event.type() != QEvent.Type.ShortcutOverride:
        return False
    is_undo, is_redo = (event.matches(key) for key in (QKeySequence.StandardKey.Undo, QKeySequence.StandardKey.Redo))
    passes = (is_undo and not undo) or (is_redo and not redo)
    if passes:
        event.ignore()
    return passes


class _Watch(QObject):
    """Finishes the typing when the mouse is pressed elsewhere: not everything that is clicked takes the keyboard."""

    def eventFilter(self, watched, event) -> bool:
        """Look at presses only."""
        if event.type() == QEvent.Type.MouseButtonPress and isinstance(watched, QWidget):
            entry = half_typed()
            if entry is not None and watched is not entry and not watched.property(GIVES_UP):
                finish()
        return False


_watch = _Watch()


def _begin(entry: Entry) -> None:
    global _half_typed
    other = half_typed()
    if other is entry:
        return
    if other is not None:
        finish()
    _half_typed = weakref.ref(entry)
    QApplication.instance().installEventFilter(_watch)


def half_typed() -> Entry | None:
    """Return the line in which a value is half typed, None if there is none."""
    entry = _half_typed() if _half_typed is not None else None
    if entry is None or not isValid(entry) or not entry.isModified():
        _forget()
        return None
    return entry


def _forget() -> None:
    global _half_typed
    if _half_typed is not None:
        _half_typed = None
        QApplication.instance().removeEventFilter(_watch)


def finish() -> str:
    """Take what is half typed; return "", or a sentence that says why it cannot be taken: it stays as it is."""
    entry = half_typed()
    if entry is None or entry.finish():
        _forget()
        return ""
    name = entry.accessibleName() or "The field"
    return f"{name}: “{entry.text()}” cannot be taken. {entry.toolTip()} Mend it, or press Escape in it."


def give_up() -> bool:
    """Show again what was there before the typing; return False if nothing was half typed."""
    entry = half_typed()
    if entry is None:
        return False
    entry.give_up()
    _forget()
    return True
