"""Moving the edge between two pictures that are compared."""

from PySide6.QtCore import QPointF, Qt

from nocturne.ui.view.hands.hand import Hand, Touch

_REACH = 10  # pixels beside the edge that still take it


class Wiping(Hand):
    """Holds the edge of a wipe."""

    def _is_over(self, at: QPointF) -> bool:
        if self.view.compare != "wipe":
            return False
        clip = self.view.rects()[1][0]
        return abs(at.x() - (clip.left() + self.view.wipe * clip.width())) < _REACH

    def press(self, touch: Touch) -> bool:
        """Take the edge."""
        return touch.is_left and self._is_over(touch.at)

    def move(self, touch: Touch) -> None:
        """Move the edge."""
        clip = self.view.rects()[1][0]
        self.view.wipe = min(max((touch.at.x() - clip.left()) / clip.width(), 0.0), 1.0)
        self.view.update()

    def hover(self, at: QPointF) -> Qt.CursorShape | None:
        """Say where the edge can be taken."""
        return Qt.CursorShape.SizeHorCursor if self._is_over(at) else None
