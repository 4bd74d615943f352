"""What is drawn over the picture: outlines, lights, frame guides, focus, false-colour legend, meter."""

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF

from nocturne.finish.meter import FALSE_HIGH, FALSE_LOW, Reading, false_palette
from nocturne.scene import exposing
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.lights import Light, Turned
from nocturne.scene.projection import cutaway_lines, light_lines, plane_lines, project, project_line
from nocturne.ui.darkroom.prints import Print
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.style import font

SAFE = (0.9, 0.8)  # action and title safe areas, shares of the frame (SMPTE ST 2046-1 gives 93 and 90 for wide screens)
_SHADE = QColor(31, 31, 31, 225)


@dataclass
class Shown:
    """Which overlays are on."""

    lights: bool = False
    guides: bool = False
    focus: bool = False
    sharp: bool = False
    facing: bool = False
    handles: bool = True
    placing: bool = True  # the stage is one in which things and lights are placed: only there handles are drawn


def _mapped(rect: QRectF, piece: np.ndarray) -> QPolygonF:
    return QPolygonF([QPointF(rect.left() + u * rect.width(), rect.top() + v * rect.height()) for u, v in piece])


def draw_lines(painter: QPainter, rect: QRectF, view: View, lines: list[np.ndarray], colour: str, width: float) -> None:
    """Draw polylines of the set, dark beneath so that they stand out of any picture."""
    pieces = [_mapped(rect, piece) for line in lines for piece in project_line(view, line)]
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for pen in (QPen(QColor(0, 0, 0, 130), width + 2), QPen(QColor(colour), width)):
        painter.setPen(pen)
        for piece in pieces:
            painter.drawPolyline(piece)


def draw_lights(painter: QPainter, rect: QRectF, document: Document, chosen: str) -> None:
    """Draw the shape of every light, and where the chosen one shines."""
    view = document.view
    for light in document.standing_lights:
        if light.is_infinite:
            continue
        place, distance = project(view, np.array(light.place))
        if distance <= 0.02:
            continue
        is_chosen = light.id == chosen
        reach = min(0.35 * float(distance), 1.2)
        lines = light_lines(light, reach)
        if not is_chosen and isinstance(light, Turned):
            lines = lines[:1]
        colour = t.MOON if is_chosen else t.LAMP if light.on else "#7d7d7d"
        draw_lines(painter, rect, view, lines, colour, 1.6 if is_chosen else 1.1)
        at = QPointF(rect.left() + place[0] * rect.width(), rect.top() + place[1] * rect.height())
        painter.setPen(QPen(QColor(0, 0, 0, 160), 1))
        painter.setBrush(QColor(colour))
        painter.drawEllipse(at, 3.5, 3.5)


def draw_cutaways(painter: QPainter, rect: QRectF, document: Document, members: frozenset[str]) -> None:
    """Draw where the cutaways among the chosen things stand."""
    for thing in document.things:
        if thing.cutaway is not None and thing.id in members:
            lines = cutaway_lines(thing.cutaway, document.placements[thing.id][0])
            draw_lines(painter, rect, document.view, lines, t.MOON, 1.6)


def draw_offered(painter: QPainter, rect: QRectF, view: View, lights: tuple[Light, ...]) -> None:
    """Draw the shapes of lights that are not there yet."""
    for light in lights:
        draw_lines(painter, rect, view, light_lines(light, 0.5), t.MOON, 2.2)


def draw_guides(painter: QPainter, rect: QRectF) -> None:
    """Draw thirds, middle and the two safe areas of the frame."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for pen in (QPen(QColor(0, 0, 0, 110), 2.4), QPen(QColor(230, 230, 230, 150), 1)):
        painter.setPen(pen)
        for k in (1 / 3, 2 / 3):
            x, y = rect.left() + k * rect.width(), rect.top() + k * rect.height()
            painter.drawLine(QPointF(x, rect.top()), QPointF(x, rect.bottom()))
            painter.drawLine(QPointF(rect.left(), y), QPointF(rect.right(), y))
        middle = rect.center()
        painter.drawLine(middle - QPointF(7, 0), middle + QPointF(7, 0))
        painter.drawLine(middle - QPointF(0, 7), middle + QPointF(0, 7))
        for share in SAFE:
            dx, dy = rect.width() * (1 - share) / 2, rect.height() * (1 - share) / 2
            painter.drawRect(rect.adjusted(dx, dy, -dx, -dy))


def part_of(rect: QRectF, region: tuple[float, float, float, float]) -> QRectF:
    """Return where a region (u0, v0, u1, v1) of the picture, 0..1, lies in its rectangle."""
    u0, v0, u1, v1 = region
    return QRectF(
        QPointF(rect.left() + u0 * rect.width(), rect.top() + v0 * rect.height()),
        QPointF(rect.left() + u1 * rect.width(), rect.top() + v1 * rect.height()),
    )


def draw_box(painter: QPainter, box: QRectF) -> None:
    """Draw the edge of a part of the picture."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for pen in (QPen(QColor(0, 0, 0, 160), 3), QPen(QColor(t.MOON), 1)):
        painter.setPen(pen)
        painter.drawRect(box)


def draw_focus(painter: QPainter, rect: QRectF, view: View) -> None:
    """Draw a grid in the plane that is sharp."""
    painter.save()
    painter.setOpacity(0.35)  # a hint over the picture, not a fence before it
    draw_lines(painter, rect, view, plane_lines(view, view.focus_m, 0.9), t.MOON, 1.0)
    painter.restore()
    label = f"sharp at {view.focus_m:.3g} m"
    draw_label(painter, QPointF(rect.left() + 0.055 * rect.width(), rect.top() + 0.06 * rect.height()), label)


def draw_label(painter: QPainter, at: QPointF, text: str) -> None:
    """Draw a small word on a dark ground."""
    painter.setFont(font(11))
    room = painter.fontMetrics().boundingRect(text)
    box = QRectF(at.x(), at.y(), room.width() + 12, 20)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(_SHADE)
    painter.drawRoundedRect(box, 4, 4)
    painter.setPen(QColor(t.INK))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)


def draw_note(painter: QPainter, rect: QRectF, text: str) -> None:
    """Draw a sentence that says what is wrong at the foot of a rectangle, wrapped."""
    painter.setFont(font(12))
    width = int(min(rect.width() - 40, 560))
    wrap = Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignLeft
    words = painter.fontMetrics().boundingRect(0, 0, width - 24, 400, wrap, f"▲ {text}")
    box = QRectF(rect.center().x() - width / 2, rect.bottom() - words.height() - 30, width, words.height() + 16)
    painter.setPen(QPen(QColor(t.CARE), 1))
    painter.setBrush(QColor(31, 31, 31, 240))
    painter.drawRoundedRect(box, 4, 4)
    painter.setPen(QColor(t.CARE))
    painter.drawText(box.adjusted(12, 8, -12, -8), wrap, f"▲ {text}")


def draw_message(painter: QPainter, rect: QRectF, text: str, share: float) -> None:
    """Draw a sentence in the middle of a rectangle, and a bar under it if a share, 0..1, is done."""
    painter.setFont(font(13))
    width = min(440.0, rect.width() - 40)
    box = QRectF(rect.center().x() - width / 2, rect.center().y() - 46, width, 92)
    painter.setPen(QPen(QColor(t.LINE), 1))
    painter.setBrush(QColor(t.PANEL))
    painter.drawRoundedRect(box, 4, 4)
    painter.setPen(QColor(t.INK))
    wrap = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
    painter.drawText(box.adjusted(18, 10, -18, -26), wrap, text)
    if share > 0:
        bar = QRectF(box.left() + 18, box.bottom() - 20, box.width() - 36, 4)
        painter.fillRect(bar, QColor(t.RAISED))
        bar.setWidth(bar.width() * min(share, 1.0))
        painter.fillRect(bar, QColor(t.MOON))


def draw_hint(painter: QPainter, rect: QRectF, text: str) -> None:
    """Draw at the foot of a rectangle what the next click does."""
    painter.setFont(font(12))
    width = min(max(340.0, painter.fontMetrics().horizontalAdvance(text) + 28.0), rect.width())
    box = QRectF(rect.center().x() - width / 2, rect.bottom() - 40, width, 26)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(_SHADE)
    painter.drawRoundedRect(box, 4, 4)
    painter.setPen(QColor(t.INK))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)


def sharp_image(shown: Print, view: View) -> QImage | None:
    """Return a veil over all that is not sharp, from the depth of the film; None if it has none."""
    film = shown.frame.film
    depth = film.depth
    if not depth.any():
        return None
    blur = exposing.blur_on_sensor(view, depth)
    soft = (blur > exposing.circle_limit(view)) | (depth <= 0)
    return veil(soft)


def veil(covered: np.ndarray) -> QImage:
    """Return a dark, striped veil over (h, w) pixels, clear elsewhere."""
    height, width = covered.shape
    y, x = np.mgrid[:height, :width]
    pixels = np.zeros((height, width, 4), np.uint8)
    pixels[covered] = (31, 31, 31, 150)
    pixels[covered & ((x + y) % 8 < 2)] = (185, 168, 239, 150)
    given = QImage(pixels.data, width, height, 4 * width, QImage.Format.Format_RGBA8888)
    return given.convertToFormat(QImage.Format.Format_ARGB32_Premultiplied)


def draw_legend(painter: QPainter, rect: QRectF) -> None:
    """Draw which colour stands for which stop."""
    palette = false_palette()
    step = min(20.0, (rect.height() - 40) / len(palette))
    top = rect.center().y() - step * len(palette) / 2
    box = QRectF(rect.left() + 10, top - 24, 66, step * len(palette) + 32)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(_SHADE)
    painter.drawRoundedRect(box, 4, 4)
    painter.setFont(font(10))
    painter.setPen(QColor(t.INK_SOFT))
    painter.drawText(QRectF(box.left(), box.top() + 3, box.width(), 18), Qt.AlignmentFlag.AlignCenter, "stops")
    for i, colour in enumerate(palette[::-1]):
        stop = FALSE_HIGH + 1 - i
        y = top + i * step
        painter.fillRect(QRectF(box.left() + 6, y, 18, step - 1), QColor.fromRgbF(*colour))
        word = "grey" if stop == 0 else f"> {FALSE_HIGH}" if stop > FALSE_HIGH else f"{stop:+d}"
        word = f"< {FALSE_LOW}" if stop < FALSE_LOW else word
        painter.setPen(QColor(t.INK))
        painter.drawText(QRectF(box.left() + 28, y, 36, step - 1), Qt.AlignmentFlag.AlignVCenter, word)


def draw_reading(painter: QPainter, room: QRectF, at: QPointF, reading: Reading) -> None:
    """Draw the meter's card beside the pointer, within a room."""
    shares = sorted(reading.shares.items(), key=lambda pair: -pair[1])
    shares = [pair for pair in shares if pair[1] >= 0.005][:8]
    width, height = 236.0, 84.0 + 17 * len(shares) + (16 if reading.thing else 0)
    x = at.x() + 22 if at.x() + 22 + width < room.right() else at.x() - 22 - width
    y = min(max(at.y() - height / 2, room.top() + 4), room.bottom() - height - 4)
    box = QRectF(x, y, width, height)
    painter.setPen(QPen(QColor(t.LINE), 1))
    painter.setBrush(QColor(31, 31, 31, 240))
    painter.drawRoundedRect(box, 4, 4)
    inside = box.adjusted(12, 8, -12, -8)

    def text(px: float, y: float, height: float, words: str, colour: str = t.INK, right: bool = False) -> None:
        painter.setFont(font(px, weight=600 if px > 15 else 400))
        painter.setPen(QColor(colour))
        side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
        painter.drawText(
            QRectF(inside.left(), inside.top() + y, inside.width(), height),
            Qt.AlignmentFlag.AlignVCenter | side,
            painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(inside.width())),
        )

    stops = "black" if reading.stops < -20 else f"{reading.stops:+.1f} stops"
    text(18, 0, 24, stops)
    text(12, 0, 24, f"{plain(reading.nits)} nit", right=True)
    r, g, b = reading.rgb
    text(11, 26, 16, f"RGB {r:.3g}   {g:.3g}   {b:.3g}", t.INK_SOFT)
    y = 44.0
    if reading.thing:
        words = reading.thing + (f"   ·   {reading.material}" if reading.material else "")
        text(11, y, 16, words)
        y += 16
    size = round(reading.pixels**0.5)
    text(10, y, 14, "one pixel" if size == 1 else f"mean of {reading.pixels} pixels", t.INK_SOFT)
    y += 20
    for name, share in shares:
        bar = QRectF(inside.left() + 74, inside.top() + y + 4, (inside.width() - 112) * share, 8)
        painter.fillRect(bar, QColor(t.LAMP))
        text(11, y, 16, name if len(name) < 12 else name[:11] + "…", t.INK_SOFT)
        text(11, y, 16, f"{share * 100:.0f} %", right=True)
        y += 17


def plain(value: float) -> str:
    """Return a number as people read it."""
    return f"{value:,.0f}" if abs(value) >= 1000 else f"{value:.3g}"
