"""A heading over a group of fields that folds them away."""

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QPushButton, QSizePolicy

from nocturne.ui import theme

_THEME = Path(theme.__file__).parent


class Fold(QPushButton):
    """A heading with an arrow: a click shows or hides what is under it. It tells if nothing under it counts."""

    def __init__(self, words: str) -> None:
        super().__init__()
        self.words = words
        self._is_idle = False
        self._icons = {on: QIcon(str(_THEME / name)) for on, name in ((True, "caret.svg"), (False, "caret-right.svg"))}
        self.setObjectName("fold")
        self.setCheckable(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(words)
        self.toggled.connect(lambda _: self._tell())
        self._tell()

    def show_idle(self, is_idle: bool) -> None:
        """Say whether nothing under it has an effect."""
        self._is_idle = is_idle
        self._tell()

    def _tell(self) -> None:
        is_open = self.isChecked()
        self.setIcon(self._icons[is_open])
        self.setText(self.words + (": none" if self._is_idle and not is_open else ""))
        self.setToolTip("Hide these fields" if is_open else "Show these fields")
