"""Painting the picture on its mount, with what lies over it."""

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from nocturne.ui.theme import tokens as t
from nocturne.ui.view import compare, overlay
from nocturne.ui.view.marks import Scene

_EDGE = "#2c2c2c"


def paint(view, painter: QPainter) -> None:
    """Paint a `PictureView`: mount, picture, marks, words, meter, and a ring if the keyboard brought it the focus."""
    painter.fillRect(view.rect(), QColor(t.MOUNT))
    rects, clips = view.rects()
    rect, clip = rects[0], clips[0]
    if view.zoom == 1:
        painter.fillRect(rect.adjusted(-1, -1, 1, 1), QColor(_EDGE))
    if view.print is None:
        painter.fillRect(rect, QColor(t.GROUND))
    else:
        _paint_picture(view, painter, rects, clips)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if view.print is not None and not view.message:
        painter.save()
        painter.setClipRect(clip)
        view.marks.draw(painter, _scene(view, rect, clip))
        painter.restore()
    if view.message:
        overlay.draw_message(painter, rect, view.message, view.share)
    elif view.mode != "choose":
        overlay.draw_hint(painter, clip, view.hint + "   ·   Esc gives up")
    elif view.note:
        overlay.draw_note(painter, clip, view.note)
    if view.metering:
        view.meter.draw(painter, view.pointer)
    if view.has_ring:
        painter.setPen(QPen(QColor(t.MOON), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(view.rect()).adjusted(0.5, 0.5, -0.5, -0.5))


def _paint_picture(view, painter: QPainter, rects: tuple, clips: tuple) -> None:
    # Seen closer than two to one, pixels are pixels.
    scale = view.scale()
    smooth = abs(scale - 1) > 1e-3 and scale < 2
    if view.compare and view.print.second is not None:
        compare.draw(
            painter,
            rects,
            clips,
            view.print,
            mode=view.compare,
            wipe=view.wipe,
            flipped=view.flipped,
            names=view.names,
            smooth=smooth,
        )
        return
    painter.save()
    painter.setClipRect(clips[0])
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, smooth)
    painter.drawImage(rects[0], view.print.image)
    painter.restore()


def _scene(view, rect: QRectF, clip: QRectF) -> Scene:
    return Scene(
        rect=rect,
        clip=clip,
        scale=view.scale(),
        print=view.print,
        document=view.document,
        shown=view.overlays,
        is_compared=bool(view.compare),
        members=view.members,
        light=view.ids[-1] if view.part == "lights" and view.ids else "",
        offered=view.offered,
        drawn=view.drawn,
        region=view.region,
        star=view.star(),
        held=view.gripping.held,
        box=view.boxing.drawn(),
        behind=view.behind,
    )
