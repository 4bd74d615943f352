"""The table of commands as menus and shortcuts of the window."""

from typing import Any

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QLineEdit, QPlainTextEdit, QWidget

from nocturne.ui.commands import COMMANDS, MENUS, Command

_ONCE = ("picture.meter", "proof.flip")  # commands that a key held down does not repeat
_OF_TYPING = ("Delete", "Shift+A", "Shift+D", "Shift+S", "Shift+N", "Shift+X")


def fill(window: Any) -> dict[str, QAction]:
    """Return the actions of all commands by id, after putting them into the window and its menus."""
    actions = {command.id: _action(window, command) for command in COMMANDS}

    def refresh() -> None:
        for command in COMMANDS:
            actions[command.id].setEnabled(command.enabled(window))

    for name in MENUS:
        menu = window.menuBar().addMenu(name)
        for command in COMMANDS:
            if command.menu == name:
                menu.addAction(actions[command.id])
        menu.aboutToShow.connect(refresh)
    return actions


def _action(window: Any, command: Command) -> QAction:
    action = QAction(command.title, window)
    # As a shortcut, Escape would never reach a field in which typing is to be given up; the window hears it as a key.
    if command.keys and command.keys != "Escape":
        action.setShortcut(QKeySequence(command.keys))
    if command.help:
        action.setToolTip(command.help)
    action.setAutoRepeat(command.id not in _ONCE)
    action.triggered.connect(lambda: window.run_command(command))
    window.addAction(action)
    return action


def means_typing(command: Command, focused: QWidget | None) -> bool:
    """Return True if a command's keys are meant for the text field that has the keyboard."""
    is_plain = len(command.keys) == 1 or command.keys in _OF_TYPING
    return is_plain and isinstance(focused, (QLineEdit, QPlainTextEdit))
