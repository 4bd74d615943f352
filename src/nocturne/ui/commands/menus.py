"""The table of commands as menus and shortcuts of the window."""

from typing import Any

from PySide6.QtCore import QObject, QTimer
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QComboBox, QLineEdit, QMenu, QPlainTextEdit, QWidget

from nocturne.ui.commands import COMMANDS, MENUS, Command

_ONCE = ("picture.meter", "proof.flip")  # commands that a key held down does not repeat
_OF_TYPING = ("Delete", "Shift+A", "Shift+D", "Shift+S", "Shift+N", "Shift+X")


def fill(window: Any) -> dict[str, QAction]:
    """Return the actions of all commands by id, after putting them into the window and its menus."""
    opened = _Opened()
    opened.setParent(window)
    actions = {command.id: _action(window, command, opened) for command in COMMANDS}

    def show_what_runs() -> None:
        for command in COMMANDS:
            actions[command.id].setEnabled(command.enabled(window))

    def let_all_run() -> None:
        # Keys of a disabled action do nothing, without a word; those of an enabled one run, or say why they do not.
        for action in actions.values():
            action.setEnabled(True)

    for name in MENUS:
        menu = window.menuBar().addMenu(name)
        for command in COMMANDS:
            if command.menu == name:
                menu.addAction(actions[command.id])
        if name == "Project":
            menu.insertMenu(actions["project.demo"], _recent(window))
        menu.aboutToShow.connect(show_what_runs)
        menu.aboutToHide.connect(let_all_run)
        menu.aboutToShow.connect(opened.begin)
        menu.aboutToHide.connect(opened.end)
    return actions


def _recent(window: Any) -> QMenu:
    """Return the menu of projects that were open last."""
    menu = QMenu("Recent projects", window)

    def fill_in() -> None:
        menu.clear()
        for path in window.projects.recent():
            act = menu.addAction(f"{path.stem}   {path.parent}")
            act.triggered.connect(lambda _=False, p=path: window.projects.leave(lambda: window.projects.open(p)))
        if menu.isEmpty():
            menu.addAction("None yet").setEnabled(False)

    menu.aboutToShow.connect(fill_in)
    return menu


class _Opened(QObject):
    """Whether a menu is open, or was until just now: what is chosen from one is never meant as typing."""

    def __init__(self) -> None:
        super().__init__()
        self.is_open = False

    def begin(self) -> None:
        """Note that a menu opens."""
        self.is_open = True

    def end(self) -> None:
        """Note that it closes; what was chosen in it is told after that."""
        QTimer.singleShot(0, self, self._end)

    def _end(self) -> None:
        self.is_open = False


def _action(window: Any, command: Command, opened: _Opened) -> QAction:
    action = QAction(command.title, window)
    # As a shortcut, Escape would never reach a field in which typing is to be given up; the window hears it as a key.
    if command.keys and command.keys != "Escape":
        action.setShortcut(QKeySequence(command.keys))
    if command.help:
        action.setToolTip(command.help)
    action.setAutoRepeat(command.id not in _ONCE)
    action.triggered.connect(lambda: (window.do_command if opened.is_open else window.run_command)(command))
    window.addAction(action)
    return action


def means_typing(command: Command, focused: QWidget | None) -> bool:
    """Return True if a command's keys are meant for the text field or list of choices that has the keyboard."""
    is_plain = len(command.keys) == 1 or command.keys in _OF_TYPING
    if isinstance(focused, QComboBox) and focused.view().isVisible():
        return is_plain  # an open list of choices is searched by the letters typed in it
    return is_plain and isinstance(focused, (QLineEdit, QPlainTextEdit))
