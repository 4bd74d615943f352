"""The start page over the picture: the ways to a first picture, recent projects, and what can be recovered."""

import time
from pathlib import Path

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QPushButton, QToolButton, QVBoxLayout, QWidget

from nocturne.ui.rescue import Found
from nocturne.ui.widgets.words import section, soft

_WAYS = (
    (
        "demo",
        "Open the demo project",
        "A workshop at dusk with lights, materials, cues and a grade, to try everything on",
    ),
    ("model", "Bring in a model…", "glTF, OpenUSD, OBJ, PLY or STL; it is lit at once, so that there is a picture"),
    ("open", "Open a project…", "A .nocturne file"),
    ("render", "Open a saved render…", "An EXR with light groups: mix it on the desk without its scene"),
)


class StartPage(QFrame):
    """A card in the middle of the picture; it goes when there is something to see."""

    wanted = Signal(str, object)  # what was chosen, and which

    def __init__(self, picture: QWidget) -> None:
        super().__init__(picture)
        self.setObjectName("card")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(22, 18, 22, 18)
        self.column.setSpacing(10)
        self._inside: QWidget | None = None
        picture.installEventFilter(self)
        self.hide()

    def open(self, recent: list[Path], found: list[Found]) -> None:
        """Show the page."""
        if self._inside is not None:
            self.column.removeWidget(self._inside)
            self._inside.deleteLater()
        self._inside = self._make(recent, found)
        self.column.addWidget(self._inside)
        self._place()
        self.show()
        self.raise_()

    def _make(self, recent: list[Path], found: list[Found]) -> QWidget:
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        head = QHBoxLayout()
        title = QLabel("Begin with a picture")
        title.setObjectName("title")
        head.addWidget(title, 1)
        close = QToolButton()
        close.setObjectName("plain")
        close.setText("Close")
        close.setToolTip("Close this page; Help brings it back")
        close.clicked.connect(self.hide)
        head.addWidget(close)
        column.addLayout(head)
        if found:
            column.addWidget(section("Not saved when Nocturne ended"))
            for one in found[:3]:
                column.addLayout(self._recovery(one))
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(6)
        for i, (what, words, help) in enumerate(_WAYS):
            button = QPushButton(words)
            button.setObjectName("main" if i == 0 else "")
            button.clicked.connect(lambda _=False, w=what: self.wanted.emit(w, None))
            note = soft(help)
            grid.addWidget(button, i, 0)
            grid.addWidget(note, i, 1)
        grid.setColumnMinimumWidth(0, 176)
        grid.setColumnStretch(1, 1)
        column.addLayout(grid)
        if recent:
            column.addWidget(section("Recent projects"))
            for path in recent[:5]:
                button = QPushButton(path.parent.name if path.name == "project.nocturne" else path.stem)
                button.setObjectName("link")
                button.setToolTip(str(path))
                button.clicked.connect(lambda _=False, p=path: self.wanted.emit("recent", p))
                column.addWidget(button)
        return inside

    def _recovery(self, one: Found) -> QHBoxLayout:
        row = QHBoxLayout()
        when = time.strftime("%d %b, %H:%M", time.localtime(one.written))
        where = f", from {one.path.name}" if one.path else ""
        row.addWidget(QLabel(f"“{one.document.name}” as of {when}{where}"), 1)
        for words, what, help in (
            ("Recover", "recover", "Open it as it was; save it to keep it"),
            ("Forget", "forget", "Delete this copy"),
        ):
            button = QPushButton(words)
            button.setToolTip(help)
            button.clicked.connect(lambda _=False, w=what: self.wanted.emit(w, one))
            row.addWidget(button)
        return row

    def _place(self) -> None:
        room = self.parentWidget().rect()
        width = min(560, room.width() - 40)
        self.setFixedWidth(max(width, 240))
        self.adjustSize()
        self.move((room.width() - self.width()) // 2, max((room.height() - self.height()) // 2, 8))

    def eventFilter(self, watched, event) -> bool:
        """Stay in the middle of the picture."""
        if event.type() == QEvent.Type.Resize and self.isVisible():
            self._place()
        return False
