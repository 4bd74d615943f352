"""Drawing a box: around things to choose, or over the part of the picture that is rendered first."""

from PySide6.QtCore import QPointF, QRectF

from nocturne.ui.view import reading
from nocturne.ui.view.hands.hand import CLICK, Hand, Touch

_LEAST = 0.005  # of the picture: what is smaller was a click


class Boxing(Hand):
    """Draws a box while the mode is "box" or "region"."""

    def __init__(self, view) -> None:
        super().__init__(view)
        self._start: QPointF | None = None
        self._last = QPointF()

    def press(self, touch: Touch) -> bool:
        """Begin a box."""
        if not touch.is_left or self.view.mode not in ("box", "region"):
            return False
        self._start = self._last = touch.at
        return True

    def move(self, touch: Touch) -> None:
        """Draw it larger."""
        if self._start is not None:
            self._last = touch.at
            self.view.update()

    def drawn(self) -> QRectF | None:
        """Return the box as it is drawn, None if there is none."""
        if self._start is None or (self._last - self._start).manhattanLength() < CLICK:
            return None
        return QRectF(self._start, self._last).normalized()

    def release(self, touch: Touch) -> None:
        """Say what is in the box, or which part of the picture it is."""
        view, mode, box = self.view, self.view.mode, self.drawn()
        self._start = None
        if mode not in ("box", "region"):
            return
        view.set_mode("choose")
        corners = self._corners(box) if box is not None else (0.0, 0.0, 0.0, 0.0)
        if mode == "region":
            is_real = corners[2] - corners[0] > _LEAST and corners[3] - corners[1] > _LEAST
            view.region_drawn.emit(corners if is_real else None)
        elif box is not None:
            view.boxed.emit(reading.things_in(view.print, corners))

    def _corners(self, box: QRectF) -> tuple[float, float, float, float]:
        rect = self.view.image_rect()
        across = ((x - rect.left()) / rect.width() for x in (box.left(), box.right()))
        down = ((y - rect.top()) / rect.height() for y in (box.top(), box.bottom()))
        (u0, u1), (v0, v1) = (tuple(min(max(x, 0.0), 1.0) for x in pair) for pair in (across, down))
        return u0, v0, u1, v1

    def let_go(self) -> None:
        """Leave no box."""
        self._start = None
