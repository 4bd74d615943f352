"""The choice of a face to letter with: those that ship, then those installed on this machine."""

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtWidgets import QComboBox

from nocturne.lettering import faces


class FaceChoice(QComboBox):
    """A drop-down of faces; `committed` with the word or the name that the document keeps."""

    committed = Signal(object, object)

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(8)
        self.activated.connect(lambda k: self.itemData(k) and self.committed.emit(self.itemData(k), None))
        self._fill("sans")

    def wheelEvent(self, event) -> None:
        """Leave the wheel to the sheet."""
        event.ignore()

    def showPopup(self) -> None:
        """Offer what is installed by now."""
        self._fill(self.currentData())
        super().showPopup()

    def show_value(self, value: str) -> None:
        """Show a face without saying so, also one that is not there."""
        self._fill(value)

    def _fill(self, chosen: str) -> None:
        offered = list(faces.SHIPPED.items())
        if faces.are_read():
            offered += [(name, name) for name in faces.installed()]
        if chosen not in dict(offered):
            offered.append((chosen, f"{chosen} (not installed here)" if faces.are_read() else chosen))
        with QSignalBlocker(self):
            if [(self.itemData(k), self.itemText(k)) for k in range(self.count())] != offered:
                self.clear()
                for name, label in offered:
                    self.addItem(label, name)
            self.setCurrentIndex(self.findData(chosen))
