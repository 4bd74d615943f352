"""The picture on its mount: shows the newest print, and turns mouse and keys into choosing and moving."""

import itertools
import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPen
from PySide6.QtWidgets import QWidget

from nocturne.engine.pick import Hit, pick
from nocturne.scene import navigate
from nocturne.scene.camera import View
from nocturne.ui.darkroom import Print
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.style import font

_MARGIN = 14
_drags = itertools.count(1)


class PictureView(QWidget):
    """The live picture. Left drag orbits about the clicked point, middle or Shift pans, wheel or right drag dollies."""

    resized = Signal()
    chosen = Signal(object)  # Hit or None
    focus_picked = Signal(object)
    colour_picked = Signal(object)  # working-space RGB, scaled so that its largest is at most 1
    moved = Signal(object, object)  # view, merge

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The picture")
        self.setMinimumSize(240, 180)
        self.print: Print | None = None
        self.mode = "choose"
        self.proportion = 16 / 9
        self.message, self.share = "", 0.0
        self.chosen_id = ""
        self._by_keyboard = False
        self._outline: tuple[object, str, QImage | None] | None = None
        self._press: tuple | None = None
        self._hit: Hit | None = None
        self._view: View | None = None
        self._merge: object = None
        self._wheel_merge: tuple | None = None
        self._wheel_done = QTimer(self)
        self._wheel_done.setSingleShot(True)
        self._wheel_done.setInterval(400)
        self._wheel_done.timeout.connect(self._end_wheel)

    # ---- what is shown ---------------------------------------------------------------------------------------------

    def show_print(self, developed: Print) -> None:
        """Show a developed picture."""
        self.print = developed
        self.message = ""
        self.update()

    def show_message(self, text: str, share: float = 0.0) -> None:
        """Show a sentence and a bar in place of the picture."""
        self.message, self.share = text, share
        self.update()

    def set_view(self, view: View) -> None:
        """Take a view's proportion."""
        self.proportion = view.width / view.height
        self._view = view
        self.update()

    def set_mode(self, mode: str) -> None:
        """Change what a click does: choose, focus or colour."""
        self.mode = mode
        self.setCursor(Qt.CursorShape.CrossCursor if mode != "choose" else Qt.CursorShape.ArrowCursor)
        self.update()

    def set_chosen(self, id: str) -> None:
        """Outline a thing."""
        self.chosen_id = id
        self.update()

    def frame_rect(self) -> QRectF:
        """Return where the picture lies in the widget."""
        room = QRectF(self.rect()).adjusted(_MARGIN, _MARGIN, -_MARGIN, -_MARGIN)
        width = min(room.width(), room.height() * self.proportion)
        height = width / self.proportion
        return QRectF(
            round(room.center().x() - width / 2), round(room.center().y() - height / 2), round(width), round(height)
        )

    def wanted_size(self) -> tuple[int, int]:
        """Return the picture's size in device pixels."""
        rect, ratio = self.frame_rect(), self.devicePixelRatioF()
        return max(16, round(rect.width() * ratio)), max(16, round(rect.height() * ratio))

    def paintEvent(self, event) -> None:
        """Draw mount, picture, outline and hints."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(t.MOUNT))
        rect = self.frame_rect()
        painter.fillRect(rect.adjusted(-1, -1, 1, 1), QColor("#2c2c2c"))
        if self.print is None:
            painter.fillRect(rect, QColor(t.GROUND))
        else:
            image = self.print.image
            smooth = abs(image.width() - rect.width() * self.devicePixelRatioF()) > 1
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, smooth)
            painter.drawImage(rect, image)
            self._draw_outline(painter, rect)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.message:
            self._draw_message(painter, rect)
        elif self.mode != "choose":
            text = {"focus": "Click what should be sharp", "colour": "Click a colour in the picture"}[self.mode]
            self._draw_hint(painter, rect, text + "   ·   Esc gives up")
        if self._by_keyboard and self.hasFocus():
            painter.setPen(QPen(QColor(t.MOON), 1))
            painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))

    def _draw_outline(self, painter: QPainter, rect: QRectF) -> None:
        film, step = self.print.frame.film, self.print.frame.progress.step
        if not self.chosen_id or step > 1:
            return
        key = (self.print, self.chosen_id)
        if self._outline is None or self._outline[:2] != key:
            prepared = self.print.frame.prepared
            image = None
            if self.chosen_id in prepared.object_ids:
                number = prepared.object_ids.index(self.chosen_id)
                inside = (film.ids[:, :, 0, 0] == number) & (film.coverage[:, :, 0, 0] > 0)
                image = _outline_image(inside)
            self._outline = (*key, image)
        if self._outline[2] is not None:
            painter.drawImage(rect, self._outline[2])

    def _draw_message(self, painter: QPainter, rect: QRectF) -> None:
        painter.setFont(font(13))
        width = min(440.0, rect.width() - 40)
        box = QRectF(rect.center().x() - width / 2, rect.center().y() - 46, width, 92)
        painter.setPen(QPen(QColor(t.LINE), 1))
        painter.setBrush(QColor(t.PANEL))
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(QColor(t.INK))
        painter.drawText(
            box.adjusted(18, 10, -18, -26), Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap, self.message
        )
        if self.share > 0:
            bar = QRectF(box.left() + 18, box.bottom() - 20, box.width() - 36, 4)
            painter.fillRect(bar, QColor(t.RAISED))
            bar.setWidth(bar.width() * min(self.share, 1.0))
            painter.fillRect(bar, QColor(t.MOON))

    def _draw_hint(self, painter: QPainter, rect: QRectF, text: str) -> None:
        painter.setFont(font(12))
        box = QRectF(rect.center().x() - 150, rect.bottom() - 40, 300, 26)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(31, 31, 31, 225))
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(QColor(t.INK))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def focusInEvent(self, event) -> None:
        """Show a ring only if the keyboard brought the focus here; by mouse it would only frame the picture."""
        self._by_keyboard = event.reason() in (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        self.update()

    def resizeEvent(self, event) -> None:
        """Say that another size of picture fits now."""
        self.resized.emit()

    # ---- mouse and keys --------------------------------------------------------------------------------------------

    def _pixel(self, at: QPointF) -> tuple[float, float] | None:
        if self.print is None:
            return None
        rect, prepared = self.frame_rect(), self.print.frame.prepared
        u, v = (at.x() - rect.left()) / rect.width(), (at.y() - rect.top()) / rect.height()
        if not (0 <= u < 1 and 0 <= v < 1):
            return None
        return u * prepared.width, v * prepared.height

    def hit_at(self, at: QPointF) -> Hit | None:
        """Return what stands under a point of the widget."""
        pixel = self._pixel(at)
        return pick(self.print.frame.prepared, *pixel) if pixel else None

    def colour_at(self, at: QPointF) -> tuple[float, float, float] | None:
        """Return the scene's colour under a point, exposed as the camera is."""
        pixel = self._pixel(at)
        if pixel is None:
            return None
        film = self.print.frame.film
        x, y = int(pixel[0]), int(pixel[1])
        area = (
            film.beauty()[max(y - 2, 0) : y + 3, max(x - 2, 0) : x + 3].mean((0, 1))
            / self.print.document.view.white_luminance
        )
        return tuple(float(c) for c in np.maximum(area, 0) / max(1.0, float(area.max())))

    def mousePressEvent(self, event) -> None:
        """Begin a click or a drag."""
        self.setFocus()
        button, shift = event.button(), event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        kind = {
            Qt.MouseButton.LeftButton: "pan" if shift else "orbit",
            Qt.MouseButton.MiddleButton: "pan",
            Qt.MouseButton.RightButton: "dolly",
        }.get(button)
        if kind is None or self.print is None:
            return
        self._hit = self.hit_at(event.position())
        self._press = (kind, event.position(), event.position(), False)
        self._merge = ("view", next(_drags))

    def _pivot(self, view: View) -> np.ndarray:
        return self._hit.point if self._hit is not None else np.array(view.target, float)

    def mouseMoveEvent(self, event) -> None:
        """Move the view."""
        if self._press is None or self._view is None:
            return
        kind, start, last, dragging = self._press
        if not dragging and (event.position() - start).manhattanLength() < 4:
            return
        dx, dy = event.position().x() - last.x(), event.position().y() - last.y()
        self._press = (kind, start, event.position(), True)
        if self.mode == "choose":
            self._move(kind, dx, dy)

    def _move(self, kind: str, dx: float, dy: float) -> None:
        view, rect = self._view, self.frame_rect()
        pivot = self._pivot(view)
        if kind == "orbit":
            view = navigate.orbit(
                view, pivot=pivot, turn=-dx / rect.width() * math.pi * 1.1, tilt=-dy / rect.height() * 1.9
            )
        elif kind == "pan":
            _, _, ahead = navigate.axes(view)
            depth = max(float((pivot - np.array(view.eye)) @ ahead), 0.05)
            metres = 2 * depth * view.sensor_mm / (2 * view.focal_mm) / rect.width()
            view = navigate.pan(view, across=-dx * metres, up=dy * metres)
        else:
            view = navigate.dolly(view, towards=pivot, part=1 - math.exp(dy / rect.height() * 2.5))
        if view is not self._view:
            self._view = view
            self.moved.emit(view, self._merge)

    def mouseReleaseEvent(self, event) -> None:
        """Choose, if it was a click."""
        if self._press is None:
            return
        kind, _, _, dragging = self._press
        self._press = None
        if dragging or kind == "dolly":
            return
        if self.mode == "focus":
            self.set_mode("choose")
            self.focus_picked.emit(self._hit)
        elif self.mode == "colour":
            colour = self.colour_at(event.position())
            self.set_mode("choose")
            self.colour_picked.emit(colour)
        elif self._pixel(event.position()) is not None:
            self.chosen.emit(self._hit)

    def wheelEvent(self, event) -> None:
        """Dolly towards what is under the pointer; one turn of the wheel is one undo step."""
        if self._view is None or self.print is None:
            return
        if self._wheel_merge is None:
            self._wheel_merge = ("wheel", next(_drags))
            self._hit = self.hit_at(event.position())
        self._merge = self._wheel_merge
        self._wheel_done.start()
        view = navigate.dolly(
            self._view, towards=self._pivot(self._view), part=1 - 0.88 ** (event.angleDelta().y() / 120)
        )
        if view is not self._view:
            self._view = view
            self.moved.emit(view, self._merge)

    def _end_wheel(self) -> None:
        self._wheel_merge = None

    def keyPressEvent(self, event) -> None:
        """Move by the arrow keys (Shift pans), give up picking by Escape."""
        if event.key() == Qt.Key.Key_Escape and self.mode != "choose":
            self.set_mode("choose")
            return
        steps = {
            Qt.Key.Key_Left: (24, 0),
            Qt.Key.Key_Right: (-24, 0),
            Qt.Key.Key_Up: (0, 24),
            Qt.Key.Key_Down: (0, -24),
        }
        if event.key() in steps and self._view is not None:
            self._hit, self._merge = None, None
            shift = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
            self._move("pan" if shift else "orbit", *steps[event.key()])
            return
        super().keyPressEvent(event)


def _outline_image(inside: np.ndarray) -> QImage | None:
    if not inside.any():
        return None
    grown = inside.copy()
    for axis in (0, 1):
        for step in (-1, 1):
            grown |= np.roll(inside, step, axis)
    edge = grown & ~inside
    pixels = np.zeros((*inside.shape, 4), np.uint8)
    colour = QColor(t.MOON)
    pixels[edge] = (colour.red(), colour.green(), colour.blue(), 255)
    height, width = inside.shape
    return QImage(pixels.data, width, height, 4 * width, QImage.Format.Format_RGBA8888).copy()
