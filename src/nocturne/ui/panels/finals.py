"""The final renders that are not done: where each stands, and what can be done with it."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from nocturne.rendering.unfinished import Unfinished
from nocturne.ui.finals import Final
from nocturne.ui.widgets.words import soft


class FinalList(QWidget):
    """A row for each final that is rendered, waits, was stopped, or was left by an earlier window."""

    show_wanted = Signal(object)  # a `Final`
    stop_wanted = Signal(object)
    go_on_wanted = Signal(object)  # a `Final` or an `Unfinished`
    drop_wanted = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Final renders")
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 4, 0, 4)
        self._column.setSpacing(6)
        self.rows: list[_Row] = []
        self.hide()

    def show_finals(self, queue: tuple[Final, ...], left: list[Unfinished]) -> None:
        """Show finals in the order they are rendered in, then those that were left."""
        wanted = [*queue, *left]
        if [row.final for row in self.rows] != wanted:
            for row in self.rows:
                row.setParent(None)
                row.deleteLater()
            self.rows = [_Row(self, final) for final in wanted]
            for row in self.rows:
                self._column.addWidget(row)
            self.setVisible(bool(wanted))
        for row in self.rows:
            row.follow()


class _Row(QWidget):
    def __init__(self, owner: FinalList, final: Final | Unfinished) -> None:
        super().__init__()
        self.final = final
        is_left = isinstance(final, Unfinished)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(1)
        self.name = QToolButton()
        self.name.setText(f"Final  ·  {final.document.view.name if is_left else final.name}")
        self.name.setToolTip("Its project was closed before it was done" if is_left else "Show it in the picture")
        self.name.setEnabled(not is_left)
        self.name.clicked.connect(lambda: owner.show_wanted.emit(final))
        self.state = soft("not finished" if is_left else "")
        self.stop, self.on, self.drop = (QToolButton() for _ in range(3))
        for button, words, help, signal in (
            (self.stop, "Stop", "Stop taking samples; it can go on later", owner.stop_wanted),
            (self.on, "Go on", "Go on where it was", owner.go_on_wanted),
            (self.drop, "Drop", "Give it up, and delete the samples it has", owner.drop_wanted),
        ):
            button.setText(words)
            button.setToolTip(help)
            button.clicked.connect(lambda _=False, s=signal: s.emit(final))
        row = QHBoxLayout()
        row.setSpacing(4)
        row.addWidget(self.state, 1)
        for button in (self.stop, self.on, self.drop):
            row.addWidget(button)
        column.addWidget(self.name, alignment=Qt.AlignmentFlag.AlignLeft)
        column.addLayout(row)
        self.follow()

    def follow(self) -> None:
        """Show where it stands."""
        if isinstance(self.final, Unfinished):
            self.stop.hide()
            return
        self.state.setText(self.final.words())
        self.stop.setVisible(not self.final.is_stopped)
        self.on.setVisible(self.final.is_stopped)
