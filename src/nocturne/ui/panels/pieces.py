"""The pieces below the picture: small pictures that are dragged onto what they are to stand on."""

from PySide6.QtCore import QSize

from nocturne.ui.panels.cardstrip import About, CardStrip
from nocturne.ui.view.hands.dropping import PIECE_MIME

PICTURE = QSize(104, 78)


class PieceStrip(CardStrip):
    """Finds, keeps, renames and removes pieces; what is used comes to stand where the view aims."""

    def __init__(self) -> None:
        super().__init__(
            About(
                "Pieces",
                "piece",
                PIECE_MIME,
                PICTURE,
                "Keep the choice",
                "Keep what is chosen as a piece for all projects   Ctrl+Alt+K",
                "Put it where the view aims",
                "Drag it onto what it is to stand on",
            )
        )
