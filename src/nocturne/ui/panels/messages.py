"""What was said: a sentence that the state line has no room for, whole above it, and the last ones on demand."""

from collections import deque

from PySide6.QtCore import QEvent, QPoint, Qt, QTime, QTimer
from PySide6.QtWidgets import QFrame, QLabel, QScrollArea, QVBoxLayout, QWidget

_KEPT = 20
_WIDEST = 560
_LEAST_MS, _MS_A_LETTER = 4000, 60  # time to notice, and to read


class Messages(QFrame):
    """Floats above the state line: one sentence for as long as it takes to read, or the last twenty until closed."""

    def __init__(self, line: QWidget) -> None:
        """line: the state line, above whose right end it floats."""
        super().__init__(line.window())
        self.setObjectName("messages")
        self.setFrameShape(QFrame.Shape.StyledPanel)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.kept: deque[tuple[QTime, str, bool]] = deque(maxlen=_KEPT)
        self._line = line
        self._lists = False
        self._words = QLabel()
        self._words.setWordWrap(True)
        self._words.setTextFormat(Qt.TextFormat.PlainText)
        self._words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self._area = QScrollArea()
        self._area.setFrameShape(QFrame.Shape.NoFrame)
        self._area.setWidgetResizable(True)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._area.setWidget(self._words)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 8)
        column.addWidget(self._area)
        self._until = QTimer(self)
        self._until.setSingleShot(True)
        self._until.timeout.connect(self.hide)
        line.installEventFilter(self)
        self.hide()

    def say(self, text: str, wrong: bool, *, is_cut: bool) -> None:
        """Keep a sentence, and show it whole if it is cut in the line; what is wrong is over the picture."""
        if text:
            self.kept.append((QTime.currentTime(), text, wrong))
        if self._lists and self.isVisible():
            self._show_list()
        elif is_cut and text and not wrong:
            self._lists = False
            self._fit(text)
            self._until.start(_LEAST_MS + _MS_A_LETTER * len(text))
        else:
            self.hide()

    def toggle(self) -> None:
        """Show the last sentences, the newest last, or hide them."""
        if self._lists and self.isVisible():
            self.hide()
        else:
            self._until.stop()
            self._lists = True
            self._show_list()

    def words(self) -> str:
        """Return what is shown."""
        return self._words.text()

    def mousePressEvent(self, event) -> None:
        """Go away at a click."""
        self.hide()

    def eventFilter(self, watched, event) -> bool:
        """Stay above the line."""
        if event.type() in (QEvent.Type.Resize, QEvent.Type.Move) and self.isVisible():
            self._place()
        return False

    def _show_list(self) -> None:
        rows = [f"{at.toString('HH:mm')}   {'▲ ' if wrong else ''}{text}" for at, text, wrong in self.kept]
        self._fit("\n\n".join(rows) or "Nothing was said yet.")
        bar = self._area.verticalScrollBar()
        bar.setValue(bar.maximum())

    def _fit(self, text: str) -> None:
        self._words.setText(text)
        metrics = self._words.fontMetrics()
        widest = min(_WIDEST, self._line.width() - 24)
        across = min(max(metrics.horizontalAdvance(row) for row in text.split("\n")) + 40, widest)
        down = self._words.heightForWidth(across - 30) + 22
        self.resize(across, min(down, max(self.window().height() * 2 // 3, 60)))
        self._place()
        self.show()
        self.raise_()

    def _place(self) -> None:
        corner = self._line.mapTo(self.window(), QPoint(self._line.width() - self.width() - 8, 0))
        self.move(max(corner.x(), 0), max(corner.y() - self.height() - 4, 0))
