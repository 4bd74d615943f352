"""Pages that are not seen yet are dressed and laid out a little at a time, so that opening one later is quick."""

import time
from collections.abc import Iterator

from PySide6.QtCore import QObject, QRect, QTimer
from PySide6.QtWidgets import QWidget

_EVERY_MS, _AT_MOST_S = 30, 0.004
_CORNER = QRect(0, 0, 1, 1)


class Readier(QObject):
    """Takes a few milliseconds now and then until all widgets of some pages have their style and size.

    Measured: the first opening of a stage whose widgets had none yet held the window up for a tenth of a second.
    """

    def __init__(self, parent: QObject, pages: list[QWidget]) -> None:
        super().__init__(parent)
        self._left = self._steps(pages)
        self._timer = QTimer(self)
        self._timer.setInterval(_EVERY_MS)
        self._timer.timeout.connect(self._go_on)

    def start(self) -> None:
        """Begin."""
        self._timer.start()

    def stop(self) -> None:
        """Leave the rest as it is."""
        self._timer.stop()

    @staticmethod
    def _steps(pages: list[QWidget]) -> Iterator[None]:
        for page in pages:
            widgets = [page, *page.findChildren(QWidget)]
            for widget in widgets:
                widget.ensurePolished()
                yield
            page.resize(page.parentWidget().size())
            page.grab(_CORNER)  # lays out all of it, and paints next to nothing
            yield

    def _go_on(self) -> None:
        end = time.perf_counter() + _AT_MOST_S
        for _ in self._left:
            if time.perf_counter() > end:
                return
        self._timer.stop()
