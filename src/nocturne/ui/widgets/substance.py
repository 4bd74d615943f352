"""The choice of a measured clear substance, which sets index and dispersion."""

from PySide6.QtCore import QSignalBlocker, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from nocturne.colour.clears import clears
from nocturne.scene.materials import Material
from nocturne.scene.mediaorder import substance
from nocturne.ui.widgets.choice import Choice
from nocturne.ui.widgets.words import soft

_OWN = "Own numbers"


class SubstanceChoice(QWidget):
    """Named liquids, glasses, plastics and crystals; shows which one the material's numbers are."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        line = QHBoxLayout()
        line.setSpacing(6)
        label = QLabel("As measured")
        label.setObjectName("soft")
        label.setFixedWidth(104)
        line.addWidget(label)
        self.box = Choice()
        self.box.setAccessibleName("As measured")
        self.box.setToolTip("Sets IOR, Abbe number and dispersion to what was measured")
        self.box.addItem(_OWN, "")
        kind = ""
        for clear in clears().values():
            if clear.kind != kind:
                kind = clear.kind
                self.box.insertSeparator(self.box.count())
            self.box.addItem(f"{clear.name}   {clear.index:.3f}", clear.key)
        self.box.activated.connect(self._choose)
        line.addWidget(self.box, 1)
        column.addLayout(line)
        self.source = soft("")
        column.addWidget(self.source)

    def _choose(self, i: int) -> None:
        if self.box.itemData(i):
            self.chosen.emit(self.box.itemData(i))

    def show_material(self, material: Material) -> None:
        """Show which substance a material's numbers are those of, and who measured it."""
        known = substance(material)
        with QSignalBlocker(self.box):
            self.box.setCurrentIndex(max(self.box.findData(known.key if known else ""), 0))
        self.source.setText(known.source if known else "")
        self.source.setVisible(known is not None)
