"""How the parts of the window stand: list, picture with its bar and state line, sheet, foot."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QSplitter, QVBoxLayout, QWidget

from nocturne.ui.theme import tokens as t


def framed(name: str, inside: QWidget, *, width: int = 0) -> QWidget:
    """Return a ground of the theme's look of that name around a widget, at least nearly so wide."""
    holder = QWidget()
    holder.setObjectName(name)
    holder.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    layout = QVBoxLayout(holder)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.addWidget(inside)
    if width:
        holder.setMinimumWidth(round(width * 0.75))
    return holder


def stacked(*widgets: QWidget, stretched: QWidget) -> QWidget:
    """Return widgets below each other, without gaps, one of which takes what room there is."""
    whole = QWidget()
    column = QVBoxLayout(whole)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(0)
    for widget in widgets:
        column.addWidget(widget, int(widget is stretched))
    return whole


def beside(left: QWidget, middle: QWidget, right: QWidget) -> QSplitter:
    """Return three columns whose borders can be dragged; the middle takes what room there is."""
    across = QSplitter(Qt.Orientation.Horizontal)
    across.setHandleWidth(1)
    across.setChildrenCollapsible(False)
    for widget in (left, middle, right):
        across.addWidget(widget)
    across.setStretchFactor(1, 1)
    across.setSizes([t.LIST_WIDTH, 1280, t.SHEET_WIDTH])
    return across


def with_rail(rail: QWidget, rest: QWidget) -> QWidget:
    """Return the whole of the window: the rail of stages at the left, the rest beside it."""
    whole = QWidget()
    row = QHBoxLayout(whole)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(0)
    row.addWidget(rail)
    row.addWidget(rest, 1)
    return whole


def scrolling(inside: QWidget) -> QScrollArea:
    """Return a frameless area in which a column of widgets scrolls up and down."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setWidget(inside)
    return area
