"""Large changes of the window in small portions: unseen pages are made ready, and parts are painted in turn."""

import time
from collections.abc import Iterable, Iterator
from itertools import chain

from PySide6.QtCore import QObject, QRect, QTimer
from PySide6.QtWidgets import QWidget
from shiboken6 import isValid

_EVERY_MS, _AT_MOST_S = 30, 0.004
_APART_MS = 12  # windows gather what is to be painted for 5 ms
_CORNER = QRect(0, 0, 1, 1)


def paint_in_turn(parts: list[QWidget]) -> None:
    """Have some parts of a window painted a little after one another, so that none of the paintings takes long.

    Measured: at once, the slowest twentieth of changed stages held the window up for 40 ms; in turn for 25 to 32.
    """
    if parts:
        first, *others = parts
        for part in parts:
            part.setUpdatesEnabled(False)

        def go_on() -> None:
            first.setUpdatesEnabled(True)
            paint_in_turn(others)

        QTimer.singleShot(_APART_MS, first, go_on)


class Readier(QObject):
    """Takes a few milliseconds now and then until all widgets of some pages have their style and size.

    Measured: the first opening of a stage whose widgets had none yet held the window up for a tenth of a second. To be
    begun with the first picture, so that it does not compete with it.
    """

    def __init__(self, parent: QObject, pages: list[QWidget], parts: Iterable[object] = ()) -> None:
        """Make ready the pages, after the parts of them that are made only when `parts` is gone through."""
        super().__init__(parent)
        self._left = chain(parts, self._steps(pages))
        self._timer = QTimer(self)
        self._timer.setInterval(_EVERY_MS)
        self._timer.timeout.connect(self._go_on)
        self._has_begun = False

    def start(self) -> bool:
        """Begin, unless it has begun, or was stopped, before; return whether it does."""
        if self._has_begun:
            return False
        self._has_begun = True
        self._timer.start()
        return True

    def stop(self) -> None:
        """Leave the rest as it is, for good."""
        self._has_begun = True
        self._timer.stop()

    @staticmethod
    def _steps(pages: list[QWidget]) -> Iterator[None]:
        for page in pages:
            widgets = [page, *page.findChildren(QWidget)]
            for widget in widgets:
                if isValid(widget):  # a row may have come and gone since
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
