"""The drop-down of sheets."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox


class Choice(QComboBox):
    """A drop-down that a wheel does not change by accident, and that long words do not widen."""

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(8)

    def wheelEvent(self, event) -> None:
        """Leave the wheel to the sheet."""
        event.ignore()
