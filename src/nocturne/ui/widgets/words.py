"""Labels that stand in every panel: section headings and soft lines."""

from PySide6.QtWidgets import QLabel


def section(words: str) -> QLabel:
    """Return a heading over a group of fields."""
    label = QLabel(words)
    label.setObjectName("section")
    label.setIndent(0)
    return label


def soft(words: str = "", *, width: int = 0) -> QLabel:
    """Return a quiet line that wraps; of a fixed width if one is given."""
    label = QLabel(words)
    label.setObjectName("soft")
    label.setWordWrap(not width)
    if width:
        label.setFixedWidth(width)
    return label
