"""Drawing two pictures against each other: wipe, flip, side by side, difference."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen

from nocturne.ui.darkroom.prints import Print
from nocturne.ui.theme import tokens as t
from nocturne.ui.view.overlay import draw_label

MODES = ("wipe", "flip", "side", "difference")
MODE_NAMES = {"wipe": "Wipe", "flip": "Flip", "side": "Side by side", "difference": "Difference"}


def _draw(painter: QPainter, rect: QRectF, image: QImage, smooth: bool) -> None:
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, smooth)
    painter.drawImage(rect, image)


def draw(
    painter: QPainter,
    rects: tuple[QRectF, QRectF],
    clips: tuple[QRectF, QRectF],
    shown: Print,
    *,
    mode: str,
    wipe: float,
    flipped: bool,
    names: tuple[str, str],
    smooth: bool,
) -> None:
    """Draw a print and its second picture.

    rects: where each picture lies; clips: the part of the widget each may fill (the same twice but for side by side).
    wipe: share of the clip, from the left, that shows the first.
    """
    first, second = shown.image, shown.second
    if mode == "side":
        for rect, clip, image, name in zip(rects, clips, (first, second), names):
            painter.save()
            painter.setClipRect(clip)
            _draw(painter, rect, image, smooth)
            painter.restore()
            draw_label(painter, clip.topLeft() + QPointF(8, 8), name)
        return
    rect, clip = rects[0], clips[0]
    painter.save()
    painter.setClipRect(clip)
    if mode == "difference":
        _draw(painter, rect, shown.difference or first, smooth)
    elif mode == "flip":
        _draw(painter, rect, second if flipped else first, smooth)
    else:
        _draw(painter, rect, first, smooth)
        x = clip.left() + wipe * clip.width()
        painter.setClipRect(QRectF(x, clip.top(), clip.right() - x, clip.height()))
        _draw(painter, rect, second, smooth)
    painter.restore()
    if mode == "difference":
        draw_label(painter, clip.topLeft() + QPointF(8, 8), f"{names[0]} against {names[1]}, four times as strong")
    elif mode == "flip":
        draw_label(painter, clip.topLeft() + QPointF(8, 8), names[1] if flipped else names[0])
    else:
        draw_wipe(painter, clip, wipe)
        draw_label(painter, clip.topLeft() + QPointF(8, 8), names[0])
        width = painter.fontMetrics().horizontalAdvance(names[1]) + 20
        draw_label(painter, clip.topRight() + QPointF(-width - 2, 8), names[1])


def draw_wipe(painter: QPainter, clip: QRectF, wipe: float) -> None:
    """Draw the edge between two pictures with its knob."""
    x = clip.left() + wipe * clip.width()
    for pen in (QPen(QColor(0, 0, 0, 150), 3), QPen(QColor(t.INK), 1)):
        painter.setPen(pen)
        painter.drawLine(QPointF(x, clip.top()), QPointF(x, clip.bottom()))
    painter.setPen(QPen(QColor(t.GROUND), 1))
    painter.setBrush(QColor(t.INK))
    painter.drawRoundedRect(QRectF(x - 4, clip.center().y() - 14, 8, 28), 4, 4)
    painter.setBrush(Qt.BrushStyle.NoBrush)
