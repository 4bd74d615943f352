"""The picture on its mount: shows the newest print, and turns mouse and keys into choosing, placing and moving."""

import itertools
import math
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QPainter, QPen
from PySide6.QtWidgets import QWidget

from nocturne.engine.pick import Hit, pick
from nocturne.errors import SceneError
from nocturne.scene import edit, navigate, placing
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.ui.darkroom import Print
from nocturne.ui.theme import tokens as t
from nocturne.ui.view import compare, handles, overlay, reading
from nocturne.ui.view.marks import Marks, Scene
from nocturne.ui.view.mount import Mount

_METER_SIZES = (1, 5, 15, 45, 101)
_drags = itertools.count(1)
MATERIAL_MIME = "application/x-nocturne-material"
HINTS = {
    "focus": "Click what should be sharp",
    "colour": "Click a colour in the picture",
    "spot": "Click what should become middle grey",
    "neutral": "Click something that should be neutral",
    "box": "Drag a box around what to choose",
    "region": "Drag over what to render first",
}


class PictureView(QWidget):
    """The live picture. Left drag orbits about the clicked point, middle or Shift pans, wheel or right drag dollies."""

    resized = Signal()
    chosen = Signal(object, str)  # Hit or None; "one", "more" (with Ctrl) or "material" (with Alt)
    boxed = Signal(object)  # ids of the things in a box
    region_drawn = Signal(object)  # (u0, v0, u1, v1) of the picture, or None
    focus_picked = Signal(object)
    colour_picked = Signal(object)  # working-space RGB, scaled so that its largest is at most 1
    light_picked = Signal(str, object)  # "spot" or "neutral", mean radiance there, cd/m2
    moved = Signal(object, object)  # view, merge
    placed = Signal(object, str, object)  # document, label, merge
    dropped = Signal(str, object)  # a material's id, the Hit under it
    outline_wanted = Signal(object)  # ids of the things to outline
    zoomed = Signal(float)  # device pixels for a pixel of the picture

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The picture")
        self.setMinimumSize(240, 180)
        self.setMouseTracking(True)
        self.setAcceptDrops(True)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # each painting fills it, nothing shows through
        self.print: Print | None = None
        self.document = Document()
        self.mount = Mount()
        self.mode = "choose"
        self.message, self.share = "", 0.0
        self.part, self.ids = "", ()
        self.overlays = overlay.Shown()
        self.compare, self.wipe, self.flipped = "", 0.5, False
        self.names = ("", "")
        self.region: tuple | None = None
        self.metering = False
        self._meter_size = 1
        self._pointer = QPointF()
        self._by_keyboard = False
        self._members: frozenset[str] = frozenset()
        self.marks = Marks()
        self._made: tuple[tuple, handles.Star | None] = ((), None)
        self._press: tuple | None = None
        self._grip: tuple | None = None
        self._over: handles.Grip | None = None
        self._hit: Hit | None = None
        self._view: View | None = None
        self._merge: object = None
        self._chosen_before: tuple = ("", ())  # what was outlined before a material was dragged over it
        self._wheel_merge: tuple | None = None
        self.note = ""
        self._note_done = QTimer(self)
        self._note_done.setSingleShot(True)
        self._note_done.setInterval(9000)
        self._note_done.timeout.connect(lambda: self.show_note(""))
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

    def show_note(self, text: str) -> None:
        """Show a sentence at the foot of the picture for a few seconds: what went wrong must not be cut short."""
        self.note = text
        self._note_done.stop()
        if text:
            self._note_done.start()
        self.update()

    def set_document(self, document: Document) -> None:
        """Take the document whose lights and handles are drawn, and its view's proportion."""
        self.document = document
        self.mount.proportion = document.view.width / document.view.height
        self._view = document.view
        self.update()

    def set_mode(self, mode: str) -> None:
        """Change what a click or drag does: "choose" or one of `HINTS`."""
        self.mode = mode
        self.setCursor(Qt.CursorShape.CrossCursor if mode != "choose" else Qt.CursorShape.ArrowCursor)
        self.update()

    def set_chosen(self, part: str, ids: tuple[str, ...]) -> None:
        """Outline things and show the handles of things or lights."""
        if (part, ids) != (self.part, self.ids):
            self._grip = None  # what was dragged is no longer chosen, perhaps gone
        self.part, self.ids = part, ids
        self._members = self._with_members()
        self.outline_wanted.emit(self._members)
        self.update()

    def set_compare(self, mode: str, names: tuple[str, str] = ("", "")) -> None:
        """Compare the print with its second picture, or stop ("")."""
        self.compare, self.names, self.flipped = mode, names, False
        self.update()

    def flip(self) -> None:
        """Show the other of two pictures."""
        self.flipped = not self.flipped
        self.update()

    def set_metering(self, on: bool) -> None:
        """Show the meter at the pointer."""
        self.metering = on
        self.update()

    def set_region(self, region: tuple | None) -> None:
        """Mark the part of the picture that is rendered first."""
        self.region = region
        self.update()

    # ---- geometry --------------------------------------------------------------------------------------------------

    def frame_rect(self) -> QRectF:
        """Return where the whole picture fits in the widget."""
        return self.mount.fitted(self.mount.room(QRectF(self.rect())))

    def image_rect(self) -> QRectF:
        """Return where the picture lies in the widget at the zoom as it is."""
        return self._rects()[0][0]

    def _rects(self) -> tuple[tuple[QRectF, QRectF], tuple[QRectF, QRectF]]:
        self.mount.is_double = self.compare == "side" and self.print is not None and self.print.second is not None
        return self.mount.rects(QRectF(self.rect()))

    @property
    def zoom(self) -> float:
        """Return how many times larger than fitted the picture is seen."""
        return self.mount.zoom

    def wanted_size(self) -> tuple[int, int]:
        """Return the picture's size in device pixels."""
        rect, ratio = self.frame_rect(), self.devicePixelRatioF()
        return max(16, round(rect.width() * ratio)), max(16, round(rect.height() * ratio))

    def scale(self) -> float:
        """Return how many device pixels show one pixel of the picture."""
        if self.print is None:
            return 1.0
        return self.image_rect().width() * self.devicePixelRatioF() / self.print.image.width()

    def set_zoom(self, zoom: float, about: QPointF | None = None) -> None:
        """Zoom to a factor of the fitted size, keeping a point of the widget in its place."""
        self.mount.zoom_to(zoom, QRectF(self.rect()), about)
        self.update()
        self.zoomed.emit(self.scale())

    def zoom_whole(self) -> None:
        """Show the whole picture."""
        self.mount.zoom, self.mount.centre = 1.0, (0.5, 0.5)
        self.update()
        self.zoomed.emit(self.scale())

    def zoom_actual(self) -> None:
        """Show one pixel of the picture on one pixel of the screen, about the pointer if it is on the picture."""
        if self.print is not None:
            fit = self.frame_rect()
            about = self._pointer if fit.contains(self._pointer) else None
            self.set_zoom(self.print.image.width() / (fit.width() * self.devicePixelRatioF()), about)

    def _place(self, at: QPointF) -> tuple[float, float] | None:
        self._rects()
        return self.mount.place(at, QRectF(self.rect()))

    def _pixel(self, at: QPointF) -> tuple[float, float] | None:
        place = self._place(at)
        if place is None or self.print is None:
            return None
        width, height = self.print.frame.film.size
        return place[0] * width, place[1] * height

    # ---- painting --------------------------------------------------------------------------------------------------

    def paintEvent(self, event) -> None:
        """Draw mount, picture, overlays and hints."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(t.MOUNT))
        rects, clips = self._rects()
        rect, clip = rects[0], clips[0]
        if self.zoom == 1:
            painter.fillRect(rect.adjusted(-1, -1, 1, 1), QColor("#2c2c2c"))
        if self.print is None:
            painter.fillRect(rect, QColor(t.GROUND))
        else:
            self._draw_picture(painter, rects, clips)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.print is not None and not self.message:
            painter.save()
            painter.setClipRect(clip)
            self.marks.draw(painter, self._scene(rect, clip))
            painter.restore()
        if self.message:
            overlay.draw_message(painter, rect, self.message, self.share)
        elif self.mode != "choose":
            overlay.draw_hint(painter, clip, HINTS[self.mode] + "   ·   Esc gives up")
        elif self.note:
            overlay.draw_note(painter, clip, self.note)
        if self.metering:
            self._draw_meter(painter)
        if self._by_keyboard and self.hasFocus():
            painter.setPen(QPen(QColor(t.MOON), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))

    def _draw_picture(self, painter: QPainter, rects: tuple, clips: tuple) -> None:
        # Seen closer than two to one, pixels are pixels.
        scale = self.scale()
        smooth = abs(scale - 1) > 1e-3 and scale < 2
        if self.compare and self.print.second is not None:
            compare.draw(
                painter,
                rects,
                clips,
                self.print,
                mode=self.compare,
                wipe=self.wipe,
                flipped=self.flipped,
                names=self.names,
                smooth=smooth,
            )
            return
        painter.save()
        painter.setClipRect(clips[0])
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, smooth)
        painter.drawImage(rects[0], self.print.image)
        painter.restore()

    def _scene(self, rect: QRectF, clip: QRectF) -> Scene:
        return Scene(
            rect=rect,
            clip=clip,
            scale=self.scale(),
            print=self.print,
            document=self.document,
            shown=self.overlays,
            is_compared=bool(self.compare),
            members=self._members,
            light=self.ids[-1] if self.part == "lights" and self.ids else "",
            region=self.region,
            star=self.star(),
            held=self._grip[1] if self._grip else self._over,
            box=self._drawn_box(),
        )

    def _drawn_box(self) -> QRectF | None:
        if self._press is None or self._press[0] != "box" or not self._press[3]:
            return None
        return QRectF(self._press[1], self._press[2]).normalized()

    def _with_members(self) -> frozenset[str]:
        return frozenset(self.document.with_members(self.ids) if self.part == "things" else self.ids)

    def star(self) -> handles.Star | None:
        """Return the handles that can be dragged now, None if there are none."""
        shown = self.overlays
        if not self.ids or not (shown.handles and shown.placing) or self.mode != "choose" or self.compare:
            return None
        if self.print is None or self.print.frame.prepared is None:
            return None
        document, rect = self.document, self.image_rect()
        key = (document.view, getattr(document, self.part, ()), self.part, self.ids, rect)
        if self._made[0] != key:
            self._made = (key, handles.star(document, self.part, self.ids, rect))
        return self._made[1]

    def _draw_meter(self, painter: QPainter) -> None:
        reading = self.reading_at(self._pointer)
        if reading is None:
            overlay.draw_hint(painter, self.frame_rect(), "The meter: point at the picture; the wheel changes its area")
            return
        half = max(self._meter_size * self.scale() / self.devicePixelRatioF() / 2, 3.0)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        box = QRectF(self._pointer.x() - half, self._pointer.y() - half, 2 * half, 2 * half)
        for pen in (QPen(QColor(0, 0, 0, 180), 3), QPen(QColor(t.INK), 1)):
            painter.setPen(pen)
            painter.drawRect(box)
        overlay.draw_reading(painter, QRectF(self.rect()), self._pointer, reading)

    def reading_at(self, at: QPointF):
        """Return the meter's reading at a point of the widget, None outside the picture."""
        pixel = self._pixel(at)
        return reading.reading(self.print, pixel, self._meter_size) if pixel is not None else None

    def focusInEvent(self, event) -> None:
        """Show a ring only if the keyboard brought the focus here; by mouse it would only frame the picture."""
        self._by_keyboard = event.reason() in (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        self.update()

    def resizeEvent(self, event) -> None:
        """Say that another size of picture fits now."""
        self.resized.emit()

    # ---- picking ---------------------------------------------------------------------------------------------------

    def hit_at(self, at: QPointF) -> Hit | None:
        """Return what stands under a point of the widget; nothing in a kept picture, which has no set."""
        place = self._place(at)
        prepared = self.print.frame.prepared if self.print is not None else None
        if place is None or prepared is None:
            return None
        hit = pick(prepared, place[0] * prepared.width, place[1] * prepared.height)
        item = self.document.find("lights" if hit.is_lamp else "things", hit.id) if hit is not None else None
        return replace(hit, name=item.name) if item is not None else hit  # it may have been renamed since

    def middle_point(self) -> np.ndarray | None:
        """Return the place of the set under the middle of the picture, None if nothing of it is there."""
        prepared = self.print.frame.prepared if self.print is not None else None
        if prepared is None:
            return None
        hit = pick(prepared, prepared.width / 2, prepared.height / 2)
        return hit.point if hit is not None and not hit.is_lamp else np.array(self.document.view.target, float)

    # ---- mouse -----------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event) -> None:
        """Begin a click or a drag."""
        self.setFocus()
        if self.print is None:
            return
        button, keys, at = event.button(), event.modifiers(), event.position()
        shift, ctrl = keys & Qt.KeyboardModifier.ShiftModifier, keys & Qt.KeyboardModifier.ControlModifier
        self._merge = ("view", next(_drags))
        if button == Qt.MouseButton.LeftButton:
            if self.mode in ("box", "region"):
                self._press = ("box", at, at, False)
                return
            if self.compare == "wipe" and abs(at.x() - self._wipe_x()) < 10:
                self._press = ("wipe", at, at, True)
                return
            made = self.star()
            grip = made.grip_at(at) if made is not None else None
            if grip is not None:
                self._grip = (made, grip, at, self.document)
                return
        kind = {
            Qt.MouseButton.LeftButton: "pan" if shift else "hand" if ctrl and self.zoom > 1 else "orbit",
            Qt.MouseButton.MiddleButton: "hand" if self.zoom > 1 else "pan",
            Qt.MouseButton.RightButton: "dolly",
        }.get(button)
        if kind is not None:
            self._hit = self.hit_at(at)
            self._press = (kind, at, at, False)

    def _wipe_x(self) -> float:
        clip = self._rects()[1][0]
        return clip.left() + self.wipe * clip.width()

    def _pivot(self, view: View) -> np.ndarray:
        return self._hit.point if self._hit is not None else np.array(view.target, float)

    def mouseMoveEvent(self, event) -> None:
        """Move what is held, the view, or the meter."""
        at = self._pointer = event.position()
        if self.metering:
            self.update()
        if self._grip is not None:
            self._drag_grip(at, event.modifiers(), ended=False)
            return
        if self._press is None or self._view is None:
            self._hover(at)
            return
        kind, start, last, dragging = self._press
        if not dragging and (at - start).manhattanLength() < 4:
            return
        dx, dy = at.x() - last.x(), at.y() - last.y()
        self._press = (kind, start, at, True)
        if kind == "wipe":
            clip = self._rects()[1][0]
            self.wipe = min(max((at.x() - clip.left()) / clip.width(), 0.0), 1.0)
            self.update()
        elif kind == "box":
            self.update()
        elif kind == "hand":
            rect = self.image_rect()
            u, v = self.mount.centre
            self.mount.centre_on(u - dx / rect.width(), v - dy / rect.height())
            self.update()
        elif self.mode == "choose" and self.print.frame.prepared is not None:
            self._move(kind, dx, dy)

    def _hover(self, at: QPointF) -> None:
        made = self.star()
        over = made.grip_at(at) if made is not None else None
        if (over is None) != (self._over is None) or (
            over and (over.kind, over.axis) != (self._over.kind, self._over.axis)
        ):
            self.update()
        self._over = over
        if self.mode == "choose":
            wiping = self.compare == "wipe" and abs(at.x() - self._wipe_x()) < 10
            shape = Qt.CursorShape.SizeHorCursor if wiping else Qt.CursorShape.ArrowCursor
            self.setCursor(Qt.CursorShape.PointingHandCursor if over else shape)

    def _drag_grip(self, at: QPointF, keys, *, ended: bool) -> None:
        made, grip, start, before = self._grip
        if ended:
            self._grip = None
            self.update()
        merge = ("handle", self._merge[1])
        words = {"free": "Move", "move": "Move", "turn": "Turn", "size": "Size", "aim": "Aim"}
        fine = bool(keys & Qt.KeyboardModifier.ShiftModifier)
        snap = bool(keys & Qt.KeyboardModifier.ControlModifier)
        try:
            if grip.kind == "aim":
                hit = self.hit_at(at)
                point = handles.aim_point(made, at, hit.point if hit is not None and hit.id not in self.ids else None)
                light = placing.aimed(before.find("lights", self.ids[-1]), point)
                after = edit.put(before, "lights", light)
            else:
                after = handles.dragged(before, made, grip, start, at, fine=fine, snap=snap)
        except SceneError:
            return
        if (at - start).manhattanLength() >= 2:
            self.placed.emit(after, words[grip.kind], merge)

    def _move(self, kind: str, dx: float, dy: float) -> None:
        view, rect = self._view, self.image_rect()
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
        elif kind == "look":
            half = math.atan(view.sensor_mm / (2 * view.focal_mm))
            view = navigate.look(view, turn=-dx / rect.width() * 2 * half, tilt=-dy / rect.width() * 2 * half)
        else:
            view = navigate.dolly(view, towards=pivot, part=1 - math.exp(dy / rect.height() * 2.5))
        if view is not self._view:
            self._view = view
            self.moved.emit(view, self._merge)

    def mouseReleaseEvent(self, event) -> None:
        """Choose, if it was a click; take a box, if one was drawn."""
        if self._grip is not None:
            self._drag_grip(event.position(), event.modifiers(), ended=True)
            return
        if self._press is None:
            return
        kind, start, last, dragging = self._press
        self._press = None
        if kind == "box":
            self._end_box(QRectF(start, last).normalized(), dragging)
            return
        if dragging or kind in ("dolly", "wipe"):
            return
        mode, at = self.mode, event.position()
        pixel = self._pixel(at)
        if mode != "choose":
            self.set_mode("choose")
        if mode == "focus":
            self.focus_picked.emit(self._hit)
        elif mode == "colour":
            self.colour_picked.emit(reading.colour(self.print, pixel) if pixel is not None else None)
        elif mode in ("spot", "neutral"):
            self.light_picked.emit(mode, reading.radiance(self.print, pixel) if pixel is not None else None)
        elif self._place(at) is not None and self.print.frame.prepared is not None:
            keys = event.modifiers()
            ctrl, alt = keys & Qt.KeyboardModifier.ControlModifier, keys & Qt.KeyboardModifier.AltModifier
            self.chosen.emit(self._hit, "more" if ctrl else "material" if alt else "one")

    def _end_box(self, box: QRectF, dragging: bool) -> None:
        mode = self.mode
        self.set_mode("choose")
        rect = self.image_rect()
        corners = [
            min(max((x - a) / b, 0.0), 1.0)
            for x, a, b in (
                (box.left(), rect.left(), rect.width()),
                (box.top(), rect.top(), rect.height()),
                (box.right(), rect.left(), rect.width()),
                (box.bottom(), rect.top(), rect.height()),
            )
        ]
        if mode == "box":
            if dragging:
                self.boxed.emit(reading.things_in(self.print, tuple(corners)))
            return
        is_real = dragging and corners[2] - corners[0] > 0.005 and corners[3] - corners[1] > 0.005
        self.region_drawn.emit(tuple(corners) if is_real else None)

    def wheelEvent(self, event) -> None:
        """Dolly towards what is under the pointer; with Ctrl zoom the picture; while metering, change the area."""
        notches = event.angleDelta().y() / 120
        if self.metering:
            i = _METER_SIZES.index(self._meter_size) + (1 if notches > 0 else -1)
            self._meter_size = _METER_SIZES[min(max(i, 0), len(_METER_SIZES) - 1)]
            self.update()
            return
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.set_zoom(self.zoom * 1.25**notches, event.position())
            return
        if self._view is None or self.print is None or self.print.frame.prepared is None:
            return
        if self._wheel_merge is None:
            self._wheel_merge = ("wheel", next(_drags))
            self._hit = self.hit_at(event.position())
        self._merge = self._wheel_merge
        self._wheel_done.start()
        view = navigate.dolly(self._view, towards=self._pivot(self._view), part=1 - 0.88**notches)
        if view is not self._view:
            self._view = view
            self.moved.emit(view, self._merge)

    def _end_wheel(self) -> None:
        self._wheel_merge = None

    def keyPressEvent(self, event) -> None:
        """Move by the arrow keys (Shift pans, Alt looks around), give up picking by Escape."""
        if event.key() == Qt.Key.Key_Escape and self.mode != "choose":
            self._press = None
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
            keys = event.modifiers()
            shift, alt = keys & Qt.KeyboardModifier.ShiftModifier, keys & Qt.KeyboardModifier.AltModifier
            self._move("pan" if shift else "look" if alt else "orbit", *steps[event.key()])
            return
        super().keyPressEvent(event)

    # ---- dropping materials ----------------------------------------------------------------------------------------

    def dragEnterEvent(self, event) -> None:
        """Take materials from the list."""
        if event.mimeData().hasFormat(MATERIAL_MIME):
            self._chosen_before = (self.part, self.ids)
            event.acceptProposedAction()

    def dragMoveEvent(self, event) -> None:
        """Outline what would get the material."""
        hit = self.hit_at(event.position())
        is_thing = hit is not None and not hit.is_lamp
        self.set_chosen("things", (hit.id,) if is_thing else ())
        if is_thing:
            event.acceptProposedAction()
        else:
            event.ignore()

    def dragLeaveEvent(self, event) -> None:
        """Outline again what is chosen."""
        self.set_chosen(*self._chosen_before)

    def dropEvent(self, event) -> None:
        """Give the material to what is under the pointer."""
        hit = self.hit_at(event.position())
        self.set_chosen(*self._chosen_before)
        if hit is not None and not hit.is_lamp:
            event.acceptProposedAction()
            self.dropped.emit(bytes(event.mimeData().data(MATERIAL_MIME)).decode(), hit)
