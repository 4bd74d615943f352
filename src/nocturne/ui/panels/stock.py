"""The ready materials below the picture: swatches by kind that are dragged onto things."""

from PySide6.QtCore import QSize, Signal

from nocturne.stock.ready import Ready
from nocturne.ui.panels.cardstrip import About, CardStrip
from nocturne.ui.view.hands.dropping import STOCK_MIME
from nocturne.ui.widgets.choice import Choice

PICTURE = QSize(82, 82)
_ALL = "All kinds"


class StockStrip(CardStrip):
    """Finds ready materials by kind and words; one is given to what it is dropped on, or to the choice."""

    replaced = Signal(str)
    added = Signal(str)

    def __init__(self) -> None:
        super().__init__(
            About(
                "Ready materials",
                "material",
                STOCK_MIME,
                PICTURE,
                "Keep the chosen",
                "Keep the chosen material, with all that it lies over, for all projects",
                "Give it to the choice",
                "Drag it onto a thing; with Shift all that wear the same get it",
            )
        )
        self.also = (
            ("Instead of the chosen material everywhere", self.replaced),
            ("Only add it to the list", self.added),
        )
        self.kind = Choice()
        self.kind.setAccessibleName("Kind of material")
        self.kind.setToolTip("Show one kind of material")
        self.kind.addItem(_ALL, "")
        self.kind.activated.connect(lambda _: (self._fill(), self.filtered.emit()))
        self.side.insertWidget(2, self.kind)

    def show_cards(self, cards: tuple[Ready, ...]) -> None:
        """Show ready materials, and offer their kinds."""
        kinds = list(dict.fromkeys(card.kind for card in cards))
        chosen = self.kind.currentData()
        self.kind.clear()
        for words in (_ALL, *kinds):
            self.kind.addItem(words, "" if words is _ALL else words)
        self.kind.setCurrentIndex(max(self.kind.findData(chosen), 0))
        super().show_cards(cards)

    def is_wanted(self, card: Ready) -> bool:
        """Return True for a card of the chosen kind that has the words that are typed."""
        return self.kind.currentData() in ("", card.kind) and super().is_wanted(card)
