"""A strip over the picture that offers what is shown in it: take it, or leave it."""

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QWidget

_UP = 18  # pixels from the picture's foot


class Offer(QFrame):
    """Words and two buttons at the foot of a widget, hidden until something is offered. Escape leaves it."""

    taken = Signal()
    left = Signal()

    def __init__(self, over: QWidget) -> None:
        super().__init__(over)
        self.setObjectName("offer")
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 8, 8, 8)
        row.setSpacing(8)
        self.words = QLabel()
        self.take, self.leave = QPushButton(), QPushButton("Leave it")
        self.take.setObjectName("main")
        row.addWidget(self.words)
        row.addSpacing(10)
        row.addWidget(self.leave)
        row.addWidget(self.take)
        self.take.clicked.connect(self.taken)
        self.leave.clicked.connect(self.left)
        over.installEventFilter(self)
        self.hide()

    def show_words(self, words: str, take: str) -> None:
        """Offer something in these words."""
        self.words.setText(words)
        self.take.setText(take)
        self.adjustSize()
        self._settle()
        self.show()
        self.raise_()
        self.take.setFocus(Qt.FocusReason.OtherFocusReason)

    def keyPressEvent(self, event) -> None:
        """Leave it on Escape."""
        if event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        else:
            super().keyPressEvent(event)

    def eventFilter(self, watched, event) -> bool:
        """Stay at the foot of what it lies over."""
        if event.type() == QEvent.Type.Resize:
            self._settle()
        return super().eventFilter(watched, event)

    def _settle(self) -> None:
        over = self.parentWidget()
        self.move((over.width() - self.width()) // 2, over.height() - self.height() - _UP)
