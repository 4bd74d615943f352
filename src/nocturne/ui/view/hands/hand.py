"""What every way of using the picture has: what it does when it is pressed, moved and let go."""

import itertools
from dataclasses import dataclass

from PySide6.QtCore import QPointF, Qt

CLICK = 4  # pixels: what is moved less was a click
drags = itertools.count(1)  # numbers of drags, each of which is one step back


@dataclass(frozen=True, slots=True)
class Touch:
    """Where the mouse is, which button changed, which keys are held."""

    at: QPointF
    button: Qt.MouseButton
    keys: Qt.KeyboardModifier

    @property
    def has_shift(self) -> bool:
        """Return True with Shift."""
        return bool(self.keys & Qt.KeyboardModifier.ShiftModifier)

    @property
    def has_ctrl(self) -> bool:
        """Return True with Ctrl."""
        return bool(self.keys & Qt.KeyboardModifier.ControlModifier)

    @property
    def has_alt(self) -> bool:
        """Return True with Alt."""
        return bool(self.keys & Qt.KeyboardModifier.AltModifier)

    @property
    def is_left(self) -> bool:
        """Return True if it is about the left button."""
        return self.button == Qt.MouseButton.LeftButton


class Hand:
    """One way of using the picture. The first hand that takes a press has the mouse until it is let go."""

    def __init__(self, view) -> None:
        """Work over a `PictureView`."""
        self.view = view

    def press(self, touch: Touch) -> bool:
        """Take a press, or leave it to the next hand (False)."""
        raise NotImplementedError

    def move(self, touch: Touch) -> None:
        """Follow the mouse while it is held."""

    def release(self, touch: Touch) -> None:
        """End what was begun."""

    def hover(self, at: QPointF) -> Qt.CursorShape | None:
        """Follow the mouse while nothing is held; return the cursor that says what a press would do, or None."""

    def let_go(self) -> None:
        """Give up what was begun, as if it had not been."""
