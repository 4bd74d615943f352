"""The picture on its mount: what it shows, and which hand has the mouse."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QWidget

from nocturne.engine.pick import Hit, pick
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.lights import Light
from nocturne.ui.darkroom.prints import Print
from nocturne.ui.view import handles, overlay, reading
from nocturne.ui.view.drawn import Drawn
from nocturne.ui.view.hands.boxing import Boxing
from nocturne.ui.view.hands.dropping import Dropping
from nocturne.ui.view.hands.gripping import Gripping
from nocturne.ui.view.hands.hand import Hand, Touch
from nocturne.ui.view.hands.laying import Laying
from nocturne.ui.view.hands.metering import Metering
from nocturne.ui.view.hands.navigating import Navigating
from nocturne.ui.view.hands.wiping import Wiping
from nocturne.ui.view.marks import Marks
from nocturne.ui.view.mount import Mount
from nocturne.ui.view.painting import paint

HINTS = {
    "focus": "Click what should be sharp",
    "colour": "Click a colour in the picture",
    "spot": "Click what should become middle grey",
    "neutral": "Click something that should be neutral",
    "box": "Drag a box around what to choose",
    "region": "Drag over what to render first",
    "faces": "Click a side; Ctrl adds, Alt follows curves, Shift takes all",
    "stand": "Click where the choice is to stand; Ctrl keeps it upright",
    "texture": "Drag the picture on a thing; the dots turn and size it",
    "pivot": "Click where the pivot is to be; corners catch, Ctrl lets go",
    "measure": "Click two points; corners and middles catch, Ctrl lets go",
}
_NOTE_MS = 9000


class PictureView(QWidget):
    """The live picture. Left drag orbits about the clicked point, middle or Shift pans, wheel or right drag dollies."""

    resized = Signal()
    chosen = Signal(object, str)  # Hit or None; "one", "more" (with Ctrl) or "material" (with Alt)
    boxed = Signal(object)  # ids of the things in a box
    region_drawn = Signal(object)  # (u0, v0, u1, v1) of the picture, or None
    focus_picked = Signal(object)
    colour_picked = Signal(object)  # working-space RGB, scaled so that its largest is at most 1
    light_picked = Signal(str, object)  # "spot" or "neutral", mean radiance there, cd/m2
    touched = Signal(str, object)  # a mode that asks for clicks in the set, and the `Touch`
    moved = Signal(object, object)  # view, merge
    placed = Signal(object, str, object)  # document, label, merge
    dropped = Signal(str, object, bool)  # a material's id, the Hit under it, whether all that wear the same get it
    stock_dropped = Signal(str, object, bool)  # the same of a ready material
    piece_dropped = Signal(str, object)  # a piece's id, the point of the set under it or None
    pictures_dropped = Signal(object, str)  # paths of pictures, the id of the thing under them or ""
    project_dropped = Signal(object)  # a project's path
    files_dropped = Signal(object, object)  # paths of models, the point of the set under them or None
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
        self.note = ""
        self.part, self.ids = "", ()
        self.members: frozenset[str] = frozenset()  # the things that are outlined
        self.offered: tuple[Light, ...] = ()  # drawn, and not in the document
        self.drawn: tuple[Drawn, ...] = ()  # lines of the set
        self.behind: QImage | None = None  # a veil over what is seen from behind
        self.overlays = overlay.Shown()
        self.compare, self.wipe, self.flipped = "", 0.5, False
        self.names = ("", "")
        self.region: tuple | None = None
        self.pointer = QPointF()
        self.marks = Marks()
        self._by_keyboard = False
        self.assets: Callable[[], Assets] = Assets
        self.boxing, self.gripping, self.navigating = Boxing(self), Gripping(self), Navigating(self)
        self.laying = Laying(self)
        # In this order they are asked whether a press is theirs.
        self._hands: tuple[Hand, ...] = (self.boxing, Wiping(self), self.laying, self.gripping, self.navigating)
        self._hand: Hand | None = None
        self.meter, self._dropping = Metering(self), Dropping(self)
        self._note_done = QTimer(self)
        self._note_done.setSingleShot(True)
        self._note_done.setInterval(_NOTE_MS)
        self._note_done.timeout.connect(lambda: self.show_note(""))

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
        self.navigating.camera = document.view
        self.update()

    def set_behind(self, image: QImage | None) -> None:
        """Draw a veil over what is seen from behind; None for none."""
        if image is not self.behind:
            self.behind = image
            self.update()

    def set_offered(self, lights: tuple[Light, ...]) -> None:
        """Draw lights that are not in the document yet."""
        self.offered = lights
        self.update()

    def set_drawn(self, drawn: tuple[Drawn, ...]) -> None:
        """Draw lines of the set over the picture."""
        self.drawn = drawn
        self.update()

    def set_mode(self, mode: str) -> None:
        """Change what a click or drag does: "choose" or one of `HINTS`."""
        if self.mode == "texture" and mode != "texture":
            self.laying.let_go()
            self.set_drawn(())
        self.mode = mode
        self.setCursor(Qt.CursorShape.CrossCursor if mode != "choose" else Qt.CursorShape.ArrowCursor)
        self.update()

    @property
    def hint(self) -> str:
        """Return what the mode asks for."""
        return HINTS.get(self.mode, "")

    def set_chosen(self, part: str, ids: tuple[str, ...]) -> None:
        """Outline things and show the handles of things or lights."""
        if (part, ids) != (self.part, self.ids):
            self.gripping.let_go()
        self.part, self.ids = part, ids
        self.members = frozenset(self.document.with_members(ids) if part == "things" else ids)
        self.outline_wanted.emit(self.members)
        self.update()

    def set_compare(self, mode: str, names: tuple[str, str] = ("", "")) -> None:
        """Compare the print with its second picture, or stop ("")."""
        self.compare, self.names, self.flipped = mode, names, False
        self.update()

    def flip(self) -> None:
        """Show the other of two pictures."""
        self.flipped = not self.flipped
        self.update()

    @property
    def metering(self) -> bool:
        """Return True while the meter is shown at the pointer."""
        return self.meter.is_on

    def set_metering(self, on: bool) -> None:
        """Show the meter at the pointer."""
        self.meter.is_on = on
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
        return self.rects()[0][0]

    def rects(self) -> tuple[tuple[QRectF, QRectF], tuple[QRectF, QRectF]]:
        """Return where both pictures lie, and the parts of the widget that they may fill."""
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
            about = self.pointer if fit.contains(self.pointer) else None
            self.set_zoom(self.print.image.width() / (fit.width() * self.devicePixelRatioF()), about)

    def place_at(self, at: QPointF) -> tuple[float, float] | None:
        """Return a point of the widget as (u, v) in the picture, None if it is outside."""
        self.rects()
        return self.mount.place(at, QRectF(self.rect()))

    def pixel_at(self, at: QPointF) -> tuple[float, float] | None:
        """Return a point of the widget in pixels of the film, None if it is outside."""
        place = self.place_at(at)
        if place is None or self.print is None:
            return None
        width, height = self.print.frame.film.size
        return place[0] * width, place[1] * height

    # ---- what is under a point -------------------------------------------------------------------------------------

    def hit_at(self, at: QPointF) -> Hit | None:
        """Return what stands under a point of the widget; nothing in a kept picture, which has no set."""
        place = self.place_at(at)
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

    def reading_at(self, at: QPointF):
        """Return the meter's reading at a point of the widget, None outside the picture."""
        return self.meter.reading_at(at)

    def star(self) -> handles.Star | None:
        """Return the handles that can be dragged now, None if there are none."""
        return self.gripping.star()

    def click(self, hit: Hit | None, touch: Touch) -> None:
        """Pick what the mode asks for at a point, or choose what was hit there."""
        mode, pixel = self.mode, self.pixel_at(touch.at)
        if mode in ("faces", "measure", "stand", "pivot"):  # until Escape: one click seldom is enough
            self.touched.emit(mode, touch)
            return
        if mode != "choose":
            self.set_mode("choose")
        if mode == "focus":
            self.focus_picked.emit(hit)
        elif mode == "colour":
            self.colour_picked.emit(reading.colour(self.print, pixel) if pixel is not None else None)
        elif mode in ("spot", "neutral"):
            self.light_picked.emit(mode, reading.radiance(self.print, pixel) if pixel is not None else None)
        elif pixel is not None and self.print.frame.prepared is not None:
            self.chosen.emit(hit, "more" if touch.has_ctrl else "material" if touch.has_alt else "one")

    # ---- events ----------------------------------------------------------------------------------------------------

    def paintEvent(self, event) -> None:
        """Paint mount, picture, overlays and hints."""
        with QPainter(self) as painter:
            paint(self, painter)

    @property
    def has_ring(self) -> bool:
        """Return True if the keyboard is here, and was brought here by the keyboard."""
        return self._by_keyboard and self.hasFocus()

    def focusInEvent(self, event) -> None:
        """Show a ring only if the keyboard brought the focus here; by mouse it would only frame the picture."""
        self._by_keyboard = event.reason() in (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        self.update()

    def resizeEvent(self, event) -> None:
        """Say that another size of picture fits now."""
        self.resized.emit()

    def mousePressEvent(self, event) -> None:
        """Give the mouse to the first hand that takes it."""
        self.setFocus()
        if self.print is None or self._hand is not None:
            return
        touch = _touch(event)
        self._hand = next((hand for hand in self._hands if hand.press(touch)), None)

    def mouseMoveEvent(self, event) -> None:
        """Move what is held, or the meter; else say what could be taken."""
        touch = _touch(event)
        self.pointer = touch.at
        if self.metering:
            self.update()
        if self._hand is not None:
            self._hand.move(touch)
            return
        cursors = [hand.hover(touch.at) for hand in self._hands]
        if self.mode == "choose":
            self.setCursor(next((c for c in reversed(cursors) if c is not None), Qt.CursorShape.ArrowCursor))

    def mouseReleaseEvent(self, event) -> None:
        """End what the hand began that has the mouse."""
        hand, self._hand = self._hand, None
        if hand is not None:
            hand.release(_touch(event))

    def wheelEvent(self, event) -> None:
        """Dolly towards what is under the pointer; with Ctrl zoom the picture; while metering, change the area."""
        notches = event.angleDelta().y() / 120
        if self.metering:
            self.meter.resize(notches)
        elif event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.set_zoom(self.zoom * 1.25**notches, event.position())
        elif self.print is not None and self.print.frame.prepared is not None:
            self.navigating.wheel(notches, event.position())

    def keyPressEvent(self, event) -> None:
        """Move by the arrow keys (Shift pans, Alt looks around), give up picking by Escape."""
        if event.key() == Qt.Key.Key_Escape and self.mode != "choose":
            self._give_up()
            return
        touch = Touch(self.pointer, Qt.MouseButton.NoButton, event.modifiers())
        if not self.navigating.key(event.key(), touch):
            super().keyPressEvent(event)

    def _give_up(self) -> None:
        if self._hand is not None:
            self._hand.let_go()
            self._hand = None
        self.set_mode("choose")

    def dragEnterEvent(self, event) -> None:
        """Take materials from the list."""
        self._dropping.enter(event)

    def dragMoveEvent(self, event) -> None:
        """Outline what would get the material."""
        self._dropping.move(event)

    def dragLeaveEvent(self, event) -> None:
        """Outline again what is chosen."""
        self._dropping.leave()

    def dropEvent(self, event) -> None:
        """Give the material to what is under the pointer."""
        self._dropping.drop(event)


def _touch(event) -> Touch:
    return Touch(event.position(), event.button(), event.modifiers())
