"""Picking a colour from anywhere on the screen."""

from PySide6.QtCore import QPoint, QRect, Qt, Signal
from PySide6.QtGui import QColor, QCursor, QGuiApplication, QPainter, QPen, QPixmap, QScreen
from PySide6.QtWidgets import QWidget

from nocturne.ui.theme import tokens as t

_LENS, _TIMES = 9, 9  # pixels across under the lens, and how much larger they are shown


def taken(screen: QScreen) -> QPixmap:
    """Return what a screen shows; nothing where the desktop does not let a program see it. Tests replace this."""
    return screen.grabWindow(0)


class ScreenPick(QWidget):
    """One screen as it stood, over itself: a click takes the colour under the pointer, Escape leaves it."""

    picked = Signal(QColor)
    left = Signal()

    def __init__(self, screen: QScreen, shown: QPixmap) -> None:
        super().__init__(None, Qt.WindowType.FramelessWindowHint | Qt.WindowType.WindowStaysOnTopHint)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setGeometry(screen.geometry())
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setMouseTracking(True)
        self.setAccessibleName("Pick a colour from the screen")
        self._shown, self._image = shown, shown.toImage()
        self._at = self.mapFromGlobal(QCursor.pos())

    def colour_at(self, at: QPoint) -> QColor:
        """Return the colour that the screen had at a point of it."""
        scale = self._image.width() / max(self.width(), 1)
        x, y = (
            min(max(int(v * scale), 0), n - 1)
            for v, n in zip((at.x(), at.y()), (self._image.width(), self._image.height()))
        )
        return self._image.pixelColor(x, y)

    def paintEvent(self, event) -> None:
        """Draw the screen as it stood, and what is under the pointer, larger."""
        with QPainter(self) as painter:
            painter.drawPixmap(self.rect(), self._shown)
            side = _LENS * _TIMES
            left = self._at.x() + 18 if self._at.x() + side + 30 < self.width() else self._at.x() - side - 18
            top = self._at.y() + 18 if self._at.y() + side + 30 < self.height() else self._at.y() - side - 18
            half = _LENS // 2
            for row in range(_LENS):
                for column in range(_LENS):
                    colour = self.colour_at(self._at + QPoint(column - half, row - half))
                    painter.fillRect(QRect(left + column * _TIMES, top + row * _TIMES, _TIMES, _TIMES), colour)
            painter.setPen(QPen(QColor(t.LINE), 1))
            painter.drawRect(left, top, side, side)
            painter.setPen(QPen(QColor(t.MOON), 1))
            painter.drawRect(left + half * _TIMES, top + half * _TIMES, _TIMES, _TIMES)

    def mouseMoveEvent(self, event) -> None:
        """Follow the pointer."""
        self._at = event.position().toPoint()
        self.update()

    def mousePressEvent(self, event) -> None:
        """Take the colour under the pointer; the other button leaves it."""
        if event.button() == Qt.MouseButton.LeftButton:
            self.picked.emit(self.colour_at(event.position().toPoint()))
        else:
            self.left.emit()

    def keyPressEvent(self, event) -> None:
        """Leave it by Escape."""
        if event.key() == Qt.Key.Key_Escape:
            self.left.emit()


def pick(take) -> list[ScreenPick]:
    """Cover every screen with itself until a colour is picked; none are covered where no screen may be seen.

    take: called with the `QColor`.
    """
    covers: list[ScreenPick] = []

    def end(colour: QColor | None) -> None:
        while covers:
            covers.pop().close()
        if colour is not None:
            take(colour)

    for screen in QGuiApplication.screens():
        shown = taken(screen)
        if not shown.isNull():
            cover = ScreenPick(screen, shown)
            cover.picked.connect(end)
            cover.left.connect(lambda: end(None))
            covers.append(cover)
    for cover in covers:
        cover.show()
        cover.raise_()
        cover.activateWindow()
    return covers
