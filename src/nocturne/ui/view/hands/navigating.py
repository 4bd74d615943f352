"""Moving the camera and the zoomed picture, and the clicks that are no drags."""

import math

import numpy as np
from PySide6.QtCore import QPointF, Qt, QTimer

from nocturne.engine.pick import Hit
from nocturne.scene import navigate
from nocturne.scene.camera import View
from nocturne.ui.view.hands.hand import CLICK, Hand, Touch, drags

_STEP = 24  # pixels of a drag that an arrow key stands for
_STEPS = {
    Qt.Key.Key_Left: (_STEP, 0),
    Qt.Key.Key_Right: (-_STEP, 0),
    Qt.Key.Key_Up: (0, _STEP),
    Qt.Key.Key_Down: (0, -_STEP),
}
_WHEEL_MS = 400  # turns of the wheel that follow sooner are one step back


class Navigating(Hand):
    """Left drag orbits about the clicked point, middle or Shift pans, right drag or wheel dollies."""

    def __init__(self, view) -> None:
        super().__init__(view)
        self.camera: View | None = None
        self._kind = ""
        self._start = self._last = QPointF()
        self._dragging = False
        self._hit: Hit | None = None
        self._merge: object = None
        self._wheel_done = QTimer(view)
        self._wheel_done.setSingleShot(True)
        self._wheel_done.setInterval(_WHEEL_MS)

    def press(self, touch: Touch) -> bool:
        """Begin a click or a drag."""
        is_zoomed = self.view.zoom > 1
        left = "hand" if touch.has_ctrl and is_zoomed else "orbit"
        kind = {
            Qt.MouseButton.LeftButton: "pan" if touch.has_shift else left,
            Qt.MouseButton.MiddleButton: "hand" if is_zoomed else "pan",
            Qt.MouseButton.RightButton: "dolly",
        }.get(touch.button)
        if kind is None:
            return False
        self._kind, self._start, self._last, self._dragging = kind, touch.at, touch.at, False
        self._hit, self._merge = self.view.hit_at(touch.at), ("view", next(drags))
        return True

    def move(self, touch: Touch) -> None:
        """Move the camera, or the zoomed picture."""
        at, view = touch.at, self.view
        if not self._kind or (not self._dragging and (at - self._start).manhattanLength() < CLICK):
            return
        dx, dy = at.x() - self._last.x(), at.y() - self._last.y()
        self._last, self._dragging = at, True
        if self._kind == "hand":
            rect = view.image_rect()
            u, v = view.mount.centre
            view.mount.centre_on(u - dx / rect.width(), v - dy / rect.height())
            view.update()
        elif view.mode == "choose" and view.print.frame.prepared is not None:
            self._move(self._kind, dx, dy)

    def release(self, touch: Touch) -> None:
        """Choose or pick, if it was a click."""
        kind, self._kind = self._kind, ""
        if kind and not self._dragging and kind != "dolly":
            self.view.click(self._hit, touch)

    def wheel(self, notches: float, at: QPointF) -> None:
        """Dolly towards what is under the pointer; turns that follow each other are one step back."""
        if self.camera is None:
            return
        if not self._wheel_done.isActive():
            self._merge, self._hit = ("wheel", next(drags)), self.view.hit_at(at)
        self._wheel_done.start()
        self._take(navigate.dolly(self.camera, towards=self._pivot(), part=1 - 0.88**notches))

    def key(self, key: int, touch: Touch) -> bool:
        """Orbit by an arrow key; with Shift pan, with Alt look around. Return whether it was one."""
        if key not in _STEPS or self.camera is None:
            return False
        if self.view.print is None or self.view.print.frame.prepared is None:
            return False  # a proof is shown, say: the camera is not what would seem to move
        self._hit, self._merge = None, None
        self._move("pan" if touch.has_shift else "look" if touch.has_alt else "orbit", *_STEPS[key])
        return True

    def let_go(self) -> None:
        """Hold nothing."""
        self._kind = ""

    def _pivot(self) -> np.ndarray:
        return self._hit.point if self._hit is not None else np.array(self.camera.target, float)

    def _move(self, kind: str, dx: float, dy: float) -> None:
        camera, rect, pivot = self.camera, self.view.image_rect(), self._pivot()
        across, down = dx / rect.width(), dy / rect.height()
        if kind == "orbit":
            camera = navigate.orbit(camera, pivot=pivot, turn=-across * math.pi * 1.1, tilt=-down * 1.9)
        elif kind == "pan":
            _, _, ahead = navigate.axes(camera)
            depth = float((pivot - np.array(camera.eye)) @ ahead)
            metres = navigate.metres_a_share(camera, depth) / rect.width()
            camera = navigate.pan(camera, across=-dx * metres, up=dy * metres)
        elif kind == "look":
            half = math.pi if camera.projection == "panorama" else math.atan(camera.sensor_mm / (2 * camera.focal_mm))
            camera = navigate.look(camera, turn=-across * 2 * half, tilt=-dy / rect.width() * 2 * half)
        else:
            camera = navigate.dolly(camera, towards=pivot, part=1 - math.exp(down * 2.5))
        self._take(camera)

    def _take(self, camera: View) -> None:
        if camera is not self.camera:
            self.camera = camera
            self.view.moved.emit(camera, self._merge)
